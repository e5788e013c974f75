package org.custodia.core.alarm;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Predicate;
import java.util.stream.Stream;
import org.custodia.core.door.DoorWatch;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Provenance;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.Device;
import org.custodia.core.site.DeviceId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;

/**
 * Goes through events in the order of the log and finds what rules are about; also what no event says, by {@link DoorWatch}.
 * What it remembers is bounded. Of late events the time counts at which they happened, so that what happened three times
 * within a minute is found in whatever order it came. Not for several threads.
 */
public final class Detector {
    /** A rule counts no further than this. */
    public static final int MOST_TIMES = 100;
    /** An event needs some time to be stored, so what did not follow is told that much later. */
    static final Duration PATIENCE = Duration.ofSeconds(2);

    /** Events that are waited after. */
    private static final int MOST_AWAITED = 20_000;

    /** What {@link DoorWatch} tells. */
    private static final Set<EventKind> FOLLOWING = Set.of(Kinds.FORCED, Kinds.HELD, Kinds.NOBODY_ENTERED);

    private final Map<EventKind, Index> beginning = new HashMap<>();
    private final Map<EventKind, Index> ending = new HashMap<>();
    /** Rules whose conditions last, and end by what is looked at. */
    private final Map<String, Rule> lasting = new HashMap<>();

    private final Known known;
    private final DoorWatch doors;
    private final boolean watchesDoors;
    private final Map<String, Counted> counted = new HashMap<>();
    private final Map<String, Passages> passages = new HashMap<>();
    private final Map<String, Map<EventKey, Awaited>> awaited = new HashMap<>();
    /** From whom nothing comes, where some rule is about what does not happen. */
    private final Optional<Silence> silence;

    private Instant nextOver = Instant.MAX;
    private int waiting;

    /** What was found. */
    public sealed interface Finding {
        Rule rule();

        Subject subject();

        /** By which it was found. */
        Event by();
    }

    /**
     * Something that is to be an alarm, or joins one.
     *
     * @param cause by which it was found
     * @param at when it happened
     * @param since when what was counted together began
     */
    public record Raised(Rule rule, Subject subject, Event cause, Instant at, Instant since) implements Finding {
        @Override
        public Event by() {
            return cause;
        }
    }

    /** A condition that is no more. */
    public record Ended(Rule rule, Subject subject, Event by) implements Finding {}

    private record Awaited(Rule rule, Subject subject, Event event, Instant until) {}

    /** Rules by the doors they name, since most rules of a large site are of few doors each. */
    private static final class Index {
        private final List<Rule> others = new ArrayList<>(2);
        private final Map<DoorId, List<Rule>> atDoors = new HashMap<>();

        void add(Rule rule) {
            if (rule.where().anywhere() || !rule.where().onlyDoors()) {
                others.add(rule);
            } else {
                rule.where().doors().forEach(d -> atDoors.computeIfAbsent(d, x -> new ArrayList<>(2))
                        .add(rule));
            }
        }

        List<Rule> of(Event event) {
            List<Rule> here = event.door().map(atDoors::get).orElse(null);
            if (here == null) {
                return others;
            }
            return others.isEmpty()
                    ? here
                    : Stream.concat(others.stream(), here.stream()).toList();
        }
    }

    /** Something that happened, as an event says it or as it follows from one. */
    private record Happened(EventKind kind, Event by, Instant at, Subject subject) {}

    /**
     * @param rules those that are switched off are passed over
     */
    public Detector(Collection<Rule> rules, Known known) {
        this.known = known;
        this.doors = new DoorWatch(known::sites);
        for (Rule rule : rules) {
            if (rule.on()) {
                index(beginning, rule.when().kinds(), rule);
                index(ending, rule.endedBy(), rule);
                if (!rule.endedBy().isEmpty()) {
                    lasting.put(rule.id(), rule);
                }
                if (rule.when() instanceof Rule.Unfollowed unfollowed) {
                    index(ending, unfollowed.by(), rule);
                } else if (rule.when() instanceof Rule.Often often) {
                    index(ending, often.unless(), rule);
                }
            }
        }
        this.silence = rules.stream().anyMatch(r -> r.on() && r.when() instanceof Rule.Unfollowed)
                ? Optional.of(new Silence())
                : Optional.empty();
        this.watchesDoors = FOLLOWING.stream().anyMatch(beginning::containsKey);
    }

    private static void index(Map<EventKind, Index> index, Set<EventKind> kinds, Rule rule) {
        kinds.forEach(k -> index.computeIfAbsent(k, x -> new Index()).add(rule));
    }

    /** Whether an event of a kind can make any difference. */
    public boolean looksAt(EventKind kind) {
        return beginning.containsKey(kind)
                || ending.containsKey(kind)
                || watchesDoors && DoorWatch.looksAt(kind)
                || silence.isPresent() && Silence.looksAt(kind);
    }

