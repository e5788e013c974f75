package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.sql.SQLException;
import java.sql.SQLTransientConnectionException;
import java.util.Optional;
import java.util.stream.Stream;
import org.custodia.core.saying.Saying;
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
        "53100, server-full",
        "58030, server-full",
        "25006, server-read-only",
        "42501, server-rights",
        "28P01, server-rights",
        "55P03, server-locked",
        "40001, server-locked",
        "40P01, server-locked",
        "57014, server-locked",
        "XX001, server-damaged",
        "XX002, server-damaged",
        "08006, server-not-reached",
        "57P01, server-not-reached",
        "57P03, server-not-reached",
        "XX000, server-not-reached",
        "53300, server-not-reached",
        "22021, server-somehow",
        "none, server-somehow"
    })
    void why_a_server_does_not_store(String state, String code) {
        assertThat(SERVER.sayNotStored(state(state)))
                .isEqualTo(Saying.of("store.not-stored." + code, "custodia on db.example"));
        assertThat(SERVER.notStored(state(state))).isEqualTo(SERVER.sayNotStored(state(state)));
    }

    @ParameterizedTest
    @CsvSource({
        "XX001, server-damaged",
        "XX002, server-damaged",
        "42501, server-rights",
        "28000, server-rights",
        "08003, server-not-reached",
        "57P02, server-not-reached",
        "53300, server-not-reached"
    })
    void why_a_server_is_not_read(String state, String code) {
        Saying said = Saying.of("store.not-read." + code, "custodia on db.example");
        assertThat(SERVER.sayNotRead(state(state))).contains(said);
        assertThat(SERVER.notRead(new DataAccessException("around", state(state))))
                .isEqualTo(said);
    }

    @Test
    void where_only_trying_again_helps_that_is_said() {
        for (String state : new String[] {"22000", "57014", "none"}) {
            assertThat(SERVER.sayNotRead(state(state))).isEmpty();
            assertThat(SERVER.notRead(state(state))).isEqualTo(Saying.of("store.not-read", "custodia on db.example"));
        }
        assertThat(SERVER.sayNotRead(new SQLTransientConnectionException("no connection")))
                .hasValueSatisfying(w -> assertThat(w.code()).isEqualTo("store.not-read.server-not-reached"));
        assertThat(SERVER.notStored(new IllegalStateException("x")))
                .isEqualTo(Saying.of("store.not-stored.own-fault", "custodia on db.example"));
        LogGoneException gone = new LogGoneException(Saying.of("store.gone", "x"));
        assertThat(SERVER.notStored(gone)).isEqualTo(gone.saying());
        assertThat(SERVER.notRead(new IllegalStateException(gone))).isEqualTo(gone.saying());
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
        assertThat(SERVER.ofTheSurroundings(new LogGoneException(Saying.of("store.gone", "x"))))
                .isTrue();
        assertThat(SERVER.whereNotReady()).contains("own its schema");
    }

    @ParameterizedTest
    @CsvSource({
        "SQLITE_FULL, full, the disk is full, -",
        "SQLITE_READONLY, read-only, it is read-only, -",
        "SQLITE_READONLY_DBMOVED, read-only, it is read-only, -",
        "SQLITE_PERM, read-only, it is read-only, -",
        "SQLITE_AUTH, read-only, it is read-only, -",
        "SQLITE_BUSY, locked, another program keeps it locked, locked",
        "SQLITE_BUSY_SNAPSHOT, locked, another program keeps it locked, locked",
        "SQLITE_LOCKED, locked, another program keeps it locked, locked",
        "SQLITE_PROTOCOL, locked, it is not a log of Custodia, -",
        "SQLITE_CORRUPT, damaged, it is damaged, damaged",
        "SQLITE_NOTADB, damaged, it is damaged, damaged",
        "SQLITE_IOERR, disk, the disk does not work as it should, disk",
        "SQLITE_IOERR_READ, disk, the disk does not work as it should, disk",
        "SQLITE_CANTOPEN, disk, it may not be opened, disk",
        "SQLITE_ERROR, somehow, it is not a log of Custodia, -"
    })
    void what_is_said_of_a_file(SQLiteErrorCode code, String stored, String opened, String read) {
        SQLException e = code(code);
        Saying said = FILE.sayNotStored(e);
        assertThat(said.code()).isEqualTo("store.not-stored." + stored);
        assertThat(said.of().get(0).toString()).endsWith("custodia.db");
        assertThat(FILE.inWords(e)).isEqualTo(opened);
        Optional<Saying> reason = FILE.sayNotRead(e);
        if (read.equals("-")) {
            assertThat(reason).isEmpty();
        } else {
            assertThat(reason.orElseThrow().code()).isEqualTo("store.not-read." + read);
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
