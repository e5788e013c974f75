package org.custodia.core.message;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.TimeUnit;
import org.custodia.core.alarm.AlarmDesk;
import org.custodia.core.door.CommandAnswer;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.LogFollower;
import org.custodia.core.event.Snapshots;
import org.custodia.core.mishap.Threads;
import org.custodia.core.saying.Saying;
import org.custodia.core.setup.Secrets;
import org.custodia.core.setup.SecretsException;
import org.custodia.core.site.SystemId;

/**
 * Sends the notifications that facts in the log ask for. Follows the log from its snapshot, puts a message for each
 * receiver into the {@link Outbox}, and tries each until it has arrived or is given up after {@link #GIVEN_UP_AFTER}.
 *
 * <p>There is one message for an alarm and a receiver, however often the alarm repeats or goes on to its next step, and one
 * more when its condition ends, where a rule says so. Where it calls once more after somebody had seen it, that is told again.
 *
 * <p>Receivers do not wait for each other. Where one takes nothing, all that waits for it waits for the next attempt, ever
 * longer. That an attempt is made is kept before it is: what was under way when the process ended is sent again, and says that
 * it may have arrived before.
 */
public final class Dispatch implements AutoCloseable {
    /** A message that waits for longer is late. */
    public static final Duration LATE_AFTER = Duration.ofMinutes(2);

    /** A message is tried no longer than this. */
    public static final Duration GIVEN_UP_AFTER = Duration.ofHours(24);

    /** What arrived is remembered for this long. */
    static final Duration REMEMBERED = Duration.ofDays(60);

    private static final Duration FIRST_WAIT = Duration.ofSeconds(5);
    private static final Duration LONGEST_WAIT = Duration.ofMinutes(10);
    private static final Duration PICTURE_WITHIN = Duration.ofSeconds(12);
    private static final Duration PICTURE_AGAIN = Duration.ofSeconds(2);
    /** More mails than this in ten minutes go together: nobody reads more (EEMUA 191 has as many for alarms). */
    static final int MANY = 10;

    private static final Duration MANY_WITHIN = Duration.ofMinutes(10);
    private static final int MOST_TOGETHER = 100;
    /** A mail server may take ten minutes to answer (RFC 5321, 4.5.3.2.6); others do not wait for it. */
    private static final int MOST_AT_ONCE = 24;

    private static final int BATCH = 20;
    private static final int MOST_REFUSED = 3;
    private static final int MOST_WAITING = 10_000;
    private static final int PAGE = 1_000;
    private static final String SNAPSHOT = "messages";
    private static final int SNAPSHOT_VERSION = 1;
    private static final Duration SNAPSHOT_EVERY = Duration.ofSeconds(5);
    private static final Duration TICK = Duration.ofSeconds(1);
    private static final Set<EventKind> TELLING =
            Set.of(Kinds.ALARM_RAISED, Kinds.ALARM_AGAIN, Kinds.ALARM_ENDED, Kinds.ALARM_ESCALATED);

    private final Outbox outbox;
    private final Directory directory;
    private final Secrets secrets;
    private final Composer composer;
    private final Passing passing;
    private final Sender sender;
    private final EventLog log;
    private final Snapshots snapshots;
    private final Clock clock;
    private final ExecutorService workers = Executors.newFixedThreadPool(MOST_AT_ONCE, Threads.factory("messages"));
    private final Thread thread;
    private final LogFollower facts;

    private final Deque<Outbox.Slip> fresh = new ArrayDeque<>();
    /** There was more than fits; the log has it. */
    private boolean behind;
    /** The position up to which everything was told. */
    private long told;
    /** The position up to which everything is in the outbox. */
    private long kept;

    private boolean woken;
    private volatile boolean closed;

    /** Position of the newest snapshot. */
    private long savedPosition;

    private Instant savedAt = Instant.EPOCH;
    private Instant forgotAt = Instant.EPOCH;
    private volatile Optional<Saying> trouble = Optional.empty();
    /** Receivers that something is being sent to. */
    private final Set<String> busy = ConcurrentHashMap.newKeySet();

    private final Map<String, Pause> paused = new ConcurrentHashMap<>();
    /** When mail went to each receiver of late; used by whoever is sending to it alone. */
    private final Map<String, Deque<Instant>> recent = new ConcurrentHashMap<>();

