package org.custodia.core.event;

import java.time.Instant;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SystemId;

/**
 * A question to the log. Empty sets and options do not narrow.
 *
 * @param from first instant, included
 * @param to last instant, not included
 * @param before only what comes before this event in order of time: for reading on, page by page
 * @param limit at most so many, 1 to 100,000
 * @param newestFirst from the end of the span backwards
 */
public record EventQuery(
        Optional<Instant> from,
        Optional<Instant> to,
        Set<EventKind> kinds,
        Set<DoorId> doors,
        Set<ControllerId> controllers,
        Optional<SystemId> system,
        Optional<PersonId> person,
        Optional<Event> before,
        int limit,
        boolean newestFirst) {
    public EventQuery {
        kinds = Set.copyOf(kinds);
        doors = Set.copyOf(doors);
        controllers = Set.copyOf(controllers);
        if (limit < 1 || limit > 100_000) {
            throw new IllegalArgumentException("a question asks for 1 to 100,000 events, not " + limit);
        }
    }

    /** Everything, oldest first, up to the largest number allowed. */
    public static EventQuery all() {
        return new EventQuery(
                Optional.empty(),
                Optional.empty(),
                Set.of(),
                Set.of(),
                Set.of(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                100_000,
                false);
    }

    public EventQuery between(Instant start, Instant end) {
        return new EventQuery(
                Optional.of(start),
                Optional.of(end),
                kinds,
                doors,
                controllers,
                system,
                person,
                before,
                limit,
                newestFirst);
    }

    public EventQuery until(Instant end) {
        return new EventQuery(
                from, Optional.of(end), kinds, doors, controllers, system, person, before, limit, newestFirst);
    }

    public EventQuery kinds(EventKind... some) {
        return kinds(Set.of(some));
    }

    public EventQuery kinds(Set<EventKind> some) {
        return new EventQuery(from, to, some, doors, controllers, system, person, before, limit, newestFirst);
    }

    public EventQuery doors(Set<DoorId> some) {
        return new EventQuery(from, to, kinds, some, controllers, system, person, before, limit, newestFirst);
    }

    public EventQuery controllers(Set<ControllerId> some) {
        return new EventQuery(from, to, kinds, doors, some, system, person, before, limit, newestFirst);
    }

    public EventQuery system(SystemId one) {
        return new EventQuery(
                from, to, kinds, doors, controllers, Optional.of(one), person, before, limit, newestFirst);
    }

    public EventQuery person(PersonId one) {
        return new EventQuery(
                from, to, kinds, doors, controllers, system, Optional.of(one), before, limit, newestFirst);
    }

    public EventQuery before(Event one) {
        return new EventQuery(
                from, to, kinds, doors, controllers, system, person, Optional.of(one), limit, newestFirst);
    }

    public EventQuery newest(int most) {
        return new EventQuery(from, to, kinds, doors, controllers, system, person, before, most, true);
    }

    public EventQuery limit(int most) {
        return new EventQuery(from, to, kinds, doors, controllers, system, person, before, most, newestFirst);
    }
}
