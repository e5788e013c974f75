package org.custodia.core.alarm;

import static org.custodia.core.alarm.AlarmFacts.about;
import static org.custodia.core.alarm.AlarmFacts.fact;
import static org.custodia.core.alarm.AlarmFacts.tell;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Deque;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.function.Consumer;
import java.util.function.Predicate;
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
import org.custodia.core.event.LogFollower;
import org.custodia.core.event.Snapshots;
import org.custodia.core.mishap.Threads;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SystemId;

/**
 * Evaluates rules on a thread of its own: raises alarms, ends them, lets shelved ones return and escalates. What does not fit
 * into its queue is read from the log again. Its position and what cannot be read from the log again are kept in a snapshot, so
 * that after a restart everything stored since is evaluated; nothing is raised twice by one event.
 */
final class AlarmWatch implements AutoCloseable {
    private static final int PAGE = 1_000;
    private static final int LONGEST_QUEUE = 20_000;

    private static final Set<EventKind> THERE = Set.of(Kinds.SEEN_THERE, Kinds.FINISHED_THERE);
    private static final int LONGEST_NAME = 200;
    private static final String SNAPSHOT = "rules";
    static final int SNAPSHOT_VERSION = 4;
    private static final Duration SNAPSHOT_EVERY = Duration.ofSeconds(30);
    private static final int SNAPSHOT_AFTER = 5_000;
    /** Events that are evaluated again where there is no snapshot. */
    private static final int AGAIN = 5_000;

    private static final int MOST_WRITING = 500;
    /** Findings that wait to be stored; while there are more no further events are evaluated. */
    private static final int MOST_PENDING = 20_000;

    private static final Duration TAKEN_WITHIN = Duration.ofSeconds(5);
    /** More orders than this a rule gives nobody; it would be going in a circle. */
    static final int MOST_ORDERS_A_MINUTE = 30;

    private static final Duration TICK = Duration.ofSeconds(1);

    private final AlarmBook book;
    private final Predicate<Alarm> readyToFinish;
    private final EventLog log;
    private final EventIntake intake;
    private final Snapshots snapshots;
    private final History history;
    private final AlarmDesk.Doors doors;
    private final Clock clock;
    private final Known known;
    private final Detector detector;
    private final Thread thread;
    private volatile Escalation escalation = Escalation.USUAL;
    /** Orders that each rule gave within the last minute. */
    private final Map<String, Deque<Instant>> recentOrders = new HashMap<>();

    /** Events that wait to be evaluated; guards what is below up to {@link #writing}. */
    private final Deque<Event> queue = new ArrayDeque<>();

    private LogFollower follower;
    /** True once the queue overflowed; missed events are then re-read from the log. */
    private boolean queueOverflowed;
    /** Rules that are to be used instead; null where there are none. */
    private List<RuleTimeline> newRules;
    /** What was stored up to this position is evaluated by the rules of before. */
    private long newRulesAfter;
    /** True where something is to be done before the next tick. */
    private boolean woken;

    private boolean closed;
    /** Rounds that were completed; each evaluates what was queued at its beginning, and the time of its beginning. */
    private long rounds;
    /** Log position up to which everything was delivered here. */
    private long deliveredPosition;
    /** Log position up to which rules have been evaluated. */
    private long evaluatedPosition;
    /** Events before this instant cannot affect any rule. */
    private volatile Instant evaluationHorizon = Instant.MAX;
    /** When rules were first enabled; what happened before raises nothing. */
    private volatile Instant rulesOn = Instant.MAX;

    /** Facts that are being written; used by the thread of the rules alone, as is what is below. */
    private final List<Writing> writing = new ArrayList<>();

    private final Set<Topic> writingTopics = new HashSet<>();
    private final Set<Subject> writingSubjects = new HashSet<>();
    /** Findings not yet persisted, oldest first. */
    private final Deque<Detector.Finding> pendingFindings = new ArrayDeque<>();
    /** Since when, by a clock that nobody sets, alarms were known here to call. */
    private Map<Calling, Long> calling = Map.of();

    /** False while conditions that no rule watches any more may still count as active. */
    private boolean unwatchedRecorded;

