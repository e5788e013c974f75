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
import org.custodia.core.event.Marks;
import org.custodia.core.mishap.Threads;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SystemId;

/**
 * Raises alarms by rules, ends them, lets them come back and calls louder. What is stored is looked at on a thread of its own;
 * what does not fit there while it waits is read from the log again. What was stored and not looked at when the process ended
 * is looked at when it begins again, by {@link Marks}; nothing is raised twice by one event.
 */
final class AlarmWatch implements AutoCloseable {
    private static final int PAGE = 1_000;
    private static final int MOST_WAITING = 20_000;
    /** So much of the log before what was looked at last is gone through again at the beginning. */
    private static final int AGAIN = 5_000;

    private static final Set<EventKind> THERE = Set.of(Kinds.SEEN_THERE, Kinds.FINISHED_THERE);
    private static final int LONGEST_NAME = 200;
    private static final String MARK = "alarms";
    private static final Duration MARK_EVERY = Duration.ofSeconds(5);
    private static final int MOST_WRITING = 500;
    /** While nothing can be stored little is found; more than this is found again at the next beginning. */
    private static final int MOST_UNWRITTEN = 20_000;

    private static final Duration TAKEN_WITHIN = Duration.ofSeconds(5);
    /** More orders than this a rule gives nobody; it would be going in a circle. */
    static final int MOST_ORDERS_A_MINUTE = 30;

    private static final Duration TICK = Duration.ofSeconds(1);

    private final AlarmBook book;
    private final Predicate<Alarm> ready;
    private final EventLog log;
    private final EventIntake intake;
    private final Marks marks;
    private final Known known;
    private final AlarmDesk.Doors doors;
    private final Clock clock;
    private final Thread thread;
    private volatile Escalation escalation = Escalation.USUAL;
    /** Orders that each rule has given of late. */
    private final Map<String, Deque<Instant>> given = new HashMap<>();

    private final Deque<Event> waiting = new ArrayDeque<>();
    /** What is watched; changed only while the lock of what waits is held. */
    private volatile Detector detector;

    private volatile Map<String, Instant> since = Map.of();
    /** What happened before is of no use to any rule. */
    private volatile Instant earliest = Instant.MAX;

    private LogFollower events;
    /** There was more than fits; the log has it. */
    private boolean behind;
    /** Rules that are to be watched instead. */
    private List<AlarmDesk.Watched> next;

    /** What has been found and is being written, and what it is about. Used by the thread of the alarms alone. */
    private final List<Writing> writing = new ArrayList<>();

    private final Set<String> topics = new HashSet<>();
    /** What was found and could not be stored so far, in the order in which it was found. */
    private final Deque<Detector.Finding> unwritten = new ArrayDeque<>();
    /** Since when, by a clock that nobody sets, alarms were known here to call. */
    private Map<Calling, Long> calling = Map.of();

    /** Whether what the rules of now do not watch has been told so. */
    private boolean unwatched;

    private Instant markedAt = Instant.EPOCH;

    private long marked;

    private boolean closed;
    /** The position up to which everything was looked at. */
    private long looked;
    /** The position up to which everything was told. */
    private long toldUpTo;

    /**
     * Nothing is watched before {@link #watch}.
     *
     * @param book what is open and was finished, which somebody else keeps
     * @param ready whether nothing is left that has to be done before an alarm is finished
     */
    AlarmWatch(
            AlarmBook book,
            Predicate<Alarm> ready,
            EventLog log,
            EventIntake intake,
            Marks marks,
            Known known,
            AlarmDesk.Doors doors,
            Clock clock) {
        this.book = book;
        this.ready = ready;
        this.log = log;
        this.intake = intake;
        this.marks = marks;
        this.known = known;
        this.doors = doors;
        this.clock = clock;
        this.detector = new Detector(List.of(), known);
        long newest = log.newestPosition();
        // What is counted may have begun before.
        long mark = marks.reached(MARK);
        this.marked = mark == 0 ? newest : Math.min(mark, newest);
        this.looked = Math.max(0, marked - AGAIN);
        this.toldUpTo = looked;
        this.thread = Threads.daemon("alarms", this::run);
    }

    /** After how long it calls louder. */
    Escalation escalation() {
        return escalation;
    }

    /** After how long it calls louder from now on. */
    void escalation(Escalation other) {
        escalation = other;
    }

    /**
     * Watches these rules from now on, instead of others. What was stored before is looked at by those of before. Waits until
     * they are watched, but not for long.
     *
     * @throws EventLogException if the log cannot be read
     */
    void watch(Collection<AlarmDesk.Watched> rules) {
        List<AlarmDesk.Watched> all = List.copyOf(rules);
        synchronized (waiting) {
            next = all;
            waiting.notifyAll();
        }
        if (events == null) {
            become(all, switchedOn(all));
            events = LogFollower.from(looked, log, intake, this::stored);
            thread.start();
        } else {
            awaitTaken(all);
        }
    }

