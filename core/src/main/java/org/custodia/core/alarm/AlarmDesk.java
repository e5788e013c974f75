package org.custodia.core.alarm;

import static org.custodia.core.alarm.AlarmFacts.fact;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.function.Consumer;
import java.util.stream.Collectors;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventField;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Filter;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.ProjectionFollower;
import org.custodia.core.event.Snapshots;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.Permission;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SystemId;

/**
 * All about alarms: those that are called for by rules, what operators do with them, and those of the past. Everything is a fact
 * in the log before it counts. What happened before the rules were switched on raises nothing.
 */
public final class AlarmDesk implements AutoCloseable {
    /** Characters of a note or a reason. */
    public static final int LONGEST_TEXT = 2_000;
    /** The detail of a fact that says who is to be told of it: ids of receivers, with blanks between. */
    public static final String TELL = "tell";
    /** The detail that says which of the calls of an alarm that is, from the second on. */
    public static final String CALL = "call";
    /**
     * The detail of a fact that says what events of systems it is about, since systems that keep account of alarms are told:
     * their keys, with slashes between, which no system has in its name.
     */
    public static final String EVENTS = "events";
    /** Nothing is put aside for longer. */
    public static final Duration LONGEST_SHELVED = Duration.ofDays(31);

    private static final Duration OF_LATE = Duration.ofDays(90);
    private static final int MOST_SIGNED_IN = 2_000;

    private final AlarmBook book = new AlarmBook();
    private final EventLog log;
    private final EventIntake intake;
    private final Known known;
    private final Clock clock;
    private final List<Consumer<Alarm>> listeners = new CopyOnWriteArrayList<>();
    private final ProjectionFollower<AlarmBook.State> facts;
    private final AlarmWatch watch;
    /** What is to be done about alarms. */
    private volatile List<Procedure> procedures = List.of();

    /** Does what rules tell doors. */
    @FunctionalInterface
    public interface Doors {
        /**
         * Tells a door; must return quickly, whatever the door does.
         *
         * @param rule what the rule is called
         */
        void tell(DoorId door, DoorCommand command, String rule);
    }

    /**
     * Nothing is watched before {@link #watch}.
     *
     * @throws EventLogException if the log cannot be read
     */
    public AlarmDesk(EventLog log, EventIntake intake, Snapshots snapshots, Known known, Doors doors, Clock clock) {
        this.log = log;
        this.intake = intake;
        this.known = known;
        this.clock = clock;
        this.watch = new AlarmWatch(book, a -> left(a).isEmpty(), log, intake, snapshots, known, doors, clock);
        this.facts = new ProjectionFollower<>(book, log, intake, snapshots, this::applied);
    }

    /**
     * Evaluates by these rules from now on. Each event is judged by the version of when it happened. Waits until the rules are
     * in use, but not for long.
     *
     * @throws EventLogException if the log cannot be read
     */
    public void watch(Collection<RuleTimeline> rules) {
        watch.watch(rules);
    }

    /** Waits until everything that is stored has been evaluated, and what follows from the time that it is now. */
    void settled() {
        watch.settled();
    }

    private void applied(Event fact) {
        book.about(fact).ifPresent(a -> listeners.forEach(l -> l.accept(a)));
        if (fact.kind().equals(Kinds.ALARM_FINISHED) || fact.kind().equals(Kinds.ALARM_AGAIN)) {
            // Something may have happened that its operator had not seen.
            watch.wake();
        }
    }

    // ---- For operators

    /** What is to be done about alarms from now on. */
    void procedures(List<Procedure> all) {
        procedures = List.copyOf(all);
    }

    /** What is to be done about an alarm; nothing where nobody has said. */
    public Optional<Procedure> procedure(Alarm alarm) {
        return Procedure.of(alarm, procedures, known.sites());
    }

    /** The steps of an alarm's procedure that have to be done before it is finished, and are not. */
    public List<String> left(Alarm alarm) {
        return procedure(alarm).stream()
                .flatMap(p -> p.steps().stream())
                .filter(Procedure.Step::required)
                .map(Procedure.Step::text)
                .filter(s -> alarm.ticks().stream().noneMatch(t -> t.step().equals(s)))
                .toList();
    }

