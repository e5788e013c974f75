package org.custodia.store;

import java.nio.file.Path;
import java.sql.SQLException;
import java.util.Optional;
import org.custodia.core.saying.Saying;
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
    Saying sayNotStored(SQLException sql) {
        String code =
                switch (code(sql)) {
                    case SQLITE_FULL -> "full";
                    case SQLITE_READONLY, SQLITE_PERM, SQLITE_AUTH -> "read-only";
                    case SQLITE_BUSY, SQLITE_LOCKED, SQLITE_PROTOCOL -> "locked";
                    case SQLITE_CORRUPT, SQLITE_NOTADB -> "damaged";
                    case SQLITE_IOERR, SQLITE_CANTOPEN -> "disk";
                    default -> "somehow";
                };
        return Saying.of("store.not-stored." + code, where());
    }

    @Override
    Optional<Saying> sayNotRead(SQLException sql) {
        Optional<String> code =
                switch (code(sql)) {
                    case SQLITE_CORRUPT, SQLITE_NOTADB -> Optional.of("damaged");
                    case SQLITE_BUSY, SQLITE_LOCKED -> Optional.of("locked");
                    case SQLITE_IOERR, SQLITE_CANTOPEN -> Optional.of("disk");
                    default -> Optional.empty();
                };
        return code.map(c -> Saying.of("store.not-read." + c, where()));
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