    private void awaitTaken(List<AlarmDesk.Watched> rules) {
        long end = System.nanoTime() + TAKEN_WITHIN.toNanos();
        synchronized (waiting) {
            while (next == rules && !closed && System.nanoTime() < end) {
                try {
                    waiting.wait(100);
                } catch (InterruptedException e) {
                    Thread.currentThread().interrupt();
                    return;
                }
            }
        }
    }

    private void become(List<AlarmDesk.Watched> rules, Instant on) {
        Detector fresh =
                new Detector(rules.stream().map(AlarmDesk.Watched::rule).toList(), known);
        Map<String, Instant> begins = new HashMap<>();
        rules.forEach(w ->
                begins.put(w.rule().id(), w.since().filter(t -> t.isAfter(on)).orElse(on)));
        synchronized (waiting) {
            detector = fresh;
            since = begins;
            earliest = on.minus(Rule.Often.MOST_WITHIN);
            if (next == rules) {
                next = null;
            }
            waiting.notifyAll();
        }
    }

    /** Keeps how far it has come, so that whatever is stored is looked at, however the process ends. */
    private void mark() {
        long here;
        synchronized (waiting) {
            here = behind || !waiting.isEmpty() ? looked : Math.max(looked, toldUpTo);
        }
        for (Detector.Finding finding : unwritten) {
            here = Math.min(here, finding.by().position() - 1);
        }
        Instant now = clock.instant();
        if (here > marked && (here - marked > AGAIN / 2 || !now.isBefore(markedAt.plus(MARK_EVERY)))) {
            markedAt = now;
            try {
                marks.reach(MARK, here);
                marked = here;
            } catch (EventLogException e) {
                // The intake says that nothing can be stored; the mark that is kept lies before, which loses nothing.
            }
        }
    }

    /** Has other rules watched; what they count may have begun before. */
    private void change(List<AlarmDesk.Watched> rules) {
        Instant on = switchedOn(rules);
        long from;
        synchronized (waiting) {
            if (behind || !waiting.isEmpty()) {
                // The rules of before have not looked at all that is theirs.
                return;
            }
            looked = toldUpTo;
            unwatched = false;
            from = Math.max(0, looked - AGAIN);
            become(rules, on);
        }
        List<Event> page = log.storedAfter(from, PAGE);
        while (!page.isEmpty()) {
            for (Event event : page) {
                if (event.position() <= looked) {
                    detector.take(event);
                }
            }
            long last = page.get(page.size() - 1).position();
            page = last >= looked ? List.of() : log.storedAfter(last, PAGE);
        }
    }

    /** Since when rules are watched; written down where they were not so far. */
    private Instant switchedOn(Collection<AlarmDesk.Watched> rules) {
        Optional<Event> known = log
                .find(EventQuery.all()
                        .where(Filter.is(EventField.SYSTEM, SystemId.CUSTODIA))
                        .kinds(Kinds.ALARM_RULES)
                        .oldest(1))
                .stream()
                .findFirst();
        return known.map(Event::time).orElseGet(() -> {
            Instant now = clock.instant();
            if (!rules.isEmpty()) {
                intake.record(fact(Kinds.ALARM_RULES, now).detail("rules", String.valueOf(rules.size())));
            }
            return now;
        });
    }

    private void stored(List<Event> some) {
        synchronized (waiting) {
            for (Event event : some) {
                toldUpTo = event.position();
                boolean matters = THERE.contains(event.kind())
                        || detector.looksAt(event.kind()) && !event.time().isBefore(earliest);
                if (matters && !behind) {
                    behind = waiting.size() >= MOST_WAITING;
                    if (!behind) {
                        waiting.add(event);
                    }
                }
            }
            waiting.notifyAll();
        }
    }

    private void run() {
        while (true) {
            List<Event> some;
            try {
                List<AlarmDesk.Watched> other;
                synchronized (waiting) {
                    other = next;
                }
                if (other != null) {
                    change(other);
                }
                some = next();
            } catch (InterruptedException e) {
                return;
            } catch (EventLogException e) {
                // The intake says what is wrong with the log; it is asked again.
                some = List.of();
                rest();
            }
            if (some == null) {
                return;
            }
            try {
                again();
                lookAt(some);
                detector.tick(clock.instant(), known::inReach).forEach(this::found);
                settle();
                if (!unwatched) {
                    unwatch();
                }
                mark();
                comeBack();
                escalate();
            } catch (RuntimeException e) {
                Threads.stumbled(e);
            }
        }
    }

