package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Random;
import java.util.concurrent.CompletionException;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventQuery;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SystemId;
import org.flywaydb.core.Flyway;
import org.flywaydb.core.api.configuration.Configuration;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.postgresql.ds.PGSimpleDataSource;

/** What can go wrong with a log because it lies on a server. */
class PostgresDatabaseTest {
    @TempDir
    Path path;

    private final String schema =
            "server_" + Integer.toHexString(System.identityHashCode(this)) + "_" + Long.toHexString(System.nanoTime());
    private final List<AutoCloseable> open = new ArrayList<>();

    @AfterEach
    void close() throws Exception {
        for (int i = open.size() - 1; i >= 0; i--) {
            open.get(i).close();
        }
    }

    @BeforeEach
    void user() {
        TestServer.execute("CREATE ROLE " + schema + " LOGIN SUPERUSER");
    }

    /** A log with a user of its own, so that other tests on the server are not meant. */
    private ServerAddress address(int port) {
        TestServer.execute("CREATE SCHEMA IF NOT EXISTS " + schema);
        // Each statement as a text, so that a proxy can tell them apart.
        return TestServer.as(schema, port, "postgres", "&preferQueryMode=simple&currentSchema=" + schema);
    }

    private StoreFixture store(String directory, ServerAddress address) {
        StoreFixture store = new StoreFixture(path.resolve(directory), Optional.of(address));
        open.add(store);
        return store;
    }

    private StoreFixture store() {
        return store("data", address(TestServer.port()));
    }

    private void refused(String directory, ServerAddress address, String... words) {
        assertThatThrownBy(() -> store(directory, address))
                .isInstanceOf(DataDirectoryException.class)
                .hasMessageContainingAll(words);
    }

    private CutProxy proxy() throws IOException {
        CutProxy proxy = new CutProxy(TestServer.port());
        open.add(proxy);
        return proxy;
    }

    private static void storedOnce(StoreFixture store, int events) {
        assertThat(store.log.find(EventQuery.all().newest(events + 100)))
                .extracting(e -> e.key().sequence())
                .doesNotHaveDuplicates()
                .hasSize(events);
        assertThat(store.intake.coverage(StoreFixture.SYSTEM, 1).settled()).isEqualTo(events);
    }

    /** All that is stored was published, in the order of its positions, once. */
    private static void publishedOnce(StoreFixture store, int events) {
        StoreFixture.await().until(() -> store.published.size() >= events);
        assertThat(store.published).isEqualTo(store.log.storedAfter(0, events + 100));
    }

    // ---- addresses

    @Test
    void an_address_is_understood_or_refused_in_words() {
        Optional<String> none = Optional.empty();
        assertThat(ServerAddress.of("jdbc:postgresql://db.example:5433/custodia?user=custodia", none))
                .hasToString("the database custodia on db.example:5433");
        assertThat(ServerAddress.of("jdbc:postgresql:custodia", none))
                .hasToString("the database custodia on localhost:5432");
        assertThat(ServerAddress.of("jdbc:postgresql://h/custodia", Optional.of("open sesame")))
                .asString()
                .doesNotContain("sesame");
        for (String odd : List.of(
                "jdbc:postgresql://h/c?password=secret",
                "jdbc:postgresql://h/c?sslpassword=secret",
                "jdbc:postgresql://custodia:secret@h/c")) {
            assertThatThrownBy(() -> ServerAddress.of(odd, none))
                    .isInstanceOf(IllegalArgumentException.class)
                    .hasMessageContaining("must not hold the password")
                    .hasMessageContaining(ServerAddress.PASSWORD)
                    .hasMessageNotContaining("secret");
        }
        for (String odd : List.of("", "custodia", "jdbc:sqlite:/x", "jdbc:postgresql://h:port/c")) {
            assertThatThrownBy(() -> ServerAddress.of(odd, none))
                    .isInstanceOf(IllegalArgumentException.class)
                    .hasMessageContaining("looks like jdbc:postgresql://");
        }
    }

