package org.custodia.store;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.Semaphore;
import java.util.concurrent.atomic.AtomicReference;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.SystemId;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Writes events in batches on one thread and publishes them after the commit. Redelivered events are ignored, a key that
 * comes again with other content is kept as a conflict, a hole in a system's numbers becomes an event.
 */
public final class BatchIntake implements EventIntake, AutoCloseable {
    /** Custodia's own name in the log. */
    public static final SystemId OWN = new SystemId("custodia");

    private static final Logger LOG = LoggerFactory.getLogger(BatchIntake.class);
    private static final int BATCH = 5_000;
    private static final int WAITING = 40_000;
    private static final int LONGEST_RAW = 64 * 1024;

    private final Database database;
    private final SqlEventLog log;
    private final BlockingQueue<Job> jobs = new LinkedBlockingQueue<>();
    private final Semaphore room = new Semaphore(WAITING, true);
    private final List<Listener> listeners = new CopyOnWriteArrayList<>();
    private final Map<SystemId, Progress> progress = new HashMap<>();
    private final AtomicReference<String> trouble = new AtomicReference<>();
    private final Thread thread;
    private long position;
    private volatile boolean closed;

    private record Job(
            List<Event> events,
            boolean backlog,
            CompletableFuture<Void> done,
            Event.Builder own,
            CompletableFuture<Event> recorded) {
        int size() {
            return own == null ? events.size() : 1;
        }
    }

    /** How far a system's numbers and times have come. */
    private record Progress(long epoch, long sequence, Instant time) {}

    public BatchIntake(Database database, SqlEventLog log) {
        this.database = database;
        this.log = log;
        this.position = log.newestPosition();
        this.thread = new Thread(this::run, "event intake");
        thread.start();
    }

    /** What stops events from being stored just now, in words; nothing while all is well. */
    public Optional<String> trouble() {
        return Optional.ofNullable(trouble.get());
    }

    @Override
    public CompletableFuture<Void> accept(List<Event> events, boolean backlog) {
        CompletableFuture<Void> done = new CompletableFuture<>();
        if (events.isEmpty()) {
            done.complete(null);
            return done;
        }
        int permits = Math.min(events.size(), WAITING);
        room.acquireUninterruptibly(permits);
        done.whenComplete((v, e) -> room.release(permits));
        put(new Job(List.copyOf(events), backlog, done, null, null));
        return done;
    }

    @Override
    public CompletableFuture<Event> record(Event.Builder event) {
        CompletableFuture<Event> recorded = new CompletableFuture<>();
        put(new Job(List.of(), false, new CompletableFuture<>(), event, recorded));
        return recorded;
    }

    private void put(Job job) {
        jobs.add(job);
        if (closed) {
            jobs.removeIf(j -> {
                fail(j, new EventLogException("The log is closed.", null));
                return true;
            });
        }
    }

    @Override
    public void keepUnread(SystemId system, Instant received, String raw, String why) {
        String kept = raw.length() > LONGEST_RAW ? raw.substring(0, LONGEST_RAW) : raw;
        try {
            synchronized (database.writer()) {
                try (PreparedStatement insert = database.writer()
                        .prepareStatement("INSERT INTO unread (system, received, raw, why) VALUES (?, ?, ?, ?)")) {
                    insert.setString(1, system.value());
                    insert.setLong(2, EventRows.micros(received));
                    insert.setString(3, kept);
                    insert.setString(4, why);
                    insert.executeUpdate();
                }
            }
        } catch (SQLException e) {
            throw new EventLogException(sentence(e), e);
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
                Job first = jobs.take();
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
            store(batch);
            batch.clear();
            if (closed && jobs.isEmpty()) {
                return;
            }
        }
    }

