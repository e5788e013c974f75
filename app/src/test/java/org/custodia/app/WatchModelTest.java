package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicReference;
import java.util.function.BooleanSupplier;
import java.util.function.Supplier;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.command.CommandProgress;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.door.DoorState;
import org.custodia.core.door.LockMode;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.moment.Moment;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.Permission;
import org.custodia.core.operator.SiteScope;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SystemId;
import org.custodia.core.workplace.Workplace;
import org.custodia.desktop.Services;
import org.custodia.desktop.Work;
import org.custodia.desktop.call.Outside;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.settings.Settings;
import org.custodia.desktop.strip.TimeAxis;
import org.custodia.desktop.watch.StripModel;
import org.custodia.desktop.watch.WatchModel;
import org.custodia.video.Pictures;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The state of Watch without any window, on the practice site. */
class WatchModelTest {
    private static final DoorId LOBBY = new DoorId("tidewater/staff-lobby");
    private static final DoorId VAULT_ANTE = new DoorId("tidewater/vault-ante");
    private static final DoorId CORRIDOR = new DoorId("tidewater/strongroom-corr");

    @TempDir
    Path directory;

    private final AtomicBoolean pointing = new AtomicBoolean();
    private final Work work = new Work();
    private Rig rig;
    private Settings settings;
    private Watching watch;

    @BeforeAll
    static void toolkit() {
        Console.offscreen();
        Console.startToolkit();
    }

    @BeforeEach
    void open() {
        rig = Rig.prepared(directory).withHub().connected();
        settings = Settings.load(rig.data);
        watch = make(Rig.OPERATOR);
    }

    private Watching make(Actor actor) {
        return make(actor, rig.hub.firstWatch());
    }

    private Watching make(Actor actor, List<DoorId> firstWatch) {
        return make(actor, firstWatch, rig.hub::links);
    }

    private Watching make(Actor actor, List<DoorId> firstWatch, Supplier<List<LinkStatus>> links) {
        Workplace workplace = rig.hub.workplace(actor);
        Services services = new Services(
                workplace,
                new Pictures(rig.hub.video(), workplace.permit()),
                "Sternwick Museum",
                true,
                rig.clock,
                rig.hub.clocks(),
                firstWatch,
                links,
                Optional::empty,
                storing::get,
                List::of,
                file -> {},
                Outside.NOBODY);
        return fx(() -> new Watching(new Desk(services, settings, work), () -> !pointing.get()));
    }

    /** Watch at a desk of its own. */
    private static final class Watching implements AutoCloseable {
        final Desk desk;
        final WatchModel model;

        Watching(Desk desk, BooleanSupplier nobodyPoints) {
            this.desk = desk;
            this.model = new WatchModel(desk, nobodyPoints);
        }

        void tick() {
            desk.tick();
            model.tick();
        }

        @Override
        public void close() {
            model.close();
            desk.close();
        }
    }

    private final java.util.concurrent.atomic.AtomicBoolean storing =
            new java.util.concurrent.atomic.AtomicBoolean(true);

    @AfterEach
    void close() {
        watch.close();
        rig.close();
        work.close();
    }

    private static <T> T fx(Supplier<T> task) {
        return Snapshots.onFx(task);
    }

    private List<DoorId> shown() {
        return fx(() -> {
            watch.tick();
            return watch.model.strips().stream().map(s -> s.door().id()).toList();
        });
    }

    private StripModel strip(DoorId door) {
        return fx(() -> watch.model.strips().stream()
                .filter(s -> s.door().id().equals(door))
                .findFirst()
                .orElseThrow());
    }

    private void watchOnly(DoorId... doors) {
        fx(() -> {
            watch.model.watch(List.of(doors));
            return null;
        });
    }

