package org.custodia.core.event;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.site.SystemId;

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

    /** Where a link resumes: the last stored event of a system. */
    Optional<Resume> lastOf(SystemId system);

    /**
     * How many events fall into each slice of a span and how bad the worst is, for the day line. State reports do not count:
     * nothing has happened when a system says how its doors stand.
     *
     * @param slice length of a slice; the first starts at {@code from}
     */
    Map<Integer, Slice> slices(Instant from, Instant to, Duration slice);

    /** How many messages were kept raw because they could not be understood. */
    long unreadCount();

    /**
     * Where to go on reading a system's events.
     *
     * @param epoch the epoch of the last stored event
     * @param sequence its number within the epoch
     */
    record Resume(long epoch, long sequence) {}

    /**
     * What fell into one slice.
     *
     * @param events how many there were
     * @param worst the highest priority among them
     */
    record Slice(int events, Priority worst) {}
}
