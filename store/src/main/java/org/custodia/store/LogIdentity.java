package org.custodia.store;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;

/** Remembers in the data directory which log belongs to it, so that one that is gone is not begun anew in silence. */
final class LogIdentity {
    private final Path file;
    private final Path note;
    private final Path settings;

    LogIdentity(Path directory, Path file) {
        this.file = file;
        this.note = directory.resolve("log-id");
        this.settings = directory.resolve("settings.json");
    }

    /**
     * Makes sure that there is a log where there was one.
     *
     * @throws DataDirectoryException if it is gone or empty while other things of ours are there
     */
    void nothingIsGone() {
        if (size(file) > 0) {
            return;
        }
        boolean ours = Files.exists(note)
                || Files.exists(settings)
                || size(file.resolveSibling(file.getFileName() + "-wal")) > 0;
        if (ours) {
            throw new DataDirectoryException(
                    "The log " + file + (Files.exists(file) ? " has been cut to nothing" : " is gone")
                            + ", while other things of Custodia are still in its directory. Restore it from a backup; to begin with an empty log, choose another directory with --data.",
                    null);
        }
    }

    private static long size(Path path) {
        try {
            return Files.size(path);
        } catch (IOException e) {
            return 0;
        }
    }

    /**
     * Compares the log with the one that was here last.
     *
     * @throws DataDirectoryException if it is another
     */
    void check(Connection connection) throws SQLException {
        String id;
        try (Statement statement = connection.createStatement();
                ResultSet row = statement.executeQuery("SELECT id FROM identity")) {
            id = row.next() ? row.getString(1) : "";
        }
        try {
            if (!Files.exists(note)) {
                Files.writeString(note, id, StandardCharsets.UTF_8);
                return;
            }
            String noted = Files.readString(note, StandardCharsets.UTF_8).trim();
            if (!noted.isEmpty() && !noted.equals(id)) {
                throw new DataDirectoryException(
                        "The log " + file
                                + " is not the one that belongs to its directory. Put the right one back; if this one is to be used here from now on, remove the file "
                                + note + ".",
                        null);
            }
        } catch (IOException e) {
            throw new DataDirectoryException(
                    "The file " + note + " could not be read or written. Make the data directory writable.", e);
        }
    }
}
