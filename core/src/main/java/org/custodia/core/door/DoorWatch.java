package org.custodia.core.door;

import java.time.Duration;
import java.time.Instant;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.function.Predicate;
import java.util.function.Supplier;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;

/**
 * Follows all doors while events are stored, and tells what no event says: that a door was forced or is held open whose
 * controller does not decide that, and that somebody was granted and the door was not opened. The truth is {@link DoorCourse},
 * as for the states that are shown.
 *
 * <p>An event that comes later than something that happened after it at the same door is passed over here: what would have been
 * so is seen in the door's past and calls nobody any more. While a door is out of reach nothing that would follow from
 * silence is told. Not for several threads.
 */
public final class DoorWatch {
    /** What follows from silence is told this much later, since an event needs some time to be stored. */
    private static final Duration PATIENCE = Duration.ofSeconds(2);
    /** What was kept while a door was out of reach needs some time to come. */
    private static final Duration AFTER_SILENCE = Duration.ofSeconds(15);
    /** Grants of a door that wait for their opening; more than that nobody gives within ten seconds. */
    private static final int MOST_GRANTS = 200;

    private final Supplier<SiteModel> sites;
    private final Map<DoorId, Watched> doors = new HashMap<>();
    /** Those at which something may follow from silence. */
    private final Set<Watched> expecting = new LinkedHashSet<>();

    private Instant nextDue = Instant.MAX;

    /** Told of what follows. */
    @FunctionalInterface
    public interface Listener {
        /**
         * Something that no event says.
         *
         * @param kind {@link Kinds#FORCED}, {@link Kinds#HELD} or {@link Kinds#NOBODY_ENTERED}
         * @param by the event from which it follows
         * @param at when it began to be so
         */
        void follows(EventKind kind, Event by, Instant at);
    }

    /** A door, how it stands, and what it was opened by. */
    private static final class Watched {
        private Door door;
        private DoorCourse course;
        private Instant latest = Instant.MIN;
        private Event opened;
        /** From when it counted as held open when that was told last. */
        private Optional<Instant> heldTold = Optional.empty();

        /** When it was last heard of that the door is in reach again. */
        private Instant inReach = Instant.MIN;

        private final Map<EventKey, Event> grants = new LinkedHashMap<>();

        Watched(Door door) {
            this.door = door;
            this.course = new DoorCourse(door);
        }

        /** It may be set up otherwise meanwhile. */
        void as(Door now) {
            if (!now.equals(door)) {
                course = DoorCourse.read(now, course.write()).orElseGet(() -> new DoorCourse(now));
                door = now;
            }
        }

        boolean silent(Instant at) {
            return course.state(at).outOfReachSince().isPresent();
        }

        /** When something is next due here if nothing else comes. */
        Instant due() {
            Instant due = Instant.MAX;
            if (!grants.isEmpty()) {
                due = grants.values().iterator().next().time().plus(DoorCourse.PASSAGE_WINDOW);
            }
            Optional<Instant> held = held();
            if (held.isPresent() && held.get().isBefore(due)) {
                due = held.get();
            }
            Instant heard = inReach.equals(Instant.MIN) ? inReach : inReach.plus(AFTER_SILENCE);
            due = due == Instant.MAX ? due : due.plus(PATIENCE);
            return due.isBefore(heard) ? heard : due;
        }

        /** From when it counts as held open, where that is for Custodia to tell and has not been told. */
        Optional<Instant> held() {
            boolean open = opened != null && course.open();
            return open ? course.heldByLimit().filter(t -> !heldTold.equals(Optional.of(t))) : Optional.empty();
        }
    }

    public DoorWatch(Supplier<SiteModel> sites) {
        this.sites = sites;
    }

    /** Whether an event of a kind makes any difference to doors. */
    public static boolean looksAt(EventKind kind) {
        return DoorFact.ofADoor().contains(kind)
                || DoorFact.ofAController().contains(kind)
                || DoorFact.ofALink().contains(kind);
    }

    /** Takes in the next event of the log. */
    public void take(Event event, Listener told) {
        EventKind kind = event.kind();
        if (DoorFact.ofADoor().contains(kind)) {
            event.door().flatMap(sites.get()::door).ifPresent(d -> take(d, event, told));
        } else if (DoorFact.ofAController().contains(kind)) {
            event.controller().ifPresent(c -> each(sites.get().doorsOf(c), event, told));
        } else if (DoorFact.ofALink().contains(kind)) {
            event.detail("system")
                    .flatMap(DoorWatch::system)
                    .ifPresent(s -> each(sites.get().doorsOf(s), event, told));
        }
    }

    private static Optional<SystemId> system(String id) {
        try {
            return Optional.of(new SystemId(id));
        } catch (IllegalArgumentException e) {
            return Optional.empty();
        }
    }

    private void each(Collection<Door> some, Event event, Listener told) {
        some.forEach(d -> take(d, event, told));
    }