    /** Who there is to be told. */
    public interface Directory {
        Optional<Receiver> receiver(String id);

        Optional<MailServer> server();
    }

    /**
     * Everything up to the snapshot's position is in the outbox, which is all there is to it.
     *
     * @param at when that was
     */
    record State(Instant at) {}

    /** That nothing is tried before an instant, since so many attempts in a row came to nothing. */
    private record Pause(Instant until, int failures) {}

    /**
     * Begins to follow and to send.
     *
     * @throws EventLogException if the log cannot be read
     */
    public Dispatch(
            Outbox outbox,
            Directory directory,
            Secrets secrets,
            Composer composer,
            Passing passing,
            Sender sender,
            EventLog log,
            EventIntake intake,
            Snapshots snapshots,
            Clock clock) {
        this.outbox = outbox;
        this.directory = directory;
        this.secrets = secrets;
        this.composer = composer;
        this.passing = passing;
        this.sender = sender;
        this.log = log;
        this.snapshots = snapshots;
        this.clock = clock;
        long newest = log.newestPosition();
        long position = snapshots
                .load(SNAPSHOT, SNAPSHOT_VERSION, State.class)
                .map(Snapshots.Snapshot::position)
                // A log restored from a backup may end before the snapshot's position.
                .map(p -> Math.min(p, newest))
                .orElseGet(() -> {
                    // No recipient is notified of what was before there were any.
                    snapshots.save(SNAPSHOT, SNAPSHOT_VERSION, newest, new State(clock.instant()));
                    return newest;
                });
        this.savedPosition = position;
        this.told = position;
        this.kept = position;
        this.thread = Threads.daemon("messages out", this::run);
        this.facts = LogFollower.from(position, log, intake, this::stored);
        thread.start();
    }

    // ---- What is to be told

    private void stored(List<Event> some) {
        synchronized (fresh) {
            for (Event event : some) {
                told = event.position();
                if (!behind) {
                    addSlips(event);
                }
            }
            if (!fresh.isEmpty() || behind) {
                fresh.notifyAll();
            }
        }
    }

    private void addSlips(Event event) {
        try {
            List<Outbox.Slip> slips = slipsOrNone(event);
            behind = !slips.isEmpty() && fresh.size() >= MOST_WAITING;
            if (!behind) {
                fresh.addAll(slips);
            }
        } catch (EventLogException e) {
            // The recipients cannot be read at the moment; the event is read from the log again.
            behind = true;
        }
    }

    /**
     * A fact that cannot be read costs itself, and not those after it.
     *
     * @throws EventLogException if the recipients cannot be read
     */
    private List<Outbox.Slip> slipsOrNone(Event fact) {
        try {
            return all(fact);
        } catch (EventLogException e) {
            throw e;
        } catch (RuntimeException e) {
            Threads.stumbled(e);
            return List.of();
        }
    }

    private List<Outbox.Slip> all(Event fact) {
        List<Outbox.Slip> told = slips(fact);
        return told.isEmpty() ? passing.slips(fact) : told;
    }

    /** What a fact says is to be told; nothing for any other event. */
    private static List<Outbox.Slip> slips(Event fact) {
        Optional<String> tell = fact.detail(AlarmDesk.TELL);
        if (tell.isEmpty()
                || !TELLING.contains(fact.kind())
                || !fact.key().system().equals(SystemId.CUSTODIA)) {
            return List.of();
        }
        boolean raised = fact.kind().equals(Kinds.ALARM_RAISED);
        Optional<EventKey> alarm =
                raised ? Optional.of(fact.key()) : fact.detail("alarm").flatMap(EventKey::parse);
        Occasion occasion = fact.kind().equals(Kinds.ALARM_ENDED) ? Occasion.ENDED : Occasion.RAISED;
        Instant when =
                fact.detail("raised").filter(r -> !raised).map(Instant::parse).orElse(fact.time());
        int call = fact.detail(AlarmDesk.CALL)
                .filter(c -> c.matches("[0-9]{1,9}"))
                .map(Integer::parseInt)
                .orElse(1);
        List<Outbox.Slip> all = new ArrayList<>();
        alarm.ifPresent(a -> {
            for (String receiver : tell.get().split(" ")) {
                all.add(new Outbox.Slip(a, when, receiver, occasion, call));
            }
        });
        return all;
    }