    @Test
    void a_first_start_watches_what_the_site_proposes_and_a_choice_is_remembered_in_order() {
        assertThat(fx(watch.model::onWatch))
                .hasSize(6)
                .startsWith(LOBBY)
                .endsWith(VAULT_ANTE)
                .isEqualTo(rig.hub.firstWatch());
        watchOnly(VAULT_ANTE, LOBBY, VAULT_ANTE);
        assertThat(shown()).containsSubsequence(VAULT_ANTE, LOBBY);
        assertThat(Settings.load(rig.data).values().doors()).containsExactly(VAULT_ANTE.value(), LOBBY.value());
    }

    @Test
    void where_nothing_is_proposed_doors_with_a_camera_come_first() {
        try (Watching other = make(Rig.OPERATOR, List.of())) {
            assertThat(fx(other.model::onWatch)).hasSize(6).allSatisfy(d -> assertThat(
                            rig.hub.sites().get().pairings(d))
                    .isNotEmpty());
        }
    }

    @Test
    void a_choice_of_doors_that_are_all_gone_is_as_none() {
        settings.doors(List.of("elsewhere/gate"));
        try (Watching other = make(Rig.OPERATOR)) {
            assertThat(fx(other.model::onWatch)).isEqualTo(rig.hub.firstWatch());
        }
        settings.doors(List.of("elsewhere/gate", VAULT_ANTE.value()));
        try (Watching other = make(Rig.OPERATOR)) {
            assertThat(fx(other.model::onWatch)).containsExactly(VAULT_ANTE);
        }
    }

    @Test
    void strips_change_their_order_only_while_nobody_is_pointing() {
        watchOnly(LOBBY);
        pointing.set(true);
        rig.happen("{'act':'force','door':'strongroom-corr','seconds':60}");
        Rig.await().until(() -> {
            shown();
            return watch.desk.live().states().get().containsKey(CORRIDOR)
                    && watch.desk
                            .live()
                            .states()
                            .get()
                            .get(CORRIDOR)
                            .forcedSince()
                            .isPresent();
        });
        assertThat(shown()).doesNotContain(CORRIDOR);
        // The model lists the waiting door; the operator can move it up at once.
        assertThat(fx(() -> watch.model.waiting().get())).extracting(Door::id).contains(CORRIDOR);
        pointing.set(false);
        Rig.await().until(() -> shown().get(0).equals(CORRIDOR));
        assertThat(fx(() -> watch.model.waiting().get())).isEmpty();
        pointing.set(true);
        watchOnly(LOBBY, VAULT_ANTE);
        assertThat(shown().get(0)).isEqualTo(CORRIDOR);
        pointing.set(false);
        assertThat(strip(CORRIDOR).shownFor().get()).isNotEmpty();
        assertThat(strip(LOBBY).shownFor().get()).isEmpty();
        rig.happen("{'act':'shut','door':'strongroom-corr'}");
        Rig.await().until(() -> watch.desk.alarms().unseen().stream()
                .anyMatch(l -> l.condition() == Alarm.Condition.ENDED));
        // It stays until somebody has seen it.
        assertThat(shown()).contains(CORRIDOR);
        fx(() -> {
            watch.desk
                    .alarms()
                    .acknowledge(
                            watch.desk.alarms().unseen().stream()
                                    .map(Alarm::seen)
                                    .toList(),
                            why -> {});
            return null;
        });
        Rig.await().until(() -> !shown().contains(CORRIDOR));
    }

    @Test
    void a_door_is_shown_for_as_long_as_something_is_played_there() {
        watchOnly(LOBBY);
        fx(() -> {
            watch.model.showToPlay(VAULT_ANTE);
            return null;
        });
        assertThat(shown()).contains(VAULT_ANTE);
        fx(() -> {
            watch.model.playedAt(VAULT_ANTE);
            return null;
        });
        assertThat(shown()).doesNotContain(VAULT_ANTE);
    }