    @Test
    void what_cannot_be_opened_is_said() throws IOException {
        CutProxy away = proxy();
        away.goAway();
        refused("a", TestServer.at(away.port(), "postgres", ""), "could not be opened: the server is not reached");
        refused("b", TestServer.at(TestServer.port(), "nowhere", ""), "the server has no such database");
        TestServer.execute("CREATE DATABASE " + schema + " ENCODING 'SQL_ASCII' TEMPLATE template0 LOCALE 'C'");
        refused("c", TestServer.at(TestServer.port(), schema, ""), "the encoding SQL_ASCII", "UTF8");
        refused("d", TestServer.at(TestServer.port(), "postgres", "&currentSchema=missing_one"), "has no schema");
        String limited = schema + "_limited";
        TestServer.execute("CREATE ROLE " + limited + " LOGIN");
        address(TestServer.port());
        TestServer.execute("GRANT USAGE ON SCHEMA " + schema + " TO " + limited);
        refused(
                "e",
                TestServer.as(limited, TestServer.port(), "postgres", "&currentSchema=" + schema),
                "could not be made ready: the user lacks the rights",
                "must own its schema");
    }

    /** Whatever the address says beside the server: the connection that migrates has its name and its limits. */
    @ParameterizedTest
    @ValueSource(strings = {"", "&options=-c%20geqo=off"})
    void the_connection_that_migrates_is_named_and_does_not_wait_for_ever(String more) throws SQLException {
        ServerAddress address = TestServer.at(TestServer.port(), "postgres", more);
        PGSimpleDataSource source =
                PostgresDatabase.source(address, "Custodia prepares", 3_600, "-c lock_timeout=60000");
        Configuration flyway = PostgresDatabase.preparing(address, source).apply(Flyway.configure());
        try (Connection connection = flyway.getDataSource().getConnection();
                Statement statement = connection.createStatement();
                ResultSet row = statement.executeQuery(
                        "SELECT current_setting('lock_timeout'), current_setting('application_name')")) {
            assertThat(row.next()).isTrue();
            assertThat(row.getString(1)).isEqualTo("1min");
            assertThat(row.getString(2)).isEqualTo("Custodia prepares");
        }
    }

    @Test
    void a_log_of_a_newer_custodia_is_left_alone() {
        store().close();
        open.clear();
        TestServer.execute("INSERT INTO " + schema
                + ".flyway_schema_history SELECT 9, '900', 'later', 'SQL', 'V900__later.sql', 1, 'x', now(), 1, true");
        refused("data", address(TestServer.port()), "written by a newer Custodia", "its version 900");
    }

    /** What a log of before holds is the same after its rows were made narrow. */
    @Test
    void a_log_of_before_keeps_its_events() throws Exception {
        ServerAddress address = address(TestServer.port());
        new LogSchema(
                        Dialect.POSTGRESQL,
                        PostgresDatabase.source(address, "an older one", 60, ""),
                        new PostgresWords(address.toString()))
                .migrate("8");
        TestServer.execute("INSERT INTO " + schema + ".origin VALUES (1, 'o', 'tidewater', 1, 1000000)");
        TestServer.execute("INSERT INTO " + schema + ".occasion (id, content, system, sent_kind, kind, door)"
                + " VALUES (1, 'c', 'tidewater', 'door.opened', 'door.opened', 'tidewater/vault')");
        TestServer.execute("INSERT INTO " + schema + ".bearer VALUES (1, 'b', 'tidewater/ana', '20144')");
        TestServer.execute("INSERT INTO " + schema
                + ".event (position, origin, sequence, time, received, ahead, device, occasion, bearer, late)"
                + " VALUES (7, 1, 12, 1000000, 500, 20, 3, 1, 1, 1)");
        TestServer.execute("INSERT INTO " + schema + ".log_mark VALUES ('messages', 7)");
        StoreFixture store = store();
        assertThat(store.log.find(EventQuery.all().newest(5))).singleElement().satisfies(e -> {
            assertThat(e.position()).isEqualTo(7);
            assertThat(e.key()).isEqualTo(new EventKey(new SystemId("tidewater"), 1, 12));
            assertThat(e.person()).contains(new PersonId("tidewater/ana"));
            assertThat(e.door()).contains(new DoorId("tidewater/vault"));
            assertThat(e.late()).isTrue();
        });
    }

