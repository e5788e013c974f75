package org.custodia.store;

import java.sql.SQLException;
import java.util.Optional;

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
    String sentenceNotStored(SQLException e) {
        String state = state(e);
        if (is(state, "53100", "58030")) {
            return "The disk of the server that holds " + where
                    + " is full: events are not being stored. Free some space there" + AGAIN;
        }
        if (is(state, "25006")) {
            return subject()
                    + " has become read-only: events are not being stored. Look whether the server is a standby or its disk is full"
                    + AGAIN;
        }
        if (is(state, "42501", "28")) {
            return subject()
                    + " does not let Custodia's user write: events are not being stored. Give the user its rights back"
                    + AGAIN;
        }
        if (is(state, "55P03", "40", "57014")) {
            return "Something keeps " + where + " locked: events are not being stored. Look who works in it" + AGAIN;
        }
        if (is(state, "XX001", "XX002")) {
            return subject()
                    + " is damaged: events are not being stored. Close Custodia and restore the database from a backup"
                    + AGAIN;
        }
        if (connectionIsGone(e) || is(state, "53300")) {
            return "The server of " + where
                    + " is not reached: events are not being stored. Look whether it runs and the network is well"
                    + AGAIN;
        }
        return "Events could not be stored in " + where + ". Look into the messages of the server" + AGAIN;
    }

    @Override
    Optional<String> reasonNotRead(SQLException e) {
        String state = state(e);
        if (is(state, "XX001", "XX002")) {
            return Optional.of("it is damaged. Close Custodia and restore the database from a backup.");
        }
        if (is(state, "42501", "28")) {
            return Optional.of("Custodia's user may not read it. Give the user its rights back.");
        }
        if (connectionIsGone(e) || is(state, "53300") || e instanceof java.sql.SQLTransientConnectionException) {
            return Optional.of("its server is not reached. Look whether it runs and the network is well.");
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
