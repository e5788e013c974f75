package org.custodia.store;

import java.nio.file.Path;
import java.sql.SQLException;
import java.util.Optional;
import org.sqlite.SQLiteErrorCode;
import org.sqlite.SQLiteException;

/** Says what is wrong with a log that lies in a file. */
final class SqliteWords extends StoreWords {
    private final Path file;

    SqliteWords(Path file) {
        this.file = file;
    }

    @Override
    String subject() {
        return "The log " + file;
    }

    @Override
    String whereNotReady() {
        return "If the disk is full, free some space; if the file is damaged, restore it from a backup or move it away.";
    }

    /** What sort of failure it is, whatever its finer code. */
    private static SQLiteErrorCode code(SQLException e) {
        if (!(e instanceof SQLiteException sqlite)) {
            return SQLiteErrorCode.UNKNOWN_ERROR;
        }
        return SQLiteErrorCode.getErrorCode(sqlite.getResultCode().code & 0xff);
    }

    @Override
    boolean blamesSurroundings(SQLException sql) {
        return switch (code(sql)) {
            case SQLITE_CONSTRAINT, SQLITE_TOOBIG, SQLITE_MISMATCH, SQLITE_RANGE -> false;
            default -> true;
        };
    }

    @Override
    String where() {
        return file.toString();
    }

    @Override
    String sentenceNotStored(SQLException sql) {
        return switch (code(sql)) {
            case SQLITE_FULL ->
                "The disk that holds " + file + " is full: events are not being stored. Free some space" + AGAIN;
            case SQLITE_READONLY, SQLITE_PERM, SQLITE_AUTH ->
                "The log " + file + " has become read-only: events are not being stored. Make it writable" + AGAIN;
            case SQLITE_BUSY, SQLITE_LOCKED, SQLITE_PROTOCOL ->
                "Another program keeps the log " + file + " locked: events are not being stored. Close that program"
                        + AGAIN;
            case SQLITE_CORRUPT, SQLITE_NOTADB ->
                "The log " + file
                        + " is damaged: events are not being stored. Close Custodia and restore the data directory from a backup"
                        + AGAIN;
            case SQLITE_IOERR, SQLITE_CANTOPEN ->
                "The disk that holds " + file
                        + " does not work as it should: events are not being stored. Look at the disk" + AGAIN;
            default ->
                "Events could not be stored in " + file + ". Look whether the disk is full or the file is writable"
                        + AGAIN;
        };
    }

    @Override
    Optional<String> reasonNotRead(SQLException sql) {
        return switch (code(sql)) {
            case SQLITE_CORRUPT, SQLITE_NOTADB ->
                Optional.of("it is damaged. Close Custodia and restore the data directory from a backup.");
            case SQLITE_BUSY, SQLITE_LOCKED -> Optional.of("another program keeps it locked. Close that program.");
            case SQLITE_IOERR, SQLITE_CANTOPEN -> Optional.of("the disk does not work as it should. Look at the disk.");
            default -> Optional.empty();
        };
    }

    @Override
    String inWords(SQLException e) {
        return switch (code(e)) {
            case SQLITE_CORRUPT, SQLITE_NOTADB -> "it is damaged";
            case SQLITE_READONLY, SQLITE_PERM, SQLITE_AUTH -> "it is read-only";
            case SQLITE_FULL -> "the disk is full";
            case SQLITE_BUSY, SQLITE_LOCKED -> "another program keeps it locked";
            case SQLITE_CANTOPEN -> "it may not be opened";
            case SQLITE_IOERR -> "the disk does not work as it should";
            default -> "it is not a log of Custodia";
        };
    }
}