    // ---- one writes

    @Test
    void one_program_writes_and_the_other_is_told_who() throws Exception {
        StoreFixture first = store();
        first.accept(StoreFixture.events(1, 5), false).join();
        refused(
                "other",
                address(TestServer.port()),
                "store.another-writes-since",
                "process " + ProcessHandle.current().pid() + " on ",
                " t20");
        first.close();
        open.clear();
        StoreFixture second = store("other", address(TestServer.port()));
        storedOnce(second, 5);
        // Another log on the same server is another matter.
        StoreFixture apart = store("third", TestServer.fresh());
        storedOnce(apart, 0);
    }

    @Test
    void a_directory_and_its_log_belong_together() throws IOException {
        store().close();
        open.clear();
        assertThatThrownBy(() -> new StoreFixture(path.resolve("data")))
                .isInstanceOf(DataDirectoryException.class)
                .hasMessageContaining("belongs to the log in the database postgres on localhost:")
                .hasMessageContaining("--database");
        refused("data", TestServer.fresh(), "There is no log in", "belongs to the data directory");
        StoreFixture elsewhere = store("elsewhere", TestServer.fresh());
        elsewhere.close();
        Files.copy(
                path.resolve("elsewhere/log-id"),
                path.resolve("data/log-id"),
                java.nio.file.StandardCopyOption.REPLACE_EXISTING);
        open.clear();
        refused("data", address(TestServer.port()), "is not the one that belongs to its directory");
        new StoreFixture(path.resolve("file")).close();
        refused("file", address(TestServer.port()), "has a log of its own", "Start without --database");
    }

    // ---- a connection that is lost

    @Test
    void the_server_may_end_connections_at_any_time() {
        StoreFixture store = store();
        Random random = new Random(5);
        int events = 0;
        for (int round = 0; round < 12; round++) {
            List<Event> more = StoreFixture.events(events + 1, events + 40 + random.nextInt(400));
            events += more.size();
            var answer = store.accept(more, round % 2 == 0);
            if (random.nextInt(4) > 0) {
                endAll(random.nextBoolean());
            }
            try {
                answer.join();
            } catch (CompletionException e) {
                assertThat(e.getCause().getMessage()).startsWith("store.not-stored.server-not-reached");
                deliverAgain(store, more);
            }
        }
        storedOnce(store, events);
        publishedOnce(store, events);
        assertThat(store.intake.trouble()).isEmpty();
    }

    private static void deliverAgain(StoreFixture store, List<Event> events) {
        StoreFixture.await().ignoreExceptions().until(() -> {
            store.accept(events, true).join();
            return true;
        });
    }

    /** Ends the connections that work in the schema, as an administrator can. */
    private void endAll(boolean writersOnly) {
        TestServer.execute(
                "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE application_name LIKE 'Custodia%' AND usename = '"
                        + schema + "'" + (writersOnly ? " AND application_name NOT LIKE '%reads'" : ""));
    }

    @Test
    void what_was_committed_without_an_answer_is_there_once_and_is_published() throws IOException {
        CutProxy proxy = proxy();
        StoreFixture store = store("data", address(proxy.port()));
        store.accept(StoreFixture.events(1, 10), false).join();
        proxy.cut(CutProxy.Cut.ANSWER_TO_COMMIT);
        assertThat(store.accept(StoreFixture.events(11, 30), false)).failsWithin(Duration.ofSeconds(60));
        assertThat(store.published).hasSize(10);
        // It says so by itself, whether anything else comes or not.
        publishedOnce(store, 30);
        deliverAgain(store, StoreFixture.events(11, 30));
        deliverAgain(store, StoreFixture.events(31, 33));
        storedOnce(store, 33);
        publishedOnce(store, 33);
    }

