package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.door.CheckpointKeeper;
import org.custodia.core.door.DoorBoard;
import org.custodia.core.door.LockMode;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake.Unread;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.SentWords;
import org.custodia.core.event.Translation;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.operator.Permission;
import org.custodia.core.operator.Roles;
import org.custodia.core.saying.Saying;
import org.custodia.core.setup.SetupException;
import org.custodia.core.setup.TranslationDesk;
import org.custodia.core.setup.TranslationDesk.Row;
import org.custodia.core.setup.TranslationDesk.Table;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Saying what a system means, on a real log. */
class TranslationDeskTest {
    private static final SystemId SYSTEM = StoreFixture.SYSTEM;
    private static final Actor ANA = Actor.withAll("ana", "Ana", "Desk 1");

    @TempDir
    Path path;

    private StoreFixture store;
    private TranslationDesk desk;
    private long number;

    @BeforeEach
    void open() {
        store = new StoreFixture(path);
        desk = new TranslationDesk(new SqlSentWords(store.database), store.log, store.intake);
    }

    @AfterEach
    void close() {
        store.close();
    }

    private void sends(int times, String kind, String code, String reason) {
        List<Event> events = new ArrayList<>();
        for (int i = 0; i < times; i++) {
            number++;
            events.add(Event.of(new EventKey(SYSTEM, 1, number), Kinds.of(kind), StoreFixture.START.plusSeconds(number))
                    .received(StoreFixture.START.plusSeconds(number), Duration.ZERO)
                    .door(new DoorId("tidewater/d" + number % 3))
                    .code(code)
                    .reason(reason)
                    .build());
        }
        store.accept(events, false).join();
    }

    private Row row(String kind, String code) {
        return desk.table(SYSTEM, ANA).rows().stream()
                .filter(r -> r.sent().kind().equals(kind) && r.sent().code().equals(Optional.ofNullable(code)))
                .findFirst()
                .orElseThrow();
    }

