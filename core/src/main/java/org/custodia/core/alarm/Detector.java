package org.custodia.core.alarm;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.Deque;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Predicate;
import java.util.stream.Collectors;
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
import org.custodia.core.site.Side;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;

/**
 * Evaluates events one by one and finds what rules are about; also what no event says, by {@link DoorWatch}. Each event is
 * judged by the version of a rule, the places and the people of when it happened. What is found does not depend on the order in
 * which events are stored: what is held in memory is a cache of the {@link History}. Not for several threads.
 */
public final class Detector {
    /** A rule counts no further than this. */
    public static final int MOST_TIMES = 100;
    /** An event needs some time to be stored, so what did not follow is found that much later. */
    static final Duration PATIENCE = Duration.ofSeconds(2);

    /** Derived events that are evaluated again when a state becomes known. */
    private static final int MOST_FOLLOWED = 1_000;

    /** What {@link DoorWatch} finds. */
    private static final Set<EventKind> FOLLOWING = Set.of(Kinds.FORCED, Kinds.HELD, Kinds.NOBODY_ENTERED);

    private final Known known;
    private final History history;
    private final DoorWatch doors;
    /** Systems and controllers that cannot be heard: nothing follows from their silence. */
    private final Silence silence = new Silence();

    private volatile Rules rules;
    private final Map<String, Counted<Object>> counted = new HashMap<>();
    private final Map<String, Passages> passages = new HashMap<>();
    private final Map<String, Holdings> holdings = new HashMap<>();
    private final Map<String, Map<EventKey, Awaited>> awaited = new LinkedHashMap<>();
    private Instant nextOver = Instant.MAX;
    /** By system, the latest time of all events evaluated since the start. */
    private final Map<SystemId, Instant> latestTimes = new HashMap<>();

    private Instant latestOfAll = Instant.MIN;
    /** The latest time of all that was evaluated before the event that is being evaluated. */
    private Instant latestEarlier = Instant.MIN;
    /** What was evaluated before the start is not later than this. */
    private Instant latestBefore = Instant.MIN;
    /** What happened before is not reported. */
    private Instant reportFrom = Instant.MIN;
    /** Whether the event that is being evaluated happened before another one that was evaluated earlier. */
    private boolean outOfOrder;
    /** The event that is being evaluated, or was last. */
    private Optional<Event> evaluated = Optional.empty();
    /** Why the log could not be read for some rule, in this evaluation. */
    private Optional<EventLogException> unread = Optional.empty();
    /** What DoorWatch derived and some rule still has to evaluate, since the log could not be read for it. */
    private final List<Happened> unfinished = new ArrayList<>();
    /** What DoorWatch derived last, the oldest first: a state that becomes known later may decide about it. */
    private final Deque<Happened> followed = new ArrayDeque<>();

    /** What was found. */
    public sealed interface Finding {
        /** The rule in the version by which it was judged. */
        Rule rule();

        Subject subject();

        /** The event by which it was found. */
        Event by();
    }

    /**
     * Something that is to be an alarm, or joins one.
     *
     * @param topic with what it is joined
     * @param cause by which it was found
     * @param at when it happened
     * @param since when what was counted together began
     * @param outOfOrder whether something later may have been evaluated before it, so that it may be over
     */
    public record Raised(
            Rule rule, Topic topic, Subject subject, Event cause, Instant at, Instant since, boolean outOfOrder)
            implements Finding {
        Raised(Rule rule, Topic topic, Subject subject, Event cause, Instant at, Instant since) {
            this(rule, topic, subject, cause, at, since, true);
        }

        @Override
        public Event by() {
            return cause;
        }
    }

    /** A condition that has ended. */
    public record Ended(Rule rule, Subject subject, Event by) implements Finding {}

    /**
     * An event that contradicts what was found before it was stored, if something was.
     *
     * @param which the alarms whose newest occurrence it contradicts
     */
    public record Contradicted(Rule rule, Subject subject, Event by, Predicate<Alarm> which) implements Finding {}

    /** Something after which something else is to follow. */
    private record Awaited(Rule rule, Subject subject, Optional<Bearer> bearer, Event event, Instant until) {}

    /**
     * Something that happened, as an event says it or as it follows from one.
     *
     * @param asOf the event that is being evaluated; what was evaluated before it is known
     * @param excluded stored events that do not count yet, since they are evaluated again after this one
     */
    private record Happened(EventKind kind, Event by, Instant at, Subject subject, Event asOf, Set<EventKey> excluded) {
        Happened(EventKind kind, Event by, Instant at, Subject subject) {
            this(kind, by, at, subject, by, Set.of());
        }

        /** What an event says. */
        static Happened of(Event event) {
            return new Happened(event.kind(), event, event.time(), Subject.of(event));
        }

        /** What a stored event says, as part of the evaluation of this one. */
        Happened then(Event event) {
            return new Happened(event.kind(), event, event.time(), Subject.of(event), asOf, excluded);
        }

        /** Whether no event says so itself. */
        boolean isDerived() {
            return !kind.equals(by.kind());
        }
    }

    /** One version of a rule, and the timeline that says when it counts. */
    private record Version(Rule rule, RuleTimeline timeline) {
        boolean judges(Instant at) {
            Optional<Rule> then = timeline.at(at);
            return then.isPresent() && then.get() == rule;
        }
    }

    /** Versions by the doors they name, since most rules of a large site are of few doors each. */
    private static final class Index {
        private final List<Version> others = new ArrayList<>(2);
        private final Map<DoorId, List<Version>> atDoors = new HashMap<>();

        void add(Version version) {
            Rule.Where where = version.rule().where();
            if (where.anyPlace() || !where.onlyDoors()) {
                others.add(version);
            } else {
                where.doors().forEach(d -> atDoors.computeIfAbsent(d, x -> new ArrayList<>(2))
                        .add(version));
            }
        }

