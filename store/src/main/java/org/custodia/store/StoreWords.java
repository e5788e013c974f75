package org.custodia.store;

import java.sql.SQLException;
import java.util.Optional;
import org.custodia.core.saying.Saying;

/** Says what is wrong with the log in words of our own. */
abstract class StoreWords {
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
    abstract Saying sayNotStored(SQLException e);

    /** Why a question was not answered, and what to do; nothing where only trying again helps. */
    abstract Optional<Saying> sayNotRead(SQLException e);

    /** The same for whatever went wrong. */
    final boolean ofTheSurroundings(Throwable e) {
        return e instanceof LogGoneException || e instanceof SQLException sql && blamesSurroundings(sql);
    }

    /** The same for whatever went wrong. */
    final Saying notStored(Throwable e) {
        if (e instanceof LogGoneException gone) {
            return gone.saying();
        }
        return e instanceof SQLException sql ? sayNotStored(sql) : Saying.of("store.not-stored.own-fault", where());
    }

    /** The same for whatever went wrong. */
    final Saying notRead(Throwable e) {
        for (Throwable cause = e; cause != null; cause = cause.getCause()) {
            if (cause instanceof LogGoneException gone) {
                return gone.saying();
            }
            Optional<Saying> why = cause instanceof SQLException sql ? sayNotRead(sql) : Optional.empty();
            if (why.isPresent()) {
                return why.get();
            }
        }
        return Saying.of("store.not-read", where());
    }
}