    /** After how long it calls louder. */
    public Escalation escalation() {
        return watch.escalation();
    }

    /** After how long it calls louder from now on. */
    public void escalation(Escalation other) {
        watch.escalation(other);
    }

    /** An alarm that is open or was finished of late, whoever asks. */
    public Optional<Alarm> atHand(EventKey id) {
        return book.alarm(id);
    }

    /**
     * An alarm as it stands by now, whoever asks.
     *
     * @param raised when it was raised; one that is not at hand any more is read from the log
     * @throws EventLogException if the log cannot be read
     */
    public Optional<Alarm> find(EventKey id, Instant raised) {
        return book.alarm(id).or(() -> new AlarmHistory(log)
                .raised(raised.minusSeconds(1), raised.plusSeconds(1), clock.instant(), new Cancellation()).stream()
                        .filter(a -> a.id().equals(id))
                        .findFirst());
    }

    /** Tells of each alarm that changes, on the thread that stores it; must return quickly. */
    public EventIntake.Subscription listen(Consumer<Alarm> listener) {
        listeners.add(listener);
        return () -> listeners.remove(listener);
    }

    /** Those that are not finished at sites where the operator handles alarms, the most urgent first. */
    public List<Alarm> open(Actor actor) {
        return book.open().stream().filter(a -> sees(a, actor)).toList();
    }

    /** The latest that are finished, likewise, the newest first. */
    public List<Alarm> finished(Actor actor) {
        return book.finished().stream().filter(a -> sees(a, actor)).toList();
    }

    /** How much was called for of late where the operator handles alarms, as far as that is at hand. */
    public Figures figures(Duration of, Actor actor) {
        List<Alarm> all = new ArrayList<>(open(actor));
        all.addAll(finished(actor));
        Instant now = clock.instant();
        return Figures.of(all, now.minus(of), now.plusSeconds(1));
    }

    /**
     * Those that were raised in a period, or called again in it, where the operator handles alarms, as they stand by now, the newest
     * first.
     *
     * @throws EventLogException if the log cannot be read
     */
    public List<Alarm> raised(Instant from, Instant to, Actor actor) {
        return new AlarmHistory(log)
                .called(from, to, clock.instant(), new Cancellation()).stream()
                        .filter(a -> sees(a, actor))
                        .toList();
    }

    /**
     * Those that were not finished at an instant, likewise, as they stood then, the most urgent first.
     *
     * @throws EventLogException if the log cannot be read
     */
    public List<Alarm> openAt(Instant at, Actor actor) {
        return new AlarmHistory(log)
                .openAt(at, new Cancellation()).stream()
                        .filter(a -> sees(a, actor))
                        .toList();
    }

    /**
     * Whether an operator may see an alarm: at any of the sites where it belonged when it was raised. What belongs to no site,
     * such as a link, is seen by all who handle alarms; what was at a place that was not known, by those who do so everywhere.
     */
    public boolean sees(Alarm alarm, Actor actor) {
        Set<SiteId> sites = sites(alarm);
        if (!sites.isEmpty()) {
            return sites.stream().anyMatch(s -> actor.mayLook(Permission.HANDLE_ALARMS, s));
        }
        return alarm.origin().subject().sort() == Subject.Sort.SYSTEM
                ? actor.mayLookSomewhere(Permission.HANDLE_ALARMS)
                : actor.mayLookEverywhere(Permission.HANDLE_ALARMS);
    }

    private Set<SiteId> sites(Alarm alarm) {
        Set<SiteId> raisedAt = alarm.origin().sites();
        // Alarms of earlier versions do not say it.
        return raisedAt.isEmpty()
                ? alarm.origin().subject().sites(known.sitesAt(alarm.origin().raised()))
                : raisedAt;
    }

    private void permit(Alarm alarm, Actor actor) {
        Set<SiteId> sites = sites(alarm);
        if (sites.isEmpty()) {
            actor.requireEverywhere(Permission.HANDLE_ALARMS);
        } else if (sites.stream().noneMatch(s -> actor.may(Permission.HANDLE_ALARMS, s))) {
            actor.require(Permission.HANDLE_ALARMS, sites.iterator().next());
        }
    }

