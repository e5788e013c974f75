package org.custodia.core.event;

import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * The log as its readers see it: append-only and ordered. Safe for use by several threads. All questions throw
 * {@link EventLogException} if the log cannot be read, and {@link java.util.concurrent.CancellationException} if they were
 * taken back.
 */
public interface EventLog {
    /** The events that answer the question, in the order it asks for. */
    List<Event> find(EventQuery query, Cancellation cancellation);

    /** The same, to the end. */
    default List<Event> find(EventQuery query) {
        return find(query, new Cancellation());
    }

    /** How many events answer the question, whatever its limit. */
    long count(EventQuery query, Cancellation cancellation);

    /** The same, to the end. */
    default long count(EventQuery query) {
        return count(query, new Cancellation());
    }

    /**
     * How many events that answer the question have each value of a field, the most frequent first; events without a value
     * are not counted, and the question's limit plays no part.
     *
     * @param most at most so many values
     */
    <T> List<Facet<T>> facets(EventField<T> field, EventQuery query, int most, Cancellation cancellation);

    /**
     * How many events that answer a question fall into each slice of a span; what is empty is left out, and the question's
     * limit plays no part.
     *
     * @param query with a beginning and an end
     * @param slice length of a slice, at least a microsecond; the first starts at the question's beginning
     * @throws IllegalArgumentException if the question has no beginning or no end, or there would be more than a million
     *     slices
     */
    Map<Integer, Long> histogram(EventQuery query, Duration slice, Cancellation cancellation);

    /**
     * The same, with how bad the worst in each slice is, for the day line.
     *
     * @throws IllegalArgumentException as {@link #histogram} does
     */
    Map<Integer, Slice> slices(EventQuery query, Duration slice, Cancellation cancellation);

    /** The event with this key, if it is stored. */
    Optional<Event> byKey(EventKey key);

    /**
     * What was stored after a position, in the order of storing.
     *
     * @param position 0 for everything
     * @param most at most so many, 1 to 100,000
     */
    List<Event> storedAfter(long position, int most);

    /** The position of what was stored last; 0 while nothing is. */
    long newestPosition();

    /** How many different messages and records were kept raw because they could not be understood. */
    long unreadCount();

    /**
     * What fell into one slice.
     *
     * @param events how many there were
     * @param worst the highest priority among them
     */
    record Slice(int events, Priority worst) {}

    /** How many events have a value. */
    record Facet<T>(T value, long events) {}
}
