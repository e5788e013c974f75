package org.custodia.core.alarm;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.DoubleConsumer;
import java.util.stream.Collectors;
import org.custodia.core.access.Timetable;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.OnRecord;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.Permission;
import org.custodia.core.saying.Saying;

/** Where rules are seen, tried on what is past, changed, and taken from one place to another. */
public final class RuleDesk {
    /** Rules that a site can have. */
    public static final int MOST = 1_000;

    private final Versions<Rule> versions;
    private final AlarmDesk alarms;
    private final EventLog log;
    private final Known known;
    private final RuleSheets sheets;
    private final Clock clock;

    /**
     * Has the rules watched as they stand.
     *
     * @param alarms told of each change of the rules
     */
    public RuleDesk(
            Versions<Rule> versions, AlarmDesk alarms, EventLog log, Known known, RuleSheets sheets, Clock clock) {
        this.versions = versions;
        this.alarms = alarms;
        this.log = log;
        this.known = known;
        this.sheets = sheets;
        this.clock = clock;
        watch();
    }

    /**
     * A rule as it stands.
     *
     * @param version by which an edit says what it changes; 0 for one of which nothing was ever said
     * @param since when it was made so; nothing for one that ships
     * @param by who made it so; nothing for one that ships
     * @param shipped whether there is one that ships with Custodia under its id
     */
    public record Standing(Rule rule, long version, Optional<Instant> since, Optional<String> by, boolean shipped) {}

    private List<Standing> standing() {
        Map<String, Versions.Said<Rule>> said = versions.newest();
        Map<String, Standing> all = new LinkedHashMap<>();
        for (Rule rule : Rule.shipped()) {
            all.put(rule.id(), new Standing(rule, 0, Optional.empty(), Optional.empty(), true));
        }
        said.forEach((id, s) -> {
            boolean shipped = all.containsKey(id);
            if (s.value().isPresent()) {
                all.put(id, new Standing(s.value().get(), s.version(), Optional.of(s.since()), s.by(), shipped));
            } else {
                all.remove(id);
            }
        });
        return List.copyOf(all.values());
    }

    /** All rules with all their versions; one that ships was always there. */
    private List<RuleTimeline> timelines() {
        Map<String, List<RuleTimeline.Version>> all = new LinkedHashMap<>();
        for (Rule rule : Rule.shipped()) {
            all.computeIfAbsent(rule.id(), i -> new ArrayList<>())
                    .add(new RuleTimeline.Version(Instant.MIN, Optional.of(rule)));
        }
        versions.all()
                .forEach((id, some) -> some.forEach(s -> all.computeIfAbsent(id, i -> new ArrayList<>())
                        .add(new RuleTimeline.Version(s.since(), s.value()))));
        List<RuleTimeline> timelines = new ArrayList<>();
        all.forEach((id, some) -> timelines.add(new RuleTimeline(id, some)));
        return timelines;
    }

    private void watch() {
        alarms.watch(timelines());
    }

    /**
     * All rules: those that ship, as they stand here, and then the site's own.
     *
     * @throws org.custodia.core.operator.NotPermittedException if the operator may neither see rules nor handle alarms
     */
    public List<Standing> rules(Actor actor) {
        maySee(actor);
        return standing();
    }

    private static void maySee(Actor actor) {
        if (!actor.mayLookSomewhere(Permission.HANDLE_ALARMS)) {
            actor.requireToLookEverywhere(Permission.EDIT_RULES);
        }
    }

    /**
     * All versions of a rule, the newest first; the one that ships last.
     *
     * @throws org.custodia.core.operator.NotPermittedException as for {@link #rules}
     */
    public List<Versions.Said<Rule>> versions(String id, Actor actor) {
        maySee(actor);
        List<Versions.Said<Rule>> all = new ArrayList<>(versions.versions(id));
        Rule.shipped().stream()
                .filter(r -> r.id().equals(id))
                .forEach(r -> all.add(new Versions.Said<>(Optional.of(r), 0, Instant.EPOCH, Optional.empty())));
        return all;
    }

    /** The timetables that rules can be bound to. */
    public List<Timetable> timetables() {
        return known.timetables();
    }

    /** What is odd about a rule: what it names that is gone, what it says against itself, what it would do in a circle. */
    public List<Saying> problems(Rule rule) {
        List<Saying> all = new ArrayList<>(RuleProblems.of(rule, known.sites()));
        List<Rule> others = standing().stream()
                .map(Standing::rule)
                .filter(r -> r.on() && !r.id().equals(rule.id()))
                .toList();
        new RuleCircles(known.sites())
                .through(rule, others)
                .ifPresent(way -> all.add(Saying.of(
                        "rule.circle-through",
                        way.size(),
                        way.stream().map(Rule::name).collect(Collectors.joining(", ")))));
        rule.during()
                .within()
                .map(Hours.Within::timetable)
                .filter(t -> timetables().stream().noneMatch(x -> x.id().equals(t)))
                .ifPresent(t -> all.add(Saying.of("rule.timetable-gone", t)));
        all.addAll(known.oddReceivers(
                rule.then().tells().stream().map(Rule.Tell::receiver).distinct().toList()));
        return all;
    }