        List<Version> of(Event event) {
            List<Version> here = event.door().map(atDoors::get).orElse(null);
            if (here == null) {
                return others;
            }
            return others.isEmpty()
                    ? here
                    : Stream.concat(others.stream(), here.stream()).toList();
        }
    }

    /** All rules, by the kinds of events that they look at. */
    private static final class Rules {
        private final Map<String, RuleTimeline> timelines = new LinkedHashMap<>();
        private final Map<EventKind, Index> beginning = new HashMap<>();
        private final Map<EventKind, Index> ending = new HashMap<>();
        private final Map<EventKind, Set<String>> holding = new HashMap<>();
        private final boolean watchesDoors;

        Rules(Collection<RuleTimeline> all) {
            for (RuleTimeline timeline : all) {
                timelines.put(timeline.id(), timeline);
                timeline.enabledVersions().forEach(r -> add(new Version(r, timeline)));
            }
            watchesDoors = FOLLOWING.stream()
                    .anyMatch(k -> beginning.containsKey(k) || ending.containsKey(k) || holding.containsKey(k));
        }

        private void add(Version version) {
            Rule rule = version.rule();
            index(beginning, rule.when().kinds(), version);
            index(ending, rule.endedBy(), version);
            if (rule.when() instanceof Rule.Unfollowed unfollowed) {
                index(ending, unfollowed.by(), version);
            } else if (rule.when() instanceof Rule.Often often) {
                index(ending, often.unless(), version);
            }
            rule.holding().ifPresent(h -> Stream.concat(h.begins().stream(), h.ends().stream())
                    .forEach(k ->
                            holding.computeIfAbsent(k, x -> new HashSet<>()).add(rule.id())));
        }

        private static void index(Map<EventKind, Index> index, Set<EventKind> kinds, Version version) {
            kinds.forEach(k -> index.computeIfAbsent(k, x -> new Index()).add(version));
        }

        boolean looksAt(EventKind kind) {
            return beginning.containsKey(kind)
                    || ending.containsKey(kind)
                    || holding.containsKey(kind)
                    || watchesDoors && DoorWatch.looksAt(kind)
                    || Silence.looksAt(kind);
        }
    }

    /**
     * One without a history: it knows of the past what it was given.
     *
     * @param rules those that are disabled are passed over
     */
    public Detector(Collection<Rule> rules, Known known) {
        this(rules.stream().map(RuleTimeline::always).toList(), known, History.NONE);
    }

    Detector(Collection<RuleTimeline> rules, Known known, History history) {
        this.known = known;
        this.history = history;
        this.doors = new DoorWatch(known::sites);
        this.rules = new Rules(rules);
    }

    /** Evaluates by other rules from now on; what does not change is held on to. */
    void use(Collection<RuleTimeline> timelines) {
        rules = new Rules(timelines);
        Set<String> ids = rules.timelines.keySet();
        counted.keySet().retainAll(ids);
        passages.keySet().retainAll(ids);
        holdings.keySet().retainAll(ids);
        awaited.keySet().retainAll(ids);
    }

    /** Whether an event of a kind can make any difference. Safe for any thread. */
    public boolean looksAt(EventKind kind) {
        return rules.looksAt(kind);
    }

    /** The rule of an id as it stands; nothing where there is none, or it is disabled. */
    Optional<Rule> enabled(String rule) {
        return Optional.ofNullable(rules.timelines.get(rule))
                .flatMap(RuleTimeline::newest)
                .filter(Rule::on);
    }

    /** The rule of an id by which something is judged that happened at an instant. */
    Optional<Rule> at(String rule, Instant when) {
        return Optional.ofNullable(rules.timelines.get(rule))
                .flatMap(t -> t.at(when))
                .filter(Rule::on);
    }

    /** Whether it is found that something which a rule was about has ended, once it has. */
    boolean ends(String rule, Subject subject) {
        Optional<Rule> of = enabled(rule).filter(r -> !r.endedBy().isEmpty());
        if (of.isEmpty()) {
            return false;
        }
        Rule.Where where = of.get().where();
        SiteModel model = known.sites();
        Optional<Door> door = subject.door()
                .or(() -> subject.sort() == Subject.Sort.DEVICE
                        ? model.device(new DeviceId(subject.id())).flatMap(Device::door)
                        : Optional.empty())
                .flatMap(model::door);
        return where.anyPlace()
                // Events of controllers may name doors or not.
                || subject.sort() == Subject.Sort.CONTROLLER
                || subject.door().filter(where.doors()::contains).isPresent()
                || subject.sort() == Subject.Sort.DEVICE && where.devices().contains(new DeviceId(subject.id()))
                || system(subject, model).filter(where.systems()::contains).isPresent()
                || subject.sites(model).stream().anyMatch(where.sites()::contains)
                || door.filter(d -> where.doors().contains(d.id()) || in(where, d))
                        .isPresent();
    }

    private static Optional<SystemId> system(Subject subject, SiteModel model) {
        return switch (subject.sort()) {
            case DOOR -> model.door(new DoorId(subject.id())).map(Door::system);
            case DEVICE -> model.device(new DeviceId(subject.id())).map(Device::system);
            case CAMERA -> model.camera(new CameraId(subject.id())).map(Camera::recorder);
            case SYSTEM -> Optional.of(new SystemId(subject.id()));
            case CONTROLLER, SITE -> Optional.empty();
        };
    }

    // ---- Events

    /**
     * Takes in the next event.
     *
     * @throws EventLogException if the log cannot be read
     */
    public List<Finding> take(Event event) {
        List<Finding> found = new ArrayList<>(2);
        take(event, found);
        return found;
    }