    private void take(Door door, Event event, Listener told) {
        Optional<DoorFact> fact = DoorFact.of(event, door);
        if (fact.isEmpty()) {
            return;
        }
        Watched w = doors.computeIfAbsent(door.id(), d -> new Watched(door));
        w.as(door);
        // What a system kept while its link was lost happened before that was noticed.
        if (!DoorFact.ofALink().contains(event.kind())) {
            if (event.time().isBefore(w.latest)) {
                return;
            }
            w.latest = event.time();
        }
        boolean wasOpen = w.course.open();
        if (event.kind().equals(Kinds.GRANTED) && w.grants.size() < MOST_GRANTS) {
            w.grants.put(event.key(), event);
        }
        boolean ofReach = event.kind().equals(Kinds.REPORT)
                || DoorFact.ofAController().contains(event.kind())
                || DoorFact.ofALink().contains(event.kind());
        boolean wasSilent = ofReach && w.silent(event.time());
        w.course.apply(fact.get(), (grant, outcome) -> outcome(w, grant, outcome, told));
        if (w.course.open() && !wasOpen) {
            w.opened = event;
            w.heldTold = Optional.empty();
            if (event.kind().equals(Kinds.OPENED)
                    && !door.can(DoorCapability.REPORTS_FORCED)
                    && w.course.forced().orElse(false)) {
                told.follows(Kinds.FORCED, event, event.time());
            }
        } else if (!w.course.open()) {
            w.opened = null;
        }
        if (wasSilent && !w.silent(event.time())) {
            w.inReach = event.received();
        }
        expect(w);
    }

    /**
     * What is known of one door.
     *
     * @param course as {@link DoorCourse#write} has it
     * @param opened the event with which it opened, while it is open
     */
    public record DoorPart(
            DoorId door,
            String course,
            Instant latest,
            Optional<EventKey> opened,
            Optional<Instant> heldTold,
            Instant inReach,
            List<EventKey> grants) {}

    /** What is known of all doors, to go on from after a restart. */
    public record State(List<DoorPart> doors) {}

    /** What is known so far. */
    public State state() {
        return new State(doors.values().stream()
                .map(w -> new DoorPart(
                        w.door.id(),
                        w.course.write(),
                        w.latest,
                        Optional.ofNullable(w.opened).map(Event::key),
                        w.heldTold,
                        w.inReach,
                        List.copyOf(w.grants.keySet())))
                .toList());
    }

    /**
     * Goes on from what was known. Doors that are gone, or that cannot be read, begin anew.
     *
     * @param events finds an event by its key
     */
    public void restore(State state, Function<EventKey, Optional<Event>> events) {
        for (DoorPart part : state.doors()) {
            Optional<Door> door = sites.get().door(part.door());
            Optional<DoorCourse> course = door.flatMap(d -> DoorCourse.read(d, part.course()));
            if (course.isEmpty()) {
                continue;
            }
            Watched w = new Watched(door.get());
            w.course = course.get();
            w.latest = part.latest();
            w.opened = part.opened().flatMap(events).orElse(null);
            w.heldTold = part.heldTold();
            w.inReach = part.inReach();
            part.grants().forEach(k -> events.apply(k).ifPresent(e -> w.grants.put(k, e)));
            doors.put(part.door(), w);
            expect(w);
        }
    }

    private void outcome(Watched w, EventKey grant, GrantOutcome outcome, Listener told) {
        Event by = w.grants.remove(grant);
        if (by != null && outcome == GrantOutcome.NOBODY_ENTERED) {
            told.follows(Kinds.NOBODY_ENTERED, by, by.time());
        }
    }

    private void expect(Watched w) {
        Instant due = w.due();
        if (due == Instant.MAX) {
            expecting.remove(w);
            return;
        }
        expecting.add(w);
        if (due.isBefore(nextDue)) {
            nextDue = due;
        }
    }

    /**
     * Tells what follows from nothing having come.
     *
     * @param now up to which everything is stored, but for {@link #PATIENCE what needs its time}
     */
    public void tick(Instant now, Listener told) {
        tick(now, system -> true, told);
    }

    /**
     * The same.
     *
     * @param inReach whether all that a system has stored so far is here; where it is not, nothing follows from silence
     */
    public void tick(Instant now, Predicate<SystemId> inReach, Listener told) {
        if (!now.isAfter(nextDue)) {
            return;
        }
        nextDue = Instant.MAX;
        Instant settled = now.minus(PATIENCE);
        for (Watched w : List.copyOf(expecting)) {
            if (w.silent(settled)) {
                // It is looked at again when something comes of it.
                expecting.remove(w);
            } else if (w.due().isAfter(now)) {
                expect(w);
            } else if (!inReach.test(w.door.system())) {
                w.inReach = now;
                expect(w);
            } else {
                w.course.settle(settled, (grant, outcome) -> outcome(w, grant, outcome, told));
                // Of what is settled nothing is left; what was lost with a door that was set up anew is not waited for.
                w.grants.values().removeIf(g -> settled.isAfter(g.time().plus(DoorCourse.PASSAGE_WINDOW)));
                w.held().filter(t -> !t.isAfter(settled)).ifPresent(t -> {
                    w.heldTold = Optional.of(t);
                    told.follows(Kinds.HELD, w.opened, t);
                });
                expect(w);
            }
        }
    }
}