    private void keep(SqlDoorCheckpoints checkpoints, SiteModel sites, Clock clock) {
        Clock later = Clock.offset(clock, Duration.ofDays(1));
        try (CheckpointKeeper keeper =
                new CheckpointKeeper(store.log, checkpoints, store.intake, () -> sites, later, Duration.ofMillis(20))) {
            keeper.awaitAll();
        } catch (InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }

    private long count(String kind) {
        return store.log.count(EventQuery.all().kinds(Kinds.of(kind)));
    }

    private void means(String kind, String code, String means) {
        desk.means(row(kind, code).sent(), Optional.ofNullable(means), Optional.empty(), desk.table(SYSTEM, ANA), ANA);
    }

    @Test
    void what_was_sent_is_counted_by_kind_and_code_and_what_nobody_knows_comes_first() {
        sends(40, "door.opened", "T1", null);
        sends(3, "gate.barrier-up", "T9", null);
        sends(5, "access.refused", "T2", "no-level");
        sends(2, "access.refused", "T2", "wrong-pin");
        sends(1, "gate.barrier-up", null, null);
        Table table = desk.table(SYSTEM, ANA);
        assertThat(table.version()).isZero();
        assertThat(table.rows())
                .extracting(r -> r.sent().kind() + " " + r.sent().code().orElse("-") + " "
                        + r.sent().events())
                .containsExactly(
                        "gate.barrier-up T9 3", "gate.barrier-up - 1", "door.opened T1 40", "access.refused T2 7");
        assertThat(table.rows().get(3).sent().reasons()).containsExactlyInAnyOrder("no-level", "wrong-pin");
        assertThat(table.rows().get(3).sent().because()).isEmpty();
        assertThat(table.rows().get(0).sent().known()).isFalse();
        assertThat(desk.table(new SystemId("other"), ANA).rows()).isEmpty();
    }

    @Test
    void what_something_means_holds_for_the_past_and_can_be_taken_back() {
        sends(10, "gate.barrier-up", "T9", null);
        sends(4, "gate.barrier-up", "T8", null);
        means("gate.barrier-up", "T9", "door.opened");
        assertThat(count("door.opened")).isEqualTo(10);
        assertThat(count("gate.barrier-up")).isEqualTo(4);
        assertThat(row("gate.barrier-up", "T9").rule()).isPresent();
        assertThat(row("gate.barrier-up", "T9").sent().known()).isTrue();
        assertThat(desk.examples(SYSTEM, row("gate.barrier-up", "T9").sent(), ANA))
                .hasSize(5)
                .allMatch(e -> e.code().equals(Optional.of("T9"))
                        && e.kind().equals(Kinds.OPENED)
                        && Translation.sentKind(e).equals("gate.barrier-up"));
        // Once more, otherwise; then as it is sent.
        means("gate.barrier-up", "T9", "door.closed");
        assertThat(count("door.opened")).isZero();
        assertThat(store.intake.translation(SYSTEM).rules()).hasSize(1);
        means("gate.barrier-up", "T9", null);
        assertThat(count("gate.barrier-up")).isEqualTo(14);
        assertThat(desk.versions(SYSTEM, ANA))
                .extracting(m -> m.translation().version())
                .containsExactly(3L, 2L, 1L);
        assertThat(desk.versions(SYSTEM, ANA)).extracting(SentWords.Made::by).containsOnly("ana");
        desk.putBack(SYSTEM, 1, 3, ANA);
        assertThat(count("door.opened")).isEqualTo(10);
        desk.putBack(SYSTEM, 0, 4, ANA);
        assertThat(count("door.opened")).isZero();
        assertThatThrownBy(() -> desk.putBack(SYSTEM, 17, 5, ANA)).isInstanceOf(SetupException.class);
    }

    @Test
    void a_systems_own_words_for_how_a_lock_stands_mean_ours_for_the_past_too() {
        Door door = new Door(
                new DoorId("tidewater/d0"),
                SYSTEM,
                new ControllerId("tidewater/c0"),
                "Vault",
                new SiteId("harbour"),
                "0",
                "",
                "",
                Duration.ofSeconds(30),
                Set.of(DoorCapability.CONTACT));
        SiteModel sites = new SiteModel(List.of(), List.of(door), List.of(), List.of());
        // Every third is at that door: up at 3, down at 6, and another word for a mode at 9.
        sends(5, "latch.up", null, null);
        sends(3, "latch.down", null, null);
        store.accept(
                        List.of(Event.of(new EventKey(SYSTEM, 1, 9), Kinds.MODE, StoreFixture.START.plusSeconds(9))
                                .door(door.id())
                                .code("T7")
                                .detail("mode", "free")
                                .build()),
                        false)
                .join();
        Clock clock = Clock.fixed(StoreFixture.START.plusSeconds(20), ZoneOffset.UTC);
        SqlDoorCheckpoints checkpoints = new SqlDoorCheckpoints(store.database);
        try (DoorBoard board = new DoorBoard(store.log, checkpoints, store.intake, () -> sites, clock)) {
            assertThat(board.now(door.id()).lock()).isEqualTo(LockMode.UNKNOWN);
            for (String[] said : List.of(
                    new String[] {"latch.up", null, "unlocked"},
                    new String[] {"latch.down", null, "locked"},
                    new String[] {"door.mode", "T7", "blocked"})) {
                desk.means(
                        row(said[0], said[1]).sent(),
                        Optional.of("door.mode"),
                        Optional.of(said[2]),
                        desk.table(SYSTEM, ANA),
                        ANA);
            }
            StoreFixture.await().until(() -> board.now(door.id()).lock() == LockMode.BLOCKED);
            assertThat(board.at(door.id(), StoreFixture.START.plusSeconds(4)).lock())
                    .isEqualTo(LockMode.UNLOCKED);
            assertThat(board.at(door.id(), StoreFixture.START.plusSeconds(7)).lock())
                    .isEqualTo(LockMode.LOCKED);
            // From where all doors are read together it is the same.
            number = 9;
            sends(90, "door.opened", "T1", null);
            keep(checkpoints, sites, clock);
            assertThat(checkpoints.newest(door.id(), Instant.MAX)).isPresent();
            assertThat(board.all(StoreFixture.START.plusSeconds(8))
                            .get(door.id())
                            .lock())
                    .isEqualTo(LockMode.LOCKED);
            desk.putBack(SYSTEM, 0, desk.table(SYSTEM, ANA).version(), ANA);
            StoreFixture.await().until(() -> board.now(door.id()).lock() == LockMode.UNKNOWN);
        }
    }

    @Test
    void what_is_said_of_a_kind_without_a_code_leaves_alone_what_has_one_and_is_here_already() {
        sends(3, "gate.up", null, null);
        sends(4, "gate.up", "A", null);
        sends(5, "gate.up", "B", null);
        means("gate.up", "A", "door.closed");
        means("gate.up", null, "door.opened");
        assertThat(count("door.opened")).isEqualTo(3);
        assertThat(count("door.closed")).isEqualTo(4);
        assertThat(count("gate.up")).isEqualTo(5);
        // A code that is not here yet is what the kind is.
        sends(2, "gate.up", "C", null);
        assertThat(count("door.opened")).isEqualTo(5);
    }

    @Test
    void a_reason_may_be_given_and_what_cannot_be_is_refused() {
        sends(3, "access.refused", "X", "77");
        Table table = desk.table(SYSTEM, ANA);
        SentWords.Sent sent = table.rows().get(0).sent();
        desk.means(sent, Optional.of("access.refused"), Optional.of(" no-level "), table, ANA);
        assertThat(store.log.find(EventQuery.all().kinds(Kinds.REFUSED)))
                .hasSize(3)
                .allMatch(e -> e.reason().equals(Optional.of("no-level"))
                        && Translation.sentReason(e).equals(Optional.of("77")));
        assertThat(row("access.refused", "X").sent().because()).contains("no-level");
        Table now = desk.table(SYSTEM, ANA);
        for (String odd : List.of("", "  ", "x".repeat(101), "log.gap", "Custodia.x", "operator.note", "a\nb")) {
            assertThatThrownBy(() -> desk.means(sent, Optional.of(odd), Optional.empty(), now, ANA))
                    .as(odd)
                    .isInstanceOf(SetupException.class);
        }
        assertThatThrownBy(() -> desk.means(sent, Optional.of("a.b"), Optional.of("r".repeat(101)), now, ANA))
                .isInstanceOf(SetupException.class);
        // Of two who set out from the same only one gets through.
        assertThatThrownBy(() -> desk.means(sent, Optional.of("a.b"), Optional.empty(), table, ANA))
                .isInstanceOf(EventLogException.class);
        assertThat(store.intake.translation(SYSTEM).version()).isEqualTo(1);
    }

    @Test
    void a_system_with_endlessly_many_codes_is_told_as_far_as_anybody_reads() {
        List<Event> events = new ArrayList<>();
        for (int i = 1; i <= SentWords.MOST + 300; i++) {
            events.add(Event.of(new EventKey(SYSTEM, 1, i), Kinds.of("a.b"), StoreFixture.START)
                    .received(StoreFixture.START, Duration.ZERO)
                    .code("code " + i)
                    .build());
        }
        store.accept(events, true).join();
        number = SentWords.MOST + 300;
        sends(4, "often", "code", null);
        Table table = desk.table(SYSTEM, ANA);
        assertThat(table.rows()).hasSize(SentWords.MOST);
        assertThat(table.rows().get(0).sent().kind()).isEqualTo("often");
    }

    @Test
    void what_could_not_be_understood_is_told_by_system() {
        for (int i = 0; i < 4; i++) {
            store.intake
                    .keepUnread(Unread.of(SYSTEM, StoreFixture.START, "{\"x\":" + i, Saying.of("unread.no-kind")))
                    .join();
        }
        store.intake
                .keepUnread(Unread.of(
                        new SystemId("other"), StoreFixture.START, "y".repeat(9_000), Saying.of("unread.no-kind")))
                .join();
        SentWords.NotUnderstood told = desk.notUnderstood(SYSTEM, 2, ANA);
        assertThat(told.messages()).isEqualTo(4);
        assertThat(told.newest()).extracting(SentWords.Kept::raw).containsExactly("{\"x\":3", "{\"x\":2");
        assertThat(told.newest().get(0).why()).isEqualTo(Saying.of("unread.no-kind"));
        assertThat(desk.notUnderstood(new SystemId("other"), 5, ANA)
                        .newest()
                        .get(0)
                        .raw())
                .hasSizeLessThan(9_000);
    }

    @Test
    void it_takes_the_permission_to_set_up_everywhere() {
        sends(1, "a.b", "C", null);
        Table table = desk.table(SYSTEM, ANA);
        SentWords.Sent sent = table.rows().get(0).sent();
        for (Roles.Role role : Roles.all(List.of(new SiteId("harbour")))) {
            Actor actor = role.actor();
            boolean looks = role.has(Set.of(Permission.SET_UP), Actor.Level.LOOK, null);
            boolean may = role.has(Set.of(Permission.SET_UP), Actor.Level.CHANGE, null);
            long version = store.intake.translation(SYSTEM).version();
            Table now = new Table(SYSTEM, version, table.rows());
            assertThat(leads(() -> desk.table(SYSTEM, actor))).as("%s", role).isEqualTo(looks);
            assertThat(leads(() -> desk.examples(SYSTEM, sent, actor))).isEqualTo(looks);
            assertThat(leads(() -> desk.versions(SYSTEM, actor))).isEqualTo(looks);
            assertThat(leads(() -> desk.notUnderstood(SYSTEM, 1, actor))).isEqualTo(looks);
            assertThat(leads(() -> desk.means(sent, Optional.of("c.d"), Optional.empty(), now, actor)))
                    .isEqualTo(may);
            assertThat(leads(() -> desk.putBack(
                            SYSTEM, 0, store.intake.translation(SYSTEM).version(), actor)))
                    .isEqualTo(may);
        }
    }

    private static boolean leads(Runnable way) {
        try {
            way.run();
            return true;
        } catch (NotPermittedException e) {
            return false;
        }
    }
}