    private void run() {
        while (!closed) {
            try {
                synchronized (fresh) {
                    if (fresh.isEmpty() && !behind && !woken && !closed) {
                        fresh.wait(TICK.toMillis());
                    }
                    woken = false;
                }
                keep();
                saveSnapshot();
                send();
                look();
            } catch (InterruptedException e) {
                return;
            } catch (EventLogException e) {
                // The intake says what is wrong with the log; all this is tried again.
                rest();
            } catch (RuntimeException e) {
                Threads.stumbled(e);
            }
        }
    }

    /** Waits before something is tried again that just went wrong. */
    private void rest() {
        synchronized (fresh) {
            if (!closed) {
                try {
                    fresh.wait(TICK.toMillis());
                } catch (InterruptedException e) {
                    Thread.currentThread().interrupt();
                }
            }
        }
    }

    /** Puts what is to be told into the outbox. */
    private void keep() {
        List<Outbox.Slip> some;
        long upTo;
        boolean more;
        synchronized (fresh) {
            some = List.copyOf(fresh);
            upTo = told;
            more = behind;
        }
        if (more) {
            keepFromLog();
            return;
        }
        put(some);
        synchronized (fresh) {
            // What came meanwhile stands behind these.
            some.forEach(s -> fresh.removeFirst());
            kept = upTo;
        }
    }

    private void keepFromLog() {
        long from;
        synchronized (fresh) {
            fresh.clear();
            behind = false;
            // What comes from here on is told again as well, which does no harm.
            from = kept;
        }
        try {
            List<Event> page = log.storedAfter(from, PAGE);
            while (!page.isEmpty()) {
                put(page.stream().flatMap(e -> slipsOrNone(e).stream()).toList());
                from = page.get(page.size() - 1).position();
                kept = from;
                page = log.storedAfter(from, PAGE);
            }
        } catch (RuntimeException e) {
            synchronized (fresh) {
                behind = true;
            }
            throw e;
        }
    }

    private void put(List<Outbox.Slip> slips) {
        List<Outbox.Slip> wanted = slips.stream()
                .filter(s -> s.receiver().startsWith(Outbox.SYSTEM)
                        || directory.receiver(s.receiver()).map(Receiver::on).orElse(true))
                .toList();
        if (!wanted.isEmpty()) {
            outbox.put(wanted, clock.instant());
        }
    }

    private void saveSnapshot() {
        Instant now = clock.instant();
        if (kept > savedPosition && !now.isBefore(savedAt.plus(SNAPSHOT_EVERY))) {
            savedAt = now;
            snapshots.save(SNAPSHOT, SNAPSHOT_VERSION, kept, new State(now));
            savedPosition = kept;
        }
    }

    // ---- Sending

    private void send() {
        Instant now = clock.instant();
        for (String receiver : outbox.receiversDue(now)) {
            Pause pause = paused.get(receiver);
            boolean waits = pause != null && !Outbox.due(pause.until(), now);
            if (!waits && !closed && busy.size() < MOST_AT_ONCE && busy.add(receiver)) {
                workers.execute(() -> sendTo(receiver));
            }
        }
    }

    private void sendTo(String id) {
        try {
            if (id.startsWith(Outbox.SYSTEM)) {
                pass(id);
                return;
            }
            Optional<Receiver> receiver = directory.receiver(id);
            if (receiver.filter(Receiver::on).isEmpty()) {
                Saying why = Saying.of(receiver.isEmpty() ? "message.receiver-gone" : "message.receiver-off");
                for (Outbox.Entry entry : outbox.due(id, clock.instant(), PAGE)) {
                    giveUp(entry, receiver, why);
                }
                return;
            }
            List<Outbox.Entry> due = outbox.due(id, clock.instant(), BATCH);
            if (many(receiver.get()) && due.size() > 1) {
                sendTogether(receiver.get());
            } else {
                sendEach(receiver.get(), due);
            }
        } catch (EventLogException e) {
            pause(id);
        } catch (RuntimeException e) {
            pause(id);
            Threads.stumbled(e);
        } finally {
            busy.remove(id);
            wake();
        }
    }

