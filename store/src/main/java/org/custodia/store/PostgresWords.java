package org.custodia.store;

import java.sql.SQLException;
import java.util.Optional;
import org.custodia.core.saying.Saying;

/** Says what is wrong with a log that lies on a server. The codes are those of the SQL standard and of PostgreSQL. */
final class PostgresWords extends StoreWords {
    private final String where;

    /**
     * @param where the database and its server, in words
     */
    PostgresWords(String where) {
        this.where = where;
    }

    @Override
    String subject() {
        return "The log in " + where;
    }

    @Override
    String where() {
        return where;
    }

    @Override
    String whereNotReady() {
        return "Custodia's user must own its schema, or may make one; look also whether the disk of the server is full.";
    }

    private static String state(SQLException e) {
        String state = e.getSQLState();
        return state == null ? "" : state;
    }

    private static boolean is(String state, String... begins) {
        for (String one : begins) {
            if (state.startsWith(one)) {
                return true;
            }
        }
        return false;
    }

    /** Whether the connection is of no use any more. */
    static boolean connectionIsGone(SQLException e) {
        return is(state(e), "08", "57P", "XX000");
    }

    @Override
    boolean blamesSurroundings(SQLException e) {
        // Data, constraints, limits of statements and types: what was to be stored is what stands in the way.
        return !is(state(e), "21", "22", "23", "42804", "42P18", "54");
    }

    @Override
    Saying sayNotStored(SQLException e) {
        return Saying.of("store.not-stored." + notStored(e), where);
    }

    private static String notStored(SQLException e) {
        String state = state(e);
        if (is(state, "53100", "58030")) {
            return "server-full";
        }
        if (is(state, "25006")) {
            return "server-read-only";
        }
        if (is(state, "42501", "28")) {
            return "server-rights";
        }
        if (is(state, "55P03", "40", "57014")) {
            return "server-locked";
        }
        if (is(state, "XX001", "XX002")) {
            return "server-damaged";
        }
        return connectionIsGone(e) || is(state, "53300") ? "server-not-reached" : "server-somehow";
    }

    @Override
    Optional<Saying> sayNotRead(SQLException e) {
        String state = state(e);
        if (is(state, "XX001", "XX002")) {
            return Optional.of(Saying.of("store.not-read.server-damaged", where));
        }
        if (is(state, "42501", "28")) {
            return Optional.of(Saying.of("store.not-read.server-rights", where));
        }
        if (connectionIsGone(e) || is(state, "53300") || e instanceof java.sql.SQLTransientConnectionException) {
            return Optional.of(Saying.of("store.not-read.server-not-reached", where));
        }
        return Optional.empty();
    }

    @Override
    String inWords(SQLException e) {
        String state = state(e);
        if (is(state, "28", "08004")) {
            return "the server does not accept the user or the password";
        }
        if (is(state, "3D")) {
            return "the server has no such database";
        }
        if (is(state, "42501")) {
            return "the user lacks the rights";
        }
        if (is(state, "53300")) {
            return "the server has no connection left";
        }
        if (is(state, "53100")) {
            return "the disk of the server is full";
        }
        if (is(state, "25006")) {
            return "it is read-only";
        }
        if (is(state, "57P03")) {
            return "the server is starting or ending";
        }
        if (is(state, "08")) {
            return "the server is not reached";
        }
        if (is(state, "42", "XX")) {
            return "it is not a log of Custodia, or damaged";
        }
        return "the server refuses (its code " + state + ")";
    }
}
