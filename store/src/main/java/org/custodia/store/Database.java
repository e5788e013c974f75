package org.custodia.store;

import com.zaxxer.hikari.HikariConfig;
import com.zaxxer.hikari.HikariDataSource;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.BasicFileAttributes;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.Optional;
import org.custodia.core.event.EventLogException;
import org.flywaydb.core.Flyway;
import org.flywaydb.core.api.FlywayException;
import org.jooq.DSLContext;
import org.jooq.SQLDialect;
import org.jooq.exception.DataAccessException;
import org.jooq.impl.DSL;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.sqlite.SQLiteConfig;
import org.sqlite.SQLiteDataSource;
import org.sqlite.SQLiteOpenMode;

/** The SQLite database of a data directory: one connection that writes, several that read. */
public final class Database implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(Database.class);
    private static final int READERS = 4;
    /** Pages of the write-ahead log (16 MB) before they are copied into the database; a first history writes many. */
    private static final int CHECKPOINT_PAGES = 4_000;

    static {
        System.setProperty("org.jooq.no-logo", "true");
        System.setProperty("org.jooq.no-tips", "true");
    }

    /** Kilobytes, as SQLite wants them. */
    private static final int WRITER_CACHE = -32_000;

    private static final int READER_CACHE = -6_000;
    private static final long LOOK_EVERY = 500_000_000L;

    private final Path file;
    private final Connection writer;
    private final HikariDataSource readers;
    private final Object fileKey;
    private final LogCheck check;
    private final Payloads payloads;
    private long lookedAt = System.nanoTime();

    private Database(Path file, Connection writer, HikariDataSource readers, LogCheck check, Payloads payloads) {
        this.file = file;
        this.writer = writer;
        this.readers = readers;
        this.fileKey = fileKey(file);
        this.check = check;
        this.payloads = payloads;
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
     * Opens the database, making or upgrading its tables.
     *
     * @throws DataDirectoryException if it is damaged, cannot be written or comes from a newer Custodia
     */
    public static Database open(DataDirectory directory) {
        return open(directory, (done, of) -> {});
    }

    /**
     * The same.
     *
     * @param progress told how far a log is that must be brought into a new form first
     */
    public static Database open(DataDirectory directory, Progress progress) {
        Path file = directory.path().resolve("custodia.db");
        LogIdentity identity = new LogIdentity(directory.path(), file);
        identity.nothingIsGone();
        SQLiteDataSource source = source(file);
        try {
            convert(file, source, progress);
            Connection writer = source.getConnection();
            try (Statement pragma = writer.createStatement()) {
                pragma.execute("PRAGMA wal_autocheckpoint=" + CHECKPOINT_PAGES);
                LogCheck check = new LogCheck(file, source);
                check.quick(writer);
                migrate(file, source, "latest");
                Payloads.addCommonDictionary(writer);
                tryWriting(file, writer);
                identity.check(writer);
                HikariConfig pool = new HikariConfig();
                SQLiteConfig reads = config(READER_CACHE);
                // Where the file is gone no empty one may come into its place.
                reads.resetOpenMode(SQLiteOpenMode.CREATE);
                SQLiteDataSource reading = new SQLiteDataSource(reads);
                reading.setUrl(source.getUrl());
                pool.setDataSource(reading);
                pool.setMaximumPoolSize(READERS);
                pool.setMinimumIdle(1);
                pool.setPoolName("log readers");
                check.begin();
                return new Database(
                        file, writer, new HikariDataSource(pool), check, new Payloads(Payloads.dictionaries(writer)));
            } catch (SQLException | RuntimeException e) {
                writer.close();
                throw e;
            }
        } catch (SQLException e) {
            throw new DataDirectoryException(
                    "The log " + file + " could not be opened: " + StoreWords.inWords(e)
                            + ". If it is damaged, restore it from a backup or move it away; Custodia does not start with an empty log in its place.",
                    e);
        }
    }

    /**
     * Makes sure that what is written still goes into the file that bears the log's name.
     *
     * @throws LogGoneException if the file was moved or removed
     */
    void stillThere() {
        if (System.nanoTime() - lookedAt < LOOK_EVERY && lookedAt != 0) {
            return;
        }
        lookedAt = 0;
        Object now = fileKey(file);
        if (now == null || !now.equals(fileKey)) {
            throw new LogGoneException("The log " + file + " is not where it was: events are not being stored. "
                    + (now == null
                            ? "Put the data directory back, or close Custodia, which then puts back what it has stored"
                            : "Put the data directory back as it was")
                    + "; the systems deliver again what is missing.");
        }
        lookedAt = System.nanoTime();
    }

    /** What tells a file from another of the same name; null where there is none. */
    private static Object fileKey(Path file) {
        try {
            Object key = Files.readAttributes(file, BasicFileAttributes.class).fileKey();
            return key == null ? file : key;
        } catch (IOException e) {
            return null;
        }
    }

    /** What was found wrong with the file while running, in words; nothing while all is well. */
    public Optional<String> damage() {
        return check.damage();
    }

    /**
     * Writes a trifle, so that a log that can only be read is noticed before anything is lost.
     *
     * @throws DataDirectoryException if that fails
     */
    static void tryWriting(Path file, Connection writer) {
        try (Statement statement = writer.createStatement()) {
            statement.execute("PRAGMA user_version = 1");
        } catch (SQLException e) {
            throw new DataDirectoryException(
                    "The log " + file + " cannot be written (" + StoreWords.inWords(e)
                            + "), so nothing that happens could be kept. Make it writable, or choose another directory with --data.",
                    e);
        }
    }

    private static SQLiteConfig config(int cache) {
        SQLiteConfig config = new SQLiteConfig();
        config.setJournalMode(SQLiteConfig.JournalMode.WAL);
        // What was published must be there after a power cut too; batches keep this cheap.
        config.setSynchronous(SQLiteConfig.SynchronousMode.FULL);
        config.setBusyTimeout(10_000);
        config.setCacheSize(cache);
        config.setTempStore(SQLiteConfig.TempStore.MEMORY);
        return config;
    }

    /** How the file is opened for writing. */
    static SQLiteDataSource source(Path file) {
        SQLiteDataSource source = new SQLiteDataSource(config(WRITER_CACHE));
        source.setUrl("jdbc:sqlite:" + file);
        return source;
    }

    /** Brings a log with wide rows into the form of today. */
    private static void convert(Path file, SQLiteDataSource source, Progress progress) throws SQLException {
        if (!Files.exists(file)) {
            return;
        }
        int form;
        try (Connection connection = source.getConnection();
                Statement statement = connection.createStatement()) {
            try (var there = statement.executeQuery(
                    "SELECT COUNT(*) FROM sqlite_master WHERE name IN ('flyway_schema_history', 'event')")) {
                if (!there.next() || there.getInt(1) < 2) {
                    return;
                }
            }
            try (var newest = statement.executeQuery(
                    "SELECT MAX(CAST(version AS INTEGER)) FROM flyway_schema_history WHERE success = 1")) {
                form = newest.next() ? newest.getInt(1) : 0;
            }
            if (form < 1 || form >= Conversion.NARROW) {
                return;
            }
            new LogCheck(file, source).quick(connection);
        }
        new Conversion(file, progress, Conversion.STEP).run(form);
    }

    /**
     * @param target the form to bring the tables into, or "latest"
     */
    static void migrate(Path file, SQLiteDataSource source, String target) {
        Flyway flyway = Flyway.configure(Database.class.getClassLoader())
                .dataSource(source)
                .locations("classpath:org/custodia/store/schema")
                .ignoreMigrationPatterns("")
                .target(target)
                .load();
        try {
            var applied = flyway.info().applied();
            var ours = flyway.info().all();
            int newest = 0;
            for (var migration : ours) {
                if (migration.getScript() != null && migration.getState().isResolved()) {
                    newest = Math.max(
                            newest, Integer.parseInt(migration.getVersion().toString()));
                }
            }
            for (var migration : applied) {
                if (migration.getVersion() != null
                        && Integer.parseInt(migration.getVersion().toString()) > newest) {
                    throw new DataDirectoryException(
                            "The log " + file + " was written by a newer Custodia (its version "
                                    + migration.getVersion() + ", this program knows " + newest
                                    + "). Start that newer program, or choose another directory with --data.",
                            null);
                }
            }
            flyway.migrate();
        } catch (FlywayException e) {
            throw new DataDirectoryException(
                    "The log " + file + " could not be made ready" + why(e)
                            + ". If the disk is full, free some space; if the file is damaged, restore it from a backup or move it away.",
                    e);
        }
    }

    private static String why(Throwable e) {
        for (Throwable cause = e; cause != null; cause = cause.getCause()) {
            if (cause instanceof SQLException sql) {
                return ": " + StoreWords.inWords(sql);
            }
        }
        return "";
    }

    public Path file() {
        return file;
    }

    /** What compresses messages and details, and makes them readable again. */
    Payloads payloads() {
        return payloads;
    }

    /** The one connection that writes; its user holds {@code synchronized} on it. */
    Connection writer() {
        return writer;
    }

    /** Asks questions, each on a connection of its own from the pool. */
    DSLContext reader() {
        return DSL.using(readers, SQLDialect.SQLITE);
    }

    /**
     * Runs statements on the writing connection in one transaction.
     *
     * @throws EventLogException if they could not be written
     */
    void write(Work work) {
        synchronized (writer) {
            try {
                stillThere();
                DSL.using(writer, SQLDialect.SQLITE).transaction(c -> work.run(c.dsl()));
            } catch (DataAccessException e) {
                Throwable cause = e.getCause() instanceof SQLException sql ? sql : e;
                throw new EventLogException(StoreWords.notStored(cause, file), e);
            } catch (LogGoneException e) {
                throw new EventLogException(e.getMessage(), e);
            }
        }
    }

    /** Statements that belong together. */
    @FunctionalInterface
    interface Work {
        void run(DSLContext dsl);
    }

    /** Where the directory was removed while it was used, what is stored lives on in the open file only: writes it down again. */
    private void putBack() {
        if (fileKey(file) != null) {
            return;
        }
        try (Statement statement = writer.createStatement()) {
            Files.createDirectories(file.getParent());
            // First, so that no log is begun anew in its place if it cannot be put back.
            new LogIdentity(file.getParent(), file).check(writer);
            statement.execute("VACUUM INTO '" + file.toString().replace("'", "''") + "'");
            LOG.warn("The log {} had been removed while it was used, and is put back with all that was stored.", file);
        } catch (IOException | SQLException e) {
            LOG.error(
                    "The log {} was removed while it was used and could not be put back. Restore it from a backup.",
                    file);
            LOG.debug("What stood in the way", e);
        }
    }

    @Override
    public void close() {
        check.close();
        readers.close();
        payloads.close();
        try {
            synchronized (writer) {
                putBack();
                writer.close();
            }
        } catch (SQLException e) {
            throw new DataDirectoryException(
                    "The log " + file + " could not be closed: " + StoreWords.inWords(e) + ".", e);
        }
    }
}
