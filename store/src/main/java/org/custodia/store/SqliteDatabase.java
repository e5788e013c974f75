package org.custodia.store;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.BasicFileAttributes;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.Optional;
import javax.sql.DataSource;
import org.custodia.core.saying.Saying;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.sqlite.SQLiteConfig;
import org.sqlite.SQLiteDataSource;
import org.sqlite.SQLiteOpenMode;

/** A log in a file of the data directory: one connection that writes, several that read. */
final class SqliteDatabase extends Database {
    private static final Logger LOG = LoggerFactory.getLogger(SqliteDatabase.class);
    private static final int READERS = 4;
    /** Pages of the write-ahead log (16 MB) before they are copied into the database; a first history writes many. */
    private static final int CHECKPOINT_PAGES = 4_000;
    /** Kilobytes, as SQLite wants them. */
    private static final int WRITER_CACHE = -32_000;

    private static final int READER_CACHE = -6_000;
    private static final long LOOK_EVERY = 500_000_000L;

    private final Path file;
    private final Connection writer;
    private final Object fileKey;
    private final LogCheck check;
    private long lookedAt = System.nanoTime();

    private SqliteDatabase(Path file, Connection writer, DataSource readers, LogCheck check) throws SQLException {
        super(Dialect.SQLITE, new SqliteWords(file), readers, READERS, Payloads.dictionaries(writer));
        this.file = file;
        this.writer = writer;
        this.fileKey = fileKey(file);
        this.check = check;
    }

    static SqliteDatabase open(DataDirectory directory, Progress progress) {
        Path file = directory.path().resolve("custodia.db");
        LogIdentity identity = LogIdentity.ofFile(directory.path(), file);
        SQLiteDataSource source = source(file);
        StoreWords words = new SqliteWords(file);
        try {
            prepare(file, source, progress);
            Connection writer = source.getConnection();
            try (Statement pragma = writer.createStatement()) {
                pragma.execute("PRAGMA wal_autocheckpoint=" + CHECKPOINT_PAGES);
                LogCheck check = new LogCheck(file, source);
                check.quick(writer);
                migrate(file, source, "latest");
                Payloads.addCommonDictionary(writer);
                tryWriting(file, writer);
                identity.check(writer);
                SQLiteConfig reads = config(READER_CACHE);
                // Where the file is gone no empty one may come into its place.
                reads.resetOpenMode(SQLiteOpenMode.CREATE);
                SQLiteDataSource reading = new SQLiteDataSource(reads);
                reading.setUrl(source.getUrl());
                check.begin();
                return new SqliteDatabase(file, writer, reading, check);
            } catch (SQLException | RuntimeException e) {
                writer.close();
                throw e;
            }
        } catch (SQLException e) {
            throw new DataDirectoryException(
                    words.subject() + " could not be opened: " + words.inWords(e)
                            + ". If it is damaged, restore it from a backup or move it away; Custodia does not start with an empty log in its place.",
                    e);
        }
    }

    /**
     * Makes sure that what is written still goes into the file that bears the log's name.
     *
     * @throws LogGoneException if the file was moved or removed
     */
    @Override
    void stillThere() {
        if (System.nanoTime() - lookedAt < LOOK_EVERY && lookedAt != 0) {
            return;
        }
        lookedAt = 0;
        Object now = fileKey(file);
        if (now == null || !now.equals(fileKey)) {
            throw new LogGoneException(Saying.of(now == null ? "store.gone" : "store.exchanged", file.toString()));
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

    @Override
    public Optional<Saying> damage() {
        return check.damage();
    }

    @Override
    void tryWriting() {
        tryWriting(file, writer);
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
                    "The log " + file + " cannot be written (" + new SqliteWords(file).inWords(e)
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

    /**
     * Sees to a log of an older form: one with wide rows is converted; one whose content is moved is copied before. Where
     * tables are only added, all is done or nothing.
     */
    private static void prepare(Path file, SQLiteDataSource source, Progress progress) throws SQLException {
        if (!Files.exists(file)) {
            return;
        }
        int form = form(source);
        if (form < 1) {
            return;
        }
        if (form < Conversion.NARROW) {
            try (Connection connection = source.getConnection()) {
                new LogCheck(file, source).quick(connection);
            }
            new Conversion(file, progress, Conversion.STEP).run(form);
        } else if (form < Conversion.MOVED) {
            try (Connection connection = source.getConnection()) {
                new LogCheck(file, source).quick(connection);
            }
            Conversion.copy(file, Conversion.MOVED);
        }
    }

    /** The form of a log's tables; 0 where there are none. */
    private static int form(SQLiteDataSource source) throws SQLException {
        try (Connection connection = source.getConnection();
                Statement statement = connection.createStatement()) {
            try (var there = statement.executeQuery(
                    "SELECT COUNT(*) FROM sqlite_master WHERE name IN ('flyway_schema_history', 'event')")) {
                if (!there.next() || there.getInt(1) < 2) {
                    return 0;
                }
            }
            try (var newest = statement.executeQuery(
                    "SELECT MAX(CAST(version AS INTEGER)) FROM flyway_schema_history WHERE success = 1")) {
                return newest.next() ? newest.getInt(1) : 0;
            }
        }
    }

    /**
     * @param target the form to bring the tables into, or "latest"
     */
    static void migrate(Path file, SQLiteDataSource source, String target) {
        new LogSchema(Dialect.SQLITE, source, new SqliteWords(file)).migrate(target);
    }

    @Override
    Connection writer() {
        return writer;
    }

    /** Where the directory was removed while it was used, what is stored lives on in the open file only: writes it down again. */
    private void putBack() {
        if (fileKey(file) != null) {
            return;
        }
        try (Statement statement = writer.createStatement()) {
            Files.createDirectories(file.getParent());
            // First, so that no log is begun anew in its place if it cannot be put back.
            LogIdentity.ofFileAsItWas(file.getParent(), file).check(writer);
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
    void closeWriter() throws SQLException {
        putBack();
        writer.close();
    }

    @Override
    public void close() {
        check.close();
        super.close();
    }
}
