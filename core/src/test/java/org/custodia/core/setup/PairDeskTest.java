package org.custodia.core.setup;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.custodia.core.Patience.await;

import java.io.IOException;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.assertj.core.api.ThrowableAssert.ThrowingCallable;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.event.Snapshots;
import org.custodia.core.evidence.ClockMender;
import org.custodia.core.evidence.EvidenceSearch;
import org.custodia.core.evidence.Findings;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.operator.Permission;
import org.custodia.core.operator.SiteScope;
import org.custodia.core.saying.Says;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Crop;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Side;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.Sites;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** Pairs that are made, judged and taken from sheets: by two at once, by those who may not, and by systems that claim to. */
class PairDeskTest {
    private static final Actor ODO = Actor.withAll("odo", "Odo", "desk");
    private static final SystemId TIDEWATER = new SystemId("tidewater");

    private static final SiteId HARBOUR = new SiteId("harbour");
    private static final SiteId YARD = new SiteId("yard");
    private static final DoorId VAULT = new DoorId("tidewater/vault");
    private static final CameraId OUTSIDE = new CameraId("quayside/vault-outside");
    private static final CameraId ELSEWHERE = new CameraId("quayside/gate");
    private static final Sites SITES = () -> new SiteModel(
            List.of(new Site(HARBOUR, "Harbour", ZoneOffset.UTC), new Site(YARD, "Yard", ZoneOffset.UTC)),
            List.of(new Door(
                    VAULT,
                    TIDEWATER,
                    new ControllerId("tidewater/c1"),
                    "Vault",
                    HARBOUR,
                    "0",
                    "a",
                    "b",
                    Duration.ofSeconds(30),
                    Set.of())),
            List.of(
                    new Camera(OUTSIDE, new SystemId("quayside"), "Vault outside", HARBOUR),
                    new Camera(ELSEWHERE, new SystemId("quayside"), "Gate", YARD)),
            List.of());

    private static final Clock CLOCK = Clock.fixed(Instant.parse("2026-11-24T14:00:00Z"), ZoneOffset.UTC);

    private final MemoryLog log = new MemoryLog();
    private final SetupInHand hand = new SetupInHand(log);
    private final EvidenceSearch evidence = new EvidenceSearch(
            log,
            SITES,
            (camera, at) -> {
                throw new IOException("no picture");
            },
            Findings.inMemory(),
            CLOCK);
    private final PairDesk desk = new PairDesk(
            hand,
            SITES,
            log,
            log,
            Snapshots.inMemory(),
            evidence,
            new ClockMender(new ClockBook(), e -> {}),
            hand,
            CLOCK);

    @AfterEach
    void close() {
        evidence.close();
        desk.close();
    }

    private static void refused(String code, ThrowingCallable what) {
        assertThatThrownBy(what).isInstanceOfSatisfying(RuntimeException.class, e -> assertThat(
                        ((Says) e).saying().code())
                .isEqualTo(code));
    }

    private static Pairing pairing(CameraId camera, Duration leadIn) {
        return new Pairing(VAULT, camera, Side.ENTRY, Pairing.View.OUTSIDE, leadIn, Crop.WHOLE, Duration.ZERO);
    }

    private static final Pairing PAIR = pairing(OUTSIDE, Pairing.DEFAULT_LEAD_IN);

    @Test
    void a_pair_is_made_changed_and_taken_off_and_each_is_on_record() {
        long first = desk.pair(PAIR, ODO);
        refused("setup.pair-there", () -> desk.pair(PAIR, ODO));
        Pairing longer = pairing(OUTSIDE, Duration.ofSeconds(20));
        long second = desk.change(longer, first, ODO);
        assertThat(desk.pairs(VAULT, ODO)).containsExactly(new PairBook.Kept(longer, second));
        // The second of two is told.
        refused("store.changed-meanwhile", () -> desk.change(PAIR, first, ODO));
        refused("store.changed-meanwhile", () -> desk.unpair(PAIR, first, ODO));
        desk.unpair(longer, second, ODO);
        refused("setup.no-pair", () -> desk.unpair(longer, 3, ODO));
        refused("setup.no-pair", () -> desk.change(longer, 3, ODO));
        desk.pair(PAIR, ODO);
        assertThat(log.events.stream().map(e -> e.detail("change").orElseThrow()))
                .containsExactly("added", "changed", "removed", "added");
        assertThat(log.events).allMatch(e -> e.door().equals(Optional.of(VAULT)));
    }