    private void store(List<Job> batch) {
        long before = position;
        Map<SystemId, Progress> progressBefore = new HashMap<>(progress);
        List<Event> stored = new ArrayList<>();
        Map<Job, Event> own = new HashMap<>();
        try {
            synchronized (database.writer()) {
                Connection connection = database.writer();
                connection.setAutoCommit(false);
                try {
                    write(connection, batch, stored, own);
                    connection.commit();
                } catch (SQLException | RuntimeException e) {
                    undo(connection, e);
                    throw e;
                }
                connection.setAutoCommit(true);
            }
        } catch (SQLException | RuntimeException e) {
            position = before;
            progress.clear();
            progress.putAll(progressBefore);
            String words =
                    e instanceof SQLException sql ? sentence(sql) : "Events could not be stored: " + e.getMessage();
            if (!words.equals(trouble.getAndSet(words))) {
                LOG.error(words, e);
            }
            EventLogException failure = new EventLogException(words, e);
            batch.forEach(j -> fail(j, failure));
            return;
        }
        trouble.set(null);
        List<Event> published = List.copyOf(stored);
        for (Listener listener : listeners) {
            try {
                listener.stored(published);
            } catch (RuntimeException e) {
                LOG.error("A listener of the log failed; the others go on.", e);
            }
        }
        for (Job job : batch) {
            job.done().complete(null);
            if (job.recorded() != null) {
                job.recorded().complete(own.get(job));
            }
        }
    }