    /**
     * Tries rules, switched on or not, on what is past.
     *
     * @param of how far back; at most 31 days
     * @param told how far it has come, 0 to 1
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not see rules and look back everywhere
     */
    public RuleTrial tryOut(
            List<Rule> rules, Duration of, DoubleConsumer told, Cancellation cancellation, Actor actor) {
        actor.requireToLookEverywhere(Permission.EDIT_RULES);
        actor.requireToLookEverywhere(Permission.LOOK_BACK);
        if (of.isNegative() || of.compareTo(Duration.ofDays(31)) > 0) {
            throw new IllegalArgumentException("a rule is tried on at most 31 days");
        }
        Instant now = clock.instant();
        List<Rule> all = rules.stream().map(r -> r.on(true)).toList();
        return RuleTrial.of(all, now.minus(of), now, log, known, told, cancellation);
    }

    /**
     * Keeps a new version of a rule, which is watched from now on.
     *
     * @param basedOn the version that was looked at
     * @throws AlarmException if there would be too many rules
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not edit rules everywhere
     * @throws org.custodia.core.event.EventLogException if somebody has changed it meanwhile, or it cannot be written
     */
    public void keep(Rule rule, long basedOn, Actor actor) {
        edit(List.of(new Versions.Edit<>(rule.id(), Optional.of(rule), basedOn)), "kept", actor);
    }

    /** Takes a rule off; otherwise as {@link #keep}. */
    public void takeOff(String id, long basedOn, Actor actor) {
        edit(List.of(new Versions.Edit<>(id, Optional.empty(), basedOn)), "taken-off", actor);
    }

    /**
     * Has rules as they were again, all or none; of one that ships and of which nothing had been said, as it ships. Otherwise as
     * {@link #keep}.
     */
    public void putBack(List<Versions.Edit<Rule>> edits, Actor actor) {
        edit(
                edits.stream()
                        .map(e -> new Versions.Edit<>(
                                e.id(),
                                e.value().or(() -> Rule.shipped().stream()
                                        .filter(r -> r.id().equals(e.id()))
                                        .findFirst()),
                                e.basedOn()))
                        .toList(),
                "taken-back",
                actor);
    }

    private void edit(List<Versions.Edit<Rule>> edits, String change, Actor actor) {
        actor.requireEverywhere(Permission.EDIT_RULES);
        Set<String> ids = new HashSet<>();
        standing().forEach(s -> ids.add(s.rule().id()));
        edits.forEach(e -> {
            if (e.value().isPresent()) {
                ids.add(e.id());
            }
        });
        if (ids.size() > MOST) {
            throw new AlarmException(Saying.of("rule.too-many", MOST));
        }
        Instant now = clock.instant();
        versions.keep(
                edits,
                actor,
                edits.stream()
                        .map(e -> OnRecord.setUp("rule", change, actor, now)
                                .detail("rule", e.id())
                                .detail("name", e.value().map(Rule::name).orElse(e.id())))
                        .toList());
        watch();
    }

    /**
     * All rules as a file.
     *
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not see rules everywhere
     */
    public byte[] write(Actor actor) {
        actor.requireToLookEverywhere(Permission.EDIT_RULES);
        return sheets.write(standing().stream().map(Standing::rule).toList());
    }

    /**
     * What a file would change.
     *
     * @param standing what is there under its id, and what an edit is based on
     * @param problems what is odd about it here
     */
    public record Change(Rule rule, Optional<Standing> standing, long basedOn, List<Saying> problems) {}

    /**
     * What of a file is new or different here.
     *
     * @throws AlarmException if it is no file of rules
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not edit rules everywhere
     */
    public List<Change> plan(byte[] file, Actor actor) {
        actor.requireEverywhere(Permission.EDIT_RULES);
        Map<String, Versions.Said<Rule>> said = versions.newest();
        Map<String, Standing> there = new LinkedHashMap<>();
        standing().forEach(s -> there.put(s.rule().id(), s));
        return sheets.read(file).stream()
                .filter(r -> !Optional.ofNullable(there.get(r.id()))
                        .map(s -> s.rule().version(0))
                        .equals(Optional.of(r.version(0))))
                .map(r -> new Change(
                        r,
                        Optional.ofNullable(there.get(r.id())),
                        Optional.ofNullable(said.get(r.id()))
                                .map(Versions.Said::version)
                                .orElse(0L),
                        problems(r)))
                .toList();
    }

    /** Takes over what a file changes, all or none; otherwise as {@link #keep}. */
    public void take(List<Change> changes, Actor actor) {
        edit(
                changes.stream()
                        .map(c -> new Versions.Edit<>(c.rule().id(), Optional.of(c.rule()), c.basedOn()))
                        .toList(),
                "imported",
                actor);
    }
}