    @Test
    void what_is_not_there_is_not_paired_and_a_pair_stays_of_its_camera() {
        refused("setup.no-camera", () -> desk.pair(pairing(new CameraId("quayside/x"), Duration.ZERO), ODO));
        Pairing noDoor = new Pairing(
                new DoorId("tidewater/x"),
                OUTSIDE,
                Side.ENTRY,
                Pairing.View.OUTSIDE,
                Duration.ZERO,
                Crop.WHOLE,
                Duration.ZERO);
        refused("setup.no-door", () -> desk.pair(noDoor, ODO));
        refused("setup.no-door", () -> desk.pairs(noDoor.door(), ODO));
        long first = desk.pair(PAIR, ODO);
        Pairing other = new Pairing(
                PAIR.id(),
                VAULT,
                ELSEWHERE,
                Side.ENTRY,
                Pairing.View.OUTSIDE,
                Duration.ZERO,
                Crop.WHOLE,
                Duration.ZERO);
        refused("setup.pair-other", () -> desk.change(other, first, ODO));
    }

    @Test
    void whoever_pairs_must_be_permitted_to_where_door_and_camera_are() {
        Actor harbour = Actor.with("x", "X", "desk", Set.of(Permission.SET_UP), SiteScope.at(HARBOUR));
        Actor yard = Actor.with("x", "X", "desk", Set.of(Permission.SET_UP), SiteScope.at(YARD));
        Actor others = Actor.with("x", "X", "desk", Set.of(Permission.SEE_LIVE), SiteScope.everywhere());
        Pairing across = pairing(ELSEWHERE, Duration.ZERO);
        for (ThrowingCallable each : List.<ThrowingCallable>of(
                () -> desk.pair(across, harbour),
                () -> desk.pair(across, yard),
                () -> desk.pair(PAIR, yard),
                () -> desk.pair(PAIR, others),
                () -> desk.pairs(VAULT, yard),
                () -> desk.pairs(VAULT, others))) {
            assertThatThrownBy(each).isInstanceOf(NotPermittedException.class);
        }
        long first = desk.pair(PAIR, harbour);
        assertThat(desk.pairs(VAULT, harbour)).hasSize(1);
        assertThatThrownBy(() -> desk.unpair(PAIR, first, yard)).isInstanceOf(NotPermittedException.class);
        assertThatThrownBy(() -> desk.change(PAIR, first, yard)).isInstanceOf(NotPermittedException.class);
        desk.unpair(PAIR, first, harbour);
        assertThat(desk.pairs(VAULT, ODO)).isEmpty();
    }

    @Test
    void one_of_several_is_put_first() {
        desk.pair(PAIR, ODO);
        Pairing other = new Pairing(
                PAIR.door(),
                PAIR.camera(),
                PAIR.side(),
                Pairing.View.OVERVIEW,
                PAIR.leadIn(),
                PAIR.face(),
                PAIR.faceAfter());
        desk.pair(other, ODO);
        desk.first(other, ODO);
        assertThat(desk.pairs(VAULT, ODO)).extracting(PairBook.Kept::pairing).containsExactly(other, PAIR);
        desk.unpair(other, desk.pairs(VAULT, ODO).get(0).version(), ODO);
        assertThatThrownBy(() -> desk.first(other, ODO)).isInstanceOf(SetupException.class);
    }

    private static Trial trial(boolean door, boolean person, boolean moment) {
        return new Trial(
                PAIR.id(),
                Trial.as(PAIR),
                new EventKey(TIDEWATER, 1, 7),
                Instant.parse("2026-11-24T13:59:00Z"),
                Optional.of("/9j/4A=="),
                door,
                person,
                moment,
                "Odo",
                Instant.parse("2026-11-24T14:00:00Z"));
    }