    private Instant snapshotAt = Instant.EPOCH;
    private long snapshotPosition;

    /**
     * Nothing is evaluated before {@link #watch}.
     *
     * @param book what is open and was finished, which somebody else keeps
     * @param readyToFinish whether nothing is left that has to be done before an alarm is finished
     */
    AlarmWatch(
            AlarmBook book,
            Predicate<Alarm> readyToFinish,
            EventLog log,
            EventIntake intake,
            Snapshots snapshots,
            Known known,
            AlarmDesk.Doors doors,
            Clock clock) {
        this.book = book;
        this.readyToFinish = readyToFinish;
        this.log = log;
        this.intake = intake;
        this.snapshots = snapshots;
        this.history = History.of(log);
        this.known = known;
        this.doors = doors;
        this.clock = clock;
        this.detector = new Detector(List.of(), known, history);
        this.thread = Threads.daemon("alarms", this::run);
    }

    Escalation escalation() {
        return escalation;
    }

    void escalation(Escalation other) {
        escalation = other;
        wake();
    }

    /** Has the next round begin now. */
    void wake() {
        synchronized (queue) {
            woken = true;
            queue.notifyAll();
        }
    }

    /**
     * Evaluates by these rules from now on. Each event is judged by the version of when it happened. Waits until the rules are
     * in use, but not for long.
     *
     * @throws EventLogException if the log cannot be read
     */
    void watch(Collection<RuleTimeline> rules) {
        List<RuleTimeline> all = List.copyOf(rules);
        if (follower == null) {
            begin(all);
        } else {
            synchronized (queue) {
                newRules = all;
                newRulesAfter = deliveredPosition;
                queue.notifyAll();
            }
            awaitTaken(all);
        }
    }

    private void begin(List<RuleTimeline> rules) {
        rulesOn = switchedOn(rules);
        evaluationHorizon = rulesOn.minus(Rule.Often.MOST_WITHIN);
        detector.use(rules);
        detector.reportFrom(rulesOn);
        long newest = log.newestPosition();
        log.find(EventQuery.all().newest(1)).forEach(e -> detector.beginAfter(e.time()));
        Optional<Snapshots.Snapshot<Detector.State>> snapshot =
                snapshots.load(SNAPSHOT, SNAPSHOT_VERSION, Detector.State.class).filter(s -> s.position() <= newest);
        snapshot.ifPresent(s -> detector.restore(s.state()));
        // Where there is none that can be used, what was stored last is evaluated again; nothing is raised twice.
        evaluatedPosition = snapshot.map(Snapshots.Snapshot::position).orElse(Math.max(0, newest - AGAIN));
        deliveredPosition = evaluatedPosition;
        snapshotPosition = snapshot.isPresent() ? evaluatedPosition : -1;
        follower = LogFollower.from(evaluatedPosition, log, intake, this::stored);
        thread.start();
    }

    private void awaitTaken(List<RuleTimeline> rules) {
        long end = System.nanoTime() + TAKEN_WITHIN.toNanos();
        synchronized (queue) {
            while (newRules == rules && !closed && System.nanoTime() < end) {
                try {
                    queue.wait(100);
                } catch (InterruptedException e) {
                    Thread.currentThread().interrupt();
                    return;
                }
            }
        }
    }

    /** When rules were first enabled; recorded where they were not so far. */
    private Instant switchedOn(Collection<RuleTimeline> rules) {
        Optional<Event> first = log
                .find(EventQuery.all()
                        .where(Filter.is(EventField.SYSTEM, SystemId.CUSTODIA))
                        .kinds(Kinds.ALARM_RULES)
                        .oldest(1))
                .stream()
                .findFirst();
        return first.map(Event::time).orElseGet(() -> {
            Instant now = clock.instant();
            if (!rules.isEmpty()) {
                intake.record(fact(Kinds.ALARM_RULES, now).detail("rules", String.valueOf(rules.size())));
            }
            return now;
        });
    }