    /**
     * Takes in the next event and adds what rules find to a list. If the log cannot be read for one rule, the findings of the
     * others stay in the list, and that rule evaluates the event when it is taken again.
     *
     * @throws EventLogException if the log cannot be read for some rule
     */
    void take(Event event, List<Finding> found) {
        Rules all = rules;
        EventKind kind = event.kind();
        if (!all.looksAt(kind) || !Provenance.trusted(event)) {
            return;
        }
        if (Silence.looksAt(kind)) {
            silence.take(event);
        }
        evaluated = Optional.of(event);
        latestEarlier = latestOfAll.isBefore(latestBefore) ? latestBefore : latestOfAll;
        latestOfAll = latestOfAll.isBefore(event.time()) ? event.time() : latestOfAll;
        Instant latest = latestTimes.getOrDefault(event.key().system(), latestBefore);
        outOfOrder = event.time().isBefore(latest);
        if (latest.isBefore(event.time())) {
            latestTimes.put(event.key().system(), event.time());
        }
        unread = Optional.empty();
        evaluateUnfinished(found);
        happened(Happened.of(event), found);
        if (all.watchesDoors && DoorWatch.looksAt(kind)) {
            doors.take(event, derivedInto(found));
        }
        throwIfUnread();
    }

    /** Evaluates what DoorWatch derived while the log could not be read; it reports each of these only once. */
    private void evaluateUnfinished(List<Finding> found) {
        if (!unfinished.isEmpty()) {
            List<Happened> all = List.copyOf(unfinished);
            unfinished.clear();
            all.forEach(h -> happened(h, found));
        }
    }

    private void throwIfUnread() {
        if (unread.isPresent()) {
            throw unread.get();
        }
    }

    /** Does something for one rule, so that the others go on if the log cannot be read for it. */
    private void attempt(Happened h, Runnable what) {
        try {
            what.run();
        } catch (EventLogException e) {
            unread = Optional.of(e);
            if (h.isDerived() && !unfinished.contains(h)) {
                unfinished.add(h);
            }
        }
    }

    private DoorWatch.Listener derivedInto(List<Finding> found) {
        return new DoorWatch.Listener() {
            @Override
            public void follows(EventKind kind, Event by, Instant at) {
                Happened h = derived(kind, by, at);
                latestOfAll = latestOfAll.isBefore(at) ? at : latestOfAll;
                if (!rules.holding.isEmpty()) {
                    followed.add(h);
                    if (followed.size() > MOST_FOLLOWED) {
                        followed.removeFirst();
                    }
                }
                happened(h, found);
            }

            @Override
            public void contradicted(EventKind kind, Event by, Instant at, Event because) {
                Happened h = derived(kind, by, at);
                followed.removeIf(f -> f.kind().equals(kind) && f.by().key().equals(by.key()));
                for (String rule : rules.holding.getOrDefault(kind, Set.of())) {
                    holdings(rule)
                            .ifPresent(s -> key(s.holding().extent(), h).ifPresent(k -> s.undo(k, s.change(kind, at))));
                }
                Index begins = rules.beginning.get(kind);
                for (Version version : begins == null ? List.<Version>of() : begins.of(by)) {
                    if (version.judges(at)) {
                        uncount(version.rule(), h);
                        found.add(new Contradicted(version.rule(), h.subject(), because, isFoundBy(by)));
                    }
                }
            }
        };
    }

    private Happened derived(EventKind kind, Event by, Instant at) {
        Subject door =
                by.door().map(d -> new Subject(Subject.Sort.DOOR, d.value())).orElseGet(() -> Subject.of(by));
        return new Happened(kind, by, at, door, evaluated.orElse(by), Set.of());
    }

    private static Predicate<Alarm> isFoundBy(Event cause) {
        return a -> a.newest().cause().equals(cause.key());
    }

    /** Has what was not so count no more. */
    private void uncount(Rule rule, Happened h) {
        if (rule.when() instanceof Rule.Often often) {
            key(often.per(), h).ifPresent(k -> counted(rule, often)
                    .remove(k, new Counted.Entry(h.by().key(), h.at(), h.by().door())));
        }
    }

    private void happened(Happened h, List<Finding> found) {
        for (String rule : rules.holding.getOrDefault(h.kind(), Set.of())) {
            attempt(h, () -> stateChanged(rule, h, found));
        }
        Index ends = rules.ending.get(h.kind());
        if (ends != null) {
            for (Version version : ends.of(h.by())) {
                if (version.judges(h.at())
                        && matters(version.rule(), h)
                        && there(version.rule().where(), h)) {
                    attempt(h, () -> ends(version.rule(), h, found));
                }
            }
        }
        Index begins = rules.beginning.get(h.kind());
        if (begins != null) {
            for (Version version : begins.of(h.by())) {
                if (version.judges(h.at()) && matters(version.rule(), h) && concerns(version.rule(), h)) {
                    attempt(h, () -> look(version.rule(), h, found));
                }
            }
        }
    }

    /** Whether something can be reported, or counted together with something that can. */
    private boolean matters(Rule rule, Happened h) {
        return reportFrom.equals(Instant.MIN)
                || !h.at().plus(rule.when().reach()).isBefore(reportFrom);
    }

    private void ends(Rule rule, Happened h, List<Finding> found) {
        if (rule.when() instanceof Rule.Unfollowed unfollowed) {
            followed(rule, unfollowed, h);
            mayContradict(rule, h, a -> isFollowed(a, rule, unfollowed, h), found);
        } else if (rule.when() instanceof Rule.Often often) {
            key(often.per(), h).ifPresent(k -> {
                counted(rule, often).begin(k, h.at());
                mayContradict(rule, h, a -> isBroken(a, rule, often, k, h), found);
            });
        } else {
            found.add(new Ended(rule, h.subject(), h.by()));
        }
    }

    /** Without a history nothing is known of what was found before. */
    private void mayContradict(Rule rule, Happened h, Predicate<Alarm> which, List<Finding> found) {
        if (history != History.NONE) {
            found.add(new Contradicted(rule, h.subject(), h.by(), which));
        }
    }

