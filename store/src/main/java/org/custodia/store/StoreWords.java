package org.custodia.store;

import java.nio.file.Path;
import java.sql.SQLException;
import org.sqlite.SQLiteErrorCode;
import org.sqlite.SQLiteException;

/** Says what is wrong with the log in words of our own. */
final class StoreWords {
    private static final String AGAIN = "; the systems deliver again what is missing.";

    private StoreWords() {}

    /** What sort of failure it is, whatever its finer code. */
    private static SQLiteErrorCode code(SQLException e) {
        if (!(e instanceof SQLiteException sqlite)) {
            return SQLiteErrorCode.UNKNOWN_ERROR;
        }
        return SQLiteErrorCode.getErrorCode(sqlite.getResultCode().code & 0xff);
    }

    /** Whether it lies at the disk, the file or another program, and not at what was to be stored. */
    static boolean ofTheSurroundings(Throwable e) {
        if (e instanceof LogGoneException) {
            return true;
        }
        if (!(e instanceof SQLException sql)) {
            return false;
        }
        return switch (code(sql)) {
            case SQLITE_CONSTRAINT, SQLITE_TOOBIG, SQLITE_MISMATCH, SQLITE_RANGE -> false;
            default -> true;
        };
    }

    /** Why events are not being stored, and what to do. */
    static String notStored(Throwable e, Path file) {
        if (e instanceof LogGoneException) {
            return e.getMessage();
        }
        if (!(e instanceof SQLException sql)) {
            return "Events could not be stored in " + file + " because of an error in Custodia itself. Start it anew"
                    + AGAIN;
        }
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

    /** Why a question was not answered, and what to do. */
    static String notRead(Throwable e, Path file) {
        Throwable cause = e;
        while (cause != null && !(cause instanceof SQLException)) {
            cause = cause.getCause();
        }
        String what = "The log " + file + " could not be read";
        if (cause instanceof SQLException sql) {
            return switch (code(sql)) {
                case SQLITE_CORRUPT, SQLITE_NOTADB ->
                    what + ": it is damaged. Close Custodia and restore the data directory from a backup.";
                case SQLITE_BUSY, SQLITE_LOCKED -> what + ": another program keeps it locked. Close that program.";
                case SQLITE_IOERR, SQLITE_CANTOPEN -> what + ": the disk does not work as it should. Look at the disk.";
                default -> what + ". Try again; if it stays so, start Custodia anew.";
            };
        }
        return what + ". Try again; if it stays so, start Custodia anew.";
    }

    /** A word or two for why the log could not be opened. */
    static String inWords(SQLException e) {
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