    private void stored(List<Event> events) {
        synchronized (queue) {
            for (Event event : events) {
                deliveredPosition = event.position();
                boolean matters = THERE.contains(event.kind())
                        || detector.looksAt(event.kind()) && !event.time().isBefore(evaluationHorizon);
                if (matters && !queueOverflowed) {
                    queueOverflowed = queue.size() >= LONGEST_QUEUE;
                    if (!queueOverflowed) {
                        queue.add(event);
                    }
                }
            }
            queue.notifyAll();
        }
    }

    // ---- Rounds

    private void run() {
        while (true) {
            List<Event> events;
            try {
                takeRules();
                events = nextEvents();
            } catch (InterruptedException e) {
                return;
            } catch (EventLogException e) {
                // The intake says what is wrong with the log; it is asked again.
                events = List.of();
                rest();
            }
            if (events == null) {
                saveSnapshot(true);
                return;
            }
            try {
                writePending();
                evaluate(events);
                find(found -> detector.tick(clock.instant(), known::inReach, found));
                settle();
                raiseUnseen();
                if (!unwatchedRecorded) {
                    recordUnwatched();
                }
                saveSnapshot(false);
                unshelve();
                escalate();
                completeRound();
            } catch (EventLogException e) {
                readAgain();
                rest();
            } catch (RuntimeException e) {
                Threads.stumbled(e);
                readAgain();
                rest();
            }
        }
    }

    /** Has events that were taken from the queue and not evaluated read from the log. */
    private void readAgain() {
        synchronized (queue) {
            queue.clear();
            queueOverflowed = true;
        }
    }

    private void completeRound() {
        synchronized (queue) {
            rounds++;
            queue.notifyAll();
        }
    }

    /** Waits until two whole rounds were completed, or this is closed. */
    void settled() {
        synchronized (queue) {
            long enough = rounds + 2;
            while (rounds < enough && !closed) {
                woken = true;
                queue.notifyAll();
                try {
                    queue.wait(100);
                } catch (InterruptedException e) {
                    Thread.currentThread().interrupt();
                    return;
                }
            }
        }
    }

    private void takeRules() {
        List<RuleTimeline> rules;
        synchronized (queue) {
            boolean oldOnesDone = queueOverflowed
                    ? evaluatedPosition >= newRulesAfter
                    : queue.isEmpty() || queue.peekFirst().position() > newRulesAfter;
            rules = oldOnesDone ? newRules : null;
        }
        if (rules == null) {
            return;
        }
        detector.use(rules);
        unwatchedRecorded = false;
        synchronized (queue) {
            // Events of kinds that no rule looked at may have been passed over.
            if (newRules == rules) {
                newRules = null;
            }
            queue.notifyAll();
        }
    }

    /** The events to evaluate next; null once this is closed. */
    private List<Event> nextEvents() throws InterruptedException {
        synchronized (queue) {
            boolean canGoOn = pendingFindings.size() < MOST_PENDING;
            boolean hasEvents = canGoOn && (!queue.isEmpty() || queueOverflowed);
            if (!hasEvents && !closed && newRules == null && !woken) {
                queue.wait(TICK.toMillis());
            }
            woken = false;
            if (closed) {
                return null;
            }
            if (pendingFindings.size() >= MOST_PENDING) {
                return List.of();
            }
            if (!queue.isEmpty() || !queueOverflowed) {
                List<Event> some = new ArrayList<>(queue.size());
                while (!queue.isEmpty()
                        && (newRules == null || queue.peekFirst().position() <= newRulesAfter)) {
                    some.add(queue.removeFirst());
                }
                return some;
            }
        }
        List<Event> page = log.storedAfter(evaluatedPosition, PAGE);
        if (page.size() == PAGE) {
            return page;
        }
        synchronized (queue) {
            queueOverflowed = false;
        }
        // Events stored during that read were not queued.
        List<Event> all = new ArrayList<>();
        while (true) {
            all.addAll(page);
            long from =
                    all.isEmpty() ? evaluatedPosition : all.get(all.size() - 1).position();
            page = log.storedAfter(from, PAGE);
            if (page.isEmpty()) {
                return all;
            }
        }
    }

