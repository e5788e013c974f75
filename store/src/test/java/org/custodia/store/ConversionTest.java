package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.fasterxml.jackson.databind.ObjectMapper;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.TreeMap;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.ReaderId;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Logs of the forms of before are brought into the form of today with all that they hold, whenever it is cut short. */
class ConversionTest {
    private static final int EVENTS = 500;

    @TempDir
    Path path;

    private final List<Event> events = new ArrayList<>();

    private Path file() {
        return path.resolve("custodia.db");
    }

    /** A log as an earlier Custodia left it. */
    private void earlier(int form) throws Exception {
        SqliteDatabase.migrate(file(), SqliteDatabase.source(file()), Integer.toString(form));
        String sql = "INSERT INTO event VALUES (" + "?,".repeat(21) + "?)";
        try (Connection connection = SqliteDatabase.source(file()).getConnection();
                PreparedStatement insert = connection.prepareStatement(sql);
                Statement other = connection.createStatement()) {
            connection.setAutoCommit(false);
            RandomEvents random = new RandomEvents(form);
            for (int i = 1; i <= EVENTS; i++) {
                // Positions need not be without holes.
                Event event = random.next().toBuilder().position(i + i / 100).build();
                events.add(event);
                wide(insert, event);
            }
            other.execute("INSERT INTO register VALUES ('site', 's1', 1, 5, NULL, '{}')");
            other.execute("INSERT INTO photo VALUES ('tidewater/p1', 'v1', x'FFD8')");
            if (form == 1) {
                other.execute("INSERT INTO clock_reading VALUES ('tidewater', 5, 350000, 2000)");
                other.execute("INSERT INTO unread (system, received, raw, why) VALUES ('tidewater', 7, 'x', 'y')");
            } else {
                other.execute("INSERT INTO clock_reading VALUES ('tidewater', 5, 350000, 2000, 1000)");
                other.execute(
                        "INSERT INTO unread (system, received, raw, why, content) VALUES ('tidewater', 7, 'x', 'y', x'01')");
                other.execute("INSERT INTO number_range VALUES ('tidewater', 9, 'held', 1, 77)");
                other.execute("INSERT INTO counts_again VALUES ('tidewater', 8, 1, 50)");
                other.execute("INSERT INTO conflict VALUES ('tidewater', 1, 4, x'02')");
            }
            connection.commit();
        }
    }

    private static void wide(PreparedStatement insert, Event e) throws Exception {
        Object[] values = {
            e.position(),
            e.key().system().value(),
            e.key().epoch(),
            e.key().sequence(),
            EventRows.micros(e.deviceTime()),
            EventRows.micros(e.received()),
            e.offset().toNanos() / 1000,
            EventRows.micros(e.time()),
            e.late() ? 1 : 0,
            e.kind().id(),
            e.door().map(DoorId::value).orElse(null),
            e.controller().map(ControllerId::value).orElse(null),
            e.reader().map(ReaderId::value).orElse(null),
            e.side().map(Enum::name).orElse(null),
            e.person().map(PersonId::value).orElse(null),
            e.credential().orElse(null),
            e.operator().orElse(null),
            e.reason().orElse(null),
            e.code().orElse(null),
            e.cause().orElse(null),
            e.details().isEmpty() ? "" : new ObjectMapper().writeValueAsString(new TreeMap<>(e.details())),
            e.raw()
        };
        for (int i = 0; i < values.length; i++) {
            insert.setObject(i + 1, values[i]);
        }
        insert.executeUpdate();
    }