    /** Tells a system what was done about what it told. */
    private void pass(String id) {
        if (passing.away(id)) {
            // It is as good as never tried: once its link is back it is told at once.
            paused.put(id, new Pause(clock.instant().plus(FIRST_WAIT), 0));
            return;
        }
        for (Outbox.Entry entry : outbox.due(id, clock.instant(), BATCH)) {
            if (closed) {
                return;
            }
            if (passing.isPointless(id)) {
                outbox.remove(entry);
                continue;
            }
            outbox.begin(entry, clock.instant());
            CommandAnswer answer = passing.tell(entry);
            Instant now = clock.instant();
            Optional<Saying> why = Optional.of(answer.why());
            switch (answer.result()) {
                case DONE -> end(entry, new Outbox.Result(Outbox.State.SENT, false, now, Optional.empty()));
                case REFUSED -> end(entry, new Outbox.Result(Outbox.State.GIVEN_UP, entry.maybe(), now, why));
                default -> {
                    boolean late = isTooOld(entry.made(), now);
                    boolean maybe = entry.maybe() || answer.result() == CommandAnswer.Result.NOT_KNOWN;
                    Outbox.State state = late ? Outbox.State.GIVEN_UP : Outbox.State.WAITING;
                    end(entry, new Outbox.Result(state, maybe, now.plus(wait(entry.attempts() + 1)), why));
                    pause(id);
                    return;
                }
            }
            paused.remove(id);
        }
    }

    private void sendEach(Receiver to, List<Outbox.Entry> due) {
        int refused = 0;
        for (Outbox.Entry entry : due) {
            if (closed) {
                return;
            }
            Composer.Composed composed;
            try {
                composed = composer.of(entry, to.way());
            } catch (NotSentException e) {
                giveUp(entry, Optional.of(to), e.saying());
                continue;
            }
            Instant now = clock.instant();
            if (composed.pictureMissing() && now.isBefore(entry.made().plus(PICTURE_WITHIN))) {
                Instant next = now.plus(PICTURE_AGAIN);
                end(
                        entry,
                        new Outbox.Result(Outbox.State.WAITING, entry.maybe(), next, entry.said(), entry.remaining()));
                continue;
            }
            Optional<NotSentException> failure = attempt(remaining(to, entry), List.of(entry), composed);
            if (failure.isPresent()) {
                refused++;
                if (failure.get().why() != NotSentException.Why.REFUSED || refused >= MOST_REFUSED) {
                    pause(to.id());
                    return;
                }
            }
        }
    }

    /** The receiver with the addresses that an entry has not gone to yet. */
    private static Receiver remaining(Receiver to, Outbox.Entry entry) {
        if (to.way() instanceof Receiver.Mail mail && !entry.remaining().isEmpty()) {
            List<String> still =
                    mail.to().stream().filter(entry.remaining()::contains).toList();
            if (!still.isEmpty()) {
                return new Receiver(
                        to.id(), to.version(), to.name(), to.on(), new Receiver.Mail(still, mail.picture()));
            }
        }
        return to;
    }

    /** Sends many in one. */
    private void sendTogether(Receiver to) {
        List<Outbox.Entry> entries = new ArrayList<>();
        List<Composer.Composed> all = new ArrayList<>();
        // Nobody looks at a hundred pictures.
        Receiver.Way plain = new Receiver.Mail(((Receiver.Mail) to.way()).to(), false);
        for (Outbox.Entry entry : outbox.due(to.id(), clock.instant(), MOST_TOGETHER)) {
            if (!entry.remaining().isEmpty()) {
                // It went to some addresses already.
                continue;
            }
            try {
                all.add(composer.of(entry, plain));
                entries.add(entry);
            } catch (NotSentException e) {
                giveUp(entry, Optional.of(to), e.saying());
            }
        }
        if (!all.isEmpty() && attempt(to, entries, composer.together(all)).isPresent()) {
            pause(to.id());
        }
    }