    /** Waits before something is tried again that just went wrong. */
    private void rest() {
        synchronized (queue) {
            if (!closed) {
                try {
                    queue.wait(TICK.toMillis());
                } catch (InterruptedException e) {
                    Thread.currentThread().interrupt();
                }
            }
        }
    }

    /** Evaluates events; where the log cannot be read or written meanwhile, the rest is read from it again. */
    private void evaluate(List<Event> events) {
        try {
            for (Event event : events) {
                evaluate(event);
            }
        } catch (EventLogException e) {
            readAgain();
            rest();
        }
    }

    /** Evaluates one event; one that cannot be evaluated costs itself, and not those after it. */
    private void evaluate(Event event) {
        if (event.position() <= evaluatedPosition) {
            return;
        }
        try {
            if (THERE.contains(event.kind())) {
                takeOver(event);
            }
            find(found -> detector.take(event, found));
        } catch (EventLogException e) {
            throw e;
        } catch (RuntimeException e) {
            Threads.stumbled(e);
        }
        evaluatedPosition = event.position();
    }

    /** Keeps how far rules have been evaluated, once all that was found up to there is stored. */
    private void saveSnapshot(boolean atTheEnd) {
        if (!pendingFindings.isEmpty() || !writing.isEmpty()) {
            return;
        }
        synchronized (queue) {
            if (!queueOverflowed && queue.isEmpty()) {
                evaluatedPosition = Math.max(evaluatedPosition, deliveredPosition);
            }
        }
        Instant now = clock.instant();
        boolean due = !now.isBefore(snapshotAt.plus(SNAPSHOT_EVERY))
                || evaluatedPosition - snapshotPosition >= SNAPSHOT_AFTER
                || now.isBefore(snapshotAt);
        if (evaluatedPosition > snapshotPosition && (due || atTheEnd)) {
            try {
                snapshots.save(SNAPSHOT, SNAPSHOT_VERSION, evaluatedPosition, detector.state());
                snapshotAt = now;
                snapshotPosition = evaluatedPosition;
            } catch (EventLogException e) {
                // The intake says that nothing can be stored; the snapshot of before loses nothing.
            }
        }
    }

    // ---- What was done at the access system

    /**
     * Takes over an operator's act at the access system about an event of that system. It is not passed back, and where it is
     * repeated, or is about an occurrence that has been over since, nothing is done.
     */
    private void takeOver(Event event) {
        Optional<EventKey> of = event.detail("of").flatMap(o -> ownKey(event.key(), o));
        if (of.isEmpty() || event.key().system().equals(SystemId.CUSTODIA)) {
            return;
        }
        // What it is about may have been found just now.
        settle();
        boolean done = event.kind().equals(Kinds.FINISHED_THERE);
        for (Alarm alarm : book.foundBy(of.get())) {
            boolean unseen = alarm.state(clock.instant()) == Alarm.State.NEW;
            int occurrence = book.occurrence(alarm.id(), of.get()).orElse(alarm.times());
            if (done && readyToFinish.test(alarm)) {
                write(doneThere(Kinds.ALARM_FINISHED, alarm, occurrence, event)
                        .detail("outcome", Outcome.NOT_KNOWN.word())
                        .detail("text", ""));
            } else if (unseen) {
                write(doneThere(Kinds.ALARM_ACKNOWLEDGED, alarm, occurrence, event));
            }
        }
    }

    /**
     * The key of an event of the same system, as the log has it.
     *
     * @param epochAndNumber as the system writes it, with a colon between
     */
    private static Optional<EventKey> ownKey(EventKey said, String epochAndNumber) {
        // Where the system has counted again its epoch has another number in the log.
        return EventKey.of(said.system(), epochAndNumber)
                .map(k -> said.systemsEpoch() == k.epoch() ? new EventKey(k.system(), said.epoch(), k.sequence()) : k);
    }

    private Event.Builder doneThere(EventKind kind, Alarm alarm, int occurrence, Event event) {
        return about(fact(kind, clock.instant()), alarm.origin().subject())
                .detail("alarm", alarm.id().text())
                .detail(AlarmBook.SEEN, String.valueOf(occurrence))
                .detail(
                        "operator-name",
                        event.detail("by").map(AlarmWatch::bounded).orElse(""))
                .detail("system", event.key().system().value())
                .detail("said-by", event.key().text());
    }