    @Test
    void the_latest_trial_is_known_also_after_a_restart() {
        desk.pair(PAIR, ODO);
        assertThat(desk.trial(VAULT, PAIR.id(), ODO)).isEmpty();
        desk.tried(VAULT, trial(true, false, true), ODO);
        assertThat(desk.trial(VAULT, PAIR.id(), ODO).orElseThrow().passed()).isFalse();
        desk.tried(VAULT, trial(true, true, true), ODO);
        assertThat(desk.trial(VAULT, PAIR.id(), ODO)).contains(trial(true, true, true));
        assertThat(trial(true, true, true).holds(PAIR)).isTrue();
        assertThat(trial(true, true, true).holds(pairing(OUTSIDE, Duration.ofSeconds(11))))
                .isFalse();
        try (PairDesk again = new PairDesk(
                hand,
                SITES,
                log,
                log,
                Snapshots.inMemory(),
                evidence,
                new ClockMender(new ClockBook(), e -> {}),
                hand,
                CLOCK)) {
            assertThat(again.trial(VAULT, PAIR.id(), ODO)).contains(trial(true, true, true));
        }
    }

    @Test
    void a_trial_of_what_is_not_paired_is_not_kept() {
        refused("setup.no-pair", () -> desk.tried(VAULT, trial(true, true, true), ODO));
        assertThat(log.events).isEmpty();
    }

    @Test
    void what_a_system_says_of_trials_and_refusals_is_not_believed_and_what_cannot_be_read_counts_as_none() {
        desk.pair(PAIR, ODO);
        long number = 100;
        for (SystemId from : List.of(TIDEWATER, SystemId.CUSTODIA)) {
            for (Event.Builder forged : List.of(
                    Event.of(new EventKey(from, 1, ++number), Kinds.TRIED, CLOCK.instant())
                            .detail("pair", from.equals(TIDEWATER) ? PAIR.id().value() : "")
                            .detail("as", "x")
                            .detail("about", "tidewater:1:7")
                            .detail("shown", "2026-11-24T13:59:00Z"),
                    Event.of(new EventKey(from, 1, ++number), Kinds.SET_UP, CLOCK.instant())
                            .detail("what", "pair")
                            .detail("change", "refused")
                            .detail("camera", from.equals(TIDEWATER) ? OUTSIDE.value() : " "))) {
                log.store(forged.door(VAULT).build());
            }
        }
        assertThat(desk.trial(VAULT, PAIR.id(), ODO)).isEmpty();
        assertThat(desk.refused(VAULT, OUTSIDE)).isFalse();
    }

    @Test
    void a_doubt_lasts_until_the_pair_holds_again_or_is_made_anew() {
        desk.pair(PAIR, ODO);
        Event.Builder doubt = Event.of(new EventKey(SystemId.CUSTODIA, 1, 50), Kinds.PAIR_IN_DOUBT, CLOCK.instant())
                .door(VAULT)
                .detail("camera", OUTSIDE.value());
        log.store(doubt.build());
        assertThat(desk.doubted(VAULT, OUTSIDE, ODO)).isTrue();
        log.store(Event.of(new EventKey(SystemId.CUSTODIA, 1, 51), Kinds.PAIR_HOLDS, CLOCK.instant())
                .door(VAULT)
                .detail("camera", OUTSIDE.value())
                .build());
        assertThat(desk.doubted(VAULT, OUTSIDE, ODO)).isFalse();
        log.store(Event.of(new EventKey(SystemId.CUSTODIA, 1, 52), Kinds.PAIR_IN_DOUBT, CLOCK.instant())
                .door(VAULT)
                .detail("camera", OUTSIDE.value())
                .build());
        assertThat(desk.doubted(VAULT, OUTSIDE, ODO)).isTrue();
        desk.unpair(PAIR, 1, ODO);
        assertThat(desk.doubted(VAULT, OUTSIDE, ODO)).isFalse();
    }

