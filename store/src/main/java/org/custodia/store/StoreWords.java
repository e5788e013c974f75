package org.custodia.store;

import java.sql.SQLException;
import java.util.Optional;

/** Says what is wrong with the log in words of our own. */
abstract class StoreWords {
    static final String AGAIN = "; the systems deliver again what is missing.";

    /** The log, as a sentence begins with it. */
    abstract String subject();

    /** Where it lies. */
    abstract String where();

    /** What to do where its tables could not be made ready. */
    abstract String whereNotReady();

    /** A word or two for why the log could not be opened. */
    abstract String inWords(SQLException e);

    /** Whether it lies at the disk, the file or another program, and not at what was to be stored. */
    abstract boolean blamesSurroundings(SQLException e);

    /** Why events are not being stored, and what to do. */
    abstract String sentenceNotStored(SQLException e);

    /** Why a question was not answered, and what to do; nothing where only trying again helps. */
    abstract Optional<String> reasonNotRead(SQLException e);

    /** The same for whatever went wrong. */
    final boolean ofTheSurroundings(Throwable e) {
        return e instanceof LogGoneException || e instanceof SQLException sql && blamesSurroundings(sql);
    }

    /** The same for whatever went wrong. */
    final String notStored(Throwable e) {
        if (e instanceof LogGoneException) {
            return e.getMessage();
        }
        return e instanceof SQLException sql
                ? sentenceNotStored(sql)
                : "Events could not be stored in " + where() + " because of an error in Custodia itself. Start it anew"
                        + AGAIN;
    }

    /** The same for whatever went wrong. */
    final String notRead(Throwable e) {
        Optional<String> why = Optional.empty();
        for (Throwable cause = e; cause != null && why.isEmpty(); cause = cause.getCause()) {
            if (cause instanceof LogGoneException) {
                return cause.getMessage();
            }
            why = cause instanceof SQLException sql ? reasonNotRead(sql) : Optional.empty();
        }
        return subject() + " could not be read"
                + why.map(w -> ": " + w).orElse(". Try again; if it stays so, start Custodia anew.");
    }
}