    /** Words from outside are as long as they are. */
    private static String bounded(String words) {
        return words.length() > LONGEST_NAME ? words.substring(0, LONGEST_NAME) : words;
    }

    // ---- Findings

    /** Handles what a search found, even if the search ends early because the log cannot be read. */
    private void find(Consumer<List<Detector.Finding>> search) {
        List<Detector.Finding> all = new ArrayList<>(2);
        try {
            search.accept(all);
        } finally {
            all.forEach(this::foundOrLater);
        }
    }

    private void foundOrLater(Detector.Finding finding) {
        try {
            found(finding);
        } catch (EventLogException e) {
            // It will not be found again.
            pendingFindings.add(finding);
        }
    }

    private void found(Detector.Finding finding) {
        boolean waits = finding instanceof Detector.Raised raised
                ? writingTopics.contains(raised.topic())
                : finding instanceof Detector.Ended
                        ? writingSubjects.contains(finding.subject())
                        : writingTopics.stream()
                                .anyMatch(t -> t.rule().equals(finding.rule().id()));
        if (waits && pendingFindings.isEmpty()) {
            settle();
        }
        if (!pendingFindings.isEmpty()) {
            // What ends must not be recorded before what began.
            pendingFindings.add(finding);
        } else if (finding instanceof Detector.Raised raised) {
            raise(raised);
        } else if (finding instanceof Detector.Ended ended) {
            end(ended);
        } else if (finding instanceof Detector.Contradicted contradicted) {
            contradict(contradicted);
        }
    }

    /** Tries once more to store what could not be stored. */
    private void writePending() {
        if (!pendingFindings.isEmpty()) {
            List<Detector.Finding> all = List.copyOf(pendingFindings);
            pendingFindings.clear();
            all.forEach(this::foundOrLater);
            settle();
        }
    }

    private void raise(Detector.Raised r) {
        if (r.at().isBefore(rulesOn)) {
            return;
        }
        if (book.knows(r.rule().id(), r.cause().key())) {
            // Whatever was to follow may not have, when the process ended in between.
            endWhatIsOver(new Detector.Raised(r.rule(), r.topic(), r.subject(), r.cause(), r.at(), r.since()));
        } else {
            record(r);
        }
    }

    private void record(Detector.Raised r) {
        Optional<Alarm> open = book.openOf(r.topic());
        Event.Builder fact;
        Instant now = clock.instant();
        boolean calls = open.filter(a -> a.callsIfAgain(r.at(), now)).isPresent();
        boolean begins = open.isEmpty() || open.get().over() || calls;
        if (open.isPresent()) {
            fact = fact(Kinds.ALARM_AGAIN, now).detail("alarm", open.get().id().text());
            if (begins) {
                // Recipients that were not notified of this call so far, as when the rule was changed meanwhile.
                int call = open.get().call().number() + (calls ? 1 : 0);
                tell(fact, open.get(), call, r.rule().then().told(Rule.At.START));
            }
        } else {
            fact = AlarmFacts.raised(r, detector.sites(r.subject(), r.cause(), r.at()), now);
            tell(fact, r.rule().then().told(Rule.At.START));
        }
        AlarmFacts.occurrence(fact, r, known);
        later(r, fact, () -> {
            if (begins) {
                order(r.rule(), Rule.At.START, r.subject());
            }
            endWhatIsOver(r);
        });
    }

    /** A condition whose end was stored before its beginning is over at once. */
    private void endWhatIsOver(Detector.Raised r) {
        if (r.rule().endedBy().isEmpty() || !r.outOfOrder()) {
            return;
        }
        for (Alarm alarm : book.openOf(r.rule().id(), r.subject())) {
            if (alarm.condition() == Alarm.Condition.ON) {
                detector.endedSince(r.rule(), r.subject(), alarm.latest())
                        .ifPresent(e -> end(new Detector.Ended(r.rule(), r.subject(), e)));
            }
        }
    }