    /** Whether it is found that something which a rule was about has ended, once it has. */
    boolean ends(String rule, Subject subject) {
        Rule of = lasting.get(rule);
        if (of == null) {
            return false;
        }
        Rule.Where where = of.where();
        SiteModel model = known.sites();
        Optional<Door> door = subject.door()
                .or(() -> subject.sort() == Subject.Sort.DEVICE
                        ? model.device(new DeviceId(subject.id())).flatMap(Device::door)
                        : Optional.empty())
                .flatMap(model::door);
        return where.anywhere()
                // Events of controllers may name doors or not.
                || subject.sort() == Subject.Sort.CONTROLLER
                || subject.door().filter(where.doors()::contains).isPresent()
                || subject.sort() == Subject.Sort.DEVICE && where.devices().contains(new DeviceId(subject.id()))
                || system(subject, model).filter(where.systems()::contains).isPresent()
                || subject.site(model).filter(where.sites()::contains).isPresent()
                || door.filter(d -> where.doors().contains(d.id()) || in(where, d))
                        .isPresent();
    }

    private static Optional<SystemId> system(Subject subject, SiteModel model) {
        return switch (subject.sort()) {
            case DOOR -> model.door(new DoorId(subject.id())).map(Door::system);
            case DEVICE -> model.device(new DeviceId(subject.id())).map(Device::system);
            case CAMERA -> model.camera(new CameraId(subject.id())).map(Camera::recorder);
            case SYSTEM -> Optional.of(new SystemId(subject.id()));
            case CONTROLLER -> Optional.empty();
        };
    }

    /** Takes in the next event of the log. */
    public List<Finding> take(Event event) {
        boolean matters = beginning.containsKey(event.kind()) || ending.containsKey(event.kind());
        boolean ofDoors = watchesDoors && DoorWatch.looksAt(event.kind());
        boolean ofSilence = silence.isPresent() && Silence.looksAt(event.kind());
        if (!matters && !ofDoors && !ofSilence || !Provenance.trusted(event)) {
            return List.of();
        }
        silence.ifPresent(s -> s.take(event));
        List<Finding> found = new ArrayList<>(2);
        if (matters) {
            happened(new Happened(event.kind(), event, event.time(), Subject.of(event)), found);
        }
        if (ofDoors) {
            doors.take(event, (kind, by, at) -> follows(kind, by, at, found));
        }
        return found;
    }

    private void follows(EventKind kind, Event by, Instant at, List<Finding> found) {
        Subject door =
                by.door().map(d -> new Subject(Subject.Sort.DOOR, d.value())).orElseGet(() -> Subject.of(by));
        happened(new Happened(kind, by, at, door), found);
    }

    private void happened(Happened h, List<Finding> found) {
        Index ends = ending.get(h.kind());
        if (ends != null) {
            for (Rule rule : ends.of(h.by())) {
                if (there(rule.where(), h)) {
                    ends(rule, h, found);
                }
            }
        }
        Index begins = beginning.get(h.kind());
        if (begins != null) {
            for (Rule rule : begins.of(h.by())) {
                if (concerns(rule, h)) {
                    look(rule, h, found);
                }
            }
        }
    }

    private void ends(Rule rule, Happened h, List<Finding> found) {
        if (rule.when() instanceof Rule.Unfollowed) {
            followed(rule, h);
        } else if (rule.when() instanceof Rule.Often often) {
            Counted counts = counted.get(rule.id());
            if (counts != null) {
                key(often.per(), h).ifPresent(k -> counts.begin(k, h.at()));
            }
        } else {
            found.add(new Ended(rule, h.subject(), h.by()));
        }
    }

    private void look(Rule rule, Happened h, List<Finding> found) {
        if (rule.when() instanceof Rule.Once once) {
            if (fits(once.reasons(), h.by())) {
                found.add(new Raised(rule, h.subject(), h.by(), h.at(), h.at()));
            }
        } else if (rule.when() instanceof Rule.Often often) {
            if (fits(often.reasons(), h.by())) {
                key(often.per(), h)
                        .flatMap(k -> counted.computeIfAbsent(rule.id(), r -> new Counted(often))
                                .count(k, h.by().key(), h.at()))
                        .ifPresent(since -> found.add(new Raised(rule, h.subject(), h.by(), h.at(), since)));
            }
        } else if (rule.when() instanceof Rule.TooFar tooFar) {
            h.by().door()
                    .flatMap(
                            d -> who(h.by()).flatMap(w -> passages.computeIfAbsent(rule.id(), r -> new Passages(tooFar))
                                    .at(w, d, h.at(), known.sites())))
                    .ifPresent(other -> found.add(
                            new Raised(rule, h.subject(), h.by(), h.at(), other.isBefore(h.at()) ? other : h.at())));
        } else if (rule.when() instanceof Rule.Unfollowed unfollowed && waiting < MOST_AWAITED) {
            Instant until = h.at().plus(unfollowed.within());
            Map<EventKey, Awaited> those = awaited.computeIfAbsent(rule.id(), r -> new LinkedHashMap<>());
            if (those.put(h.by().key(), new Awaited(rule, h.subject(), h.by(), until)) == null) {
                waiting++;
                next(until.plus(PATIENCE));
            }
        }
    }