    /** Registers as they were written before they knew two times, with payloads as they were then. */
    @Test
    void registers_of_before_are_brought_into_the_form_of_today_and_the_log_is_copied_first() throws Exception {
        SqliteDatabase.migrate(file(), SqliteDatabase.source(file()), "3");
        String door =
                "{\"id\":{\"value\":\"larkspur/ng-dock\"},\"system\":{\"value\":\"larkspur\"},\"controller\":{\"value\":\"larkspur/n1\"},\"name\":\"Loading dock\",\"site\":{\"value\":\"northgate\"},\"level\":\"0\",\"outside\":\"Car park\",\"inside\":\"Dock\",\"heldLimit\":300.000000000,\"capabilities\":[\"LOCK\",\"CONTACT\"]}";
        String pair =
                "{\"door\":{\"value\":\"larkspur/ng-dock\"},\"camera\":{\"value\":\"ferry/dock\"},\"side\":\"ENTRY\",\"view\":\"OUTSIDE\",\"leadIn\":10.000000000,\"face\":{\"x\":0.585,\"y\":0.135,\"width\":0.2,\"height\":0.41},\"faceAfter\":0.5}";
        try (Connection connection = SqliteDatabase.source(file()).getConnection();
                PreparedStatement insert =
                        connection.prepareStatement("INSERT INTO register VALUES (?, ?, ?, ?, ?, ?)")) {
            Object[][] rows = {
                {
                    "site",
                    "northgate",
                    1,
                    100,
                    null,
                    "{\"id\":{\"value\":\"northgate\"},\"name\":\"Northgate\",\"timeZone\":\"Europe/London\"}"
                },
                {"door", "larkspur/ng-dock", 1, 100, 200, door.replace("Loading dock", "Dock")},
                {"door", "larkspur/ng-dock", 2, 200, null, door},
                {"door", "larkspur/gone", 1, 100, 300, door.replace("ng-dock", "gone")},
                {
                    "camera",
                    "ferry/dock",
                    1,
                    100,
                    null,
                    "{\"id\":{\"value\":\"ferry/dock\"},\"recorder\":{\"value\":\"ferry\"},\"name\":\"Dock\",\"site\":{\"value\":\"northgate\"}}"
                },
                {"pairing", "00003 larkspur/ng-dock ferry/dock", 1, 100, 200, pair},
                {"pairing", "00001 larkspur/ng-dock ferry/dock", 1, 200, null, pair},
                {
                    "person",
                    "larkspur/p099",
                    1,
                    100,
                    null,
                    "{\"id\":{\"value\":\"larkspur/p099\"},\"name\":\"Kerensa Vantreight\",\"company\":\"Sternwick Museum\",\"kind\":\"staff\",\"until\":null,\"stopped\":false,\"photo\":\"1\"}"
                },
                {
                    "credential",
                    "larkspur/20191",
                    1,
                    100,
                    null,
                    "{\"number\":\"20191\",\"kind\":\"CARD\",\"person\":{\"value\":\"larkspur/p099\"},\"status\":\"ACTIVE\",\"from\":null,\"until\":null,\"pin\":null}"
                },
                {"credential", "larkspur/broken", 1, 100, null, "{"},
            };
            for (Object[] row : rows) {
                for (int i = 0; i < row.length; i++) {
                    insert.setObject(i + 1, row[i]);
                }
                insert.executeUpdate();
            }
        }
        java.time.Instant early = EventRows.instant(150);
        java.time.Instant late = EventRows.instant(250);
        java.time.Clock clock = java.time.Clock.fixed(EventRows.instant(1_000), java.time.ZoneOffset.UTC);
        SystemId larkspur = new SystemId("larkspur");
        for (int round = 0; round < 2; round++) {
            try (StoreFixture store = new StoreFixture(path)) {
                Registers registers = new Registers(store.database, store.intake);
                SiteRegister sites = new SiteRegister(registers, clock);
                DoorId dock = new DoorId("larkspur/ng-dock");
                assertThat(sites.at(early).door(dock).orElseThrow().name()).isEqualTo("Dock");
                assertThat(sites.at(late).door(dock).orElseThrow().name()).isEqualTo("Loading dock");
                assertThat(sites.at(late).door(dock).orElseThrow().heldLimit()).isEqualTo(Duration.ofMinutes(5));
                assertThat(sites.at(late).door(new DoorId("larkspur/gone"))).isPresent();
                assertThat(sites.get().doors()).hasSize(1);
                assertThat(sites.get().pairings(dock)).hasSize(1);
                assertThat(sites.at(early).pairings(dock)).isEqualTo(sites.get().pairings(dock));
                assertThat(sites.get().pairings(dock).get(0).faceAfter()).isEqualTo(Duration.ofMillis(500));
                SqlPersonRegister people = new SqlPersonRegister(registers, store.database, clock);
                assertThat(people.credential(larkspur, "20191", java.util.Optional.empty(), late)
                                .flatMap(c -> people.person(c.person(), late))
                                .value()
                                .orElseThrow()
                                .name())
                        .isEqualTo("Kerensa Vantreight");
                // What the system says again is nothing new.
                var door2 = sites.get().door(dock).orElseThrow();
                sites.places(larkspur, List.of(), List.of(door2), List.of(), List.of());
                sites.ofFile(StoreFixture.file(sites.get().pairings(dock)));
                var versions = registers.timeline(RegisterForm.DOOR).versions(dock.value());
                assertThat(versions).hasSize(2);
                assertThat(versions).extracting(Registers.Version::source).containsOnly(larkspur);
            }
        }
        assertThat(kept()).hasSize(1).first().satisfies(f -> assertThat(
                        f.getFileName().toString())
                .isEqualTo("custodia-before-4.db"));
        try (Connection old = SqliteDatabase.source(kept().get(0)).getConnection();
                Statement s = old.createStatement();
                var row = s.executeQuery("SELECT COUNT(*) FROM register WHERE kind = 'pairing'")) {
            assertThat(row.getInt(1)).isEqualTo(2);
        }
    }