    private void end(Detector.Ended e) {
        for (Alarm alarm : book.openOf(e.rule().id(), e.subject())) {
            // What ended before it began last is of an earlier time.
            if (alarm.condition() == Alarm.Condition.ON && !e.by().time().isBefore(alarm.latest())) {
                later(
                        e,
                        tell(
                                        about(fact(Kinds.ALARM_ENDED, clock.instant()), e.subject()),
                                        alarm,
                                        alarm.call().number(),
                                        e.rule().then().told(Rule.At.END))
                                .detail("alarm", alarm.id().text())
                                .detail("of", e.by().key().text()),
                        () -> order(e.rule(), Rule.At.END, e.subject()));
            }
        }
    }

    /** What an alarm was raised for last was not so. It stays for an operator to see, and is over. */
    private void contradict(Detector.Contradicted c) {
        for (Alarm alarm : book.openOfRule(c.rule().id())) {
            if (!alarm.over() && c.which().test(alarm)) {
                later(
                        c,
                        tell(
                                        about(
                                                fact(Kinds.ALARM_ENDED, clock.instant()),
                                                alarm.newest().subject()),
                                        alarm,
                                        alarm.call().number(),
                                        c.rule().then().told(Rule.At.END))
                                .detail("alarm", alarm.id().text())
                                .detail("of", c.by().key().text())
                                .detail(AlarmBook.CONTRADICTED, "yes"),
                        () -> order(c.rule(), Rule.At.END, alarm.newest().subject()));
            }
        }
    }

    /** Raises alarms for what joined an alarm that an operator finished without having seen it. */
    private void raiseUnseen() {
        for (AlarmBook.Unseen one : book.unseen()) {
            Optional<Event> cause = history.byKey(one.occurrence().cause());
            Optional<Rule> rule =
                    detector.at(one.origin().rule(), one.occurrence().at());
            boolean open = book.openOf(one.origin().topic()).isPresent();
            if (cause.isPresent() && rule.isPresent() && !open) {
                Instant at = one.occurrence().at();
                record(new Detector.Raised(
                        rule.get(), one.origin().topic(), one.occurrence().subject(), cause.get(), at, at));
            }
        }
        settle();
    }

    // ---- Writing

    /**
     * A fact that is being written.
     *
     * @param finding by which it is written again if it cannot be now; nothing for what is found again by itself
     * @param then what is done once it is stored
     */
    private record Writing(CompletableFuture<Event> stored, Optional<Detector.Finding> finding, Runnable then) {}

    /** Writes a fact together with others; what is about the same waits for it. */
    private void later(Detector.Finding finding, Event.Builder fact, Runnable then) {
        if (finding instanceof Detector.Raised raised) {
            writingTopics.add(raised.topic());
        }
        writingSubjects.add(finding.subject());
        writing.add(new Writing(intake.record(fact), Optional.of(finding), then));
        if (writing.size() >= MOST_WRITING) {
            settle();
        }
    }

    private void later(Event.Builder fact) {
        writing.add(new Writing(intake.record(fact), Optional.empty(), () -> {}));
        if (writing.size() >= MOST_WRITING) {
            settle();
        }
    }

    /** Waits until everything is stored, and what follows from it too. */
    private void settle() {
        while (!writing.isEmpty()) {
            List<Writing> all = List.copyOf(writing);
            writing.clear();
            writingTopics.clear();
            writingSubjects.clear();
            for (Writing one : all) {
                if (stored(one.stored()).isPresent()) {
                    one.finding().ifPresent(pendingFindings::add);
                } else {
                    follow(one);
                }
            }
        }
    }

    private void follow(Writing one) {
        try {
            one.then().run();
        } catch (EventLogException e) {
            // It is known by its cause when it is taken again, and what follows is tried anew.
            one.finding().ifPresent(pendingFindings::add);
        }
    }

    /**
     * Waits until it is stored, so that the next thing is joined to it.
     *
     * @throws EventLogException if it cannot be stored
     */
    private void write(Event.Builder fact) {
        stored(intake.record(fact)).ifPresent(why -> {
            throw why;
        });
    }