    /** What is to be looked at next; null if it is closed. */
    private List<Event> next() throws InterruptedException {
        synchronized (waiting) {
            if (waiting.isEmpty() && !behind && !closed && next == null) {
                waiting.wait(TICK.toMillis());
            }
            if (closed) {
                return null;
            }
            if (!waiting.isEmpty() || !behind) {
                List<Event> some = new ArrayList<>(waiting);
                waiting.clear();
                return some;
            }
        }
        List<Event> page = log.storedAfter(looked, PAGE);
        if (page.size() == PAGE) {
            return page;
        }
        synchronized (waiting) {
            behind = false;
        }
        // What was stored while this was read has been passed over.
        List<Event> all = new ArrayList<>(page);
        while (!page.isEmpty()) {
            page = log.storedAfter(page.get(page.size() - 1).position(), PAGE);
            all.addAll(page);
        }
        return all;
    }

    /** Waits before something is tried again that just went wrong. */
    private void rest() {
        synchronized (waiting) {
            if (!closed) {
                try {
                    waiting.wait(TICK.toMillis());
                } catch (InterruptedException e) {
                    Thread.currentThread().interrupt();
                }
            }
        }
    }

    /** Looks at some; where the log cannot be asked or written meanwhile, the rest is read from it again. */
    private void lookAt(List<Event> some) {
        try {
            some.forEach(this::lookAt);
        } catch (EventLogException e) {
            synchronized (waiting) {
                waiting.clear();
                behind = true;
            }
            rest();
        }
    }

    /** One event that cannot be looked at costs itself, and not those after it. */
    private void lookAt(Event event) {
        try {
            look(event);
        } catch (EventLogException e) {
            throw e;
        } catch (RuntimeException e) {
            looked = Math.max(looked, event.position());
            Threads.stumbled(e);
        }
    }

    private void look(Event event) {
        if (event.position() > looked) {
            if (THERE.contains(event.kind())) {
                there(event);
            }
            detector.take(event).forEach(this::found);
            looked = event.position();
        }
    }

    /**
     * Takes over what somebody did at the access system itself about what that system told. It is not told to it again, and
     * where it says so twice, or of what has been over since, nothing is done.
     */
    private void there(Event event) {
        Optional<EventKey> of = event.detail("of")
                .flatMap(o -> EventKey.parse(event.key().system().value() + ":" + o))
                // As the log knows it, where the system has counted again.
                .map(k -> new EventKey(k.system(), sameEpoch(event.key(), k), k.sequence()));
        if (of.isEmpty() || event.key().system().equals(SystemId.CUSTODIA)) {
            return;
        }
        // What it is about may have been found just now.
        settle();
        boolean done = event.kind().equals(Kinds.FINISHED_THERE);
        for (Alarm alarm : book.foundBy(of.get())) {
            boolean unseen = alarm.state(clock.instant()) == Alarm.State.NEW;
            if (done && ready.test(alarm)) {
                write(doneThere(Kinds.ALARM_FINISHED, alarm, event)
                        .detail("outcome", Outcome.NOT_KNOWN.word())
                        .detail("text", ""));
            } else if (unseen) {
                write(doneThere(Kinds.ALARM_ACKNOWLEDGED, alarm, event));
            }
        }
    }

    private static long sameEpoch(EventKey said, EventKey of) {
        return said.systemsEpoch() == of.epoch() ? said.epoch() : of.epoch();
    }

