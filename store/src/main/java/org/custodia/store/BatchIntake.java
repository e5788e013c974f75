package org.custodia.store;

import java.sql.Connection;
import java.sql.SQLException;
import java.time.Clock;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.PriorityBlockingQueue;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicLong;
import java.util.concurrent.atomic.AtomicReference;
import org.custodia.core.event.Coverage;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.NumberRanges;
import org.custodia.core.event.Translation;
import org.custodia.core.mishap.Threads;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.Permission;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.SystemId;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Writes on one thread, in batches, and publishes after the commit. How much may wait to be written is bounded by its size,
 * not by its number. What cannot be stored for a reason of its own is kept unread and costs nothing else; where nothing can
 * be stored, everybody is told and nothing of a feed overtakes what was lost of it.
 */
public final class BatchIntake implements EventIntake, AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(BatchIntake.class);
    /** More than a few thousand are no quicker, and somebody may want to write something else. */
    private static final int BATCH = 2_000;

    private static final Duration LOOK_AFTER = Duration.ofSeconds(3);
    /** Kilobytes that wait to be written, as they take room in memory. */
    private static final int WAITING = 24 * 1024;
    /** What an event takes in memory beside its text, in bytes. */
    private static final int EVENT_WEIGHT = 900;
    /** Facts of Custodia's own that wait to be written. */
    private static final int OWN_WAITING = 20_000;

    private final Database database;
    private final SqlEventLog log;
    private final Clock clock;
    /** What is to be written: urgent jobs first, otherwise in the order in which they were handed in. */
    private final BlockingQueue<Job> jobs = new PriorityBlockingQueue<>(
            64, Comparator.comparing((Job j) -> !j.urgent).thenComparingLong(j -> j.number));

    private final AtomicLong jobNumbers = new AtomicLong();
    private final Semaphore room = new Semaphore(WAITING, true);
    private final Semaphore ownRoom = new Semaphore(OWN_WAITING);
    private final List<Listener> listeners = new CopyOnWriteArrayList<>();
    private final AtomicReference<Saying> trouble = new AtomicReference<>();
    private final Duration lookAfter;
    private final Thread thread;
    private volatile boolean closed;
    /** Of the connection that writes; made anew with it. */
    private IntakeTransaction transaction;
    /** The position up to which everything was published. */
    private long published;
    /** Whether something may have been stored of which that is not known. */
    private boolean unsure;

    public BatchIntake(Database database, SqlEventLog log, Clock clock) {
        this(database, log, clock, LOOK_AFTER);
    }

    /**
     * @param lookAfter how long nothing comes before it is looked whether something stands in the way
     */
    BatchIntake(Database database, SqlEventLog log, Clock clock, Duration lookAfter) {
        this.database = database;
        this.log = log;
        this.clock = clock;
        this.lookAfter = lookAfter;
        this.published = log.newestPosition();
        this.thread = Threads.daemon("event intake", this::run);
        thread.start();
    }

    /** Something to be written; fails or succeeds with the transaction it is part of. */
    private abstract static class Job {
        Optional<Run> run = Optional.empty();
        /** True for what operators and Custodia itself did, which is written before queued deliveries. */
        boolean urgent;
        /** Place in the order of handing in. */
        long number;

        int size() {
            return 1;
        }

        abstract void write(IntakeTransaction transaction) throws SQLException;

        abstract void committed();

        abstract void failed(EventLogException why);

        /** What is to be stored one by one where it cannot be stored together; empty if it is one thing. */
        List<Job> parts() {
            return List.of();
        }

        /** What to do with the one thing that cannot be stored; nothing if its sender is told. */
        Optional<Unread> unreadInstead() {
            return Optional.empty();
        }
    }

    /** A job with an answer. */
    private abstract static class Asked<T> extends Job {
        final CompletableFuture<T> answer = new CompletableFuture<>();
        T value;

        @Override
        void committed() {
            answer.complete(value);
        }

        @Override
        void failed(EventLogException why) {
            answer.completeExceptionally(why);
        }
    }

    /** One feed. */
    private final class Run implements Feed {
        private final SystemId system;
        private volatile EventLogException broken;

        Run(SystemId system) {
            this.system = system;
        }

        @Override
        public CompletableFuture<Void> accept(Batch batch) {
            Delivery job = new Delivery(system, batch);
            job.run = Optional.of(this);
            if (batch.events().isEmpty() && batch.unread().isEmpty()) {
                job.answer.complete(null);
                return job.answer;
            }
            int weight = Math.min(weight(batch), WAITING);
            if (!take(weight)) {
                job.failed(new EventLogException(Saying.of(closed ? "store.closed" : "store.interrupted"), null));
                return job.answer;
            }
            job.answer.whenComplete((v, e) -> room.release(weight));
            put(job);
            return job.answer;
        }
    }

    private static int weight(Batch batch) {
        long bytes = 0;
        for (Event event : batch.events()) {
            bytes += EVENT_WEIGHT + 3L * event.raw().length();
        }
        for (Unread unread : batch.unread()) {
            bytes += EVENT_WEIGHT + 2L * unread.raw().length();
        }
        return (int) Math.min(Integer.MAX_VALUE, 1 + bytes / 1024);
    }

    /** Waits for room; false if the intake is closed before there is any. */
    private boolean take(int weight) {
        boolean interrupted = false;
        try {
            while (!closed) {
                try {
                    if (room.tryAcquire(weight, 200, TimeUnit.MILLISECONDS)) {
                        return true;
                    }
                } catch (InterruptedException e) {
                    // Whoever is interrupted here is told through the answer, and by the flag.
                    interrupted = true;
                    return false;
                }
            }
            return false;
        } finally {
            if (interrupted) {
                Thread.currentThread().interrupt();
            }
        }
    }

    private static final class Delivery extends Asked<Void> {
        private final SystemId system;
        private final Batch batch;

        Delivery(SystemId system, Batch batch) {
            this.system = system;
            this.batch = batch;
        }

        @Override
        int size() {
            return batch.events().size() + batch.unread().size();
        }

        @Override
        void write(IntakeTransaction transaction) throws SQLException {
            transaction.deliver(system, batch);
        }

        @Override
        List<Job> parts() {
            List<Job> parts = new ArrayList<>();
            if (size() > 1) {
                batch.events()
                        .forEach(e ->
                                parts.add(new Delivery(system, new Batch(List.of(e), List.of(), batch.backlog()))));
                batch.unread()
                        .forEach(u ->
                                parts.add(new Delivery(system, new Batch(List.of(), List.of(u), batch.backlog()))));
            }
            return parts;
        }

        @Override
        Optional<Unread> unreadInstead() {
            return batch.events().stream()
                    .findFirst()
                    .map(e -> new Unread(
                            system, Optional.of(e.key()), e.received(), e.raw(), Saying.of("unread.not-storable")));
        }
    }

    /** What stops events from being stored just now; nothing while all is well. */
    public Optional<Saying> trouble() {
        return Optional.ofNullable(trouble.get());
    }

    @Override
    public Feed feed(SystemId system) {
        return new Run(system);
    }

    /** What is read of the log's own books, on the connection that writes them. */
    @FunctionalInterface
    private interface Look<T> {
        T at(IntakeTransaction books) throws SQLException;
    }

    private <T> T look(Look<T> look) {
        try (Database.Turn turn = database.turn()) {
            try {
                return look.at(transaction());
            } catch (SQLException e) {
                database.failed(e);
                throw new EventLogException(database.words().notRead(e), e);
            } catch (LogGoneException e) {
                throw new EventLogException(e.saying(), e);
            }
        }
    }

    /** The work on the connection that writes, which may be another than before. */
    private IntakeTransaction transaction() throws SQLException {
        Connection connection = database.writer();
        if (transaction == null || !transaction.on(connection)) {
            transaction = new IntakeTransaction(connection, database.dialect(), log, database.payloads());
        }
        return transaction;
    }

    @Override
    public Coverage coverage(SystemId system, long epoch) {
        return look(books -> {
            LedgerRows ledgers = books.ledgers();
            long logsEpoch = ledgers.logsEpoch(system, epoch);
            return ledgers.of(system, logsEpoch).coverage(epoch, logsEpoch);
        });
    }

    @Override
    public Optional<Long> newestEpoch(SystemId system) {
        return look(books -> books.ledgers().newestEpoch(system));
    }

    @Override
    public CompletableFuture<List<NumberRanges.Range>> missing(
            SystemId system, long epoch, NumberRanges.Range numbers, String reason) {
        return ask(new Asked<List<NumberRanges.Range>>() {
            @Override
            void write(IntakeTransaction t) throws SQLException {
                value = t.missing(system, epoch, numbers, reason, clock.instant());
            }
        });
    }

    @Override
    public CompletableFuture<Void> countsAgainFrom(SystemId system, long epoch, long lastSeq) {
        return ask(new Asked<Void>() {
            @Override
            void write(IntakeTransaction t) throws SQLException {
                t.countsAgain(system, epoch, lastSeq, clock.instant());
            }
        });
    }

    @Override
    public CompletableFuture<Event> record(Event.Builder event) {
        return ask(urgent(new OwnEvent(event)));
    }

    @Override
    public CompletableFuture<Event> recordInOrder(Event.Builder event) {
        return ask(new OwnEvent(event));
    }

    private static final class OwnEvent extends Asked<Event> {
        private final Event.Builder event;

        OwnEvent(Event.Builder event) {
            this.event = event;
        }

        @Override
        void write(IntakeTransaction t) throws SQLException {
            value = t.own(event);
        }
    }

    private static <T> Asked<T> urgent(Asked<T> job) {
        job.urgent = true;
        return job;
    }

    /**
     * Changes registers and stores the events recording that, in one transaction. Waits for the commit.
     *
     * @param edit run on the intake's thread, again where the first attempt was rolled back
     * @throws EventLogException if neither could be stored; also what the edit itself throws
     */
    void commit(Database.Work edit, List<Event.Builder> facts) {
        if (Thread.currentThread() == thread) {
            throw new IllegalStateException("The intake cannot wait for itself.");
        }
        try {
            ask(urgent(new Asked<Void>() {
                        @Override
                        void write(IntakeTransaction t) throws SQLException {
                            t.edit(edit);
                            for (Event.Builder fact : facts) {
                                t.own(fact);
                            }
                        }
                    }))
                    .join();
        } catch (CompletionException e) {
            if (e.getCause() instanceof EventLogException refused) {
                throw refused;
            }
            throw e;
        }
    }

    @Override
    public Translation translation(SystemId system) {
        return look(books -> books.translations().of(system));
    }

    @Override
    public CompletableFuture<Translation> translate(
            SystemId system, long basedOn, List<Translation.Rule> rules, Actor operator) {
        operator.requireEverywhere(Permission.SET_UP);
        return ask(urgent(new Asked<Translation>() {
            @Override
            void write(IntakeTransaction t) throws SQLException {
                value = t.translate(system, basedOn, rules, operator.operator(), clock.instant());
            }
        }));
    }

    @Override
    public CompletableFuture<Void> keepUnread(Unread unread) {
        return ask(new Asked<Void>() {
            @Override
            void write(IntakeTransaction t) throws SQLException {
                t.keep(unread);
            }
        });
    }

    private <T> CompletableFuture<T> ask(Asked<T> job) {
        if (!ownRoom.tryAcquire()) {
            job.failed(new EventLogException(Saying.of("store.too-much"), null));
            return job.answer;
        }
        job.answer.whenComplete((v, e) -> ownRoom.release());
        put(job);
        return job.answer;
    }

    private void put(Job job) {
        job.number = jobNumbers.incrementAndGet();
        jobs.add(job);
        if (closed) {
            jobs.removeIf(j -> {
                j.failed(new EventLogException(Saying.of("store.closed"), null));
                return true;
            });
        }
    }

    @Override
    public Subscription subscribe(Listener listener) {
        listeners.add(listener);
        return () -> listeners.remove(listener);
    }

    private void run() {
        List<Job> batch = new ArrayList<>();
        while (true) {
            try {
                Job first = jobs.poll(lookAfter.toMillis(), TimeUnit.MILLISECONDS);
                if (first == null) {
                    if (closed) {
                        return;
                    }
                    look();
                    continue;
                }
                batch.add(first);
                int size = first.size();
                while (size < BATCH && jobs.peek() != null) {
                    Job next = jobs.poll();
                    batch.add(next);
                    size += next.size();
                }
            } catch (InterruptedException e) {
                if (closed && jobs.isEmpty()) {
                    return;
                }
                continue;
            }
            try {
                store(batch);
            } catch (RuntimeException | Error e) {
                // Nothing may end this thread while there is something to store.
                stumbled(batch, e);
            }
            batch.clear();
            if (closed && jobs.isEmpty()) {
                return;
            }
        }
    }

    /** While nothing comes: whether the log is still there, and whether what stood in the way still does. */
    private void look() {
        List<Event> before = List.of();
        try {
            try (Database.Turn turn = database.turn()) {
                database.stillThere();
                if (trouble.get() != null || database.mayGoUnnoticed()) {
                    database.tryWriting();
                }
                if (unsure) {
                    database.writer();
                    before = unpublished();
                    unsure = false;
                }
            }
            publish(before);
            if (trouble.getAndSet(null) != null) {
                LOG.warn("Events can be stored again in {}.", database.words().where());
            }
        } catch (LogGoneException e) {
            say(e.saying(), e);
        } catch (DataDirectoryException e) {
            if (trouble.get() == null) {
                say(e.saying(), e);
            }
        } catch (SQLException | RuntimeException | Error e) {
            LOG.debug("Still nothing can be stored", e);
        }
    }

    private void stumbled(List<Job> batch, Throwable e) {
        EventLogException failure = new EventLogException(database.words().notStored(e), e);
        say(failure.saying(), e);
        batch.forEach(j -> fail(j, failure));
        Threads.stumbled(e);
    }

    /** Writes what of a batch can be written: all of it together, or if one thing stands in the way, all but that. */
    private void store(List<Job> batch) {
        List<Job> wanted = new ArrayList<>();
        for (Job job : batch) {
            EventLogException broken = job.run.map(r -> r.broken).orElse(null);
            if (broken != null) {
                job.failed(broken);
            } else {
                wanted.add(job);
            }
        }
        if (wanted.isEmpty()) {
            return;
        }
        Optional<Throwable> problem = attempt(wanted);
        if (problem.isEmpty()) {
            wanted.forEach(Job::committed);
        } else if (database.words().ofTheSurroundings(problem.get())) {
            giveUp(wanted, problem.get());
        } else {
            wanted.forEach(this::storeAlone);
        }
    }

    private void storeAlone(Job job) {
        List<Job> parts = job.parts();
        Optional<Throwable> problem = attempt(List.of(job));
        if (problem.isEmpty()) {
            job.committed();
            return;
        }
        if (database.words().ofTheSurroundings(problem.get())) {
            giveUp(List.of(job), problem.get());
            return;
        }
        if (parts.isEmpty()) {
            Optional<Unread> instead = job.unreadInstead();
            LOG.debug("One thing could not be stored", problem.get());
            if (instead.isPresent() && attempt(List.of(keeping(instead.get()))).isEmpty()) {
                job.committed();
            } else {
                fail(job, refusal(problem.get()));
            }
            return;
        }
        for (Job part : parts) {
            Optional<Throwable> failed = attempt(List.of(part));
            if (failed.isPresent() && !database.words().ofTheSurroundings(failed.get())) {
                LOG.debug("One event could not be stored", failed.get());
                failed = part.unreadInstead()
                        .map(u -> attempt(List.of(keeping(u))))
                        .orElse(failed);
            }
            if (failed.isPresent()) {
                giveUp(List.of(job), failed.get());
                return;
            }
        }
        job.committed();
    }

    private EventLogException refusal(Throwable problem) {
        return problem instanceof EventLogException refused
                ? refused
                : new EventLogException(database.words().notStored(problem), problem);
    }

    private static Job keeping(Unread unread) {
        return new Asked<Void>() {
            @Override
            void write(IntakeTransaction t) throws SQLException {
                t.keep(unread);
            }
        };
    }

    /** Writes jobs in one transaction and publishes what is new; what stood in the way, if anything did. */
    private Optional<Throwable> attempt(List<Job> wanted) {
        List<Event> fresh;
        List<Event> before;
        try {
            try (Database.Turn turn = database.turn()) {
                database.stillThere();
                Connection connection = database.writer();
                IntakeTransaction books = transaction();
                before = unsure ? unpublished() : List.of();
                unsure = true;
                connection.setAutoCommit(false);
                try {
                    books.begin();
                    for (Job job : wanted) {
                        job.write(books);
                    }
                    fresh = books.finish();
                    connection.commit();
                } catch (SQLException | RuntimeException | Error e) {
                    undo(connection, e);
                    books.forget();
                    throw e;
                }
                unsure = false;
                connection.setAutoCommit(true);
            }
        } catch (SQLException | RuntimeException e) {
            Throwable cause = cause(e);
            if (cause instanceof SQLException sql) {
                database.failed(sql);
            }
            return Optional.of(cause);
        }
        if (trouble.getAndSet(null) != null) {
            LOG.warn("Events are being stored again in {}.", database.words().where());
        }
        publish(before);
        publish(fresh);
        return Optional.empty();
    }

    /**
     * What was stored without anybody knowing, since the connection was lost while the commit was on its way.
     *
     * @throws LogGoneException if the log has less in it than before
     */
    private List<Event> unpublished() {
        if (log.newestPosition() < published) {
            throw new LogGoneException(
                    Saying.of("store.fewer-events", database.words().where()));
        }
        List<Event> all = new ArrayList<>();
        List<Event> some;
        do {
            some = log.storedAfter(
                    all.isEmpty() ? published : all.get(all.size() - 1).position(), BATCH);
            all.addAll(some);
        } while (some.size() == BATCH);
        return all;
    }

    private static Throwable cause(Exception e) {
        return e.getCause() instanceof SQLException sql ? sql : e;
    }

    private void publish(List<Event> events) {
        if (events.isEmpty()) {
            return;
        }
        published = events.get(events.size() - 1).position();
        for (Listener listener : listeners) {
            try {
                listener.stored(events);
            } catch (RuntimeException | Error e) {
                LOG.debug("A listener of the log failed", e);
                Threads.stumbled(e);
            }
        }
    }

    private void giveUp(List<Job> batch, Throwable problem) {
        EventLogException failure = new EventLogException(database.words().notStored(problem), problem);
        say(failure.saying(), problem);
        batch.forEach(j -> fail(j, failure));
    }

    private void say(Saying said, Throwable problem) {
        if (!said.equals(trouble.getAndSet(said))) {
            LOG.error("{}", said);
            LOG.debug("What stood in the way", problem);
        }
    }

    private static void fail(Job job, EventLogException failure) {
        job.run.ifPresent(r -> r.broken = failure);
        job.failed(failure);
    }

    /** Goes back to before the batch. On some errors SQLite has done so already, which is as good. */
    private static void undo(Connection connection, Throwable cause) {
        try {
            connection.rollback();
        } catch (SQLException e) {
            cause.addSuppressed(e);
        }
        try {
            connection.setAutoCommit(true);
        } catch (SQLException e) {
            cause.addSuppressed(e);
        }
    }

    /** Stores what was handed in so far, then ends. */
    @Override
    public void close() {
        closed = true;
        thread.interrupt();
        try {
            thread.join(Duration.ofSeconds(20).toMillis());
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