    /** Why a fact could not be stored; nothing if it was. */
    private static Optional<EventLogException> stored(CompletableFuture<Event> fact) {
        try {
            fact.join();
            return Optional.empty();
        } catch (CompletionException e) {
            if (e.getCause() instanceof EventLogException why) {
                // The intake says that nothing can be stored.
                return Optional.of(why);
            }
            throw e;
        }
    }

    /**
     * Gives doors the orders of a rule. Once: what was not given when the process ended is not given later, since the door may
     * have been acted on otherwise meanwhile.
     */
    private void order(Rule rule, Rule.At at, Subject subject) {
        for (Rule.Order order : rule.then().orders()) {
            Optional<DoorId> door = order.door().or(subject::door);
            if (order.at() == at && door.isPresent() && mayGiveMore(rule)) {
                doors.tell(door.get(), order.command(), rule.name());
            }
        }
    }

    /** A rule that calls itself by what it does is stopped here. */
    private boolean mayGiveMore(Rule rule) {
        Instant now = clock.instant();
        Deque<Instant> of = recentOrders.computeIfAbsent(rule.id(), r -> new ArrayDeque<>());
        while (!of.isEmpty() && of.peekFirst().isBefore(now.minus(Duration.ofMinutes(1)))) {
            of.removeFirst();
        }
        if (of.size() >= MOST_ORDERS_A_MINUTE) {
            return false;
        }
        of.addLast(now);
        return true;
    }

    // ---- What follows from time

    /** Lets alarms return whose time of being shelved is over. */
    private void unshelve() {
        Instant now = clock.instant();
        for (Alarm alarm : book.open()) {
            if (alarm.shelved().filter(s -> !s.until().isAfter(now)).isPresent()) {
                later(about(fact(Kinds.ALARM_BACK, now), alarm.origin().subject())
                        .detail("alarm", alarm.id().text()));
            }
        }
        settle();
    }

    /**
     * Records of active conditions that they are watched no more, where the rule that raised the alarm is gone, is disabled or
     * is about something else by now: nothing would record that they ended.
     */
    private void recordUnwatched() {
        for (Alarm alarm : book.open()) {
            if (alarm.condition() == Alarm.Condition.ON
                    && !detector.ends(alarm.origin().rule(), alarm.origin().subject())) {
                later(about(
                                fact(Kinds.ALARM_ENDED, clock.instant()),
                                alarm.origin().subject())
                        .detail("alarm", alarm.id().text())
                        .detail(AlarmBook.UNWATCHED, "yes"));
            }
        }
        settle();
        unwatchedRecorded = true;
    }

    /** An alarm that calls, since an instant. */
    private record Calling(EventKey alarm, Instant since) {}

    /** Escalates alarms that were not acknowledged in time. */
    private void escalate() {
        Instant now = clock.instant();
        long nanos = System.nanoTime();
        Map<Calling, Long> still = new HashMap<>();
        for (Alarm alarm : book.open()) {
            Escalation course = escalation;
            Calling call = new Calling(alarm.id(), alarm.call().since());
            long heard = calling.getOrDefault(call, nanos);
            still.put(call, heard);
            // It has waited for as long as it did here, whatever the clock was set to meanwhile.
            Instant here = call.since().plusNanos(nanos - heard);
            int reached = course.reached(alarm, here.isAfter(now) ? here : now);
            int before = alarm.call().steps();
            if (reached > before) {
                List<String> recipients = course.of(alarm.origin().priority()).subList(before, reached).stream()
                        .flatMap(s -> s.tells().stream())
                        .distinct()
                        .toList();
                later(tell(
                                about(
                                        fact(Kinds.ALARM_ESCALATED, now),
                                        alarm.origin().subject()),
                                alarm,
                                alarm.call().number(),
                                recipients)
                        .detail("alarm", alarm.id().text())
                        .detail("step", String.valueOf(reached)));
            }
        }
        calling = still;
        settle();
    }

    @Override
    public void close() {
        if (follower != null) {
            follower.close();
        }
        synchronized (queue) {
            closed = true;
            queue.notifyAll();
        }
        try {
            // One that was never begun has ended.
            thread.join(5_000);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