    private Event.Builder doneThere(EventKind kind, Alarm alarm, Event event) {
        return about(fact(kind, clock.instant()), alarm.origin().subject())
                .detail("alarm", alarm.id().text())
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

    private void found(Detector.Finding finding) {
        if (unwritten.isEmpty()) {
            settle(finding.rule().id(), finding.subject());
        }
        if (!unwritten.isEmpty()) {
            // What ends must not be told before what began.
            unwritten(finding);
        } else if (finding instanceof Detector.Raised raised) {
            raise(raised);
        } else if (finding instanceof Detector.Ended ended) {
            end(ended);
        }
    }

    private void unwritten(Detector.Finding finding) {
        if (unwritten.size() < MOST_UNWRITTEN) {
            unwritten.add(finding);
        }
    }

    /** Tries once more to store what could not be stored. */
    private void again() {
        if (!unwritten.isEmpty()) {
            List<Detector.Finding> all = List.copyOf(unwritten);
            unwritten.clear();
            all.forEach(this::found);
            settle();
        }
    }

    private void raise(Detector.Raised r) {
        String rule = r.rule().id();
        if (r.at().isBefore(since.getOrDefault(rule, Instant.MAX))
                || book.knows(rule, r.cause().key())) {
            return;
        }
        Optional<Alarm> open = book.openOf(rule, r.subject());
        Event.Builder fact;
        Instant now = clock.instant();
        boolean calls = open.filter(a -> a.callsIfAgain(r.at(), now)).isPresent();
        boolean begins = open.isEmpty() || open.get().over() || calls;
        if (open.isPresent()) {
            fact = fact(Kinds.ALARM_AGAIN, now).detail("alarm", open.get().id().text());
            if (begins) {
                // Whoever has not been told of this call so far, as when the rule was changed meanwhile.
                int call = open.get().call().number() + (calls ? 1 : 0);
                tell(fact, open.get(), call, r.rule().then().told(Rule.At.START));
            }
        } else {
            boolean lasts = !r.rule().endedBy().isEmpty();
            fact = fact(Kinds.ALARM_RAISED, now)
                    .detail("rule", rule)
                    .detail("rule-version", String.valueOf(r.rule().version()))
                    .detail("name", r.rule().name())
                    .detail("priority", r.rule().priority().name())
                    .detail("about", r.subject().toString())
                    .detail("condition", lasts ? "ON" : "MOMENT");
            if (!r.rule().then().forward()) {
                fact.detail("forward", "no");
            }
            if (!r.rule().then().sound()) {
                fact.detail("sound", "no");
            }
            tell(fact, r.rule().then().told(Rule.At.START));
        }
        r.cause().person().ifPresent(fact::person);
        about(fact, r.subject()).detail("of", r.cause().key().text()).detail("since", r.at().toString());
        later(r, fact, () -> {
            if (begins) {
                order(r.rule(), Rule.At.START, r.subject());
            }
        });
    }

    /**
     * A fact that is being written, and what is done once it is.
     *
     * @param finding by which it is found again if it cannot be; nothing for what is found again by itself
     */
    private record Writing(CompletableFuture<Event> stored, Optional<Detector.Finding> finding, Runnable then) {}

    /** Writes a fact together with others; what is about the same waits for it. */
    private void later(Detector.Finding finding, Event.Builder fact, Runnable then) {
        topics.add(finding.rule().id() + " " + finding.subject());
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

    /** What was found of this before is stored and told, so that the next thing is joined to it. */
    private void settle(String rule, Subject subject) {
        if (topics.contains(rule + " " + subject)) {
            settle();
        }
    }

    private void settle() {
        List<Writing> all = List.copyOf(writing);
        writing.clear();
        topics.clear();
        for (Writing one : all) {
            if (stored(one.stored()).isEmpty()) {
                one.then().run();
            } else {
                one.finding().ifPresent(this::unwritten);
            }
        }
    }

    private void end(Detector.Ended e) {
        Optional<Alarm> open = book.openOf(e.rule().id(), e.subject())
                .filter(a -> a.condition() == Alarm.Condition.ON)
                // What ended before it began is of an earlier time.
                .filter(a -> !e.by().time().isBefore(a.latest()));
        open.ifPresent(a -> later(
                e,
                tell(
                                about(fact(Kinds.ALARM_ENDED, clock.instant()), e.subject()),
                                a,
                                a.call().number(),
                                e.rule().then().told(Rule.At.END))
                        .detail("alarm", a.id().text())
                        .detail("of", e.by().key().text()),
                () -> order(e.rule(), Rule.At.END, e.subject())));
    }

    /**
     * Does what a rule tells doors. Once: what was not told when the process ended is not told later, since the door may have
     * been acted on otherwise meanwhile.
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
        Deque<Instant> of = given.computeIfAbsent(rule.id(), r -> new ArrayDeque<>());
        while (!of.isEmpty() && of.peekFirst().isBefore(now.minus(Duration.ofMinutes(1)))) {
            of.removeFirst();
        }
        if (of.size() >= MOST_ORDERS_A_MINUTE) {
            return false;
        }
        of.addLast(now);
        return true;
    }

    /**
     * Waits until it is stored and told, so that the next thing is joined to it.
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

    /** Lets those come back whose time of being shelved is over. */
    private void comeBack() {
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
     * Says of what still is so that it is watched no more, where the rule that raised it is gone, is off or is about something
     * else by now: nobody would say that it ended.
     */
    private void unwatch() {
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
        unwatched = true;
    }

    /** An alarm that calls, since an instant. */
    private record Calling(EventKey alarm, Instant since) {}

    /** Calls louder, or others too, where nobody came. */
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
                List<String> told = course.of(alarm.origin().priority()).subList(before, reached).stream()
                        .flatMap(s -> s.tells().stream())
                        .distinct()
                        .toList();
                later(tell(
                                about(
                                        fact(Kinds.ALARM_ESCALATED, now),
                                        alarm.origin().subject()),
                                alarm,
                                alarm.call().number(),
                                told)
                        .detail("alarm", alarm.id().text())
                        .detail("step", String.valueOf(reached)));
            }
        }
        calling = still;
        settle();
    }

    @Override
    public void close() {
        if (events != null) {
            events.close();
        }
        synchronized (waiting) {
            closed = true;
            waiting.notifyAll();
        }
        try {
            // One that was never begun has ended.
            thread.join(5_000);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
