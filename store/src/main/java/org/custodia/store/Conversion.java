package org.custodia.store;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.core.type.TypeReference;
import java.io.IOException;
import java.nio.file.FileAlreadyExistsException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.ReaderId;
import org.custodia.core.site.Side;
import org.custodia.core.site.SystemId;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.sqlite.SQLiteDataSource;

/**
 * Makes a log of wide rows, as they were before the third form of the tables, into one of narrow rows. All of it goes into a
 * new file beside the old one, step by step; only when nothing is left to do does the new one take the old one's place, in one
 * move, and the old one stays under another name. Killed at any moment, it goes on where it was.
 */
final class Conversion {
    /** The form of the tables in which events are narrow rows. */
    static final int NARROW = 3;
    /** The last form for which what was stored had to be moved; later ones add tables. */
    static final int MOVED = 4;

    private static final Logger LOG = LoggerFactory.getLogger(Conversion.class);
    /** Events that are converted in one go. */
    static final int STEP = 10_000;

    private static final List<String> OTHERS = List.of(
            "identity", "unread", "register", "photo", "clock_reading", "number_range", "counts_again", "conflict");
    private static final TypeReference<Map<String, String>> MAP = new TypeReference<>() {};

    private final Path file;
    private final Path next;
    private final Database.Progress progress;
    private final int step;

    /**
     * @param step events that are converted in one go
     */
    Conversion(Path file, Database.Progress progress, int step) {
        this.file = file;
        this.next = file.resolveSibling(file.getFileName() + ".next");
        this.progress = progress;
        this.step = step;
    }

    /**
     * Converts the log.
     *
     * @param form in which it is now, below {@link #NARROW}
     * @throws SQLException if the old file cannot be read or the new one not written; the old one is as it was
     */
    void run(int form) throws SQLException {
        try {
            enoughRoom(file);
            LOG.info("The log {} is brought into a new form; the old one is kept beside it.", file);
            settle(file);
            if (form < NARROW - 1) {
                new LogBackups(file, NARROW).copy();
                SqliteDatabase.migrate(file, SqliteDatabase.source(file), Integer.toString(NARROW - 1));
                settle(file);
            }
            if (!done()) {
                try (Connection from = SqliteDatabase.source(file).getConnection();
                        Connection to = begin(from)) {
                    events(from, to);
                    others(to);
                }
                settle(next);
            }
            takePlace();
        } catch (IOException e) {
            throw new DataDirectoryException(
                    "The log " + file
                            + " could not be brought into its new form: files could not be copied or moved in its directory. It is as it was. Make the directory writable and start again.",
                    e);
        }
    }

    private static void enoughRoom(Path file) throws IOException {
        long needed = Files.size(file) + 16L * 1024 * 1024;
        long there = Files.getFileStore(file.toAbsolutePath().getParent()).getUsableSpace();
        if (there < needed) {
            throw new DataDirectoryException(
                    String.format(
                            "The log %s must be brought into a new form, which takes up to %,d MB on its disk while %,d MB are free. It is as it was. Free some space and start again.",
                            file, needed >> 20, there >> 20),
                    null);
        }
    }

    /**
     * Copies a log before its tables are changed in their place.
     *
     * @param form the form that they are to have
     * @throws DataDirectoryException if there is no room for it, or it cannot be written
     */
    static void copy(Path file, int form) throws SQLException {
        try {
            enoughRoom(file);
            settle(file);
            Path backup = new LogBackups(file, form).copy();
            LOG.info("The tables of the log {} are migrated; its backup is {}.", file, backup);
        } catch (IOException e) {
            throw new DataDirectoryException(
                    "The log " + file
                            + " could not be copied before it is brought into a new form. It is as it was. Make its directory writable and start again.",
                    e);
        }
    }

    /** Everything into the file itself, so that it is whole without what lies beside it. */
    private static void settle(Path file) throws SQLException {
        try (Connection connection = SqliteDatabase.source(file).getConnection();
                Statement s = connection.createStatement()) {
            s.execute("PRAGMA wal_checkpoint(TRUNCATE)");
        }
    }

    /** Whether all of this very log is in the new file already, which only did not take its place yet. */
    private boolean done() {
        if (!Files.exists(next)) {
            return false;
        }
        try (Connection connection = SqliteDatabase.source(next).getConnection()) {
            if (!"0".equals(text(connection, "SELECT COUNT(*) FROM sqlite_master WHERE name = 'conversion'"))) {
                return false;
            }
        } catch (SQLException e) {
            LOG.debug("What was begun cannot be read", e);
            return false;
        }
        Optional<LogBackups.Contents> contents = LogBackups.contents(next);
        return contents.isPresent() && contents.equals(LogBackups.contents(file));
    }

    /** The new file: the one that was begun from this very log, or a fresh one. */
    private Connection begin(Connection from) throws SQLException, IOException {
        String source = text(from, "SELECT id FROM identity") + " " + text(from, "SELECT MAX(position) FROM event");
        if (Files.exists(next)) {
            Optional<Connection> begun = begun(source);
            if (begun.isPresent()) {
                return begun.get();
            }
        }
        for (String suffix : List.of("", "-wal", "-shm", "-journal")) {
            Files.deleteIfExists(next.resolveSibling(next.getFileName() + suffix));
        }
        SQLiteDataSource fresh = SqliteDatabase.source(next);
        SqliteDatabase.migrate(next, fresh, Integer.toString(NARROW));
        Connection connection = fresh.getConnection();
        Payloads.addCommonDictionary(connection);
        try (Statement s = connection.createStatement()) {
            s.execute("CREATE TABLE conversion (source TEXT NOT NULL, done INTEGER NOT NULL)");
        }
        try (PreparedStatement s = connection.prepareStatement("INSERT INTO conversion VALUES (?, 0)")) {
            s.setString(1, source);
            s.executeUpdate();
        }
        return connection;
    }

