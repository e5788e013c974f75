package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.sql.SQLException;
import java.sql.SQLTransientConnectionException;
import java.util.Optional;
import java.util.stream.Stream;
import org.jooq.exception.DataAccessException;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;
import org.sqlite.SQLiteErrorCode;
import org.sqlite.SQLiteException;

/** What is said of each failure of a file or a server, and whether it lies at them or at what was to be stored. */
class WordsForFailuresTest {
    private static final PostgresWords SERVER = new PostgresWords("custodia on db.example");
    private static final SqliteWords FILE = new SqliteWords(Path.of("data", "custodia.db"));

    private static SQLException state(String state) {
        return new SQLException("English of the server", "none".equals(state) ? null : state);
    }

    private static SQLException code(SQLiteErrorCode code) {
        return new SQLiteException("English of the library", code);
    }

    @ParameterizedTest
    @CsvSource({
        "53100, is full",
        "58030, is full",
        "25006, has become read-only",
        "42501, does not let Custodia's user write",
        "28P01, does not let Custodia's user write",
        "55P03, locked",
        "40001, locked",
        "40P01, locked",
        "57014, locked",
        "XX001, is damaged",
        "XX002, is damaged",
        "08006, is not reached",
        "57P01, is not reached",
        "57P03, is not reached",
        "XX000, is not reached",
        "53300, is not reached",
        "22021, Look into the messages of the server",
        "none, Look into the messages of the server"
    })
    void why_a_server_does_not_store(String state, String words) {
        assertThat(SERVER.sentenceNotStored(state(state)))
                .contains(words, "custodia on db.example")
                .endsWith(StoreWords.AGAIN)
                .doesNotContain("English");
        assertThat(SERVER.notStored(state(state))).isEqualTo(SERVER.sentenceNotStored(state(state)));
    }

    @ParameterizedTest
    @CsvSource({
        "XX001, it is damaged",
        "XX002, it is damaged",
        "42501, may not read it",
        "28000, may not read it",
        "08003, its server is not reached",
        "57P02, its server is not reached",
        "53300, its server is not reached"
    })
    void why_a_server_is_not_read(String state, String words) {
        assertThat(SERVER.reasonNotRead(state(state)).orElseThrow()).contains(words);
        assertThat(SERVER.notRead(new DataAccessException("around", state(state))))
                .startsWith("The log in custodia on db.example could not be read: ")
                .contains(words);
    }

    @Test
    void where_only_trying_again_helps_that_is_said() {
        for (String state : new String[] {"22000", "57014", "none"}) {
            assertThat(SERVER.reasonNotRead(state(state))).isEmpty();
            assertThat(SERVER.notRead(state(state))).endsWith("Try again; if it stays so, start Custodia anew.");
        }
        assertThat(SERVER.reasonNotRead(new SQLTransientConnectionException("no connection")))
                .hasValueSatisfying(w -> assertThat(w).contains("not reached"));
        assertThat(SERVER.notStored(new IllegalStateException("x")))
                .isEqualTo(
                        "Events could not be stored in custodia on db.example because of an error in Custodia itself. "
                                + "Start it anew" + StoreWords.AGAIN);
        LogGoneException gone = new LogGoneException("It is gone.");
        assertThat(SERVER.notStored(gone)).isEqualTo("It is gone.");
        assertThat(SERVER.notRead(new IllegalStateException(gone))).isEqualTo("It is gone.");
    }

    @ParameterizedTest
    @CsvSource({
        "28P01, the server does not accept the user or the password",
        "08004, the server does not accept the user or the password",
        "3D000, the server has no such database",
        "42501, the user lacks the rights",
        "53300, the server has no connection left",
        "53100, the disk of the server is full",
        "25006, it is read-only",
        "57P03, the server is starting or ending",
        "08001, the server is not reached",
        "42P01, 'it is not a log of Custodia, or damaged'",
        "XX001, 'it is not a log of Custodia, or damaged'",
        "22000, the server refuses (its code 22000)",
        "none, the server refuses (its code )"
    })
    void why_a_server_cannot_be_opened(String state, String words) {
        assertThat(SERVER.inWords(state(state))).isEqualTo(words);
    }