    private void look(Rule rule, Happened h, List<Finding> found) {
        if (rule.when() instanceof Rule.Once once) {
            if (fits(once.reasons(), h)) {
                found.add(new Raised(rule, topic(rule, h), h.subject(), h.by(), h.at(), h.at(), outOfOrder));
            }
        } else if (rule.when() instanceof Rule.Often often) {
            if (fits(often.reasons(), h)) {
                count(rule, often, h, found);
            }
        } else if (rule.when() instanceof Rule.TooFar tooFar) {
            passed(rule, tooFar, h, found);
        } else if (rule.when() instanceof Rule.Unfollowed unfollowed) {
            Optional<Bearer> bearer = bearer(h.by());
            boolean goesOut = h.by().side().filter(s -> s == Side.EXIT).isPresent();
            if (!unfollowed.samePerson() || bearer.isPresent() && !goesOut) {
                Instant until = h.at().plus(unfollowed.within());
                awaited.computeIfAbsent(rule.id(), r -> new LinkedHashMap<>())
                        .put(h.by().key(), new Awaited(rule, h.subject(), bearer, h.by(), until));
                next(until.plus(PATIENCE));
            }
        }
    }

    /** The person where one is known, the badge otherwise. */
    private Optional<Bearer> bearer(Event event) {
        Optional<Bearer> person = known.personOf(event).map(Bearer::of);
        return person.or(() -> event.credential().map(c -> Bearer.of(event.key().system(), c)));
    }

    /** With what an occurrence is joined: what names a person joins by person. */
    private Topic topic(Rule rule, Happened h) {
        Optional<Bearer> person = known.personOf(h.by()).map(Bearer::of);
        if (rule.when() instanceof Rule.TooFar
                || rule.when() instanceof Rule.Unfollowed unfollowed && unfollowed.samePerson()) {
            return new Topic(rule.id(), Optional.empty(), bearer(h.by()));
        }
        if (rule.when() instanceof Rule.Often often) {
            return switch (often.per()) {
                case PLACE -> Topic.of(rule.id(), h.subject());
                case PERSON -> new Topic(rule.id(), Optional.empty(), person);
                case BADGE ->
                    new Topic(
                            rule.id(),
                            Optional.empty(),
                            h.by().credential().map(c -> Bearer.of(h.by().key().system(), c)));
                case SITE -> Topic.of(rule.id(), site(h).map(Detector::subject).orElse(h.subject()));
            };
        }
        return new Topic(rule.id(), Optional.of(h.subject()), person);
    }

    private static Subject subject(SiteId site) {
        return new Subject(Subject.Sort.SITE, site.value());
    }

    private Optional<Object> key(Rule.Per per, Happened h) {
        return switch (per) {
            case PLACE -> Optional.of(h.subject());
            case PERSON -> known.personOf(h.by()).map(Bearer::of);
            case BADGE -> h.by().credential().map(c -> Bearer.of(h.by().key().system(), c));
            case SITE -> site(h).map(Detector::subject);
        };
    }

    /** Whether the reasons that a rule names are those of an event; only refusals have one. */
    private static boolean fits(Set<String> reasons, Happened h) {
        return reasons.isEmpty()
                || !h.kind().equals(Kinds.REFUSED)
                || h.by().reason().filter(reasons::contains).isPresent();
    }

    // ---- Counting

    private Counted<Object> counted(Rule rule, Rule.Often often) {
        Counted<Object> there = counted.get(rule.id());
        if (there == null || !there.often().equals(often)) {
            there = new Counted<>(often);
            counted.put(rule.id(), there);
        }
        return there;
    }

    private void count(Rule rule, Rule.Often often, Happened h, List<Finding> found) {
        Optional<Object> key = key(often.per(), h);
        if (key.isEmpty()) {
            return;
        }
        Counted.Entry entry = new Counted.Entry(h.by().key(), h.at(), h.by().door());
        List<Counted.Occurrence> full =
                counted(rule, often).count(key.get(), entry, (from, to) -> stored(rule, often, key.get(), h, from, to));
        try {
            List<Finding> some = new ArrayList<>(full.size());
            for (Counted.Occurrence occurrence : full) {
                Happened last = occurrence.cause().equals(h.by().key())
                        ? h
                        : history.byKey(occurrence.cause())
                                .map(e -> new Happened(e.kind(), e, occurrence.at(), Subject.of(e)))
                                .orElse(h);
                some.add(new Raised(
                        rule, topic(rule, last), last.subject(), last.by(), occurrence.at(), occurrence.since()));
            }
            found.addAll(some);
        } catch (EventLogException e) {
            // Counted once more, it is found then.
            counted(rule, often).remove(key.get(), entry);
            throw e;
        }
    }

    /** What is stored of what is counted together with something. */
    private Counted.Stored stored(Rule rule, Rule.Often often, Object key, Happened h, Instant from, Instant to) {
        if (history == History.NONE) {
            return Counted.Stored.NOTHING;
        }
        Set<EventKind> kinds = new HashSet<>(often.kinds());
        kinds.addAll(often.unless());
        History.Span span = History.Span.of(kinds, from, to).asOf(h.asOf());
        if (often.per() == Rule.Per.PLACE && h.subject().sort() == Subject.Sort.DOOR) {
            span = span.at(h.by().door());
        } else if (often.per() == Rule.Per.BADGE) {
            span = span.by((Bearer) key);
        }
        List<Counted.Entry> entries = new ArrayList<>();
        List<Instant> breaks = new ArrayList<>();
        for (Event event : history.find(span, e -> !h.excluded().contains(e.key()))) {
            Happened then = h.then(event);
            if (!key(often.per(), then).equals(Optional.of(key))) {
                continue;
            }
            if (often.unless().contains(event.kind())) {
                if (there(rule.where(), then)) {
                    breaks.add(then.at());
                }
            } else if (fits(often.reasons(), then) && concerns(rule, then)) {
                entries.add(new Counted.Entry(event.key(), then.at(), event.door()));
            }
        }
        return new Counted.Stored(entries, breaks);
    }

    // ---- Walks