    /** The new file as far as it goes; nothing if it is of another log or cannot be gone on with. */
    private Optional<Connection> begun(String source) throws SQLException {
        Connection begun = null;
        try {
            begun = SqliteDatabase.source(next).getConnection();
            if (source.equals(text(begun, "SELECT source FROM conversion"))) {
                return Optional.of(begun);
            }
        } catch (SQLException e) {
            LOG.debug("What was begun cannot be gone on with", e);
        }
        if (begun != null) {
            begun.close();
        }
        return Optional.empty();
    }

    private static String text(Connection connection, String question) throws SQLException {
        try (Statement s = connection.createStatement();
                ResultSet row = s.executeQuery(question)) {
            return row.next() ? row.getString(1) : null;
        }
    }

    private void events(Connection from, Connection to) throws SQLException {
        long done = Long.parseLong(text(to, "SELECT done FROM conversion"));
        String last = text(from, "SELECT MAX(position) FROM event");
        long all = last == null ? 0 : Long.parseLong(last);
        to.setAutoCommit(false);
        try (Payloads payloads = new Payloads(Payloads.dictionaries(to));
                PreparedStatement some = from.prepareStatement(
                        "SELECT * FROM event WHERE position > ? ORDER BY position LIMIT " + step);
                PreparedStatement note = to.prepareStatement("UPDATE conversion SET done = ?")) {
            EventWriter writer = new EventWriter(to, Dialect.SQLITE, payloads);
            while (done < all) {
                progress.at(done, all);
                some.setLong(1, done);
                try (ResultSet rows = some.executeQuery()) {
                    while (rows.next()) {
                        done = rows.getLong("position");
                        writer.add(wide(rows), done);
                    }
                }
                writer.flush();
                note.setLong(1, done);
                note.executeUpdate();
                to.commit();
            }
        }
        progress.at(all, all);
        to.setAutoCommit(true);
    }

    private void others(Connection to) throws SQLException {
        try (PreparedStatement attach = to.prepareStatement("ATTACH DATABASE ? AS old")) {
            attach.setString(1, file.toString());
            attach.execute();
        }
        to.setAutoCommit(false);
        try (Statement s = to.createStatement()) {
            for (String table : OTHERS) {
                s.execute("DELETE FROM main." + table);
                s.execute("INSERT INTO main." + table + " SELECT * FROM old." + table);
            }
            s.execute("DROP TABLE conversion");
        }
        to.commit();
        to.setAutoCommit(true);
        try (Statement s = to.createStatement()) {
            s.execute("DETACH DATABASE old");
        }
    }

    private void takePlace() throws IOException {
        for (Path path : List.of(file, next)) {
            Path rest = path.resolveSibling(path.getFileName() + "-wal");
            if (Files.exists(rest) && Files.size(rest) > 0) {
                throw new FileAlreadyExistsException(rest.toString());
            }
            Files.deleteIfExists(rest);
            Files.deleteIfExists(path.resolveSibling(path.getFileName() + "-shm"));
        }
        Path backup = new LogBackups(file, NARROW).link();
        Files.move(next, file, StandardCopyOption.ATOMIC_MOVE, StandardCopyOption.REPLACE_EXISTING);
        LOG.info("The log {} has been converted; the old file is {}.", file, backup);
    }

    /** An event as it lay in a wide row. */
    private static Event wide(ResultSet r) throws SQLException {
        Event.Builder builder = Event.of(
                        new EventKey(new SystemId(r.getString("system")), r.getLong("epoch"), r.getLong("sequence")),
                        Kinds.of(r.getString("kind")),
                        EventRows.instant(r.getLong("device_time")))
                .received(EventRows.instant(r.getLong("received")), Duration.ofNanos(r.getLong("clock_ahead") * 1000))
                .time(EventRows.instant(r.getLong("time")))
                .late(r.getInt("late") != 0)
                .door(of(r.getString("door"), DoorId::new))
                .controller(of(r.getString("controller"), ControllerId::new))
                .reader(of(r.getString("reader"), ReaderId::new))
                .side(of(r.getString("side"), Side::valueOf))
                .person(of(r.getString("person"), PersonId::new))
                .credential(r.getString("credential"))
                .operator(r.getString("operator"))
                .reason(r.getString("reason"))
                .code(r.getString("code"))
                .cause(r.getString("cause"))
                .raw(r.getString("raw"));
        String details = r.getString("details");
        if (!details.isEmpty()) {
            try {
                builder.details(PayloadText.JSON.readValue(details, MAP));
            } catch (JsonProcessingException e) {
                builder.detail("unreadable-details", details);
            }
        }
        return builder.build();
    }

    private static <T> T of(String value, Function<String, T> as) {
        return value == null ? null : as.apply(value);
    }
}
