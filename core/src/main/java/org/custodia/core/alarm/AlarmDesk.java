package org.custodia.core.alarm;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
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
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
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
import org.custodia.core.event.LogFollower;
import org.custodia.core.event.Marks;
import org.custodia.core.mishap.Threads;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.Permission;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SystemId;

/**
 * Raises alarms by rules, and takes what operators do with them. Everything is a fact in the log before it counts.
 *
 * <p>What is stored is looked at on a thread of its own; what does not fit there while it waits is read from the log again. What
 * was stored and not looked at when the process ended is looked at when it begins again, by {@link Marks}; nothing is raised
 * twice by one event. What happened before the rules were switched on raises nothing.
 */
public final class AlarmDesk implements AutoCloseable {
    /** Characters of a note or a reason. */
    public static final int LONGEST_TEXT = 2_000;
    /** The detail of a fact that says who is to be told of it: ids of receivers, with blanks between. */
    public static final String TELL = "tell";
    /**
     * The detail of a fact that says what events of systems it is about, since systems that keep account of alarms are told:
     * their keys, with slashes between, which no system has in its name.
     */
    public static final String EVENTS = "events";
    /** Nothing is put aside for longer. */
    public static final Duration LONGEST_SHELVED = Duration.ofDays(31);

    private static final int PAGE = 1_000;
    private static final int MOST_WAITING = 20_000;
    /** So much of the log before what was looked at last is gone through again at the beginning. */
    private static final int AGAIN = 5_000;

    private static final Set<EventKind> THERE = Set.of(Kinds.SEEN_THERE, Kinds.FINISHED_THERE);
    private static final int LONGEST_NAME = 200;
    private static final String MARK = "alarms";
    private static final Duration MARK_EVERY = Duration.ofSeconds(5);
    private static final int MOST_WRITING = 500;
    private static final Duration TAKEN_WITHIN = Duration.ofSeconds(5);
    /** More orders than this a rule gives nobody; it would be going in a circle. */
    static final int MOST_ORDERS_A_MINUTE = 30;

    private static final Duration OF_LATE = Duration.ofDays(90);
    private static final int MOST_SIGNED_IN = 2_000;
    private static final Duration TICK = Duration.ofSeconds(1);

    private final AlarmBook book = new AlarmBook();
    private final EventLog log;
    private final EventIntake intake;
    private final Marks marks;
    private final Known known;
    private final Doors doors;
    private final Clock clock;
    private final List<Consumer<Alarm>> listeners = new CopyOnWriteArrayList<>();
    private final LogFollower facts;
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
    /** What is to be done about alarms. */
    private volatile List<Procedure> procedures = List.of();

    /** Rules that are to be watched instead. */
    private List<Watched> next;

    /** What has been found and is being written, and what it is about. Used by the thread of the alarms alone. */
    private final List<Writing> writing = new ArrayList<>();

    private final Set<String> topics = new HashSet<>();
    private Instant markedAt = Instant.EPOCH;

    private long marked;

    private boolean closed;
    /** The position up to which everything was looked at. */
    private long looked;
    /** The position up to which everything was told. */
    private long toldUpTo;

    /**
     * A rule that is watched.
     *
     * @param since what happened before raises nothing; nothing for one that is there from the beginning
     */
    public record Watched(Rule rule, Optional<Instant> since) {}

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
    public AlarmDesk(EventLog log, EventIntake intake, Marks marks, Known known, Doors doors, Clock clock) {
        this.log = log;
        this.intake = intake;
        this.marks = marks;
        this.known = known;
        this.doors = doors;
        this.clock = clock;
        this.detector = new Detector(List.of(), known);
        long newest = log.newestPosition();
        past(newest).forEach(book::take);
        this.facts = LogFollower.from(newest, log, intake, this::told);
        // What is counted may have begun before.
        long mark = marks.reached(MARK);
        this.marked = mark == 0 ? newest : Math.min(mark, newest);
        this.looked = Math.max(0, marked - AGAIN);
        this.toldUpTo = looked;
        this.thread = Threads.daemon("alarms", this::run);
    }