    /** Whoever is killed while the copy is made finds the log as it was. */
    @Test
    void a_copy_that_was_begun_is_made_anew() throws Exception {
        SqliteDatabase.migrate(file(), SqliteDatabase.source(file()), "3");
        Files.writeString(path.resolve("custodia.db.copy"), "half of it");
        new StoreFixture(path).close();
        assertThat(kept()).hasSize(1);
        assertThat(Files.size(kept().get(0))).isGreaterThan(1_000);
        assertThat(path.resolve("custodia.db.copy")).doesNotExist();
    }

    /** A log may be large; what only gets another table needs no copy of it. */
    @Test
    void where_tables_are_only_added_no_copy_is_made() throws Exception {
        SqliteDatabase.migrate(file(), SqliteDatabase.source(file()), "4");
        try (StoreFixture store = new StoreFixture(path)) {
            assertThat(new SqlOutbox(store.database, store.intake).all(10)).isEmpty();
        }
        assertThat(kept()).isEmpty();
    }

    /** Where messages had come to stood in a table of its own before; none is sent again, and none is passed over. */
    @Test
    void how_far_messages_had_come_is_known_after_the_conversion() throws Exception {
        SqliteDatabase.migrate(file(), SqliteDatabase.source(file()), "8");
        try (Connection c = SqliteDatabase.source(file()).getConnection();
                Statement s = c.createStatement()) {
            s.execute("INSERT INTO log_mark (who, position) VALUES ('messages', 42)");
        }
        record State(Instant at) {}
        try (StoreFixture store = new StoreFixture(path)) {
            assertThat(new SqlSnapshots(store.database)
                            .load("messages", 1, State.class)
                            .orElseThrow()
                            .position())
                    .isEqualTo(42);
        }
    }

    private List<Path> kept() throws Exception {
        try (var files = Files.list(path)) {
            return files.filter(f -> f.getFileName().toString().startsWith("custodia-before-"))
                    .sorted()
                    .toList();
        }
    }