    @Test
    void a_strip_holds_what_happened_up_to_the_moment_and_no_further() {
        watchOnly(VAULT_ANTE);
        rig.happen("{'act':'present','door':'vault-ante','badge':'20388'}");
        Rig.await()
                .until(() -> fx(() -> strip(VAULT_ANTE).data().get().items().stream()
                        .anyMatch(i -> i.event().credential().equals(Optional.of("20388")))));
        Event refused = rig.hub
                .log()
                .find(EventQuery.all()
                        .kinds(Kinds.REFUSED)
                        .doors(Set.of(VAULT_ANTE))
                        .newest(1))
                .get(0);
        Rig.await().until(() -> rig.clock.instant().isAfter(refused.time().plusSeconds(2)));
        fx(() -> {
            watch.desk.lookBack(refused.time().minusSeconds(1));
            return null;
        });
        Rig.await()
                .until(() -> fx(() -> !strip(VAULT_ANTE).data().get().loading()
                        && strip(VAULT_ANTE).data().get().end().isBefore(refused.time())));
        assertThat(fx(() -> strip(VAULT_ANTE).data().get().items().stream()
                        .anyMatch(i -> i.event().equals(refused))))
                .isFalse();
        fx(() -> {
            watch.desk.returnToNow();
            return null;
        });
        Rig.await()
                .until(() -> fx(() -> strip(VAULT_ANTE).data().get().items().stream()
                        .anyMatch(i -> i.event().equals(refused))));
    }

    private boolean holds(String badge) {
        return fx(() -> strip(VAULT_ANTE).data().get().items().stream()
                .anyMatch(i -> i.event().credential().equals(Optional.of(badge))));
    }

    @Test
    void what_comes_late_into_the_past_that_is_looked_at_is_shown_and_what_happens_now_is_not() {
        watchOnly(VAULT_ANTE);
        Instant past = rig.clock.instant().minus(Duration.ofMinutes(40));
        fx(() -> {
            watch.desk.lookBack(past);
            return null;
        });
        Rig.await().until(() -> fx(() -> strip(VAULT_ANTE).isRead()));
        rig.happen("{'act':'present','door':'vault-ante','badge':'77120'}");
        SystemId other = new SystemId("annex");
        rig.hub
                .intake()
                .feed(other)
                .accept(EventIntake.Batch.of(
                        List.of(
                                Event.of(new EventKey(other, 1, 1), Kinds.GRANTED, past.minusSeconds(30))
                                        .door(VAULT_ANTE)
                                        .credential("60001")
                                        .build(),
                                Event.of(new EventKey(other, 1, 2), Kinds.GRANTED, past.plusSeconds(30))
                                        .door(VAULT_ANTE)
                                        .credential("60002")
                                        .build()),
                        true))
                .join();
        Rig.await().until(() -> holds("60001"));
        assertThat(holds("60002")).isFalse();
        Rig.await().until(() -> !rig.hub
                .log()
                .find(EventQuery.all()
                        .doors(Set.of(VAULT_ANTE))
                        .kinds(Kinds.REFUSED)
                        .since(past)
                        .newest(1))
                .isEmpty());
        assertThat(holds("77120")).isFalse();
        fx(() -> {
            watch.desk.returnToNow();
            return null;
        });
        Rig.await().until(() -> holds("77120"));
        assertThat(holds("60001")).isFalse();
    }

    @Test
    void what_is_not_past_is_now() {
        Instant now = rig.clock.instant();
        fx(() -> {
            watch.desk.lookBack(now.minus(Duration.ofDays(1)));
            return null;
        });
        assertThat(fx(() -> watch.desk.moment().get())).isEqualTo(new Moment.At(now.minus(Duration.ofDays(1))));
        fx(() -> {
            watch.desk.lookBack(now.plusSeconds(3600));
            return null;
        });
        assertThat(fx(() -> watch.desk.moment().get().isLive())).isTrue();
    }

    @Test
    void the_length_of_the_axis_is_remembered() {
        fx(() -> {
            watch.model.span().set(TimeAxis.SPANS.get(5));
            return null;
        });
        assertThat(Settings.load(rig.data).values().spanSeconds()).isEqualTo(7_200);
        watch.close();
        settings = Settings.load(rig.data);
        watch = make(Rig.OPERATOR);
        assertThat(fx(() -> watch.model.span().get())).isEqualTo(Duration.ofHours(2));
    }

