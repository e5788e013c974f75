package org.custodia.core.event;

import java.time.Duration;
import java.time.Instant;
import java.util.Collection;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SystemId;

/**
 * A question to the log.
 *
 * @param from first instant, included
 * @param to last instant, not included
 * @param filter which events of that span
 * @param before only what comes before this event in order of time: for reading on, page by page
 * @param after only what comes after this event in order of time
 * @param limit at most so many, 1 to 100,000
 * @param newestFirst from the end of the span backwards
 */
public record EventQuery(
        Optional<Instant> from,
        Optional<Instant> to,
        Filter filter,
        Optional<Place> before,
        Optional<Place> after,
        int limit,
        boolean newestFirst) {
    /** The most parts and values that a filter can have. */
    public static final int LARGEST_FILTER = 20_000;

    private static final long MOST_SLICES = 1_000_000;

    public EventQuery {
        if (limit < 1 || limit > 100_000) {
            throw new IllegalArgumentException("a question asks for 1 to 100,000 events, not " + limit);
        }
        if (filter.size() > LARGEST_FILTER) {
            throw new IllegalArgumentException("a filter has at most " + LARGEST_FILTER + " parts and values");
        }
    }

    /** An event's place in the order of time, whether the event is stored or not. */
    public record Place(Instant time, EventKey key) {
        /** Where an event stands. */
        public static Place of(Event event) {
            return new Place(event.time(), event.key());
        }

        /** Whether an event comes before this place (less than 0), stands at it (0) or comes after it. */
        int compare(Event event) {
            int byTime = event.time().compareTo(time);
            return byTime != 0 ? byTime : Event.compareKeys(event.key(), key);
        }
    }

    /** Everything, oldest first, up to the largest number allowed. */
    public static EventQuery all() {
        return new EventQuery(
                Optional.empty(),
                Optional.empty(),
                Filter.everything(),
                Optional.empty(),
                Optional.empty(),
                100_000,
                false);
    }

    public EventQuery between(Instant start, Instant end) {
        return new EventQuery(Optional.of(start), Optional.of(end), filter, before, after, limit, newestFirst);
    }

    public EventQuery since(Instant start) {
        return new EventQuery(Optional.of(start), to, filter, before, after, limit, newestFirst);
    }

    public EventQuery until(Instant end) {
        return new EventQuery(from, Optional.of(end), filter, before, after, limit, newestFirst);
    }

    /** Only those of before that this lets pass, too. */
    public EventQuery where(Filter also) {
        return new EventQuery(from, to, filter.and(also), before, after, limit, newestFirst);
    }

    /** Only these kinds; none given, all of them. */
    public EventQuery kinds(EventKind... some) {
        return kinds(Set.of(some));
    }

    /** Only these kinds; none given, all of them. */
    public EventQuery kinds(Set<EventKind> some) {
        return narrowed(EventField.KIND, some);
    }

    /** Only at these doors; none given, everywhere. */
    public EventQuery doors(Set<DoorId> some) {
        return narrowed(EventField.DOOR, some);
    }

    /** Only of these controllers; none given, of all. */
    public EventQuery controllers(Set<ControllerId> some) {
        return narrowed(EventField.CONTROLLER, some);
    }

    public EventQuery system(SystemId one) {
        return where(Filter.is(EventField.SYSTEM, one));
    }

    public EventQuery person(PersonId one) {
        return where(Filter.is(EventField.PERSON, one));
    }

    private <T> EventQuery narrowed(EventField<T> field, Collection<T> some) {
        return some.isEmpty() ? this : where(Filter.isOneOf(field, some));
    }

    /** Only what comes before an event. */
    public EventQuery before(Event one) {
        return new EventQuery(from, to, filter, Optional.of(Place.of(one)), after, limit, newestFirst);
    }

    /** Only what comes after an event. */
    public EventQuery after(Event one) {
        return new EventQuery(from, to, filter, before, Optional.of(Place.of(one)), limit, newestFirst);
    }

    /** Only what comes after the place of an event. */
    public EventQuery after(Instant time, EventKey key) {
        return new EventQuery(from, to, filter, before, Optional.of(new Place(time, key)), limit, newestFirst);
    }

    /** The newest, from the end backwards. */
    public EventQuery newest(int most) {
        return new EventQuery(from, to, filter, before, after, most, true);
    }

    /** The oldest, from the beginning on. */
    public EventQuery oldest(int most) {
        return new EventQuery(from, to, filter, before, after, most, false);
    }

    /**
     * The length of the slices into which the span is cut, in microseconds.
     *
     * @throws IllegalArgumentException if the question has no beginning or no end, or there would be more than a million
     *     slices
     */
    public long slices(Duration slice) {
        if (from.isEmpty() || to.isEmpty()) {
            throw new IllegalArgumentException("a span that is cut into slices has a beginning and an end");
        }
        long length = slice.toNanos() / 1000;
        if (length < 1 || Duration.between(from.get(), to.get()).dividedBy(slice) > MOST_SLICES) {
            throw new IllegalArgumentException("a span is cut into at most a million slices of at least a microsecond");
        }
        return length;
    }

    /** Whether an event is one of those asked for, whatever the limit. */
    public boolean test(Event event) {
        return from.filter(event.time()::isBefore).isEmpty()
                && to.filter(t -> !event.time().isBefore(t)).isEmpty()
                && before.filter(p -> p.compare(event) >= 0).isEmpty()
                && after.filter(p -> p.compare(event) <= 0).isEmpty()
                && filter.test(event);
    }
}