    private void passed(Rule rule, Rule.TooFar tooFar, Happened h, List<Finding> found) {
        Optional<Bearer> bearer = bearer(h.by());
        if (bearer.isEmpty() || h.by().door().isEmpty()) {
            return;
        }
        Passages there = passages.get(rule.id());
        if (there == null || !there.rule().equals(tooFar)) {
            there = new Passages(tooFar);
            passages.put(rule.id(), there);
        }
        Passages.Passage passage =
                new Passages.Passage(h.by().key(), h.at(), h.by().door().get());
        List<Passages.TooQuick> some = there.add(
                bearer.get(), passage, known.sites(), (from, to) -> passages(rule, tooFar, bearer.get(), h, from, to));
        try {
            for (Passages.TooQuick one : some) {
                Event cause = one.cause().equals(h.by().key())
                        ? h.by()
                        : history.byKey(one.cause()).orElse(h.by());
                Happened last = new Happened(cause.kind(), cause, one.at(), Subject.of(cause));
                found.add(new Raised(rule, topic(rule, last), last.subject(), cause, one.at(), one.since()));
            }
        } catch (EventLogException e) {
            // Read again, it is found then.
            passages.remove(rule.id());
            throw e;
        }
    }

    private List<Passages.Passage> passages(
            Rule rule, Rule.TooFar tooFar, Bearer bearer, Happened h, Instant from, Instant to) {
        if (history == History.NONE) {
            return List.of();
        }
        History.Span span = History.Span.of(tooFar.kinds(), from, to).asOf(h.asOf());
        // A person that only the register knows is found by all that happened.
        boolean said = h.by().person().map(Bearer::of).filter(bearer::equals).isPresent();
        span = said || bearer.badge().isPresent() ? span.by(bearer) : span;
        return history
                .find(
                        span,
                        e -> e.door().isPresent()
                                && !h.excluded().contains(e.key())
                                && bearer(e).equals(Optional.of(bearer))
                                && concerns(rule, h.then(e)))
                .stream()
                .map(e -> new Passages.Passage(e.key(), e.time(), e.door().orElseThrow()))
                .toList();
    }

    // ---- States that rules depend on

    private Optional<Holdings> holdings(String rule) {
        Optional<Rule.Holding> wanted = enabled(rule).flatMap(Rule::holding);
        Holdings there = holdings.get(rule);
        if (there == null || !wanted.equals(Optional.of(there.holding()))) {
            there = wanted.map(Holdings::new).orElse(null);
            if (there == null) {
                holdings.remove(rule);
            } else {
                holdings.put(rule, there);
            }
        }
        return Optional.ofNullable(there);
    }

    private Optional<String> key(Rule.Extent extent, Happened h) {
        return switch (extent) {
            case PLACE -> Optional.of(h.subject().toString());
            case SITE -> site(h).map(SiteId::value);
            case ANYWHERE -> Optional.of("");
        };
    }

    private boolean holds(Rule rule, Happened h) {
        if (rule.holding().isEmpty()) {
            return true;
        }
        Rule.Holding wanted = rule.holding().get();
        Optional<String> key = key(wanted.extent(), h);
        // A version of before may depend on another state, which is not held in memory.
        Holdings there =
                holdings(rule.id()).filter(s -> s.holding().equals(wanted)).orElseGet(() -> new Holdings(wanted));
        return key.filter(k -> there.holds(k, h.at(), () -> changes(there, k, h)))
                .isPresent();
    }

    /** What a change of a state makes different for one version of a rule. */
    private record StateChange(Version version, String key, Holdings.Effect effect) {}

    /**
     * A state that a rule depends on begins or ends. What happened while it lasted may have been evaluated already: where it
     * began that is evaluated once more, and where it was over it contradicts what was found.
     */
    private void stateChanged(String id, Happened h, List<Finding> found) {
        List<StateChange> late = mayBeLate(h) ? effects(rules.timelines.get(id), h) : List.of();
        holdings(id).filter(s -> s.kinds().contains(h.kind())).ifPresent(s -> key(
                        s.holding().extent(), h)
                .ifPresent(k -> s.changed(k, s.change(h.kind(), h.at()), h.isDerived())));
        boolean before = outOfOrder;
        outOfOrder = true;
        late.forEach(c -> evaluateAgain(c, h, found));
        outOfOrder = before;
    }

    /** Whether something that happened at the same time or later may have been evaluated. */
    private boolean mayBeLate(Happened h) {
        return history != History.NONE && (h.isDerived() || !latestEarlier.isBefore(h.at()));
    }

    private List<StateChange> effects(RuleTimeline timeline, Happened h) {
        List<StateChange> all = new ArrayList<>(0);
        for (Rule version : timeline.enabledVersions()) {
            Optional<Holdings> of = version.holding().map(wanted -> holdings(timeline.id())
                    .filter(s -> s.holding().equals(wanted))
                    .orElseGet(() -> new Holdings(wanted)));
            if (of.isPresent() && of.get().kinds().contains(h.kind())) {
                Holdings states = of.get();
                key(states.holding().extent(), h)
                        .ifPresent(k -> states.effect(k, states.change(h.kind(), h.at()), changesBefore(states, k, h))
                                .ifPresent(e -> all.add(new StateChange(new Version(version, timeline), k, e))));
            }
        }
        return all;
    }

    private void evaluateAgain(StateChange change, Happened h, List<Finding> found) {
        Rule rule = change.version().rule();
        Set<EventKey> excluded = new HashSet<>();
        List<Happened> those = meanwhile(change, h, excluded);
        those.forEach(e -> excluded.add(e.by().key()));
        if (!change.effect().holds()) {
            noLongerConcerns(rule, those, h, found);
            return;
        }
        for (Happened e : those) {
            if (concerns(rule, e)) {
                look(rule, e, found);
            }
            excluded.remove(e.by().key());
        }
    }