    private Alarm alarm(EventKey id) {
        return book.alarm(id).filter(Alarm::open).orElseThrow(() -> new AlarmException(Saying.of("alarm.not-open")));
    }

    /**
     * Acknowledges alarms as an operator saw them. Those that are acknowledged already are passed over; an alarm that began to
     * call again since is not acknowledged.
     *
     * @return completes when all of it is stored
     * @throws AlarmException if one is not open any more
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not handle one of them
     */
    public CompletableFuture<Void> acknowledge(Collection<Alarm.Seen> seen, Actor actor) {
        seen.forEach(s -> permit(alarm(s.alarm()), actor));
        Instant now = clock.instant();
        Set<CompletableFuture<Event>> answers = new HashSet<>();
        for (Alarm.Seen one : seen) {
            Alarm alarm = alarm(one.alarm());
            if (alarm.state(now) == Alarm.State.NEW) {
                answers.add(act(Kinds.ALARM_ACKNOWLEDGED, alarm, actor, b -> events(seen(b, one), alarm, one.times())));
            }
        }
        return CompletableFuture.allOf(answers.toArray(CompletableFuture[]::new));
    }

    private static Event.Builder seen(Event.Builder fact, Alarm.Seen seen) {
        return fact.detail(AlarmBook.SEEN, String.valueOf(seen.times()));
    }

    /** What it was found by as far as its operator saw it, where that is of a system outside. */
    private void events(Event.Builder fact, Alarm alarm, int seen) {
        String all = book.causes(alarm.id()).stream()
                .filter(c ->
                        book.occurrence(alarm.id(), c).filter(n -> n <= seen).isPresent())
                .filter(c -> !c.system().equals(SystemId.CUSTODIA))
                .map(EventKey::text)
                .collect(Collectors.joining("/"));
        if (!all.isEmpty()) {
            fact.detail(EVENTS, all);
        }
    }

    /** Whoever does something about it has seen it, which its systems are told where nobody had so far. */
    private void seen(Event.Builder fact, Alarm alarm) {
        if (alarm.acknowledged().isEmpty()) {
            events(fact, alarm, alarm.times());
        }
    }

    private CompletableFuture<Event> act(EventKind kind, Alarm alarm, Actor actor, Consumer<Event.Builder> more) {
        Event.Builder fact = AlarmFacts.act(kind, alarm.id(), alarm.origin().subject(), actor, clock.instant());
        more.accept(fact);
        return intake.record(fact);
    }

    /** Takes one in hand, also from somebody else; otherwise as {@link #acknowledge}. */
    public CompletableFuture<Event> take(EventKey id, Actor actor) {
        return hand(id, actor.operator(), actor.name(), actor);
    }

    /**
     * Somebody whom an alarm can be handed over to.
     *
     * @param operator sign-in name
     * @param name as shown
     * @param last when they signed in last
     */
    public record Colleague(String operator, String name, Instant last) {}

    /**
     * Who has signed in of late beside the operator, whoever did so last first.
     *
     * @throws EventLogException if the log cannot be read
     */
    public List<Colleague> colleagues(Actor actor) {
        Map<String, Colleague> all = new LinkedHashMap<>();
        EventQuery query = EventQuery.all()
                .where(Filter.is(EventField.SYSTEM, SystemId.CUSTODIA))
                .kinds(Kinds.SIGNED_IN)
                .between(clock.instant().minus(OF_LATE), clock.instant().plusSeconds(1))
                .newest(MOST_SIGNED_IN);
        for (Event event : log.find(query)) {
            event.operator()
                    .filter(o -> !o.equals(actor.operator()))
                    .ifPresent(o -> all.putIfAbsent(
                            o, new Colleague(o, event.detail("operator-name").orElse(o), event.time())));
        }
        return List.copyOf(all.values());
    }

    /** Hands one over to somebody; otherwise the same. */
    public CompletableFuture<Event> hand(EventKey id, String operator, String name, Actor actor) {
        Alarm alarm = alarm(id);
        permit(alarm, actor);
        words(name, true);
        return act(
                Kinds.ALARM_TAKEN,
                alarm,
                actor,
                b -> seen(b.detail("owner", operator).detail("owner-name", name), alarm));
    }