    @Test
    void what_is_left_of_a_lost_connection_does_not_stand_in_the_way() throws IOException {
        CutProxy proxy = proxy();
        StoreFixture store = store("data", address(proxy.port()));
        store.accept(StoreFixture.events(1, 10), false).join();
        // The server keeps the half of a connection that nobody has any more, and its lock with it.
        proxy.cut(CutProxy.Cut.PROGRAM_ONLY);
        assertThat(store.accept(StoreFixture.events(11, 20), false)).failsWithin(Duration.ofSeconds(60));
        deliverAgain(store, StoreFixture.events(11, 20));
        storedOnce(store, 20);
        publishedOnce(store, 20);
    }

    @Test
    void a_server_that_is_away_is_said_to_be_and_comes_back() throws IOException {
        CutProxy proxy = proxy();
        StoreFixture store = store("data", address(proxy.port()));
        store.accept(StoreFixture.events(1, 10), false).join();
        proxy.goAway();
        // It is noticed while nothing happens, too.
        StoreFixture.await().until(() -> store.intake.trouble().isPresent());
        assertThat(store.intake.trouble().orElseThrow().code()).isEqualTo("store.not-stored.server-not-reached");
        assertThat(store.accept(StoreFixture.events(11, 20), false)).failsWithin(Duration.ofSeconds(60));
        assertThatThrownBy(() -> store.intake.coverage(StoreFixture.SYSTEM, 1))
                .hasMessageContaining("store.not-read.server-not-reached");
        assertThatThrownBy(() -> store.log.find(EventQuery.all()))
                .hasMessageContaining("store.not-read.server-not-reached");
        proxy.comeBack();
        StoreFixture.await().until(() -> store.intake.trouble().isEmpty());
        store.accept(StoreFixture.events(11, 20), false).join();
        storedOnce(store, 20);
    }

    @Test
    void another_log_in_the_place_of_ours_is_not_written_to() {
        StoreFixture store = store();
        store.accept(StoreFixture.events(1, 10), false).join();
        TestServer.execute("UPDATE " + schema + ".identity SET id = 'another'");
        endAll(false);
        StoreFixture.await().ignoreExceptions().until(() -> {
            store.accept(StoreFixture.events(11, 12), false)
                    .exceptionally(e -> null)
                    .join();
            return store.intake.trouble().orElseThrow().code().equals("store.server-gone");
        });
        TestServer.execute("DELETE FROM " + schema + ".event WHERE sequence > 4");
        TestServer.execute("UPDATE " + schema + ".identity SET id = '"
                + read(path.resolve("data/log-id")).lines().findFirst().orElseThrow() + "'");
        StoreFixture.await().ignoreExceptions().until(() -> {
            store.accept(StoreFixture.events(11, 12), false)
                    .exceptionally(e -> null)
                    .join();
            return store.intake.trouble().orElseThrow().code().equals("store.fewer-events");
        });
        assertThat(store.log.count(EventQuery.all())).isLessThanOrEqualTo(10);
    }

    private static String read(Path file) {
        try {
            return Files.readString(file);
        } catch (IOException e) {
            throw new IllegalStateException(e);
        }
    }

    @Test
    void a_log_that_becomes_read_only_is_said_to_be() {
        StoreFixture store = store();
        store.accept(StoreFixture.events(1, 3), false).join();
        TestServer.execute("ALTER TABLE " + schema + ".event RENAME TO event_away");
        assertThat(store.accept(StoreFixture.events(4, 6), false)).failsWithin(Duration.ofSeconds(60));
        assertThat(store.intake.trouble()).isPresent();
        TestServer.execute("ALTER TABLE " + schema + ".event_away RENAME TO event");
        store.accept(StoreFixture.events(4, 6), false).join();
        storedOnce(store, 6);
    }
}