    /** What was evaluated before, and happened while a state was otherwise than it was taken to be; the oldest first. */
    private List<Happened> meanwhile(StateChange change, Happened h, Set<EventKey> excluded) {
        Rule rule = change.version().rule();
        Holdings.Effect effect = change.effect();
        Predicate<Happened> wanted = e -> e.at().isBefore(effect.until())
                && change.version().judges(e.at())
                && matters(rule, e)
                && key(rule.holding().orElseThrow().extent(), e).equals(Optional.of(change.key()));
        Instant to = effect.until().equals(Instant.MAX) ? effect.from().plus(History.EVER) : effect.until();
        Stream<Happened> stored =
                history
                        .find(
                                History.Span.of(rule.when().kinds(), effect.from(), to)
                                        .asOf(h.asOf()),
                                e -> true)
                        .stream()
                        .map(e -> new Happened(e.kind(), e, e.time(), Subject.of(e), h.asOf(), excluded));
        Stream<Happened> derived = followed.stream()
                .filter(f -> rule.when().kinds().contains(f.kind()) && !f.at().isBefore(effect.from()))
                .filter(f -> !f.kind().equals(h.kind()) || !f.by().key().equals(h.by().key()))
                .map(f -> new Happened(f.kind(), f.by(), f.at(), f.subject(), h.asOf(), excluded));
        return Stream.concat(stored, derived)
                .filter(wanted)
                .sorted(Comparator.comparing(Happened::at).thenComparing(e -> e.by().key(), Event::compareKeys))
                .toList();
    }

    /** The rule was not about these after all, since the state that it depends on was over. */
    private void noLongerConcerns(Rule rule, List<Happened> those, Happened h, List<Finding> found) {
        if (those.isEmpty()) {
            return;
        }
        Set<EventKey> keys = those.stream().map(e -> e.by().key()).collect(Collectors.toSet());
        Predicate<Alarm> which = a -> keys.contains(a.newest().cause());
        if (rule.when() instanceof Rule.Often often) {
            those.forEach(e -> uncount(rule, e));
            Instant last = those.get(those.size() - 1).at().plus(often.within());
            which = which.or(a -> !a.latest().isAfter(last)
                    && !a.latest().isBefore(those.get(0).at())
                    && isNotFull(a, rule, often, h));
        } else if (rule.when() instanceof Rule.Unfollowed) {
            awaited.getOrDefault(rule.id(), new HashMap<>()).keySet().removeAll(keys);
        } else if (rule.when() instanceof Rule.TooFar) {
            passages.remove(rule.id());
        }
        found.add(new Contradicted(rule, h.subject(), h.by(), which));
    }

    /** Whether the newest occurrence of an alarm, found by counting, is none by what counts now. */
    private boolean isNotFull(Alarm alarm, Rule rule, Rule.Often often, Happened h) {
        return history.byKey(alarm.newest().cause())
                .map(e -> new Happened(e.kind(), e, alarm.latest(), Subject.of(e), h.asOf(), Set.of()))
                .filter(last -> key(often.per(), last)
                        .filter(k -> !counted(rule, often)
                                .isFull(
                                        k,
                                        new Counted.Entry(
                                                last.by().key(),
                                                last.at(),
                                                last.by().door()),
                                        (from, to) -> stored(rule, often, k, last, from, to)))
                        .isPresent())
                .isPresent();
    }

    /** The newest change up to when something happened and all since, the one that is being evaluated included. */
    private List<Holdings.Change> changes(Holdings of, String key, Happened h) {
        List<Holdings.Change> all = new ArrayList<>(changesBefore(of, key, h));
        Happened now = Happened.of(h.asOf());
        if (of.kinds().contains(now.kind()) && key(of.holding().extent(), now).equals(Optional.of(key))) {
            all.add(of.change(now.kind(), now.at()));
        }
        return all;
    }

    /** The same without the one that is being evaluated. */
    private List<Holdings.Change> changesBefore(Holdings of, String key, Happened h) {
        Predicate<Event> here = e -> key(of.holding().extent(), h.then(e)).equals(Optional.of(key));
        History.Span before = History.Span.of(of.kinds(), h.at().minus(Holdings.LONGEST), h.at())
                .asOf(h.asOf());
        History.Span after =
                History.Span.of(of.kinds(), h.at(), h.at().plus(History.EVER)).asOf(h.asOf());
        return Stream.concat(history.newest(before, here).stream(), history.find(after, here).stream())
                .map(e -> of.change(e.kind(), e.time()))
                .toList();
    }

    // ---- Where, who and when

    /** Whether a rule is about something. Where it cannot be looked up whom or when that was, it is: it is not to be missed. */
    private boolean concerns(Rule rule, Happened h) {
        try {
            return there(rule.where(), h) && concernsWhoAndWhen(rule, h) && holds(rule, h);
        } catch (EventLogException e) {
            return true;
        }
    }

    private boolean concernsWhoAndWhen(Rule rule, Happened h) {
        Event event = h.by();
        if (!rule.who().anybody() && !rule.who().includes(known.personOf(event), known, event.time())) {
            return false;
        }
        return rule.during().equals(Hours.ALWAYS)
                || rule.during()
                        .include(
                                h.at(),
                                zone(h),
                                day -> known.holiday(event.key().system(), day),
                                known::timetableOn);
    }

    /** The time zone of where something happened; of what has no place, that of most doors of its system, or of all. */
    private ZoneId zone(Happened h) {
        SiteModel model = model(h);
        return site(h).flatMap(s -> zone(s, model))
                .or(() -> mostDoors(model.doorsOf(h.by().key().system()), model))
                .or(() -> h.subject().sort() == Subject.Sort.SYSTEM
                        ? mostDoors(model.doorsOf(new SystemId(h.subject().id())), model)
                        : Optional.empty())
                .or(() -> mostDoors(model.doors(), model))
                .orElse(ZoneOffset.UTC);
    }

    private static Optional<ZoneId> zone(SiteId site, SiteModel model) {
        return model.sites().stream()
                .filter(x -> x.id().equals(site))
                .findFirst()
                .map(Site::timeZone);
    }

