package org.custodia.core.event;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** The log as its readers see it: append-only and ordered. Safe for use by several threads. */
public interface EventLog {
    /**
     * The events that answer the question, in the order it asks for.
     *
     * @throws EventLogException if the log cannot be read
     */
    List<Event> find(EventQuery query);

    /** How many events answer the question, whatever its limit. */
    long count(EventQuery query);

    /** The event with this key, if it is stored. */
    Optional<Event> byKey(EventKey key);

    /**
     * How many events fall into each slice of a span and how bad the worst is, for the day line. State reports do not count:
     * nothing has happened when a system says how its doors stand.
     *
     * @param slice length of a slice; the first starts at {@code from}
     */
    Map<Integer, Slice> slices(Instant from, Instant to, Duration slice);

    /** How many different messages and records were kept raw because they could not be understood. */
    long unreadCount();

    /**
     * What fell into one slice.
     *
     * @param events how many there were
     * @param worst the highest priority among them
     */
    record Slice(int events, Priority worst) {}
}