    /** Makes one attempt, for one or several that go together; says why it failed. */
    private Optional<NotSentException> attempt(Receiver to, List<Outbox.Entry> entries, Composer.Composed composed) {
        entries.forEach(e -> outbox.begin(e, clock.instant()));
        try {
            Sender.MailDelivery delivery = deliver(to, composed);
            Instant now = clock.instant();
            for (Outbox.Entry entry : entries) {
                delivered(entry, to, delivery, now);
            }
            paused.remove(to.id());
            recent.computeIfAbsent(to.id(), r -> new ArrayDeque<>()).addLast(now);
            return Optional.empty();
        } catch (NotSentException e) {
            Instant now = clock.instant();
            for (Outbox.Entry entry : entries) {
                if (isTooOld(entry.made(), now)) {
                    giveUp(entry, Optional.of(to), e.saying());
                } else {
                    boolean maybe = entry.maybe() || e.why() == NotSentException.Why.NOT_KNOWN;
                    Instant next = now.plus(wait(entry.attempts() + 1));
                    Optional<Saying> why = Optional.of(e.saying());
                    end(entry, new Outbox.Result(Outbox.State.WAITING, maybe, next, why, entry.remaining()));
                }
            }
            return Optional.of(e);
        }
    }

    /** It went, though perhaps not to all addresses: to those that were not taken now it goes later. */
    private void delivered(Outbox.Entry entry, Receiver to, Sender.MailDelivery delivery, Instant now) {
        boolean toAll = delivery.notNow().isEmpty();
        boolean late = isTooOld(entry.made(), now);
        if (toAll || late) {
            Outbox.State state = toAll ? Outbox.State.SENT : Outbox.State.GIVEN_UP;
            end(
                    entry,
                    new Outbox.Result(state, false, now, delivery.remark()),
                    fact(toAll ? Kinds.ALARM_TOLD : Kinds.ALARM_NOT_TOLD, entry, Optional.of(to), delivery.remark()));
        } else {
            Instant next = now.plus(wait(entry.attempts() + 1));
            end(entry, new Outbox.Result(Outbox.State.WAITING, false, next, delivery.remark(), delivery.notNow()));
        }
    }

    /**
     * Stores what came of an attempt, with what records it. It was made, so this waits until it can be stored: a message that
     * has arrived is not to be sent again.
     */
    private void end(Outbox.Entry entry, Outbox.Result result, Event.Builder... facts) {
        while (true) {
            try {
                outbox.end(entry, result, clock.instant(), List.of(facts));
                return;
            } catch (EventLogException e) {
                if (closed) {
                    throw e;
                }
                rest();
            }
        }
    }

    private Sender.MailDelivery deliver(Receiver to, Composer.Composed composed) throws NotSentException {
        try {
            if (to.way() instanceof Receiver.Mail mail) {
                MailServer server = directory
                        .server()
                        .orElseThrow(() -> new NotSentException(
                                NotSentException.Why.NOBODY_TAKES_ANY, Saying.of("message.no-server")));
                return sender.mail(
                        mail, server, secrets.get(Keys.password(server)), composed.message(), composed.words());
            }
            String key = secrets.get(Keys.of(to.id()))
                    .orElseThrow(() ->
                            new NotSentException(NotSentException.Why.NOBODY_TAKES_ANY, Saying.of("message.no-key")));
            sender.web((Receiver.Web) to.way(), key, composed.message(), composed.words());
            return Sender.MailDelivery.TO_ALL;
        } catch (SecretsException e) {
            throw new NotSentException(NotSentException.Why.NOBODY_TAKES_ANY, e.saying());
        }
    }

    /**
     * Sends something to somebody who wants to see whether it arrives; waits for the answer.
     *
     * @return what is to be said though it went
     * @throws NotSentException if it did not go, or nobody knows
     */
    Optional<Saying> trial(Receiver to, String id) throws NotSentException {
        return deliver(to, composer.trial(id)).remark();
    }

    private boolean many(Receiver to) {
        Deque<Instant> of = recent.get(to.id());
        if (of == null || !(to.way() instanceof Receiver.Mail)) {
            return false;
        }
        Instant since = clock.instant().minus(MANY_WITHIN);
        while (!of.isEmpty() && of.peekFirst().isBefore(since)) {
            of.removeFirst();
        }
        return of.size() >= MANY;
    }

    private void pause(String receiver) {
        paused.compute(receiver, (r, before) -> {
            int failures = before == null ? 1 : before.failures() + 1;
            return new Pause(clock.instant().plus(wait(failures)), failures);
        });
    }

    /** How long it is waited after so many attempts: twice as long each time. */
    static Duration wait(int attempts) {
        Duration wait = FIRST_WAIT.multipliedBy(1L << Math.min(attempts - 1, 10));
        return wait.compareTo(LONGEST_WAIT) > 0 ? LONGEST_WAIT : wait;
    }