    private static Optional<ZoneId> mostDoors(Collection<Door> doors, SiteModel model) {
        Map<SiteId, Long> counts = doors.stream().collect(Collectors.groupingBy(Door::site, Collectors.counting()));
        return counts.entrySet().stream()
                .max(Map.Entry.<SiteId, Long>comparingByValue()
                        .thenComparing(e -> e.getKey().value()))
                .flatMap(e -> zone(e.getKey(), model));
    }

    private SiteModel model(Happened h) {
        return known.sitesAt(h.at());
    }

    private boolean there(Rule.Where where, Happened h) {
        return where.anywhere() || ofKind(where, h) && at(where, h);
    }

    /** Whether the device it happened at, if it did at one, is of a kind that is asked for. */
    private boolean ofKind(Rule.Where where, Happened h) {
        if (where.deviceKinds().isEmpty() && where.exceptDeviceKinds().isEmpty()) {
            return true;
        }
        Optional<String> kind = h.by().detail("device")
                .or(() -> h.subject().sort() == Subject.Sort.DEVICE
                        ? model(h).device(new DeviceId(h.subject().id())).map(Device::kind)
                        : Optional.empty());
        return (where.deviceKinds().isEmpty()
                        || kind.filter(where.deviceKinds()::contains).isPresent())
                && kind.filter(where.exceptDeviceKinds()::contains).isEmpty();
    }