    @Test
    void the_doorstep_follows_arrivals_unless_an_event_is_pinned_to_it() {
        watchOnly(VAULT_ANTE);
        rig.happen("{'act':'present','door':'vault-ante','badge':'20388'}");
        Rig.await()
                .until(() -> fx(() -> watch.desk
                        .doorstep()
                        .event()
                        .get()
                        .flatMap(Event::credential)
                        .equals(Optional.of("20388"))));
        Event first = fx(() -> watch.desk.doorstep().event().get().orElseThrow());
        fx(() -> {
            watch.desk.doorstep().pin(first);
            return null;
        });
        rig.happen("{'act':'present','door':'vault-ante','badge':'77120'}");
        Rig.await()
                .until(() -> fx(() -> strip(VAULT_ANTE).data().get().items().stream()
                        .anyMatch(i -> i.event().credential().equals(Optional.of("77120")))));
        assertThat(fx(() -> watch.desk.doorstep().event().get())).contains(first);
        fx(() -> {
            watch.desk.doorstep().unpin();
            return null;
        });
        rig.happen("{'act':'present','door':'vault-ante','badge':'77121'}");
        Rig.await()
                .until(() -> fx(() -> watch.desk
                        .doorstep()
                        .event()
                        .get()
                        .flatMap(Event::credential)
                        .equals(Optional.of("77121"))));
    }

    @Test
    void who_came_last_and_how_doors_stand_is_not_known_before_history_is_read() {
        rig.happen("{'act':'present','door':'vault-ante','badge':'20388'}");
        Rig.await()
                .until(() -> fx(() -> strip(VAULT_ANTE).data().get().items().stream()
                        .anyMatch(i -> i.event().credential().equals(Optional.of("20388")))));
        LinkStatus up = rig.hub.links().stream()
                .filter(s -> s.system().equals(new SystemId("tidewater")))
                .findFirst()
                .orElseThrow();
        LinkStatus reading =
                up.of(LinkStatus.State.READING_BACKLOG, up.since(), Optional.empty(), Optional.empty(), 4_000, 9_000);
        AtomicReference<LinkStatus> status = new AtomicReference<>(reading);
        try (Watching other = make(Rig.OPERATOR, List.of(VAULT_ANTE), () -> List.of(status.get()))) {
            fx(() -> {
                other.tick();
                return null;
            });
            Rig.await()
                    .until(() ->
                            fx(() -> !other.model.strips().get(0).data().get().loading()));
            assertThat(fx(other.desk::readsHistory)).isTrue();
            assertThat(fx(() -> other.desk.doorstep().event().get())).isEmpty();
            StripModel vault = fx(() -> other.model.strips().get(0));
            assertThat(fx(() -> other.desk.live().notKnownYet(vault.door()))).contains("history is still being read");
            assertThat(fx(() -> vault.live().get())).isEqualTo(DoorState.UNKNOWN);
            status.set(up);
            assertThat(fx(() -> other.desk.live().notKnownYet(vault.door()))).isEmpty();
            Rig.await()
                    .until(() -> fx(() -> {
                        other.tick();
                        return vault.live().get().lock() != LockMode.UNKNOWN;
                    }));
            Rig.await()
                    .until(() -> fx(() -> {
                        other.tick();
                        return other.desk.doorstep().event().get().isPresent();
                    }));
        }
    }

    @Test
    void how_a_command_goes_is_told_in_the_strip() {
        watchOnly(VAULT_ANTE);
        fx(() -> {
            watch.desk.commands().act(strip(VAULT_ANTE).door(), new DoorCommand.LetThrough());
            return null;
        });
        Rig.await()
                .until(() -> fx(() -> strip(VAULT_ANTE)
                        .progress()
                        .get()
                        .filter(p -> p.stage() == CommandProgress.Stage.CONFIRMED)
                        .isPresent()));
    }

