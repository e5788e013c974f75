package org.custodia.store;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;
import java.util.Optional;

/**
 * Remembers in the data directory which log belongs to it, and where that is, so that one that is gone is not begun anew in
 * silence and one is not taken for another.
 */
final class LogIdentity {
    private final Path note;
    private final String subject;
    private final Optional<String> server;

    private LogIdentity(Path directory, String subject, Optional<String> server) {
        this.note = directory.resolve("log-id");
        this.subject = subject;
        this.server = server;
    }

    /**
     * Of a log in a file.
     *
     * @throws DataDirectoryException if it is gone or empty while other things of ours are there, or the directory's log is on
     *     a server
     */
    static LogIdentity ofFile(Path directory, Path file) {
        LogIdentity identity = ofFileAsItWas(directory, file);
        identity.notedServer().ifPresent(s -> {
            throw new DataDirectoryException(
                    "The data directory " + directory + " belongs to the log in " + s
                            + ". Name that with --database, or choose another directory with --data.",
                    null);
        });
        if (size(file) > 0) {
            return identity;
        }
        boolean ours = Files.exists(identity.note)
                || Files.exists(directory.resolve("settings.json"))
                || size(file.resolveSibling(file.getFileName() + "-wal")) > 0;
        if (ours) {
            throw new DataDirectoryException(
                    "The log " + file + (Files.exists(file) ? " has been cut to nothing" : " is gone")
                            + ", while other things of Custodia are still in its directory. Restore it from a backup; to begin with an empty log, choose another directory with --data.",
                    null);
        }
        return identity;
    }

    /** Of a log in a file that is put back to where it was. */
    static LogIdentity ofFileAsItWas(Path directory, Path file) {
        return new LogIdentity(directory, "The log " + file, Optional.empty());
    }

    /**
     * Of a log on a server.
     *
     * @param server where it is, in words
     * @throws DataDirectoryException if the directory has a log of its own
     */
    static LogIdentity ofServer(Path directory, String server) {
        LogIdentity identity = new LogIdentity(directory, "The log in " + server, Optional.of(server));
        Path file = directory.resolve("custodia.db");
        if (size(file) > 0
                || Files.exists(identity.note) && identity.notedServer().isEmpty()) {
            throw new DataDirectoryException(
                    "The data directory " + directory
                            + " has a log of its own, which would be left behind. Start without --database, or choose another directory with --data.",
                    null);
        }
        return identity;
    }

    private static long size(Path path) {
        try {
            return Files.size(path);
        } catch (IOException e) {
            return 0;
        }
    }

    private List<String> noted() {
        try {
            return Files.exists(note) ? Files.readAllLines(note, StandardCharsets.UTF_8) : List.of();
        } catch (IOException e) {
            throw unusable(e);
        }
    }

    private DataDirectoryException unusable(IOException e) {
        return new DataDirectoryException(
                "The file " + note + " could not be read or written. Make the data directory writable.", e);
    }

    private Optional<String> notedServer() {
        return noted().stream()
                .skip(1)
                .map(String::trim)
                .filter(s -> !s.isEmpty())
                .findFirst();
    }

    /** The log that belongs to the directory; nothing while none does. */
    Optional<String> id() {
        return noted().stream().findFirst().map(String::trim).filter(s -> !s.isEmpty());
    }

    /**
     * Compares the log with the one that was here last.
     *
     * @throws DataDirectoryException if it is another
     */
    void check(Connection connection) throws SQLException {
        String id = idOf(connection);
        Optional<String> noted = id();
        if (noted.isEmpty()) {
            note(connection);
        } else if (!noted.get().equals(id)) {
            throw new DataDirectoryException(
                    subject
                            + " is not the one that belongs to its directory. Put the right one back; if this one is to be used here from now on, remove the file "
                            + note + ".",
                    null);
        }
    }

    private void note(Connection connection) throws SQLException {
        try {
            Files.writeString(
                    note, idOf(connection) + server.map(s -> "\n" + s + "\n").orElse(""), StandardCharsets.UTF_8);
        } catch (IOException e) {
            throw unusable(e);
        }
    }

    /** What a log calls itself. */
    static String idOf(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement();
                ResultSet row = statement.executeQuery("SELECT id FROM identity")) {
            return row.next() ? row.getString(1) : "";
        }
    }
}