    /**
     * Puts one aside until some time, when it comes back; otherwise as {@link #take}.
     *
     * @param until later than now, by at most {@link #LONGEST_SHELVED}
     * @throws AlarmException also if it is put aside without a reason, or for too long
     */
    public CompletableFuture<Event> shelve(EventKey id, Instant until, String reason, Actor actor) {
        Alarm alarm = alarm(id);
        permit(alarm, actor);
        words(reason, true);
        Instant now = clock.instant();
        if (!until.isAfter(now) || until.isAfter(now.plus(LONGEST_SHELVED))) {
            throw new AlarmException(Saying.of("alarm.shelved-odd", LONGEST_SHELVED.toDays()));
        }
        return act(
                Kinds.ALARM_SHELVED,
                alarm,
                actor,
                b -> seen(b.reason(reason.strip()).detail("until", until.toString()), alarm));
    }

    /** Lets one come back that is put aside; otherwise as {@link #take}. */
    public CompletableFuture<Event> back(EventKey id, Actor actor) {
        Alarm alarm = alarm(id);
        permit(alarm, actor);
        return act(Kinds.ALARM_BACK, alarm, actor, b -> {});
    }

    /** Notes something; otherwise as {@link #take}. */
    public CompletableFuture<Event> note(EventKey id, String text, Actor actor) {
        Alarm alarm = alarm(id);
        permit(alarm, actor);
        words(text, true);
        return act(Kinds.ALARM_NOTE, alarm, actor, b -> b.detail("text", text.strip()));
    }

    /**
     * Does a step of its procedure, or says that it is not done after all; whoever does the first one takes it in hand.
     * Otherwise as {@link #take}.
     *
     * @throws AlarmException also if its procedure has no such step, or it can be done only once the condition is over
     */
    public CompletableFuture<Event> tick(EventKey id, String step, boolean done, Actor actor) {
        Alarm alarm = alarm(id);
        permit(alarm, actor);
        Procedure procedure = procedure(alarm)
                .filter(p -> p.steps().stream().anyMatch(s -> s.text().equals(step)))
                .orElseThrow(() -> new AlarmException(Saying.of("alarm.no-such-step")));
        boolean tooSoon = done
                && alarm.condition() == Alarm.Condition.ON
                // Out of reach nobody here knows whether it is over; whoever is there may.
                && known.inReach(alarm.origin().cause().system())
                && procedure.steps().stream().anyMatch(s -> s.text().equals(step) && s.onceOver());
        if (tooSoon) {
            throw new AlarmException(Saying.of("alarm.still-so"));
        }
        return act(Kinds.ALARM_TICKED, alarm, actor, b -> {
            b.detail("procedure", procedure.id())
                    .detail("procedure-version", String.valueOf(procedure.version()))
                    .detail("step", step);
            if (!done) {
                b.detail("done", "no");
            }
            seen(b, alarm);
        });
    }

    /**
     * Finishes an alarm as an operator saw it; otherwise as {@link #take}. What has happened since raises another one.
     *
     * @param text what else is to be said, may be empty
     * @throws AlarmException also if steps are left that have to be done
     */
    public CompletableFuture<Event> finish(Alarm.Seen seen, Outcome outcome, String text, Actor actor) {
        Alarm alarm = alarm(seen.alarm());
        permit(alarm, actor);
        words(text, false);
        List<String> left = left(alarm);
        if (!left.isEmpty()) {
            throw new AlarmException(Saying.of("alarm.steps-left", left.size(), left.get(0)));
        }
        return act(
                Kinds.ALARM_FINISHED,
                alarm,
                actor,
                b -> events(
                        seen(b, seen).detail("outcome", outcome.word()).detail("text", text.strip()),
                        alarm,
                        seen.times()));
    }

    private static void words(String text, boolean some) {
        if (some && text.isBlank()) {
            throw new AlarmException(Saying.of("alarm.words-missing"));
        }
        if (text.length() > LONGEST_TEXT) {
            throw new AlarmException(Saying.of("alarm.words-long", LONGEST_TEXT));
        }
    }

    @Override
    public void close() {
        watch.close();
        facts.close();
    }
}