    /** Whose it is: the person where one is known, the badge otherwise. */
    private static Optional<String> who(Event event) {
        return event.person().map(Object::toString).or(() -> event.credential()
                .map(c -> event.key().system() + " " + c));
    }

    private static Optional<String> key(Rule.Per per, Happened h) {
        return switch (per) {
            case PLACE -> Optional.of(h.subject().toString());
            case PERSON -> h.by().person().map(Object::toString);
            case BADGE -> h.by().credential().map(c -> h.by().key().system() + " " + c);
        };
    }

    private static boolean fits(Set<String> reasons, Event event) {
        return reasons.isEmpty() || event.reason().filter(reasons::contains).isPresent();
    }

    /** Whether a rule is about something. Where it cannot be looked up whom or when that was, it is: it is not to be missed. */
    private boolean concerns(Rule rule, Happened h) {
        try {
            return there(rule.where(), h) && concernsWhoAndWhen(rule, h);
        } catch (EventLogException e) {
            return true;
        }
    }

    private boolean concernsWhoAndWhen(Rule rule, Happened h) {
        Event event = h.by();
        if (!rule.who().includes(event.person(), p -> known.kindOf(p, event.time()))) {
            return false;
        }
        if (rule.during().equals(Hours.ALWAYS)) {
            return true;
        }
        SiteModel model = known.sites();
        ZoneId zone = event.door()
                .flatMap(model::siteOf)
                .or(() -> site(h, model).flatMap(s -> model.sites().stream()
                        .filter(x -> x.id().equals(s))
                        .findFirst()))
                .map(Site::timeZone)
                .orElse(ZoneOffset.UTC);
        return rule.during()
                .include(h.at(), zone, day -> known.holiday(event.key().system(), day), known::timetableOn);
    }

    private boolean there(Rule.Where where, Happened h) {
        if (where.anywhere()) {
            return true;
        }
        Event event = h.by();
        if (event.door().filter(where.doors()::contains).isPresent()
                || where.systems().contains(event.key().system())
                || h.subject().sort() == Subject.Sort.SYSTEM
                        && where.systems().stream()
                                .anyMatch(s -> s.value().equals(h.subject().id()))
                || h.subject().sort() == Subject.Sort.DEVICE
                        && where.devices().contains(new DeviceId(h.subject().id()))) {
            return true;
        }
        if (where.sites().isEmpty() && where.zones().isEmpty()) {
            return false;
        }
        SiteModel model = known.sites();
        return site(h, model).filter(where.sites()::contains).isPresent()
                || event.door().flatMap(model::door).filter(d -> in(where, d)).isPresent();
    }

    private static boolean in(Rule.Where where, Door door) {
        return where.zones().stream()
                .anyMatch(z -> z.site().equals(door.site())
                        && (z.name().equals(door.outside()) || z.name().equals(door.inside())));
    }

    private static Optional<SiteId> site(Happened h, SiteModel model) {
        return h.by().door().flatMap(model::door).map(Door::site).or(() -> h.subject()
                .site(model));
    }

    private void followed(Rule rule, Happened h) {
        Map<EventKey, Awaited> those = awaited.get(rule.id());
        if (those != null) {
            int before = those.size();
            those.values()
                    .removeIf(a -> a.subject().equals(h.subject())
                            && !h.at().isBefore(a.event().time())
                            && !h.at().isAfter(a.until()));
            waiting -= before - those.size();
        }
    }

    /**
     * Finds what did not follow by now.
     *
     * @param now what comes later than this is not waited for
     */
    public List<Finding> tick(Instant now) {
        return tick(now, system -> true);
    }

    /**
     * The same.
     *
     * @param inReach whether all that a system has stored so far is here
     */
    List<Finding> tick(Instant now, Predicate<SystemId> inReach) {
        List<Finding> found = new ArrayList<>(0);
        if (watchesDoors) {
            doors.tick(now, inReach, (kind, by, at) -> follows(kind, by, at, found));
        }
        if (waiting > 0 && !nextOver.isAfter(now)) {
            nextOver = Instant.MAX;
            awaited.values().forEach(those -> those.values().removeIf(a -> over(a, now, inReach, found)));
        }
        return found;
    }

    private void next(Instant due) {
        nextOver = due.isBefore(nextOver) ? due : nextOver;
    }

    private boolean over(Awaited a, Instant now, Predicate<SystemId> inReach, List<Finding> found) {
        Instant due = a.until().plus(PATIENCE);
        if (due.isAfter(now)) {
            next(due);
            return false;
        }
        boolean silent = silence.filter(s -> s.covers(a.event(), now)).isPresent();
        if (silent || !inReach.test(a.event().key().system())) {
            // Whether it followed is known once what was kept has come.
            next(now.plus(Silence.AFTER));
            return false;
        }
        waiting--;
        Instant at = a.event().time();
        found.add(new Raised(a.rule(), a.subject(), a.event(), at, at));
        return true;
    }
}
