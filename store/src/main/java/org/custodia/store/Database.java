package org.custodia.store;

import com.zaxxer.hikari.HikariConfig;
import com.zaxxer.hikari.HikariDataSource;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.locks.ReentrantLock;
import javax.sql.DataSource;
import org.custodia.core.event.EventLogException;
import org.custodia.core.saying.Saying;
import org.jooq.DSLContext;
import org.jooq.conf.Settings;
import org.jooq.exception.DataAccessException;
import org.jooq.impl.DSL;

/**
 * What holds the log and the registers: one connection that writes, several that read. It is a file of the data directory,
 * or lies on a server.
 */
public abstract class Database implements AutoCloseable {
    private static final long READER_WITHIN_MILLIS = 10_000;

    static {
        System.setProperty("org.jooq.no-logo", "true");
        System.setProperty("org.jooq.no-tips", "true");
    }

    /** Nobody reads what a database notes about statements. */
    private static final Settings PLAIN = new Settings().withFetchWarnings(false);

    private final Dialect dialect;
    private final StoreWords words;
    private final HikariDataSource readers;
    private final Payloads payloads;
    /** Fair: whoever waits has its turn after this one, however much there is to be written elsewhere. */
    private final ReentrantLock writing = new ReentrantLock(true);

    Database(Dialect dialect, StoreWords words, DataSource readers, int most, Map<Long, byte[]> dictionaries) {
        this.dialect = dialect;
        this.words = words;
        HikariConfig pool = new HikariConfig();
        pool.setDataSource(readers);
        pool.setMaximumPoolSize(most);
        pool.setMinimumIdle(1);
        pool.setPoolName("log readers");
        pool.setConnectionTimeout(READER_WITHIN_MILLIS);
        this.readers = new HikariDataSource(pool);
        this.payloads = new Payloads(dictionaries);
    }

    /** Told how far a log is that is brought into a new form. */
    @FunctionalInterface
    public interface Progress {
        /**
         * @param done events that are done
         * @param of how many there are
         */
        void at(long done, long of);
    }

    /**
     * Opens the log in the file of a data directory, making or upgrading its tables.
     *
     * @throws DataDirectoryException if it is damaged, cannot be written or comes from a newer Custodia
     */
    public static Database open(DataDirectory directory) {
        return open(directory, Optional.empty(), (done, of) -> {});
    }

    /**
     * Opens the log of a data directory.
     *
     * @param server where the log is, unless it is a file of the directory
     * @param progress told how far a log is that must be brought into a new form first
     * @throws DataDirectoryException if it cannot be used, in words that say what to do
     */
    public static Database open(DataDirectory directory, Optional<ServerAddress> server, Progress progress) {
        return server.isPresent()
                ? PostgresDatabase.open(directory, server.get())
                : SqliteDatabase.open(directory, progress);
    }

    Dialect dialect() {
        return dialect;
    }

    StoreWords words() {
        return words;
    }

    /** What compresses messages and details, and makes them readable again. */
    Payloads payloads() {
        return payloads;
    }

    /** Waits until nobody else uses the writing connection; for as long as what is returned is not closed nobody else can. */
    Turn turn() {
        writing.lock();
        return writing::unlock;
    }

    /** Closed by the thread that took it. */
    interface Turn extends AutoCloseable {
        @Override
        void close();
    }

    /**
     * The one connection that writes, made again where it was lost; used under the {@linkplain #turn turn}.
     *
     * @throws SQLException if it cannot be made
     * @throws LogGoneException if what it would write to is not this log any more
     */
    abstract Connection writer() throws SQLException;

    /**
     * Makes sure that what is written goes to where the log is.
     *
     * @throws LogGoneException if it does not
     */
    abstract void stillThere();

    /**
     * Tries whether anything can be written.
     *
     * @throws DataDirectoryException if it cannot
     */
    abstract void tryWriting();

    /** Whether only trying shows that nothing can be written any more. */
    boolean mayGoUnnoticed() {
        return false;
    }

    /** Told that something failed on the writing connection, which may be of no use any more. */
    void failed(SQLException e) {}

    /** What was found wrong with the log while running, in words; nothing while all is well. */
    public Optional<Saying> damage() {
        return Optional.empty();
    }

    /** Asks questions, each on a connection of its own from the pool. */
    DSLContext reader() {
        return DSL.using(readers, dialect.words(), PLAIN);
    }

    /**
     * Runs statements on the writing connection in one transaction.
     *
     * @throws EventLogException if they could not be written
     */
    void write(Work work) {
        try (Turn turn = turn()) {
            try {
                stillThere();
                dialect.on(writer()).transaction(c -> work.run(c.dsl()));
            } catch (DataAccessException e) {
                Throwable cause = e.getCause() instanceof SQLException sql ? sql : e;
                if (cause instanceof SQLException sql) {
                    failed(sql);
                }
                throw new EventLogException(words.notStored(cause), e);
            } catch (SQLException | LogGoneException e) {
                throw new EventLogException(words.notStored(e), e);
            }
        }
    }

    /** Statements that belong together. */
    @FunctionalInterface
    interface Work {
        void run(DSLContext dsl);
    }

    /** Ends the writing connection, in its turn. */
    abstract void closeWriter() throws SQLException;

    @Override
    public void close() {
        readers.close();
        payloads.close();
        try {
            try (Turn turn = turn()) {
                closeWriter();
            }
        } catch (SQLException e) {
            throw new DataDirectoryException(words.subject() + " could not be closed: " + words.inWords(e) + ".", e);
        }
    }
}