    private boolean at(Rule.Where where, Happened h) {
        if (where.anyPlace()) {
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
        SiteModel model = model(h);
        Optional<Door> door = event.door().flatMap(model::door);
        return door.map(Door::site).filter(where.sites()::contains).isPresent()
                || h.subject().sites(model).stream().anyMatch(where.sites()::contains)
                || door.filter(d -> in(where, d)).isPresent();
    }

    private static boolean in(Rule.Where where, Door door) {
        return where.zones().stream()
                .anyMatch(z -> z.site().equals(door.site())
                        && (z.name().equals(door.outside()) || z.name().equals(door.inside())));
    }

    private Optional<SiteId> site(Happened h) {
        SiteModel model = model(h);
        return h.by().door().flatMap(model::door).map(Door::site).or(() -> h.subject()
                .site(model));
    }

    /** The sites that an occurrence belongs to, as they were when it happened; none for what is of no site. */
    Set<SiteId> sites(Subject subject, Event by, Instant at) {
        SiteModel model = known.sitesAt(at);
        Set<SiteId> all = new HashSet<>(subject.sites(model));
        by.door().flatMap(model::door).map(Door::site).ifPresent(all::add);
        return all;
    }

    // ---- What did not follow

    private void followed(Rule rule, Rule.Unfollowed unfollowed, Happened h) {
        Map<EventKey, Awaited> those = awaited.get(rule.id());
        if (those != null && !those.isEmpty()) {
            Optional<Bearer> bearer = unfollowed.samePerson() ? bearer(h.by()) : Optional.empty();
            those.values().removeIf(a -> follows(a, unfollowed, h, bearer));
        }
    }

    private static boolean follows(Awaited a, Rule.Unfollowed unfollowed, Happened h, Optional<Bearer> bearer) {
        if (h.at().isBefore(a.event().time()) || h.at().isAfter(a.until())) {
            return false;
        }
        if (!unfollowed.samePerson()) {
            return a.subject().equals(h.subject());
        }
        return h.by().side().filter(s -> s == Side.EXIT).isPresent() && bearer.isPresent() && bearer.equals(a.bearer());
    }

    /** Whether the newest occurrence of an alarm, after which something was to follow, was followed by this. */
    private boolean isFollowed(Alarm alarm, Rule rule, Rule.Unfollowed unfollowed, Happened h) {
        Instant from = alarm.latest();
        Instant until = from.plus(unfollowed.within());
        if (h.at().isBefore(from) || h.at().isAfter(until)) {
            return false;
        }
        return history.byKey(alarm.newest().cause())
                .filter(e -> {
                    Optional<Bearer> bearer = unfollowed.samePerson() ? bearer(h.by()) : Optional.empty();
                    Awaited then = new Awaited(rule, alarm.newest().subject(), bearer(e), e, until);
                    return follows(then, unfollowed, h, bearer);
                })
                .isPresent();
    }

    /** Whether the newest occurrence of an alarm, found by counting, is none where the count began anew with this. */
    private boolean isBroken(Alarm alarm, Rule rule, Rule.Often often, Object key, Happened h) {
        boolean within = !h.at().isAfter(alarm.latest())
                && !h.at().isBefore(alarm.latest().minus(often.within()));
        if (!within) {
            return false;
        }
        return history.byKey(alarm.newest().cause())
                .map(e -> new Happened(e.kind(), e, alarm.latest(), Subject.of(e)))
                .filter(last -> key(often.per(), last).equals(Optional.of(key)))
                .filter(last -> !counted(rule, often)
                        .isFull(
                                key,
                                new Counted.Entry(
                                        last.by().key(), last.at(), last.by().door()),
                                (from, to) ->
                                        stored(rule, often, key, h, from, to).brokenAt(h.at())))
                .isPresent();
    }

    /** Whether it followed, by all that is stored: it may have been stored before that after which it was to follow. */
    private boolean followedInTheLog(Awaited a) {
        Rule.Unfollowed unfollowed = (Rule.Unfollowed) a.rule().when();
        History.Span span = History.Span.of(unfollowed.by(), a.event().time(), a.until());
        if (!unfollowed.samePerson() && a.subject().sort() == Subject.Sort.DOOR) {
            span = span.at(a.subject().door());
        }
        return history.newest(span, e -> {
                    Happened h = new Happened(e.kind(), e, e.time(), Subject.of(e));
                    Optional<Bearer> bearer = unfollowed.samePerson() ? bearer(e) : Optional.empty();
                    return follows(a, unfollowed, h, bearer) && there(a.rule().where(), h);
                })
                .isPresent();
    }

    /** The first event since an instant with which a condition that a rule found has ended, evaluated already or not. */
    Optional<Event> endedSince(Rule rule, Subject subject, Instant since) {
        if (rule.endedBy().isEmpty() || history == History.NONE) {
            return Optional.empty();
        }
        History.Span span = History.Span.of(rule.endedBy(), since, since.plus(History.EVER));
        span = subject.sort() == Subject.Sort.DOOR ? span.at(subject.door()) : span;
        return history.oldest(
                span,
                e -> Subject.of(e).equals(subject)
                        && at(rule.id(), e.time())
                                .filter(r -> r.endedBy().contains(e.kind()))
                                .filter(r -> there(r.where(), new Happened(e.kind(), e, e.time(), Subject.of(e))))
                                .isPresent());
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
        tick(now, inReach, found);
        return found;
    }

    /**
     * Adds to a list what did not follow by now. If the log cannot be read for one finding, the others stay in the list, and that
     * one is tried at the next tick.
     *
     * @throws EventLogException if the log cannot be read for some finding
     */
    void tick(Instant now, Predicate<SystemId> inReach, List<Finding> found) {
        unread = Optional.empty();
        evaluateUnfinished(found);
        if (rules.watchesDoors) {
            doors.tick(now, inReach, derivedInto(found));
        }
        if (!nextOver.isAfter(now)) {
            nextOver = Instant.MAX;
            awaited.values().forEach(those -> those.values().removeIf(a -> isOver(a, now, inReach, found)));
        }
        throwIfUnread();
    }

    private boolean isOver(Awaited a, Instant now, Predicate<SystemId> inReach, List<Finding> found) {
        try {
            return over(a, now, inReach, found);
        } catch (EventLogException e) {
            unread = Optional.of(e);
            next(now);
            return false;
        }
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
        if (silence.covers(a.event(), now) || !inReach.test(a.event().key().system())) {
            // Whether it followed is known once what was kept has come.
            next(now.plus(Silence.AFTER));
            return false;
        }
        if (!followedInTheLog(a)) {
            Instant at = a.event().time();
            Happened h = new Happened(a.event().kind(), a.event(), at, a.subject());
            found.add(new Raised(a.rule(), topic(a.rule(), h), a.subject(), a.event(), at, at));
        }
        return true;
    }

    // ---- Over a restart

    /**
     * Reports nothing that happened before an instant. Events before it are evaluated only as far as later ones are counted
     * together with them, so that a backlog of weeks is not looked up in the log bearer by bearer.
     */
    void reportFrom(Instant instant) {
        reportFrom = instant;
    }

    /**
     * Begins in the middle of a log.
     *
     * @param latest what is stored so far is not later than this
     */
    void beginAfter(Instant latest) {
        latestBefore = latest;
    }

    /** One event after which something is to follow. */
    record Pending(String rule, EventKey event) {}

    /** What is counted of one place, person or badge, where it follows from no stored event. */
    record Count(String rule, Optional<Subject> place, Optional<Bearer> bearer, Counted.Held<String> held) {}

    /** What followed from an event. */
    record Followed(EventKind kind, EventKey by, Instant at) {}

    /** A state that a rule depends on, at one place or site, where that follows from no stored event. */
    record Lasting(String rule, Holdings.Held held) {}

    /** What is held in memory and cannot be read from the log again. */
    record State(
            DoorWatch.State doors,
            Silence.State silence,
            List<Pending> pending,
            List<Count> counts,
            List<Followed> followed,
            List<Lasting> lasting) {}

    State state() {
        List<Pending> pending = new ArrayList<>();
        awaited.forEach((rule, those) -> those.keySet().forEach(k -> pending.add(new Pending(rule, k))));
        List<Count> counts = new ArrayList<>();
        counted.forEach((rule, c) -> {
            if (Stream.concat(c.often().kinds().stream(), c.often().unless().stream())
                    .anyMatch(FOLLOWING::contains)) {
                c.held()
                        .forEach(h -> counts.add(new Count(
                                rule,
                                h.key() instanceof Subject s ? Optional.of(s) : Optional.empty(),
                                h.key() instanceof Bearer b ? Optional.of(b) : Optional.empty(),
                                new Counted.Held<>("", h.entries(), h.breaks(), h.completeFrom()))));
            }
        });
        List<Lasting> lasting = new ArrayList<>();
        holdings.forEach((rule, states) -> states.held().forEach(held -> lasting.add(new Lasting(rule, held))));
        return new State(
                doors.state(),
                silence.state(),
                pending,
                counts,
                followed.stream()
                        .map(f -> new Followed(f.kind(), f.by().key(), f.at()))
                        .toList(),
                lasting);
    }

    /**
     * Goes on from a state; what its rules are about by now holds.
     *
     * @throws EventLogException if the log cannot be read
     */
    void restore(State state) {
        doors.restore(state.doors(), history::byKey);
        silence.restore(state.silence());
        for (Followed one : state.followed()) {
            history.byKey(one.by()).ifPresent(by -> followed.add(derived(one.kind(), by, one.at())));
        }
        for (Lasting one : state.lasting()) {
            holdings(one.rule()).ifPresent(states -> states.restore(one.held()));
        }
        for (Pending pending : state.pending()) {
            history.byKey(pending.event()).ifPresent(e -> at(pending.rule(), e.time())
                    .filter(r -> r.when() instanceof Rule.Unfollowed)
                    .ifPresent(r -> look(r, new Happened(e.kind(), e, e.time(), Subject.of(e)), new ArrayList<>(0))));
        }
        for (Count count : state.counts()) {
            Object key = count.place().<Object>map(s -> s).or(count::bearer).orElse(null);
            if (key != null && enabled(count.rule()).map(Rule::when).orElse(null) instanceof Rule.Often often) {
                counted(enabled(count.rule()).orElseThrow(), often)
                        .restore(new Counted.Held<>(
                                key,
                                count.held().entries(),
                                count.held().breaks(),
                                count.held().completeFrom()));
            }
        }
    }
}