    /** Goes back to before the batch. On some errors SQLite has done so already, which is as good. */
    private static void undo(Connection connection, Exception cause) {
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

    private static void fail(Job job, EventLogException failure) {
        job.done().completeExceptionally(failure);
        if (job.recorded() != null) {
            job.recorded().completeExceptionally(failure);
        }
    }

    private void write(Connection connection, List<Job> batch, List<Event> stored, Map<Job, Event> own)
            throws SQLException {
        List<Event> wanted = new ArrayList<>();
        try (PreparedStatement insert = connection.prepareStatement(EventRows.INSERT)) {
            for (Job job : batch) {
                if (job.own() != null) {
                    add(insert, withOwnKey(job.own()), wanted);
                    own.put(job, wanted.get(wanted.size() - 1));
                    continue;
                }
                for (Event event : job.events()) {
                    Progress last = progress(event.key().system());
                    gap(event, last).ifPresent(gap -> addUnchecked(insert, gap, wanted));
                    boolean late = !job.backlog()
                            && last.time() != null
                            && event.time().isBefore(last.time());
                    Event marked = late ? event.toBuilder().late(true).build() : event;
                    advance(marked, last);
                    add(insert, marked, wanted);
                }
            }
            keep(connection, insert, insert.executeBatch(), wanted, stored);
        }
    }

    private void keep(
            Connection connection, PreparedStatement insert, int[] counts, List<Event> wanted, List<Event> stored)
            throws SQLException {
        List<Event> conflicts = new ArrayList<>();
        for (int i = 0; i < counts.length; i++) {
            if (counts[i] > 0) {
                stored.add(wanted.get(i));
            } else {
                conflict(connection, wanted.get(i)).ifPresent(conflicts::add);
            }
        }
        if (!conflicts.isEmpty()) {
            for (Event conflict : conflicts) {
                add(insert, conflict, stored);
            }
            insert.executeBatch();
        }
    }

    private void add(PreparedStatement insert, Event event, List<Event> wanted) throws SQLException {
        position++;
        EventRows.bind(insert, event, position);
        insert.addBatch();
        wanted.add(
                event.position() == position
                        ? event
                        : event.toBuilder().position(position).build());
    }

    private void addUnchecked(PreparedStatement insert, Event event, List<Event> wanted) {
        try {
            add(insert, event, wanted);
        } catch (SQLException e) {
            throw new EventLogException(sentence(e), e);
        }
    }

    private Event withOwnKey(Event.Builder builder) {
        Progress last = progress(OWN);
        Event given = builder.build();
        Event.Builder copy = Event.of(new EventKey(OWN, 1, last.sequence() + 1), given.kind(), given.deviceTime());
        given.door().ifPresent(copy::door);
        given.controller().ifPresent(copy::controller);
        given.reader().ifPresent(copy::reader);
        given.side().ifPresent(copy::side);
        given.person().ifPresent(copy::person);
        given.credential().ifPresent(copy::credential);
        given.operator().ifPresent(copy::operator);
        given.reason().ifPresent(copy::reason);
        given.code().ifPresent(copy::code);
        given.cause().ifPresent(copy::cause);
        Event event = copy.details(given.details()).raw(given.raw()).build();
        advance(event, last);
        return event;
    }

    private Progress progress(SystemId system) {
        return progress.computeIfAbsent(system, s -> log.lastOf(s)
                .map(r ->
                        new Progress(r.epoch(), r.sequence(), log.newestTime(s).orElse(null)))
                .orElse(new Progress(-1, 0, null)));
    }

    private void advance(Event event, Progress last) {
        EventKey key = event.key();
        boolean further = key.epoch() > last.epoch() || key.epoch() == last.epoch() && key.sequence() > last.sequence();
        Instant time = last.time() == null || event.time().isAfter(last.time()) ? event.time() : last.time();
        progress.put(
                key.system(),
                new Progress(further ? key.epoch() : last.epoch(), further ? key.sequence() : last.sequence(), time));
    }

    private Optional<Event> gap(Event event, Progress last) {
        EventKey key = event.key();
        if (key.epoch() != last.epoch() || key.sequence() <= last.sequence() + 1) {
            return Optional.empty();
        }
        return Optional.of(withOwnKey(Event.of(key, Kinds.GAP, event.received())
                .detail("system", key.system().value())
                .detail("epoch", Long.toString(key.epoch()))
                .detail("from", Long.toString(last.sequence() + 1))
                .detail("to", Long.toString(key.sequence() - 1))));
    }

    /** What to log for an event whose key was taken: nothing for the same event again. */
    private Optional<Event> conflict(Connection connection, Event again) throws SQLException {
        String sql = "SELECT device_time, kind, door, person, credential, reason, details FROM event"
                + " WHERE system = ? AND epoch = ? AND sequence = ?";
        try (PreparedStatement select = connection.prepareStatement(sql)) {
            select.setString(1, again.key().system().value());
            select.setLong(2, again.key().epoch());
            select.setLong(3, again.key().sequence());
            try (var row = select.executeQuery()) {
                if (!row.next()) {
                    return Optional.empty();
                }
                boolean same = row.getLong(1) == EventRows.micros(again.deviceTime())
                        && again.kind().equals(new EventKind(row.getString(2)))
                        && again.door().map(Object::toString).equals(Optional.ofNullable(row.getString(3)))
                        && again.person().map(Object::toString).equals(Optional.ofNullable(row.getString(4)))
                        && again.credential().equals(Optional.ofNullable(row.getString(5)))
                        && again.reason().equals(Optional.ofNullable(row.getString(6)))
                        && EventRows.details(again).equals(row.getString(7));
                if (same) {
                    return Optional.empty();
                }
            }
        }
        return Optional.of(withOwnKey(Event.of(again.key(), Kinds.CONFLICT, again.received())
                .detail("system", again.key().system().value())
                .detail("about", again.key().text())
                .raw(again.raw())));
    }

    private String sentence(SQLException e) {
        String message = String.valueOf(e.getMessage());
        if (message.contains("SQLITE_FULL")) {
            return "The disk that holds " + database.file()
                    + " is full: events are not being stored. Free some space; the systems deliver again what is missing.";
        }
        if (message.contains("SQLITE_READONLY")) {
            return "The log " + database.file()
                    + " has become read-only: events are not being stored. Make it writable; the systems deliver again what is missing.";
        }
        return "Events could not be stored in " + database.file() + ": " + message;
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