    @Test
    void a_camera_that_was_refused_is_not_proposed_until_it_is_paired() {
        desk.refuse(VAULT, OUTSIDE, ODO);
        assertThat(desk.refused(VAULT, OUTSIDE)).isTrue();
        assertThat(desk.refused(VAULT, ELSEWHERE)).isFalse();
        try (PairDesk again = new PairDesk(
                hand,
                SITES,
                log,
                log,
                Snapshots.inMemory(),
                evidence,
                new ClockMender(new ClockBook(), e -> {}),
                hand,
                CLOCK)) {
            assertThat(again.refused(VAULT, OUTSIDE)).isTrue();
        }
        desk.pair(PAIR, ODO);
        assertThat(desk.refused(VAULT, OUTSIDE)).isFalse();
    }

    @Test
    void a_sheet_that_was_written_changes_nothing_and_one_that_was_changed_does_so_as_a_whole() {
        desk.pair(PAIR, ODO);
        desk.sheet(PairSheets.Form.CSV, ODO);
        PairPlan same = desk.plan(new byte[0], ODO);
        assertThat(same.same()).isEqualTo(1);
        assertThat(desk.carryOut(same, true, ODO)).isZero();
        PairSheets.Row row = hand.rows.get(0);
        hand.rows = List.of(
                new PairSheets.Row(2, row.door(), "", row.camera(), "", "exit", "inside", "", "", "", "", "", ""));
        PairPlan plan = desk.plan(new byte[0], ODO);
        assertThat(plan.added()).hasSize(1);
        assertThat(plan.absent()).containsExactly(PAIR);
        Actor yard = Actor.with("x", "X", "desk", Set.of(Permission.SET_UP), SiteScope.at(YARD));
        assertThatThrownBy(() -> desk.carryOut(plan, true, yard)).isInstanceOf(NotPermittedException.class);
        assertThat(desk.pairs(VAULT, ODO)).hasSize(1);
        // Somebody is quicker; nothing of the plan is done then.
        desk.change(pairing(OUTSIDE, Duration.ofSeconds(33)), 1, ODO);
        refused("store.changed-meanwhile", () -> desk.carryOut(plan, true, ODO));
        assertThat(desk.pairs(VAULT, ODO)).hasSize(1);
        assertThat(desk.carryOut(desk.plan(new byte[0], ODO), true, ODO)).isEqualTo(2);
        assertThat(desk.pairs(VAULT, ODO))
                .singleElement()
                .satisfies(k -> assertThat(k.pairing().view()).isEqualTo(Pairing.View.INSIDE));
        assertThat(log.events.stream().map(e -> e.detail("change").orElseThrow()))
                .containsExactly("added", "changed", "added", "removed");
        assertThatThrownBy(() -> desk.plan(new byte[0], Actor.with("x", "X", "d", Set.of(), SiteScope.everywhere())))
                .isInstanceOf(NotPermittedException.class);
    }

    @Test
    void whoever_may_not_set_up_neither_looks_for_cameras_nor_judges_them() {
        Actor yard = Actor.with("x", "X", "desk", Set.of(Permission.SET_UP), SiteScope.at(YARD));
        Actor others = Actor.with("x", "X", "desk", Set.of(Permission.SEE_LIVE), SiteScope.everywhere());
        desk.pair(PAIR, ODO);
        for (ThrowingCallable each : List.<ThrowingCallable>of(
                () -> desk.look(List.of(VAULT), yard),
                () -> desk.found(VAULT, yard),
                () -> desk.pauseLooking(true, others),
                () -> desk.stopLooking(others),
                () -> desk.refuse(VAULT, OUTSIDE, yard),
                () -> desk.tried(VAULT, trial(true, true, true), yard),
                () -> desk.trial(VAULT, PAIR.id(), yard))) {
            assertThatThrownBy(each).isInstanceOf(NotPermittedException.class);
        }
        desk.pauseLooking(true, yard);
        assertThat(desk.looking(yard).paused()).isTrue();
        desk.stopLooking(yard);
    }

    @Test
    void of_a_door_without_contact_it_is_said_that_nothing_can_be_found() {
        assertThat(desk.found(VAULT, ODO)).isEmpty();
        desk.look(List.of(VAULT), ODO);
        await().until(() -> !desk.looking(ODO).running());
        assertThat(desk.found(VAULT, ODO).orElseThrow().outcome()).isEqualTo(EvidenceSearch.Outcome.NO_CONTACT);
    }
}
