package org.custodia.core.door;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;

/**
 * Reads a door's past from the log, as far back as its state depends on it: to a report that says everything of a door at
 * rest, with nothing going on shortly before it; or to the beginning.
 */
final class DoorHistory {
    /** Nothing that happened longer before a moment than this bears on it, if the door was at rest in between. */
    private static final Duration QUIET =
            DoorCourse.PASSAGE_WINDOW.plus(DoorCourse.ALLOWING_WINDOW).plusSeconds(5);

    private static final int NEAR = 100;

    private static final Instant FAR = Instant.parse("9000-01-01T00:00:00Z");

    /** A controller that has one door may be named by that door. */
    private static final Set<EventKind> OF_ITS_OWN = Stream.concat(
                    DoorFact.ofADoor().stream(), DoorFact.ofAController().stream())
            .collect(Collectors.toUnmodifiableSet());

    /** Answers that are kept, and events in one of them. */
    private static final int LATELY = 32;

    private static final int MOST_LATELY = 5_000;

    private final Map<Asked, List<Event>> lately = new LinkedHashMap<>() {
        private static final long serialVersionUID = 1L;

        @Override
        protected boolean removeEldestEntry(Map.Entry<Asked, List<Event>> eldest) {
            return size() > LATELY;
        }
    };

    /** The position of the log that they are of. */
    private long latelyAt = -1;

    private final EventLog log;
    private final DoorCheckpoints checkpoints;
    private final int page;