    @ParameterizedTest
    @ValueSource(strings = {"21000", "22021", "23505", "42804", "42P18", "54000"})
    void what_a_server_blames_on_what_was_to_be_stored(String state) {
        assertThat(SERVER.blamesSurroundings(state(state))).isFalse();
        assertThat(SERVER.ofTheSurroundings(state(state))).isFalse();
        assertThat(PostgresWords.connectionIsGone(state(state))).isFalse();
    }

    @ParameterizedTest
    @ValueSource(strings = {"08006", "53100", "57P01", "XX000", "42501", "none"})
    void what_a_server_blames_on_itself(String state) {
        assertThat(SERVER.blamesSurroundings(state(state))).isTrue();
        assertThat(SERVER.ofTheSurroundings(state(state))).isTrue();
    }

    @Test
    void a_connection_that_is_gone_is_told_from_one_that_refuses() {
        for (String state : new String[] {"08000", "08006", "57P01", "57P02", "57P03", "XX000"}) {
            assertThat(PostgresWords.connectionIsGone(state(state))).as(state).isTrue();
        }
        for (String state : new String[] {"57014", "53300", "XX001", "0A000", "none"}) {
            assertThat(PostgresWords.connectionIsGone(state(state))).as(state).isFalse();
        }
        assertThat(SERVER.ofTheSurroundings(new IllegalStateException())).isFalse();
        assertThat(SERVER.ofTheSurroundings(new LogGoneException("gone"))).isTrue();
        assertThat(SERVER.whereNotReady()).contains("own its schema");
    }

    @ParameterizedTest
    @CsvSource({
        "SQLITE_FULL, is full, the disk is full, -",
        "SQLITE_READONLY, has become read-only, it is read-only, -",
        "SQLITE_READONLY_DBMOVED, has become read-only, it is read-only, -",
        "SQLITE_PERM, has become read-only, it is read-only, -",
        "SQLITE_AUTH, has become read-only, it is read-only, -",
        "SQLITE_BUSY, Another program, another program keeps it locked, another program",
        "SQLITE_BUSY_SNAPSHOT, Another program, another program keeps it locked, another program",
        "SQLITE_LOCKED, Another program, another program keeps it locked, another program",
        "SQLITE_PROTOCOL, Another program, it is not a log of Custodia, -",
        "SQLITE_CORRUPT, is damaged, it is damaged, it is damaged",
        "SQLITE_NOTADB, is damaged, it is damaged, it is damaged",
        "SQLITE_IOERR, does not work, the disk does not work as it should, the disk does not work",
        "SQLITE_IOERR_READ, does not work, the disk does not work as it should, the disk does not work",
        "SQLITE_CANTOPEN, does not work, it may not be opened, the disk does not work",
        "SQLITE_ERROR, Look whether the disk is full, it is not a log of Custodia, -"
    })
    void what_is_said_of_a_file(SQLiteErrorCode code, String stored, String opened, String read) {
        SQLException e = code(code);
        assertThat(FILE.sentenceNotStored(e))
                .contains(stored, "custodia.db")
                .endsWith(StoreWords.AGAIN)
                .doesNotContain("English");
        assertThat(FILE.inWords(e)).isEqualTo(opened);
        Optional<String> reason = FILE.reasonNotRead(e);
        if (read.equals("-")) {
            assertThat(reason).isEmpty();
        } else {
            assertThat(reason.orElseThrow()).contains(read);
        }
        assertThat(FILE.blamesSurroundings(e)).isTrue();
    }

    @Test
    void what_a_file_does_not_take_is_not_blamed_on_it() {
        Stream.of(
                        SQLiteErrorCode.SQLITE_CONSTRAINT,
                        SQLiteErrorCode.SQLITE_CONSTRAINT_UNIQUE,
                        SQLiteErrorCode.SQLITE_TOOBIG,
                        SQLiteErrorCode.SQLITE_MISMATCH,
                        SQLiteErrorCode.SQLITE_RANGE)
                .forEach(c -> assertThat(FILE.blamesSurroundings(code(c)))
                        .as(c.name())
                        .isFalse());
        assertThat(FILE.blamesSurroundings(new SQLException("of no library"))).isTrue();
        assertThat(FILE.inWords(new SQLException("of no library"))).isEqualTo("it is not a log of Custodia");
        assertThat(FILE.whereNotReady()).contains("free some space");
    }
}
