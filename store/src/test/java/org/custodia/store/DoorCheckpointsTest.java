package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.stream.Collectors;
import org.custodia.core.door.CheckpointKeeper;
import org.custodia.core.door.DoorBoard;
import org.custodia.core.door.DoorTimeline;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
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

/** Checkpoints in the database: kept, found, and thrown away together with what is stored. */
class DoorCheckpointsTest {
    /** Where the log lies, unless it lies in a file; the same throughout a test. */
    Optional<ServerAddress> server() {
        return Optional.empty();
    }

    @TempDir
    Path path;

    private StoreFixture store;
    private SqlDoorCheckpoints checkpoints;
    private final List<Door> doors = new ArrayList<>();
    private final List<Event> all = new ArrayList<>();
    private final Random random = new Random(3);
    private final Clock clock = Clock.fixed(StoreFixture.START.plusSeconds(1_000_000), ZoneOffset.UTC);
    private long sequence;

    @BeforeEach
    void open() {
        store = new StoreFixture(path, server());
        checkpoints = new SqlDoorCheckpoints(store.database);
        for (int i = 0; i < 6; i++) {
            doors.add(new Door(
                    new DoorId("tidewater/d" + i),
                    StoreFixture.SYSTEM,
                    new ControllerId("tidewater/c" + i / 2),
                    "Door " + i,
                    new SiteId("s"),
                    "0",
                    "outside",
                    "inside",
                    Duration.ofSeconds(30),
                    Set.of(DoorCapability.CONTACT)));
        }
    }

    @AfterEach
    void close() {
        store.close();
    }

    private Event event(EventKind kind, int door, double seconds) {
        Event.Builder b = Event.of(
                        new EventKey(StoreFixture.SYSTEM, 1, ++sequence), kind, StoreFixture.START.plusMillis((long)
                                (seconds * 1000)))
                .door(doors.get(door).id())
                .controller(doors.get(door).controller());
        if (kind.equals(Kinds.MODE)) {
            b.detail("mode", random.nextBoolean() ? "unlocked" : "locked").detail("by", "timetable");
        }
        return b.build();
    }

    /** Something that comes late; of no controller, so that its number does not say when it happened. */
    private Event late(EventKind kind, int door, double seconds) {
        return event(kind, door, seconds).toBuilder().controller(null).build();
    }

    private void store(Event... events) {
        store.accept(List.of(events), true).join();
        all.addAll(List.of(events));
    }

    /** Days at all doors, with modes, lost controllers and a lost link in between. */
    private void days(int from, int to) {
        List<Event> events = new ArrayList<>();
        for (int i = from; i < to; i++) {
            double t = i * 40.0;
            int door = random.nextInt(6);
            events.add(event(Kinds.GRANTED, door, t));
            events.add(event(Kinds.OPENED, door, t + 2));
            events.add(event(random.nextInt(9) == 0 ? Kinds.MODE : Kinds.CLOSED, door, t + 5));
            if (i % 50 == 7) {
                events.add(event(Kinds.CONTROLLER_LOST, door, t + 6));
            } else if (i % 50 == 12) {
                events.add(event(Kinds.CONTROLLER_BACK, door, t + 6));
            }
            if (i % 90 == 30 || i % 90 == 33) {
                Event link = store.intake
                        .record(Event.of(
                                        new EventKey(SystemId.CUSTODIA, 1, 0),
                                        i % 90 == 30 ? Kinds.LINK_LOST : Kinds.LINK_BACK,
                                        StoreFixture.START.plusMillis((long) (t * 1000 + 7_000)))
                                .detail("system", "tidewater"))
                        .join();
                all.add(link);
            }
        }
        store(events.toArray(Event[]::new));
    }

    private long kept() {
        return store.database.reader().fetchCount(org.jooq.impl.DSL.table("door_checkpoint"));
    }

    private void keep(long atLeast) {
        SiteModel sites = new SiteModel(List.of(), doors, List.of(), List.of());
        try (CheckpointKeeper keeper =
                new CheckpointKeeper(store.log, checkpoints, store.intake, () -> sites, clock, Duration.ofMillis(20))) {
            keeper.awaitAll();
        } catch (InterruptedException e) {
            throw new IllegalStateException(e);
        }
        assertThat(kept()).isGreaterThanOrEqualTo(atLeast);
    }

    private void statesAreThoseOfTheWhole() {
        SiteModel sites = new SiteModel(List.of(), doors, List.of(), List.of());
        try (DoorBoard board = new DoorBoard(store.log, checkpoints, store.intake, () -> sites, clock)) {
            List<DoorTimeline> wholes = new ArrayList<>();
            for (Door door : doors) {
                DoorTimeline whole = new DoorTimeline(door);
                whole.addAll(all);
                wholes.add(whole);
            }
            for (int i = 0; i < 6; i++) {
                Instant at = StoreFixture.START.plusMillis(random.nextInt(36_000_000));
                var states = board.all(at);
                for (DoorTimeline whole : wholes) {
                    DoorId id = whole.door().id();
                    assertThat(states.get(id)).as("%s at %s", id, at).isEqualTo(whole.at(at));
                    assertThat(board.at(id, at)).isEqualTo(whole.at(at));
                }
            }
        }
    }