    private void everythingIsThere() {
        try (StoreFixture store = new StoreFixture(path)) {
            assertThat(store.log.storedAfter(0, 10_000)).isEqualTo(events);
            assertThat(store.log.count(EventQuery.all())).isEqualTo(EVENTS);
            assertThat(store.log.unreadCount()).isEqualTo(1);
            Database database = store.database;
            assertThat(database.reader().fetchCount(org.jooq.impl.DSL.table("register")))
                    .isEqualTo(1);
            assertThat(database.reader().fetchCount(org.jooq.impl.DSL.table("photo")))
                    .isEqualTo(1);
            assertThat(new ClockReadings(database).load().ahead(new SystemId("tidewater"), RandomEvents.START))
                    .isEqualTo(Duration.ofMillis(350));
            // Sums and numbers go on from what was there.
            Event own = store.intake
                    .record(Event.of(new EventKey(SystemId.CUSTODIA, 1, 0), Kinds.NOTE, RandomEvents.START))
                    .join();
            assertThat(own.position()).isEqualTo(events.get(EVENTS - 1).position() + 1);
            EventKey first = events.get(0).key();
            long counted = store.log.count(
                    EventQuery.all().system(first.system()).since(RandomEvents.START.minusSeconds(10_000)));
            assertThat(counted)
                    .isEqualTo(events.stream()
                            .filter(e -> e.key().system().equals(first.system()))
                            .count());
        }
    }

    @Test
    void the_second_form_is_converted_with_all_it_holds_and_kept() throws Exception {
        earlier(2);
        everythingIsThere();
        assertThat(kept()).hasSize(1);
        try (StoreFixture store = new StoreFixture(path)) {
            assertThat(store.intake.coverage(new SystemId("tidewater"), 9).settled())
                    .isEqualTo(77);
            var reader = store.database.reader();
            assertThat(reader.fetchCount(org.jooq.impl.DSL.table("counts_again")))
                    .isEqualTo(1);
            assertThat(reader.fetchCount(org.jooq.impl.DSL.table("conflict"))).isEqualTo(1);
        }
        assertThat(path.resolve("custodia.db.next")).doesNotExist();
        try (Connection old = SqliteDatabase.source(kept().get(0)).getConnection();
                Statement statement = old.createStatement();
                var row = statement.executeQuery("SELECT COUNT(*), (SELECT id FROM identity) FROM event")) {
            assertThat(row.getInt(1)).isEqualTo(EVENTS);
            assertThat(Files.readString(path.resolve("log-id"))).isEqualTo(row.getString(2));
        }
    }

    @Test
    void the_first_form_is_converted_too() throws Exception {
        earlier(1);
        everythingIsThere();
        assertThat(kept()).hasSize(1);
        try (StoreFixture store = new StoreFixture(path)) {
            EventKey key = events.get(0).key();
            assertThat(store.intake.coverage(key.system(), key.epoch()).highest())
                    .isPositive();
        }
    }

    @Test
    void cut_short_at_any_step_it_goes_on() throws Exception {
        earlier(2);
        int[] cuts = {0};
        for (int cut = 0; cut < 8; cut++) {
            int last = cut;
            int[] steps = {0};
            assertThatThrownBy(() -> new Conversion(
                                    file(),
                                    (done, of) -> {
                                        // From the second time on it begins where it was.
                                        assertThat(done).isGreaterThanOrEqualTo(last == 0 ? 0 : 1);
                                        if (++steps[0] > 2) {
                                            throw new IllegalStateException("the power is gone");
                                        }
                                    },
                                    30)
                            .run(2))
                    .hasMessage("the power is gone");
            cuts[0]++;
            assertThat(kept()).isEmpty();
        }
        everythingIsThere();
        assertThat(kept()).hasSize(1);
    }

    @Test
    void what_was_begun_from_another_log_is_thrown_away() throws Exception {
        earlier(2);
        Path next = path.resolve("custodia.db.next");
        Files.writeString(next, "this is no database ".repeat(900));
        Files.writeString(path.resolve("custodia.db.next-wal"), "nor is this");
        everythingIsThere();
        assertThat(next).doesNotExist();
    }

