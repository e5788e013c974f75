package org.custodia.store;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.Optional;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import org.custodia.core.mishap.Threads;
import org.custodia.core.saying.Saying;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.sqlite.ProgressHandler;
import org.sqlite.SQLiteDataSource;

/** Looks whether the log's file is whole: as far as a short look goes before it is used, and all of it in the background. */
final class LogCheck implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(LogCheck.class);
    private static final long QUICK_NANOS = 500_000_000L;
    private static final int STEPS = 2_000;
    /** The start has better things to do. */
    private static final Duration FULL_AFTER = Duration.ofSeconds(45);
    /** Bytes; four times what is copied into the file in one go. */
    private static final long MUCH = 64L * 1024 * 1024;

    private final Path file;
    private final SQLiteDataSource source;
    private final CountDownLatch closed = new CountDownLatch(1);
    private final long much;
    private final Duration after;
    private volatile Saying damage;
    private Thread thread;

    LogCheck(Path file, SQLiteDataSource source) {
        this(file, source, MUCH, FULL_AFTER);
    }

    /**
     * @param much bytes that wait to be copied into the file when looking is given up
     * @param after how long it is waited before it looks at everything
     */
    LogCheck(Path file, SQLiteDataSource source, long much, Duration after) {
        this.file = file;
        this.source = source;
        this.much = much;
        this.after = after;
    }

    /**
     * Looks at as much as a moment allows.
     *
     * @throws DataDirectoryException if something is damaged
     */
    void quick(Connection connection) throws SQLException {
        long end = System.nanoTime() + QUICK_NANOS;
        if (damaged(connection, "PRAGMA quick_check(1)", () -> System.nanoTime() > end)) {
            throw new DataDirectoryException(sentence(), null);
        }
    }

    private String sentence() {
        return "The log " + file
                + " is damaged: some of it cannot be read. Restore the data directory from a backup, or choose another with --data; what is there is left as it is.";
    }

    private interface Enough {
        boolean now();
    }

    private static boolean damaged(Connection connection, String pragma, Enough enough) throws SQLException {
        ProgressHandler.setHandler(connection, STEPS, new ProgressHandler() {
            @Override
            protected int progress() {
                return enough.now() ? 1 : 0;
            }
        });
        try (Statement statement = connection.createStatement();
                ResultSet row = statement.executeQuery(pragma)) {
            return row.next() && !"ok".equalsIgnoreCase(row.getString(1));
        } catch (SQLException e) {
            if (enough.now()) {
                return false;
            }
            throw e;
        } finally {
            ProgressHandler.clearHandler(connection);
        }
    }

    /** Begins to look at everything, in a while. */
    void begin() {
        thread = Threads.daemon("log check", this::full);
        thread.setPriority(Thread.MIN_PRIORITY);
        thread.start();
    }

    private void full() {
        try {
            while (!closed.await(after.toMillis(), TimeUnit.MILLISECONDS)) {
                if (look()) {
                    return;
                }
            }
        } catch (InterruptedException e) {
            // It is being closed.
        }
    }

    /**
     * Looks at everything now; gives up where so much is being written that looking is in the way of it.
     *
     * @return whether it came to an end
     */
    boolean look() {
        boolean[] inTheWay = {false};
        try (Connection connection = source.getConnection()) {
            Enough enough = () -> {
                inTheWay[0] = inTheWay[0] || muchIsWritten();
                return inTheWay[0] || closed.getCount() == 0;
            };
            if (damaged(connection, "PRAGMA integrity_check(1)", enough)) {
                found();
            }
        } catch (SQLException e) {
            if (closed.getCount() > 0 && new SqliteWords(file).inWords(e).equals("it is damaged")) {
                found();
            }
        }
        return !inTheWay[0];
    }

    /** As long as somebody looks, what is written waits beside the file to be copied into it. */
    private boolean muchIsWritten() {
        try {
            return Files.size(file.resolveSibling(file.getFileName() + "-wal")) > much;
        } catch (IOException e) {
            return false;
        }
    }

    private void found() {
        damage = Saying.of("store.damaged", file.toString());
        LOG.error("{}", damage);
    }

    Optional<Saying> damage() {
        return Optional.ofNullable(damage);
    }

    @Override
    public void close() {
        closed.countDown();
        if (thread != null) {
            thread.interrupt();
            try {
                thread.join(3_000);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            }
        }
    }
}