    @Test
    void all_doors_stand_as_they_would_if_everything_were_gone_through() {
        days(0, 900);
        keep(40);
        statesAreThoseOfTheWhole();
        // What comes late takes the ground from what was kept, for its door, its controller or its system only.
        long before = kept();
        store(late(Kinds.MODE, 3, 10_000.5));
        long ofDoor = kept();
        assertThat(ofDoor).isBetween(before - before / 4, before - 1);
        statesAreThoseOfTheWhole();
        store(event(Kinds.CONTROLLER_LOST, 0, 15_000.5));
        assertThat(kept()).isLessThan(ofDoor);
        statesAreThoseOfTheWhole();
        Event link = store.intake
                .record(Event.of(
                                new EventKey(SystemId.CUSTODIA, 1, 0),
                                Kinds.LINK_BACK,
                                StoreFixture.START.plusMillis(20_000_500))
                        .detail("system", "tidewater"))
                .join();
        all.add(link);
        statesAreThoseOfTheWhole();
        keep(before - 6);
        statesAreThoseOfTheWhole();
    }

    @Test
    void how_much_happened_at_each_door_is_known_without_looking_through_the_log() {
        assertThat(checkpoints.happened()).isEmpty();
        days(0, 40);
        store(late(Kinds.MODE, 3, 5.5));
        Map<DoorId, Long> counted = all.stream()
                .flatMap(e -> e.door().stream())
                .collect(Collectors.groupingBy(d -> d, Collectors.counting()));
        assertThat(counted).hasSizeGreaterThan(1);
        assertThat(checkpoints.happened()).isEqualTo(counted);
    }

    @Test
    void what_is_stored_meanwhile_is_not_overlooked() {
        days(0, 300);
        long position = store.log.newestPosition();
        keep(10);
        var made = checkpoints.newest(doors.get(1).id(), Instant.MAX).orElseThrow();
        store(late(Kinds.MODE, 1, made.time().getEpochSecond() - StoreFixture.START.getEpochSecond() - 5.5));
        assertThat(checkpoints.newest(doors.get(1).id(), Instant.MAX)).isNotEqualTo(java.util.Optional.of(made));
        checkpoints.keep(List.of(made), position);
        assertThat(checkpoints.newest(doors.get(1).id(), Instant.MAX)).isNotEqualTo(java.util.Optional.of(made));
        checkpoints.keep(List.of(made), store.log.newestPosition());
        assertThat(checkpoints.newest(doors.get(1).id(), Instant.MAX)).contains(made);
        assertThat(checkpoints.newest(doors.get(1).id(), made.time())).contains(made);
        assertThat(checkpoints.newest(doors.get(1).id(), made.time().minusNanos(1_000)))
                .isNotEqualTo(java.util.Optional.of(made));
        assertThat(checkpoints.newest(new DoorId("tidewater/nowhere"), Instant.MAX))
                .isEmpty();
    }

    @Test
    void only_what_touches_a_door_keeps_its_checkpoint_from_being_kept() {
        days(0, 300);
        keep(10);
        var made = checkpoints.newest(doors.get(1).id(), Instant.MAX).orElseThrow();
        checkpoints.forget(doors.get(1).id());
        assertThat(checkpoints.newest(doors.get(1).id(), Instant.MAX)).isEmpty();
        assertThat(checkpoints.newest(doors.get(2).id(), Instant.MAX)).isPresent();
        long position = store.log.newestPosition();
        double before = made.time().getEpochSecond() - StoreFixture.START.getEpochSecond() - 5.5;
        // At another door, and at this one later.
        store(late(Kinds.MODE, 4, before), late(Kinds.MODE, 1, before + 1_000_000));
        checkpoints.keep(List.of(made), position);
        assertThat(checkpoints.newest(doors.get(1).id(), Instant.MAX)).contains(made);
        checkpoints.forget(doors.get(1).id());
        // Of very much nobody says what it touches.
        List<Event> many = new ArrayList<>();
        for (int i = 0; i < 2_000; i++) {
            many.add(late(Kinds.OPENED, 5, before + 2_000_000 + i));
        }
        store(many.toArray(Event[]::new));
        checkpoints.keep(List.of(made), position);
        assertThat(checkpoints.newest(doors.get(1).id(), Instant.MAX)).isEmpty();
        // The same place twice in one go: the newest word on it holds.
        position = store.log.newestPosition();
        var other = new org.custodia.core.door.DoorCheckpoint(
                made.door(), made.system(), made.controller(), made.time(), made.key(), "another shape", made.course());
        checkpoints.keep(List.of(other, made), position);
        assertThat(checkpoints.newest(doors.get(1).id(), Instant.MAX)).contains(made);
        checkpoints.keep(List.of(other), position);
        assertThat(checkpoints.newest(doors.get(1).id(), Instant.MAX)).contains(other);
        checkpoints.keep(List.of(), position);
        assertThat(checkpoints.newest(doors.get(1).id(), Instant.MAX)).contains(other);
    }
}
