package org.custodia.store;

import java.io.IOException;
import java.nio.channels.FileChannel;
import java.nio.file.FileSystemException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.Optional;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.sqlite.SQLiteConfig;
import org.sqlite.SQLiteDataSource;
import org.sqlite.SQLiteOpenMode;

/**
 * Backups of a log, made beside it before its tables are migrated. A file gets a backup's name only once it is complete, and a
 * process that is killed and started again makes no second backup of the same log.
 */
final class LogBackups {
    private static final Logger LOG = LoggerFactory.getLogger(LogBackups.class);

    private final Path log;
    private final int form;

    /**
     * @param log the file, of which nothing lies in a write-ahead log any more
     * @param form that its tables are to have
     */
    LogBackups(Path log, int form) {
        this.log = log;
        this.form = form;
    }

    /**
     * Makes a backup of the log, unless there is one.
     *
     * @return the backup
     * @throws IOException if it cannot be written; an incomplete file does not get a backup's name
     */
    Path copy() throws IOException {
        Path begun = log.resolveSibling(log.getFileName() + ".copy");
        Optional<Path> existing = existing();
        if (existing.isPresent()) {
            Files.deleteIfExists(begun);
            return existing.get();
        }
        Files.copy(log, begun, StandardCopyOption.REPLACE_EXISTING, StandardCopyOption.COPY_ATTRIBUTES);
        try (FileChannel written = FileChannel.open(begun, StandardOpenOption.WRITE)) {
            written.force(true);
        }
        return Files.move(begun, free(), StandardCopyOption.ATOMIC_MOVE);
    }

    /**
     * Gives the log a second name under which it stays when another file takes its place.
     *
     * @return that name, or the existing backup
     * @throws IOException if it can be neither linked nor copied
     */
    Path link() throws IOException {
        Optional<Path> existing = existing();
        if (existing.isPresent()) {
            return existing.get();
        }
        try {
            return Files.createLink(free(), log);
        } catch (UnsupportedOperationException | FileSystemException e) {
            LOG.debug("The file system of {} knows no second names", log, e);
            return copy();
        }
    }

    private Path name(int number) {
        return log.resolveSibling("custodia-before-" + form + (number == 1 ? "" : "-" + number) + ".db");
    }

    private Path free() {
        int number = 1;
        while (Files.exists(name(number))) {
            number++;
        }
        return name(number);
    }

    /** An existing backup of this log with the same newest event. */
    private Optional<Path> existing() {
        Optional<Contents> contents = contents(log);
        for (int i = 1; contents.isPresent() && Files.exists(name(i)); i++) {
            Optional<Contents> backup = contents(name(i));
            // The first form of the tables had no identity yet.
            if (backup.equals(contents)
                    || backup.equals(Optional.of(new Contents("", contents.get().last())))) {
                return Optional.of(name(i));
            }
        }
        return Optional.empty();
    }

    /**
     * Which log it is, and up to which event.
     *
     * @param id empty in the first form of the tables
     * @param last position of the newest event, 0 if there is none
     */
    record Contents(String id, long last) {}

    /**
     * Reads identity and newest event of a file that is not in use; empty if it is unreadable, incomplete or not a log.
     */
    static Optional<Contents> contents(Path file) {
        SQLiteConfig config = new SQLiteConfig();
        config.setReadOnly(true);
        config.setOpenMode(SQLiteOpenMode.OPEN_URI);
        SQLiteDataSource source = new SQLiteDataSource(config);
        // Else files for a write-ahead log would be made beside it.
        source.setUrl("jdbc:sqlite:" + file.toUri() + "?immutable=1");
        try (Connection connection = source.getConnection();
                Statement statement = connection.createStatement()) {
            String id = "";
            if (hasTable(statement, "identity")) {
                try (ResultSet row = statement.executeQuery("SELECT id FROM identity")) {
                    id = row.next() ? row.getString(1) : "";
                }
            }
            try (ResultSet row = statement.executeQuery("SELECT MAX(position) FROM event")) {
                return Optional.of(new Contents(id, row.getLong(1)));
            }
        } catch (SQLException e) {
            LOG.debug("{} cannot be read as a log", file, e);
            return Optional.empty();
        }
    }

    private static boolean hasTable(Statement statement, String table) throws SQLException {
        try (ResultSet row =
                statement.executeQuery("SELECT 1 FROM sqlite_master WHERE type = 'table' AND name = '" + table + "'")) {
            return row.next();
        }
    }
}