    private void giveUp(Outbox.Entry entry, Optional<Receiver> to, Saying why) {
        Instant now = clock.instant();
        end(
                entry,
                new Outbox.Result(Outbox.State.GIVEN_UP, entry.maybe(), now, Optional.of(why), entry.remaining()),
                fact(Kinds.ALARM_NOT_TOLD, entry, to, Optional.of(why)));
    }

    /**
     * Gives one up that somebody wants no more.
     *
     * @return whether it was; not while something is being sent to the same receiver
     */
    boolean drop(long number, Saying why) {
        Optional<String> receiver = outbox.entry(number).map(e -> e.slip().receiver());
        if (receiver.isEmpty() || !busy.add(receiver.get())) {
            return false;
        }
        try {
            // As it stands now that nobody else changes it.
            Optional<Outbox.Entry> entry = outbox.entry(number).filter(e -> e.state() == Outbox.State.WAITING);
            entry.ifPresent(e -> giveUp(e, directory.receiver(receiver.get()), why));
            return entry.isPresent();
        } finally {
            busy.remove(receiver.get());
            wake();
        }
    }

    private Event.Builder fact(EventKind kind, Outbox.Entry entry, Optional<Receiver> to, Optional<Saying> said) {
        Event.Builder fact = Event.of(new EventKey(SystemId.CUSTODIA, 1, 0), kind, clock.instant())
                .detail("alarm", entry.slip().alarm().text())
                .detail("receiver", entry.slip().receiver())
                .detail(
                        "receiver-name",
                        to.map(Receiver::name).orElse(entry.slip().receiver()))
                .detail("occasion", entry.slip().occasion().word())
                .detail("attempts", String.valueOf(entry.attempts() + 1));
        said.ifPresent(s -> fact.detail("said", s.text()));
        return fact;
    }

    /** Tries at once whatever waits for somebody, as when something about them was changed. */
    void hurry(String receiver) {
        paused.remove(receiver);
        outbox.hurry(receiver, clock.instant());
        wake();
    }

    /** Tries at once whatever waits for anybody. */
    void hurry() {
        outbox.fares().keySet().forEach(this::hurry);
    }

    /** Looks at once whether there is something to send. */
    void wake() {
        synchronized (fresh) {
            woken = true;
            fresh.notifyAll();
        }
    }

    // ---- What is to be said about it

    private void look() {
        Instant now = clock.instant();
        if (now.isAfter(forgotAt.plus(Duration.ofDays(1)))) {
            forgotAt = now;
            outbox.forget(now.minus(REMEMBERED));
        }
        Map<String, Outbox.Fares> late = new HashMap<>(outbox.fares());
        late.values().removeIf(f -> f.oldest().filter(o -> isLate(o, now)).isEmpty());
        if (late.isEmpty()) {
            trouble = Optional.empty();
            return;
        }
        Map.Entry<String, Outbox.Fares> worst = late.entrySet().stream()
                .min(Map.Entry.comparingByValue(
                        java.util.Comparator.comparing(f -> f.oldest().orElseThrow())))
                .orElseThrow();
        String name = directory.receiver(worst.getKey()).map(Receiver::name).orElse(worst.getKey());
        int waiting = late.values().stream().mapToInt(Outbox.Fares::waiting).sum();
        trouble = Optional.of(Saying.of(
                "message.late", waiting, name, worst.getValue().oldest().orElseThrow()));
    }

    /** Whether a message that was put into the outbox at an instant and still waits is late. */
    static boolean isLate(Instant made, Instant now) {
        return made.plus(LATE_AFTER).isBefore(now);
    }

    /** Whether a message that was put into the outbox at an instant is tried no more. */
    static boolean isTooOld(Instant made, Instant now) {
        return made.plus(GIVEN_UP_AFTER).isBefore(now);
    }

    /** That messages are late, and for whom; nothing while all is well. */
    public Optional<Saying> trouble() {
        return trouble;
    }

    @Override
    public void close() {
        facts.close();
        closed = true;
        wake();
        sender.close();
        workers.shutdown();
        try {
            thread.join(5_000);
            workers.awaitTermination(5, TimeUnit.SECONDS);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