    /**
     * @param page events that are read in one go
     */
    DoorHistory(EventLog log, DoorCheckpoints checkpoints, int page) {
        this.log = log;
        this.checkpoints = checkpoints;
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
        EventQuery query = EventQuery.all().until(end).kinds(OF_ITS_OWN).doors(Set.of(door.id()));
        // Most often what is needed lies near: a checkpoint is never far away.
        int many = Math.min(page, NEAR);
        Optional<DoorFact> start = Optional.empty();
        Optional<DoorCheckpoint> checkpoint = Optional.empty();
        Optional<DoorCourse> course = Optional.empty();
        boolean sought = false;
        int looked = 0;
        while (true) {
            List<Event> found = log.find(query.newest(many));
            found.forEach(e -> DoorFact.of(e, door).ifPresent(newestFirst::add));
            boolean all = found.size() < many;
            many = page;
            for (; looked < newestFirst.size() - (all ? 0 : 1); looked++) {
                DoorFact fact = newestFirst.get(looked);
                boolean farEnough = looked >= atLeast || fact.time().isBefore(from.minus(QUIET));
                if (farEnough && !sought) {
                    sought = true;
                    checkpoint = checkpoints.newest(door.id(), fact.time());
                    course = checkpoint.flatMap(c -> c.courseOf(door));
                }
                if (course.isPresent() && fact.compareTo(checkpoint.get().floor()) <= 0) {
                    start = Optional.of(checkpoint.get().floor());
                    return timeline(door, course, start, newestFirst, looked - 1, end);
                }
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
        return timeline(door, Optional.empty(), start, newestFirst, looked, end);
    }

    private static boolean quietBefore(List<DoorFact> newestFirst, int i) {
        return i + 1 >= newestFirst.size()
                || newestFirst
                        .get(i + 1)
                        .time()
                        .isBefore(newestFirst.get(i).time().minus(QUIET));
    }

    private DoorTimeline timeline(
            Door door,
            Optional<DoorCourse> course,
            Optional<DoorFact> start,
            List<DoorFact> newestFirst,
            int last,
            Instant end) {
        Instant since = start.map(DoorFact::time).orElse(Instant.EPOCH);
        DoorCourse base = course.orElseGet(() -> new DoorCourse(door));
        if (course.isEmpty()) {
            start.flatMap(s -> linkLostBefore(door, since)).ifPresent(base::linkWasLost);
        }
        List<DoorFact> facts = new ArrayList<>();
        for (int i = Math.min(last, newestFirst.size() - 1); i >= 0; i--) {
            facts.add(newestFirst.get(i));
        }
        elsewhere(Set.of(door.controller()), since, end)
                .forEach(e -> DoorFact.of(e, door).ifPresent(facts::add));
        DoorTimeline timeline = new DoorTimeline(door, base, start);
        // What is said by a report is part of it; what a checkpoint was made of is not here any more.
        facts.stream()
                .filter(f -> course.isEmpty() || timeline.reaches(f))
                .sorted()
                .forEach(timeline::add);
        return timeline;
    }

    /** What happened to controllers and links, in no order. */
    private List<Event> elsewhere(Set<ControllerId> controllers, Instant from, Instant to) {
        return Stream.concat(
                        asked(new Asked(controllers, from, to)).stream(), asked(new Asked(Set.of(), from, to)).stream())
                .toList();
    }

    /**
     * What happened to controllers, or, without any, to links.
     */
    private record Asked(Set<ControllerId> controllers, Instant from, Instant to) {}

    /**
     * The same is asked for each of many doors of which nothing is known: it is read once, as long as nothing is stored
     * meanwhile.
     */
    private List<Event> asked(Asked question) {
        if (!question.from().equals(Instant.EPOCH)) {
            return read(question);
        }
        long position = log.newestPosition();
        synchronized (lately) {
            if (latelyAt != position) {
                lately.clear();
                latelyAt = position;
            }
            List<Event> known = lately.get(question);
            if (known != null) {
                return known;
            }
        }
        List<Event> found = read(question);
        synchronized (lately) {
            if (latelyAt == position && found.size() <= MOST_LATELY) {
                lately.put(question, found);
            }
        }
        return found;
    }

    private List<Event> read(Asked question) {
        boolean links = question.controllers().isEmpty();
        return about(question.from(), question.to(), links ? DoorFact.ofALink() : DoorFact.ofAController())
                .map(q -> all(links ? q : q.controllers(question.controllers())))
                .orElse(List.of());
    }

    /**
     * How doors stood at an instant, all of them together. Those of which no checkpoint is kept are left out.
     *
     * @param instant what happened then is included
     */
    Map<DoorId, DoorState> states(Collection<Door> doors, Instant instant) {
        Map<DoorId, DoorState> states = new HashMap<>();
        timelines(doors, instant).forEach((id, timeline) -> states.put(id, timeline.at(instant)));
        return states;
    }

    /** Timelines of doors up to an instant, read in one query; doors without a checkpoint are left out. */
    Map<DoorId, DoorTimeline> timelines(Collection<Door> doors, Instant instant) {
        Map<DoorId, Door> wanted = doors.stream().collect(Collectors.toMap(Door::id, d -> d));
        Map<DoorId, DoorTimeline> timelines = new HashMap<>();
        List<DoorCheckpoints.Since> found = checkpoints.since(instant).stream()
                .filter(s -> wanted.containsKey(s.checkpoint().door()))
                .toList();
        Instant earliest = found.stream()
                .map(s -> s.checkpoint().time())
                .min(Instant::compareTo)
                .orElse(instant);
        List<Event> elsewhere = found.isEmpty()
                ? List.of()
                : elsewhere(
                        doors.stream().map(Door::controller).collect(Collectors.toSet()),
                        earliest,
                        instant.plusNanos(1000));
        for (DoorCheckpoints.Since since : found) {
            Door door = wanted.get(since.checkpoint().door());
            since.checkpoint().courseOf(door).ifPresent(course -> {
                DoorTimeline timeline = new DoorTimeline(
                        door, course, Optional.of(since.checkpoint().floor()));
                Stream.concat(since.events().stream(), elsewhere.stream())
                        .flatMap(e -> DoorFact.of(e, door).stream())
                        .filter(timeline::reaches)
                        .sorted()
                        .forEach(timeline::add);
                timelines.put(door.id(), timeline);
            });
        }
        return timelines;
    }

    /**
     * Makes checkpoints of what came after the newest one that is kept.
     *
     * @param stride events between two of them
     * @param until what happened later may still be added to
     * @param most events of the door that are read in one go, more than the stride
     * @return as far as was read; all of it is done where there are none
     */
    List<DoorCheckpoint> checkpoints(Door door, int stride, Instant until, int most) {
        Optional<DoorCheckpoint> last = checkpoints.newest(door.id(), FAR);
        Optional<DoorCourse> course = last.flatMap(c -> c.courseOf(door));
        EventQuery query = EventQuery.all()
                .until(until)
                .kinds(OF_ITS_OWN)
                .doors(Set.of(door.id()))
                .oldest(most);
        if (course.isPresent()) {
            query = query.after(last.get().time(), last.get().key());
        }
        List<Event> own = log.find(query);
        if (own.size() < stride) {
            return List.of();
        }
        Instant since = course.isPresent() ? last.get().time() : Instant.EPOCH;
        Instant end = own.get(own.size() - 1).time();
        DoorTimeline timeline = new DoorTimeline(
                door,
                course.orElseGet(() -> new DoorCourse(door)),
                course.isPresent() ? last.map(DoorCheckpoint::floor) : Optional.empty());
        Stream.concat(own.stream(), elsewhere(Set.of(door.controller()), since, end).stream())
                .flatMap(e -> DoorFact.of(e, door).stream())
                .filter(timeline::reaches)
                .sorted()
                .forEach(timeline::add);
        return timeline.checkpoints(
                stride,
                f -> OF_ITS_OWN.contains(f.kind()) && !DoorFact.ofAController().contains(f.kind()));
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