    /** Everything is in the new file, and the process was killed before that took the old one's place. */
    private void finished() throws Exception {
        earlier(2);
        Path aside = Files.createDirectory(path.resolve("aside"));
        Files.copy(file(), aside.resolve("custodia.db"));
        new Conversion(aside.resolve("custodia.db"), (done, of) -> {}, 100).run(2);
        Files.copy(aside.resolve("custodia.db"), path.resolve("custodia.db.next"));
    }

    @Test
    void a_new_file_that_was_finished_but_not_moved_takes_its_place() throws Exception {
        finished();
        new Conversion(
                        file(),
                        (done, of) -> {
                            throw new AssertionError("converted once more");
                        },
                        100)
                .run(2);
        assertThat(path.resolve("custodia.db.next")).doesNotExist();
        everythingIsThere();
    }

    @Test
    void killed_after_the_old_log_was_kept_it_is_not_kept_twice() throws Exception {
        finished();
        Files.createLink(path.resolve("custodia-before-3.db"), file());
        everythingIsThere();
        assertThat(kept()).containsExactly(path.resolve("custodia-before-3.db"));
    }

    @Test
    void a_new_file_of_which_the_log_has_gone_on_is_made_again() throws Exception {
        finished();
        Event later = Event.of(new EventKey(SystemId.CUSTODIA, 7, 1), Kinds.NOTE, RandomEvents.START)
                .received(RandomEvents.START, Duration.ZERO)
                .position(1_000)
                .build();
        try (Connection connection = SqliteDatabase.source(file()).getConnection();
                PreparedStatement insert =
                        connection.prepareStatement("INSERT INTO event VALUES (" + "?,".repeat(21) + "?)")) {
            wide(insert, later);
        }
        try (StoreFixture store = new StoreFixture(path)) {
            assertThat(store.log.storedAfter(999, 10)).containsExactly(later);
        }
    }

    @Test
    void however_often_it_is_killed_after_a_copy_there_is_one_of_each_log() throws Exception {
        earlier(2);
        Path begun = path.resolve("custodia.db.copy");
        Files.writeString(begun, "as far as it came");
        // What a process of before left when it was killed while it copied.
        byte[] whole = Files.readAllBytes(file());
        Files.write(path.resolve("custodia-before-4.db"), Arrays.copyOf(whole, whole.length - 5_000));
        for (int i = 0; i < 3; i++) {
            Conversion.copy(file(), 4);
            assertThat(kept()).hasSize(2);
            assertThat(begun).doesNotExist();
        }
        assertThat(Files.readAllBytes(path.resolve("custodia-before-4-2.db"))).isEqualTo(Files.readAllBytes(file()));
        try (Connection connection = SqliteDatabase.source(file()).getConnection();
                Statement statement = connection.createStatement()) {
            statement.execute("UPDATE event SET position = 1000 WHERE position = (SELECT MAX(position) FROM event)");
        }
        Conversion.copy(file(), 4);
        assertThat(kept()).hasSize(3);
        assertThat(path).isDirectoryNotContaining("glob:**-wal");
    }

    @Test
    void a_damaged_log_is_left_as_it_is() throws Exception {
        earlier(2);
        byte[] bytes = Files.readAllBytes(file());
        for (int i = 4_096 * 3; i < bytes.length - 4_096; i++) {
            bytes[i] = 7;
        }
        Files.write(file(), bytes);
        assertThatThrownBy(() -> new StoreFixture(path))
                .isInstanceOf(DataDirectoryException.class)
                .hasMessageContaining("damaged");
        assertThat(Files.readAllBytes(file())).isEqualTo(bytes);
        assertThat(kept()).isEmpty();
    }

    @Test
    void a_log_without_events_is_converted_as_well() throws SQLException {
        SqliteDatabase.migrate(file(), SqliteDatabase.source(file()), "2");
        try (StoreFixture store = new StoreFixture(path)) {
            assertThat(store.log.count(EventQuery.all())).isZero();
            store.accept(StoreFixture.events(1, 3), false).join();
            assertThat(store.log.count(EventQuery.all())).isEqualTo(3);
        }
    }
}