    /**
     * Watches these rules from now on, instead of others. What was stored before is looked at by those of before. Waits until
     * they are watched, but not for long.
     *
     * @throws EventLogException if the log cannot be read
     */
    public void watch(Collection<Watched> rules) {
        List<Watched> all = List.copyOf(rules);
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

    private void awaitTaken(List<Watched> rules) {
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

    private void become(List<Watched> rules, Instant on) {
        Detector fresh = new Detector(rules.stream().map(Watched::rule).toList(), known);
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
    private void change(List<Watched> rules) {
        Instant on = switchedOn(rules);
        long from;
        synchronized (waiting) {
            if (behind || !waiting.isEmpty()) {
                // The rules of before have not looked at all that is theirs.
                return;
            }
            looked = toldUpTo;
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

    /** The facts up to a position; those that are stored meanwhile are told by themselves. */
    private List<Event> past(long newest) {
        List<Event> all = new ArrayList<>();
        EventQuery query = EventQuery.all()
                .where(Filter.is(EventField.SYSTEM, SystemId.CUSTODIA))
                .kinds(AlarmBook.FACTS)
                .oldest(PAGE);
        List<Event> page = log.find(query);
        while (!page.isEmpty()) {
            all.addAll(page);
            Event last = page.get(page.size() - 1);
            page = log.find(query.after(last.time(), last.key()));
        }
        all.removeIf(e -> e.position() > newest);
        all.sort(Comparator.comparingLong(Event::position));
        return all;
    }

    /** Since when rules are watched; written down where they were not so far. */
    private Instant switchedOn(Collection<Watched> rules) {
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

    private static Event.Builder fact(EventKind kind, Instant at) {
        return Event.of(new EventKey(SystemId.CUSTODIA, 1, 0), kind, at);
    }

    private void told(List<Event> some) {
        for (Event event : some) {
            book.take(event).ifPresent(a -> listeners.forEach(l -> l.accept(a)));
        }
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
                List<Watched> other;
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
            }
            if (some == null) {
                return;
            }
            try {
                for (Event event : some) {
                    lookAt(event);
                }
                detector.tick(clock.instant()).forEach(this::found);
                settle();
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
            if (done && left(alarm).isEmpty()) {
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
                        event.detail("by").map(AlarmDesk::bounded).orElse(""))
                .detail("system", event.key().system().value())
                .detail("said-by", event.key().text());
    }

    /** Words from outside are as long as they are. */
    private static String bounded(String words) {
        return words.length() > LONGEST_NAME ? words.substring(0, LONGEST_NAME) : words;
    }

    private void found(Detector.Finding finding) {
        if (finding instanceof Detector.Raised raised) {
            raise(raised);
        } else if (finding instanceof Detector.Ended ended) {
            end(ended);
        }
    }

    private void raise(Detector.Raised r) {
        String rule = r.rule().id();
        settle(rule, r.subject());
        if (r.at().isBefore(since.getOrDefault(rule, Instant.MAX))
                || book.knows(rule, r.cause().key())) {
            return;
        }
        Optional<Alarm> open = book.openOf(rule, r.subject());
        Event.Builder fact;
        boolean begins = open.isEmpty() || open.get().condition() == Alarm.Condition.ENDED;
        if (open.isPresent()) {
            fact = fact(Kinds.ALARM_AGAIN, clock.instant())
                    .detail("alarm", open.get().id().text());
            if (begins) {
                // Whoever has not been told of it so far, as when the rule was changed meanwhile.
                tell(fact, open.get(), r.rule().then().told(Rule.At.START));
            }
            if (begins) {
                // Whoever has not been told of it so far, as when the rule was changed meanwhile.
                tell(fact, open.get(), r.rule().then().told(Rule.At.START));
            }
        } else {
            boolean lasts = !r.rule().endedBy().isEmpty();
            fact = fact(Kinds.ALARM_RAISED, clock.instant())
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
        later(rule, r.subject(), fact, () -> {
            if (begins) {
                order(r.rule(), Rule.At.START, r.subject());
            }
        });
    }

    /** A fact that is being written, and what is done once it is. */
    private record Writing(CompletableFuture<Event> stored, Runnable then) {}

    /** Writes a fact together with others; what is about the same waits for it. */
    private void later(String rule, Subject subject, Event.Builder fact, Runnable then) {
        topics.add(rule + " " + subject);
        writing.add(new Writing(intake.record(fact), then));
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
            if (stored(one.stored())) {
                one.then().run();
            }
        }
    }

    private void end(Detector.Ended e) {
        settle(e.rule().id(), e.subject());
        Optional<Alarm> open = book.openOf(e.rule().id(), e.subject())
                .filter(a -> a.condition() == Alarm.Condition.ON)
                // What ended before it began is of an earlier time.
                .filter(a -> !e.by().time().isBefore(a.latest()));
        open.ifPresent(a -> later(
                e.rule().id(),
                e.subject(),
                tell(
                                about(fact(Kinds.ALARM_ENDED, clock.instant()), e.subject()),
                                a,
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

    /** Whoever is to be told stands in the fact itself, so that it follows from the log and from nothing else. */
    private static Event.Builder tell(Event.Builder fact, List<String> receivers) {
        return receivers.isEmpty() ? fact : fact.detail(TELL, String.join(" ", receivers));
    }

    /** The same, about an alarm that is there already. */
    private static Event.Builder tell(Event.Builder fact, Alarm alarm, List<String> receivers) {
        return receivers.isEmpty()
                ? fact
                : tell(fact, receivers).detail("raised", alarm.origin().raised().toString());
    }

    private static Event.Builder about(Event.Builder fact, Subject subject) {
        subject.door().ifPresent(fact::door);
        return fact;
    }

    /** Waits until it is stored and told, so that the next thing is joined to it. */
    private void write(Event.Builder fact) {
        stored(intake.record(fact));
    }

    private static boolean stored(CompletableFuture<Event> fact) {
        try {
            fact.join();
            return true;
        } catch (CompletionException e) {
            if (!(e.getCause() instanceof EventLogException)) {
                throw e;
            }
            // The intake says that nothing can be stored. It is found again at the next beginning.
            return false;
        }
    }

    /** Lets those come back whose time of being shelved is over. */
    private void comeBack() {
        Instant now = clock.instant();
        for (Alarm alarm : book.open()) {
            if (alarm.shelved().filter(s -> !s.until().isAfter(now)).isPresent()) {
                write(about(fact(Kinds.ALARM_BACK, now), alarm.origin().subject())
                        .detail("alarm", alarm.id().text()));
            }
        }
    }

    /** Calls louder, or others too, where nobody came. */
    private void escalate() {
        Instant now = clock.instant();
        for (Alarm alarm : book.open()) {
            Escalation course = escalation;
            int reached = course.reached(alarm, now);
            int before = alarm.call().steps();
            if (reached > before) {
                List<String> told = course.of(alarm.origin().priority()).subList(before, reached).stream()
                        .flatMap(s -> s.tells().stream())
                        .distinct()
                        .toList();
                write(tell(
                                about(
                                        fact(Kinds.ALARM_ESCALATED, now),
                                        alarm.origin().subject()),
                                alarm,
                                told)
                        .detail("alarm", alarm.id().text())
                        .detail("step", String.valueOf(reached)));
            }
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
        return escalation;
    }

    /** After how long it calls louder from now on. */
    public void escalation(Escalation other) {
        escalation = other;
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
     * Those that were raised in a period where the operator handles alarms, as they stand by now, the newest first.
     *
     * @throws EventLogException if the log cannot be read
     */
    public List<Alarm> raised(Instant from, Instant to, Actor actor) {
        return new AlarmHistory(log)
                .raised(from, to, clock.instant(), new Cancellation()).stream()
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

    /** Whether an operator may see an alarm. */
    public boolean sees(Alarm alarm, Actor actor) {
        return site(alarm)
                .map(s -> actor.mayLook(Permission.HANDLE_ALARMS, s))
                .orElseGet(() -> actor.mayLookSomewhere(Permission.HANDLE_ALARMS));
    }

    private Optional<SiteId> site(Alarm alarm) {
        return alarm.origin().subject().site(known.sites());
    }

    private void permit(Alarm alarm, Actor actor) {
        Optional<SiteId> site = site(alarm);
        if (site.isPresent()) {
            actor.require(Permission.HANDLE_ALARMS, site.get());
        } else {
            actor.requireEverywhere(Permission.HANDLE_ALARMS);
        }
    }

    private Alarm alarm(EventKey id) {
        return book.alarm(id).filter(Alarm::open).orElseThrow(() -> new AlarmException(Saying.of("alarm.not-open")));
    }

    /**
     * Keeps that an operator has seen alarms. Those that somebody has seen already are passed over.
     *
     * @return completes when all of it is stored
     * @throws AlarmException if one is not open any more
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not handle one of them
     */
    public CompletableFuture<Void> acknowledge(Collection<EventKey> ids, Actor actor) {
        List<Alarm> all = ids.stream().map(this::alarm).toList();
        all.forEach(a -> permit(a, actor));
        Instant now = clock.instant();
        Set<CompletableFuture<Event>> answers = new HashSet<>();
        for (Alarm alarm : all) {
            if (alarm.state(now) == Alarm.State.NEW) {
                answers.add(act(Kinds.ALARM_ACKNOWLEDGED, alarm, actor, b -> events(b, alarm)));
            }
        }
        return CompletableFuture.allOf(answers.toArray(CompletableFuture[]::new));
    }

    /** What it was found by, where that is of a system outside. */
    private void events(Event.Builder fact, Alarm alarm) {
        String all = book.causes(alarm.id()).stream()
                .filter(c -> !c.system().equals(SystemId.CUSTODIA))
                .map(EventKey::text)
                .collect(Collectors.joining("/"));
        if (!all.isEmpty()) {
            fact.detail(EVENTS, all);
        }
    }

    private CompletableFuture<Event> act(EventKind kind, Alarm alarm, Actor actor, Consumer<Event.Builder> more) {
        Event.Builder fact = about(fact(kind, clock.instant()), alarm.origin().subject())
                .operator(actor.operator())
                .detail("operator-name", actor.name())
                .detail("desk", actor.desk())
                .detail("alarm", alarm.id().text());
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
        return act(Kinds.ALARM_TAKEN, alarm, actor, b -> b.detail("owner", operator)
                .detail("owner-name", name));
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
                Kinds.ALARM_SHELVED, alarm, actor, b -> b.reason(reason.strip()).detail("until", until.toString()));
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
     * @throws AlarmException also if its procedure has no such step
     */
    public CompletableFuture<Event> tick(EventKey id, String step, boolean done, Actor actor) {
        Alarm alarm = alarm(id);
        permit(alarm, actor);
        Procedure procedure = procedure(alarm)
                .filter(p -> p.steps().stream().anyMatch(s -> s.text().equals(step)))
                .orElseThrow(() -> new AlarmException(Saying.of("alarm.no-such-step")));
        return act(Kinds.ALARM_TICKED, alarm, actor, b -> {
            b.detail("procedure", procedure.id())
                    .detail("procedure-version", String.valueOf(procedure.version()))
                    .detail("step", step);
            if (!done) {
                b.detail("done", "no");
            }
        });
    }

    /**
     * Is done with one; otherwise as {@link #take}.
     *
     * @param text what else is to be said, may be empty
     * @throws AlarmException also if steps are left that have to be done
     */
    public CompletableFuture<Event> finish(EventKey id, Outcome outcome, String text, Actor actor) {
        Alarm alarm = alarm(id);
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
                b -> events(b.detail("outcome", outcome.word()).detail("text", text.strip()), alarm));
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
        if (events != null) {
            events.close();
        }
        facts.close();
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
