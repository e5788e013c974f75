package org.custodia.core.door;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.Door;

/**
 * Reads a door's past from the log, as far back as its state depends on it: to a report that says everything of a door at
 * rest, with nothing going on shortly before it; or to the beginning.
 */
final class DoorHistory {
    /** Nothing that happened longer before a moment than this bears on it, if the door was at rest in between. */
    private static final Duration QUIET =
            DoorCourse.PASSAGE_WINDOW.plus(DoorCourse.ALLOWING_WINDOW).plusSeconds(5);

    private static final Instant FAR = Instant.parse("9000-01-01T00:00:00Z");

    /** A controller that has one door may be named by that door. */
    private static final Set<EventKind> OF_ITS_OWN = Stream.concat(
                    DoorFact.ofADoor().stream(), DoorFact.ofAController().stream())
            .collect(Collectors.toUnmodifiableSet());

    private final EventLog log;
    private final int page;

    /**
     * @param page events that are read in one go
     */
    DoorHistory(EventLog log, int page) {
        this.log = log;
        this.page = page;
    }

    /**
     * A timeline that can be asked about a span.
     *
     * @param from the timeline answers questions from here on
     * @param atLeast it does not go back to there once it has so many events
     * @param to up to here
     */
    DoorTimeline read(Door door, Instant from, int atLeast, Instant to) {
        Instant end = to.isAfter(FAR) ? FAR : to;
        List<DoorFact> newestFirst = new ArrayList<>();
        EventQuery query = EventQuery.all()
                .until(end)
                .kinds(OF_ITS_OWN)
                .doors(Set.of(door.id()))
                .newest(page);
        Optional<DoorFact> start = Optional.empty();
        int looked = 0;
        while (true) {
            List<Event> found = log.find(query);
            found.forEach(e -> DoorFact.of(e, door).ifPresent(newestFirst::add));
            boolean all = found.size() < page;
            for (; looked < newestFirst.size() - (all ? 0 : 1); looked++) {
                DoorFact fact = newestFirst.get(looked);
                boolean farEnough = looked >= atLeast || fact.time().isBefore(from.minus(QUIET));
                if (farEnough && fact.saysAllOf(door) && quietBefore(newestFirst, looked)) {
                    start = Optional.of(fact);
                    break;
                }
            }
            if (start.isPresent() || all) {
                break;
            }
            query = query.before(found.get(found.size() - 1));
        }
        return timeline(door, start, newestFirst, looked, end);
    }

    private static boolean quietBefore(List<DoorFact> newestFirst, int i) {
        return i + 1 >= newestFirst.size()
                || newestFirst
                        .get(i + 1)
                        .time()
                        .isBefore(newestFirst.get(i).time().minus(QUIET));
    }

    private DoorTimeline timeline(
            Door door, Optional<DoorFact> start, List<DoorFact> newestFirst, int last, Instant end) {
        Instant since = start.map(DoorFact::time).orElse(Instant.EPOCH);
        DoorCourse base = new DoorCourse(door);
        start.flatMap(s -> linkLostBefore(door, since)).ifPresent(base::linkWasLost);
        DoorTimeline timeline = new DoorTimeline(door, base, start);
        List<DoorFact> facts = new ArrayList<>();
        for (int i = Math.min(last, newestFirst.size() - 1); i >= 0; i--) {
            facts.add(newestFirst.get(i));
        }
        Stream.concat(
                        about(since, end, DoorFact.ofAController()).stream()
                                .flatMap(q -> all(q.controllers(Set.of(door.controller()))).stream()),
                        about(since, end, DoorFact.ofALink()).stream().flatMap(q -> all(q).stream()))
                .forEach(e -> DoorFact.of(e, door).ifPresent(facts::add));
        facts.stream().sorted().forEach(timeline::add);
        return timeline;
    }

    private Optional<EventQuery> about(Instant from, Instant to, Set<EventKind> kinds) {
        return from.isBefore(to)
                ? Optional.of(EventQuery.all().between(from, to).kinds(kinds).newest(page))
                : Optional.empty();
    }

    private List<Event> all(EventQuery query) {
        List<Event> result = new ArrayList<>();
        List<Event> found = log.find(query);
        while (!found.isEmpty()) {
            result.addAll(found);
            found = log.find(query.before(found.get(found.size() - 1)));
        }
        return result;
    }

    /** Since when the link was lost just before an instant, if it was. */
    private Optional<Instant> linkLostBefore(Door door, Instant instant) {
        EventQuery query =
                EventQuery.all().until(instant).kinds(DoorFact.ofALink()).newest(page);
        Optional<Instant> lost = Optional.empty();
        List<Event> found = log.find(query);
        while (!found.isEmpty()) {
            for (Event event : found) {
                Optional<DoorFact> fact = DoorFact.of(event, door);
                if (fact.isPresent() && fact.get().kind().equals(Kinds.LINK_BACK)) {
                    return lost;
                }
                lost = fact.isPresent() ? fact.map(DoorFact::time) : lost;
            }
            found = log.find(query.before(found.get(found.size() - 1)));
        }
        return lost;
    }
}