    @Test
    void who_may_not_act_is_offered_nothing_and_told_so() {
        watch.close();
        watch = make(Actor.with("looker", "A. Looker", "desk", Set.of(Permission.SEE_LIVE), SiteScope.everywhere()));
        watchOnly(VAULT_ANTE);
        assertThat(fx(() -> watch.desk.commands().offered(strip(VAULT_ANTE).door())))
                .isEmpty();
        fx(() -> {
            watch.desk.commands().act(strip(VAULT_ANTE).door(), new DoorCommand.LockNow());
            return null;
        });
        Rig.await()
                .until(() -> fx(() -> strip(VAULT_ANTE)
                        .progress()
                        .get()
                        .filter(p -> p.stage() == CommandProgress.Stage.FAILED
                                && p.why()
                                        .filter(w -> w.code().equals("permit.not-here"))
                                        .isPresent())
                        .isPresent()));
    }

    /** Everything is there for somebody of one site as if there were no other. */
    @Test
    void who_works_for_one_site_sees_that_site() {
        SiteId site = rig.hub.sites().get().door(VAULT_ANTE).orElseThrow().site();
        assertThat(rig.hub.sites().get().sites()).hasSizeGreaterThan(1);
        Door elsewhere = rig.hub.sites().get().doors().stream()
                .filter(d -> !d.site().equals(site))
                .findFirst()
                .orElseThrow();
        try (Watching other = make(Actor.with("one", "One", "desk", Set.of(Permission.values()), SiteScope.at(site)))) {
            fx(() -> {
                other.model.watch(List.of(VAULT_ANTE, elsewhere.id()));
                return null;
            });
            assertThat(fx(() -> other.model.strips().stream()
                            .map(m -> m.door().id())
                            .toList()))
                    .containsExactly(VAULT_ANTE);
            assertThat(other.desk.services().log().find(EventQuery.all().newest(500)))
                    .isNotEmpty()
                    .allMatch(e -> e.door().isEmpty()
                            || rig.hub
                                    .sites()
                                    .get()
                                    .door(e.door().get())
                                    .filter(d -> d.site().equals(site))
                                    .isPresent());
            assertThat(rig.hub
                            .log()
                            .find(EventQuery.all().doors(Set.of(elsewhere.id())).newest(1)))
                    .isNotEmpty();
            rig.happen("{'act':'present','door':'vault-ante','badge':'20388'}");
            Rig.await()
                    .until(() -> fx(() -> {
                        other.tick();
                        return other.desk.live().states().get().containsKey(VAULT_ANTE)
                                && other.model.strips().get(0).data().get().items().stream()
                                        .anyMatch(i -> i.event().credential().equals(Optional.of("20388")));
                    }));
            assertThat(fx(() -> other.desk.live().states().get())).doesNotContainKey(elsewhere.id());
        }
    }

    /** The past stays closed, with a word about it, and how the door stands is known all the same. */
    @Test
    void who_may_not_look_back_sees_how_doors_stand_and_is_told_why_there_is_no_more() {
        Actor guard = Actor.with(
                "guard",
                "A. Guard",
                "desk",
                Set.of(Permission.SEE_LIVE, Permission.ACT_ON_DOORS),
                SiteScope.everywhere());
        try (Watching other = make(guard, List.of(VAULT_ANTE))) {
            Rig.await()
                    .until(() -> fx(() -> {
                        other.tick();
                        StripModel strip = other.model.strips().get(0);
                        return strip.live().get().lock() != LockMode.UNKNOWN
                                && strip.data()
                                        .get()
                                        .failure()
                                        .equals(Optional.of("A. Guard may not look back at this site."));
                    }));
            rig.happen("{'act':'present','door':'vault-ante','badge':'20388'}");
            Rig.await()
                    .until(() -> fx(() -> other.desk
                            .doorstep()
                            .event()
                            .get()
                            .flatMap(Event::credential)
                            .equals(Optional.of("20388"))));
        }
    }
}
