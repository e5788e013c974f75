package org.custodia.core.door;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.function.Predicate;
import java.util.function.Supplier;
import java.util.stream.Stream;
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
 * Derives from the stored events of all doors what no event says: that a door was forced or is held open whose controller does
 * not decide that, and that access was granted and the door was not opened. The rules are those of {@link DoorCourse}, as for
 * the states that are shown.
 *
 * <p>What is derived depends on what happened, not on the order of storing: the events of the last {@link #REMEMBERED} of each
 * door are held, up to {@link #MOST_IN_ALL} of all doors, and an event that happened before one of them, or before something was derived from silence, has them
 * evaluated anew. What follows then is reported, and what was reported and does not follow any more is contradicted. An event
 * that is older than that changes nothing here; it is seen in the door's past. While a door is out of reach nothing is derived
 * from silence. Not for several threads.
 */
public final class DoorWatch {
    /** What follows from silence is told this much later, since an event needs some time to be stored. */
    private static final Duration PATIENCE = Duration.ofSeconds(2);
    /** What was kept while a door was out of reach needs some time to come. */
    private static final Duration AFTER_SILENCE = Duration.ofSeconds(15);
    /** Events of a door that are held, so that one that comes late is evaluated in its place. */
    static final Duration REMEMBERED = Duration.ofMinutes(10);
    /** A door that has more events than this within that time is chattering. */
    private static final int MOST_RECENT = 500;
    /** Where more than this are held of all doors together, each has an equal share of it, but */
    static final int MOST_IN_ALL = 50_000;
    /** never less than this. */
    private static final int FEWEST_RECENT = 10;
    /** Grants of a door that wait for their opening; more than that nobody gives within ten seconds. */
    private static final int MOST_GRANTS = 200;

    private final Supplier<SiteModel> sites;
    private final Map<DoorId, Watched> doors = new HashMap<>();
    /** Those at which something may follow from silence. */
    private final Set<Watched> expecting = new LinkedHashSet<>();

    /** Events that are held of all doors together. */
    private int held;

    private Instant nextDue = Instant.MAX;
    /** Finds events that were taken in before the last restart. */
    private Function<EventKey, Optional<Event>> lookup = key -> Optional.empty();

    /** Is notified of what follows. */
    public interface Listener {
        /**
         * Something that no event says.
         *
         * @param kind {@link Kinds#FORCED}, {@link Kinds#HELD} or {@link Kinds#NOBODY_ENTERED}
         * @param by the event from which it follows
         * @param at when it began to be so
         */
        void follows(EventKind kind, Event by, Instant at);

        /**
         * What was reported to follow does not, by an event that was stored later.
         *
         * @param kind and the next two as they were reported
         * @param because the event that was stored later
         */
        void contradicted(EventKind kind, Event by, Instant at, Event because);
    }

    /** Is handed what an event or silence makes true. */
    @FunctionalInterface
    private interface Finder {
        void found(EventKind kind, DoorFact by, Instant at);

        Finder NONE = (kind, by, at) -> {};
    }

    /** Something that was reported. */
    private record Finding(EventKind kind, EventKey by, Instant at) {}

    /** Whether a fact is about a link: what a system stored while it was lost happened before that was noticed. */
    private static boolean isOfALink(DoorFact fact) {
        return DoorFact.ofALink().contains(fact.kind());
    }

    /** How a door stands after some of its events, and the events that later findings name. */
    private static final class Fold {
        private DoorCourse course;
        /** The event with which the door opened; null while the door is closed or its opening is not known. */
        private DoorFact opened;
        /** Grants that wait for their opening. */
        private final Map<EventKey, DoorFact> grants;
        /** When the last of the events happened. */
        private Instant latest;

        Fold(DoorCourse course, DoorFact opened, Map<EventKey, DoorFact> grants, Instant latest) {
            this.course = course;
            this.opened = opened;
            this.grants = new LinkedHashMap<>(grants);
            this.latest = latest;
        }

        Fold copy() {
            return new Fold(course.copy(), opened, grants, latest);
        }

        void setUpAs(Door door) {
            course = DoorCourse.read(door, course.write()).orElseGet(() -> new DoorCourse(door));
        }

        boolean silent(Instant at) {
            return course.state(at).outOfReachSince().isPresent();
        }

        void apply(DoorFact fact, Door door, Finder finder) {
            if (!isOfALink(fact) && fact.time().isAfter(latest)) {
                latest = fact.time();
            }
            if (fact.kind().equals(Kinds.GRANTED) && grants.size() < MOST_GRANTS) {
                grants.put(fact.key(), fact);
            }
            if (fact.kind().equals(Kinds.CLOSED) || fact.kind().equals(Kinds.MODE)) {
                // Up to here it stood open, and for longer than it may.
                findHeld(fact.time(), finder);
            }
            boolean wasOpen = course.open();
            course.apply(fact, (grant, outcome) -> outcome(grant, outcome, finder));
            if (course.open() && !wasOpen) {
                opened = fact;
                if (fact.kind().equals(Kinds.OPENED)
                        && !door.can(DoorCapability.REPORTS_FORCED)
                        && course.forced().orElse(false)) {
                    finder.found(Kinds.FORCED, fact, fact.time());
                }
            } else if (!course.open()) {
                opened = null;
            }
        }

        /** Derives from nothing having happened up to an instant. */
        void settle(Instant upTo, Finder finder) {
            if (silent(upTo)) {
                return;
            }
            course.settle(upTo, (grant, outcome) -> outcome(grant, outcome, finder));
            // Of what is settled nothing is left; what was lost with a door that was set up anew is not waited for.
            grants.values().removeIf(g -> upTo.isAfter(g.time().plus(DoorCourse.PASSAGE_WINDOW)));
            findHeld(upTo, finder);
        }

        private void findHeld(Instant upTo, Finder finder) {
            if (!silent(upTo)) {
                held().filter(t -> !t.isAfter(upTo)).ifPresent(t -> finder.found(Kinds.HELD, opened, t));
            }
        }

        private void outcome(EventKey grant, GrantOutcome outcome, Finder finder) {
            DoorFact by = grants.remove(grant);
            if (by != null && outcome == GrantOutcome.NOBODY_ENTERED) {
                finder.found(Kinds.NOBODY_ENTERED, by, by.time());
            }
        }

        /** From when it counts as held open, where that is for Custodia to derive; may lie ahead. */
        Optional<Instant> held() {
            return opened != null && course.open() ? course.heldByLimit() : Optional.empty();
        }
    }

    /** What is known of one door. */
    private final class Watched {
        private Door door;
        /** How it stood before the first of {@link #recent}. */
        private Fold before;
        /** The last events, in the order in which they happened. */
        private final List<DoorFact> recent = new ArrayList<>();
        /** The events that findings may name, as far as they were taken in since the start; others are looked up. */
        private final Map<EventKey, Event> events = new HashMap<>();
        /** How it stands. */
        private Fold now;
        /** What was reported, as far as it could be found again. */
        private final Set<Finding> reported = new LinkedHashSet<>();

        /** Up to when something was derived from silence. */
        private Instant settledTo = Instant.MIN;
        /** When it was last found out that the door is in reach again. */
        private Instant inReach = Instant.MIN;

        Watched(Door door) {
            this.door = door;
            this.before = new Fold(new DoorCourse(door), null, Map.of(), Instant.MIN);
            this.now = before.copy();
        }

        /** It may be set up otherwise meanwhile. */
        void as(Door other) {
            if (!other.equals(door)) {
                before.setUpAs(other);
                now.setUpAs(other);
                door = other;
            }
        }

        /** When something is next due here if nothing else comes. */
        Instant due() {
            Instant due = Instant.MAX;
            if (!now.grants.isEmpty()) {
                due = now.grants.values().iterator().next().time().plus(DoorCourse.PASSAGE_WINDOW);
            }
            Optional<Instant> held =
                    now.held().filter(t -> !reported.contains(new Finding(Kinds.HELD, now.opened.key(), t)));
            if (held.isPresent() && held.get().isBefore(due)) {
                due = held.get();
            }
            Instant heard = inReach.equals(Instant.MIN) ? inReach : inReach.plus(AFTER_SILENCE);
            due = due == Instant.MAX ? due : due.plus(PATIENCE);
            return due.isBefore(heard) ? heard : due;
        }

        /** Reports what was not reported yet. */
        Finder reporter(Listener listener) {
            return (kind, by, at) -> {
                if (reported.add(new Finding(kind, by.key(), at))) {
                    event(by.key()).ifPresent(e -> listener.follows(kind, e, at));
                }
            };
        }

        private Optional<Event> event(EventKey key) {
            return Optional.ofNullable(events.get(key)).or(() -> lookup.apply(key));
        }

        void take(Event event, DoorFact fact, Listener listener) {
            if (!isOfALink(fact)) {
                events.put(event.key(), event);
            }
            if (isLate(fact)) {
                insert(event, fact, listener);
            } else {
                recent.add(fact);
                held++;
                now.apply(fact, door, reporter(listener));
                forget();
            }
        }

        /** Takes in an event that happened before something that is known. */
        private void insert(Event late, DoorFact fact, Listener listener) {
            int place = recent.size();
            while (place > 0 && fact.compareTo(recent.get(place - 1)) < 0) {
                place--;
            }
            if (place == 0 && before.latest.isAfter(fact.time())) {
                events.remove(late.key());
                return;
            }
            recent.add(place, fact);
            held++;
            Set<EventKey> evaluated = new HashSet<>(before.grants.keySet());
            recent.forEach(r -> evaluated.add(r.key()));
            Map<Finding, DoorFact> found = refold();
            for (Finding gone : List.copyOf(reported)) {
                boolean again = evaluated.contains(gone.by())
                        // Whether that was forced was decided before the first of these.
                        || isOpenedBefore(gone.by()) && !gone.kind().equals(Kinds.FORCED);
                if (again && !found.containsKey(gone)) {
                    reported.remove(gone);
                    event(gone.by()).ifPresent(e -> listener.contradicted(gone.kind(), e, gone.at(), late));
                }
            }
            Finder reporter = reporter(listener);
            found.forEach((f, by) -> reporter.found(f.kind(), by, f.at()));
            forget();
        }

        private boolean isOpenedBefore(EventKey event) {
            return before.opened != null && before.opened.key().equals(event);
        }

        /** Evaluates the last events anew, and says what follows from them. */
        private Map<Finding, DoorFact> refold() {
            Map<Finding, DoorFact> found = new LinkedHashMap<>();
            Finder finder = (kind, by, at) -> found.put(new Finding(kind, by.key(), at), by);
            now = before.copy();
            recent.forEach(r -> now.apply(r, door, finder));
            now.settle(settledTo, finder);
            return found;
        }

        /** So many events of this door may be held. */
        private int most() {
            return held <= MOST_IN_ALL
                    ? MOST_RECENT
                    : Math.min(MOST_RECENT, Math.max(FEWEST_RECENT, MOST_IN_ALL / doors.size()));
        }

        /** Whether an event happened before something that is known. */
        private boolean isLate(DoorFact next) {
            if (isOfALink(next)) {
                return false;
            }
            if (!next.time().isAfter(settledTo)) {
                return true;
            }
            for (int i = recent.size() - 1; i >= 0; i--) {
                if (!isOfALink(recent.get(i))) {
                    return next.compareTo(recent.get(i)) < 0;
                }
            }
            return next.time().isBefore(before.latest);
        }

        private void forget() {
            if (now.latest.equals(Instant.MIN)) {
                return;
            }
            Instant old = now.latest.minus(REMEMBERED);
            int most = most();
            // Several at once, so that a door that chatters does not move up with each event.
            int left = recent.size() > most ? most - most / 4 : most;
            while (!recent.isEmpty() && (recent.get(0).time().isBefore(old) || recent.size() > left)) {
                before.apply(recent.remove(0), door, Finder.NONE);
                held--;
            }
            if (events.size() > 2 * (recent.size() + before.grants.size() + FEWEST_RECENT)) {
                Set<EventKey> named = new HashSet<>(before.grants.keySet());
                recent.forEach(r -> named.add(r.key()));
                Stream.of(before.opened, now.opened).filter(Objects::nonNull).forEach(o -> named.add(o.key()));
                events.keySet().retainAll(named);
            }
            reported.removeIf(f -> f.at().isBefore(old)
                    && !before.grants.containsKey(f.by())
                    && !isOpenedBefore(f.by())
                    && (now.opened == null || !now.opened.key().equals(f.by())));
        }
    }

    public DoorWatch(Supplier<SiteModel> sites) {
        this.sites = sites;
    }

    /** Events that are held of all doors together. */
    int held() {
        return held;
    }

    /** Whether an event of a kind makes any difference to doors. */
    public static boolean looksAt(EventKind kind) {
        return DoorFact.ofADoor().contains(kind)
                || DoorFact.ofAController().contains(kind)
                || DoorFact.ofALink().contains(kind);
    }

    /** Takes in the next event of the log. */
    public void take(Event event, Listener listener) {
        EventKind kind = event.kind();
        if (DoorFact.ofADoor().contains(kind)) {
            event.door().flatMap(sites.get()::door).ifPresent(d -> take(d, event, listener));
        } else if (DoorFact.ofAController().contains(kind)) {
            event.controller().ifPresent(c -> each(sites.get().doorsOf(c), event, listener));
        } else if (DoorFact.ofALink().contains(kind)) {
            event.detail("system")
                    .flatMap(DoorWatch::system)
                    .ifPresent(s -> each(sites.get().doorsOf(s), event, listener));
        }
    }

    private static Optional<SystemId> system(String id) {
        try {
            return Optional.of(new SystemId(id));
        } catch (IllegalArgumentException e) {
            return Optional.empty();
        }
    }

    private void each(Collection<Door> some, Event event, Listener listener) {
        some.forEach(d -> take(d, event, listener));
    }

    private void take(Door door, Event event, Listener listener) {
        Optional<DoorFact> fact = DoorFact.of(event, door);
        if (fact.isEmpty()) {
            return;
        }
        Watched w = doors.computeIfAbsent(door.id(), d -> new Watched(door));
        w.as(door);
        boolean ofReach = event.kind().equals(Kinds.REPORT)
                || DoorFact.ofAController().contains(event.kind())
                || isOfALink(fact.get());
        boolean wasSilent = ofReach && w.now.silent(event.time());
        w.take(event, fact.get(), listener);
        if (wasSilent && !w.now.silent(event.time())) {
            w.inReach = event.received();
        }
        expect(w);
    }

    /**
     * What is known of one door.
     *
     * @param before how it stood before its last events, as {@link DoorCourse#write} has it
     * @param opened the event with which it had opened then
     * @param grants those that waited for their opening then
     * @param latest when the last event before {@code recent} happened
     * @param recent its last events
     * @param reported what was reported of it
     * @param settledTo up to when something was derived from silence
     */
    public record DoorPart(
            DoorId door,
            String before,
            Optional<FactPart> opened,
            List<FactPart> grants,
            List<FactPart> recent,
            List<ReportedPart> reported,
            Instant latest,
            Instant settledTo,
            Instant inReach) {}

    /** What of an event matters to its door; fields as in {@link Event}. */
    public record FactPart(Instant time, EventKey key, String kind, Duration offset, Map<String, String> details) {
        private static FactPart of(DoorFact f) {
            return new FactPart(f.time(), f.key(), f.kind().id(), f.offset(), f.details());
        }

        private DoorFact fact() {
            return new DoorFact(time, key, new EventKind(kind), offset, details);
        }
    }

    /** Something that was reported of a door. */
    public record ReportedPart(String kind, EventKey by, Instant at) {}

    /** What is known of all doors, to go on from after a restart. */
    public record State(List<DoorPart> doors) {}

    /** What is known so far. */
    public State state() {
        return new State(doors.values().stream()
                .map(w -> new DoorPart(
                        w.door.id(),
                        w.before.course.write(),
                        Optional.ofNullable(w.before.opened).map(FactPart::of),
                        w.before.grants.values().stream().map(FactPart::of).toList(),
                        w.recent.stream().map(FactPart::of).toList(),
                        w.reported.stream()
                                .map(f -> new ReportedPart(f.kind().id(), f.by(), f.at()))
                                .toList(),
                        w.before.latest,
                        w.settledTo,
                        w.inReach))
                .toList());
    }

    /**
     * Goes on from what was known. Doors that are gone, or that cannot be read, begin anew.
     *
     * @param events finds an event by its key, when a finding names it
     */
    public void restore(State state, Function<EventKey, Optional<Event>> events) {
        lookup = events;
        for (DoorPart part : state.doors()) {
            Optional<Door> door = sites.get().door(part.door());
            Optional<DoorCourse> course = door.flatMap(d -> DoorCourse.read(d, part.before()));
            if (course.isEmpty()) {
                continue;
            }
            Watched w = new Watched(door.get());
            Map<EventKey, DoorFact> grants = new LinkedHashMap<>();
            part.grants().forEach(g -> grants.put(g.key(), g.fact()));
            w.before = new Fold(course.get(), part.opened().map(FactPart::fact).orElse(null), grants, part.latest());
            part.recent().forEach(r -> w.recent.add(r.fact()));
            held += w.recent.size();
            part.reported().forEach(f -> w.reported.add(new Finding(new EventKind(f.kind()), f.by(), f.at())));
            w.settledTo = part.settledTo();
            w.inReach = part.inReach();
            w.refold();
            doors.put(part.door(), w);
            expect(w);
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
     * Derives what follows from nothing having come.
     *
     * @param now up to which everything is stored, but for {@link #PATIENCE what needs its time}
     */
    public void tick(Instant now, Listener listener) {
        tick(now, system -> true, listener);
    }

    /**
     * The same.
     *
     * @param inReach whether all that a system has stored so far is here; where it is not, nothing follows from silence
     */
    public void tick(Instant now, Predicate<SystemId> inReach, Listener listener) {
        if (!now.isAfter(nextDue)) {
            return;
        }
        nextDue = Instant.MAX;
        Instant settled = now.minus(PATIENCE);
        for (Watched w : List.copyOf(expecting)) {
            if (w.now.silent(settled)) {
                // It is looked at again when something comes of it.
                expecting.remove(w);
            } else if (w.due().isAfter(now)) {
                expect(w);
            } else if (!inReach.test(w.door.system())) {
                w.inReach = now;
                expect(w);
            } else {
                w.settledTo = settled;
                w.now.settle(settled, w.reporter(listener));
                expect(w);
            }
        }
    }
}
