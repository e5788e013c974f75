package org.custodia.core.door;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.core.Patience.await;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.List;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

class CheckpointKeeperTest {
    private final MemoryLog log = new MemoryLog();
    private final MemoryCheckpoints checkpoints = new MemoryCheckpoints(log);
    private final DoorEvents make = new DoorEvents();
    private final SiteModel sites = new SiteModel(List.of(), List.of(DoorEvents.door()), List.of(), List.of());
    private final Clock clock = Clock.fixed(DoorEvents.at(100_000), ZoneOffset.UTC);

    private void days(int from, int to) {
        for (int i = from; i < to; i++) {
            log.store(make.event(i * 100, Kinds.GRANTED), make.event(i * 100 + 2, Kinds.OPENED));
            log.store(make.event(i * 100 + 8, Kinds.CLOSED));
        }
    }

    private int kept() {
        synchronized (checkpoints) {
            return checkpoints.kept.values().stream().mapToInt(m -> m.size()).sum();
        }
    }

    private CheckpointKeeper keeper() {
        return new CheckpointKeeper(log, checkpoints, log, () -> sites, clock, Duration.ofMillis(20));
    }

    @Test
    void what_is_there_gets_checkpoints_and_so_does_what_comes() {
        days(0, 200);
        try (CheckpointKeeper keeper = keeper()) {
            await().until(() -> kept() == 29);
            days(200, 230);
            await().until(() -> kept() == 34);
            assertThat(keeper).isNotNull();
        }
        DoorTimeline whole = new DoorTimeline(DoorEvents.door());
        whole.addAll(log.events);
        DoorHistory history = new DoorHistory(log, checkpoints, 10);
        for (int t = 0; t < 23_000; t += 377) {
            Instant at = DoorEvents.at(t + 3);
            assertThat(history.states(sites.doors(), at).getOrDefault(DoorEvents.ID, whole.at(at)))
                    .isEqualTo(whole.at(at));
        }
    }

    @Test
    void doors_at_which_little_happened_are_not_looked_at_until_enough_has() throws InterruptedException {
        days(0, 6);
        try (CheckpointKeeper keeper = keeper()) {
            keeper.awaitAll();
            assertThat(checkpoints.asked).isEmpty();
            // Eighteen events by now: what was there before counts as well.
            days(6, 7);
            await().until(() -> kept() == 1);
        }
    }

    @Test
    void what_a_late_event_takes_the_ground_from_is_made_again() {
        days(0, 200);
        try (CheckpointKeeper keeper = keeper()) {
            await().until(() -> kept() == 29);
            log.store(make.event(7_050, Kinds.MODE, "mode", "unlocked", "by", "timetable"));
            assertThat(checkpoints.thrownAway).isPositive();
            days(200, 230);
            await().until(() -> kept() == 34);
            assertThat(keeper).isNotNull();
        }
        assertThat(new DoorHistory(log, checkpoints, 10)
                        .states(sites.doors(), DoorEvents.at(19_000))
                        .get(DoorEvents.ID)
                        .lock())
                .isEqualTo(LockMode.UNLOCKED);
    }

    @Test
    void those_of_a_door_that_has_changed_are_made_anew() throws InterruptedException {
        days(0, 1_500);
        try (CheckpointKeeper keeper = keeper()) {
            keeper.awaitAll();
        }
        int before = kept();
        Door changed = DoorEvents.door(DoorCapability.REPORTS_FORCED);
        SiteModel later = new SiteModel(List.of(), List.of(changed), List.of(), List.of());
        try (CheckpointKeeper keeper =
                new CheckpointKeeper(log, checkpoints, log, () -> later, clock, Duration.ofMillis(20))) {
            keeper.awaitAll();
        }
        assertThat(kept()).isEqualTo(before);
        assertThat(checkpoints.kept.get(changed.id()).values())
                .allMatch(c -> c.courseOf(changed).isPresent());
    }

    @Test
    void a_lost_link_and_a_lost_controller_are_of_all_their_doors_and_no_other() {
        Event link = Event.of(new EventKey(SystemId.CUSTODIA, 1, 1), Kinds.LINK_LOST, DoorEvents.at(50))
                .detail("system", "tidewater")
                .build();
        DoorCheckpoint here = checkpoint(DoorEvents.door());
        assertThat(DoorCheckpoint.Touched.by(link).orElseThrow().touches(here)).isTrue();
        Event other = link.toBuilder().detail("system", "tidewater-2").build();
        assertThat(DoorCheckpoint.Touched.by(other).orElseThrow().touches(here)).isFalse();
        Event later = Event.of(link.key(), Kinds.LINK_LOST, DoorEvents.at(61))
                .detail("system", "tidewater")
                .build();
        assertThat(DoorCheckpoint.Touched.by(later).orElseThrow().touches(here)).isFalse();
        assertThat(DoorCheckpoint.Touched.by(make.event(60, Kinds.CONTROLLER_LOST))
                        .orElseThrow()
                        .touches(here))
                .isTrue();
        assertThat(DoorCheckpoint.Touched.by(
                        Event.of(link.key(), Kinds.SIGNED_IN, DoorEvents.at(1)).build()))
                .isEmpty();
    }

    private DoorCheckpoint checkpoint(Door door) {
        DoorFact fact = DoorFact.of(make.event(60, Kinds.CLOSED), door).orElseThrow();
        DoorCourse course = new DoorCourse(door);
        course.apply(fact, (k, o) -> {});
        return DoorCheckpoint.after(door, fact, course);
    }

    @Test
    void a_checkpoint_of_a_door_that_has_changed_or_that_cannot_be_read_is_of_no_use() {
        Door door = DoorEvents.door();
        DoorCheckpoint good = checkpoint(door);
        assertThat(good.courseOf(door)).isPresent();
        assertThat(good.courseOf(DoorEvents.door(DoorCapability.REPORTS_FORCED)))
                .isEmpty();
        for (String broken :
                List.of("", "1", good.course().replace("CLOSED", "AJAR"), good.course() + "x", "2" + good.course())) {
            DoorCheckpoint bad = new DoorCheckpoint(
                    good.door(), good.system(), good.controller(), good.time(), good.key(), good.shape(), broken);
            assertThat(bad.courseOf(door).map(DoorCourse::write))
                    .as(broken)
                    .isNotEqualTo(java.util.Optional.of(good.course()));
        }
        assertThat(good.courseOf(door).orElseThrow().write()).isEqualTo(good.course());
    }
}
