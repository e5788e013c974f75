package org.custodia.core.door;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.core.door.DoorEvents.ID;
import static org.custodia.core.door.DoorEvents.SYSTEM;
import static org.custodia.core.door.DoorEvents.at;
import static org.custodia.core.door.DoorEvents.door;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.Supplier;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

/** What no event says of a door, told while events are stored: the same as its states say afterwards. */
class DoorWatchTest {
    private static final Door OURS = door(DoorCapability.REPORTS_FORCED, DoorCapability.REPORTS_HELD);
    private final DoorEvents make = new DoorEvents();
    private final List<String> told = new ArrayList<>();

    private static Supplier<SiteModel> at_(Door door) {
        SiteModel model = new SiteModel(List.of(), List.of(door), List.of(), List.of());
        return () -> model;
    }

    private void tell(EventKind kind, Event by, Instant since) {
        told.add(kind.id() + " " + Duration.between(at(0), since).toSeconds());
    }

    private void take(DoorWatch watch, Event... some) {
        for (Event event : some) {
            watch.take(event, this::tell);
        }
    }

    @Test
    void a_door_that_opens_with_nothing_before_it_was_forced_and_one_that_reports_that_itself_is_left_to_it() {
        for (Door door : List.of(OURS, door(), door(DoorCapability.REPORTS_FORCED, DoorCapability.CONTACT))) {
            told.clear();
            DoorWatch watch = new DoorWatch(at_(door));
            take(watch, make.event(0, Kinds.MODE, "mode", "locked"), make.event(20, Kinds.OPENED));
            assertThat(told).isEqualTo(door == OURS ? List.of("door.forced 20") : List.of());
            // It says so once.
            take(watch, make.event(21, Kinds.OPENED), make.event(22, Kinds.MODE, "mode", "locked"));
            assertThat(told).hasSize(door == OURS ? 1 : 0);
            take(
                    watch,
                    make.event(30, Kinds.CLOSED),
                    make.event(31, Kinds.EXIT_REQUESTED),
                    make.event(33, Kinds.OPENED));
            assertThat(told).hasSize(door == OURS ? 1 : 0);
        }
    }

    @Test
    void nobody_knows_how_the_lock_stands_so_nothing_is_forced() {
        DoorWatch watch = new DoorWatch(at_(OURS));
        take(watch, make.event(20, Kinds.OPENED), make.event(22, Kinds.CLOSED));
        take(watch, make.event(23, Kinds.MODE, "mode", "unlocked"), make.event(60, Kinds.OPENED));
        assertThat(told).isEmpty();
    }

    @Test
    void held_open_follows_from_silence_some_time_after_the_limit_and_not_while_nothing_can_be_heard() {
        DoorWatch watch = new DoorWatch(at_(OURS));
        take(
                watch,
                make.event(0, Kinds.MODE, "mode", "locked"),
                make.event(1, Kinds.GRANTED),
                make.event(2, Kinds.OPENED));
        watch.tick(at(62.5), this::tell);
        assertThat(told).isEmpty();
        watch.tick(at(64.1), this::tell);
        watch.tick(at(70), this::tell);
        assertThat(told).containsExactly("door.held 62");
        take(watch, make.event(80, Kinds.CLOSED), make.event(90, Kinds.GRANTED), make.event(91, Kinds.OPENED));
        Event lost = Event.of(new EventKey(SystemId.CUSTODIA, 1, 1), Kinds.LINK_LOST, at(100))
                .detail("system", SYSTEM.value())
                .build();
        take(watch, lost);
        watch.tick(at(400), this::tell);
        assertThat(told).hasSize(1);
        Event back = Event.of(new EventKey(SystemId.CUSTODIA, 1, 2), Kinds.LINK_BACK, at(420))
                .detail("system", SYSTEM.value())
                .build();
        // What was kept meanwhile says that it was closed in time.
        take(watch, make.event(99, Kinds.CLOSED), back);
        watch.tick(at(500), this::tell);
        assertThat(told).hasSize(1);
    }

    /** As at a start: how a door stood at the end is known, and what came since is still being read. */
    @Test
    void nothing_follows_from_silence_while_what_a_system_kept_is_not_here_yet() {
        for (boolean closed : List.of(true, false)) {
            told.clear();
            DoorWatch watch = new DoorWatch(at_(OURS));
            take(
                    watch,
                    make.event(0, Kinds.MODE, "mode", "locked"),
                    make.event(1, Kinds.GRANTED),
                    make.event(2, Kinds.OPENED),
                    make.event(3, Kinds.GRANTED));
            watch.tick(at(900), system -> !system.equals(SYSTEM), this::tell);
            watch.tick(at(916), system -> false, this::tell);
            assertThat(told).isEmpty();
            if (closed) {
                take(watch, make.event(8, Kinds.CLOSED));
            }
            // What comes in the end needs a moment.
            watch.tick(at(920), system -> true, this::tell);
            assertThat(told).isEmpty();
            watch.tick(at(960), system -> true, this::tell);
            if (closed) {
                assertThat(told).isEmpty();
            } else {
                assertThat(told).contains("door.held 62");
            }
        }
    }

    @Test
    void what_comes_late_calls_nobody_and_changes_nothing() {
        DoorWatch watch = new DoorWatch(at_(OURS));
        take(
                watch,
                make.event(0, Kinds.MODE, "mode", "locked"),
                make.event(50, Kinds.GRANTED),
                make.event(51, Kinds.OPENED));
        take(watch, make.event(20, Kinds.CLOSED), make.event(30, Kinds.OPENED));
        assertThat(told).isEmpty();
    }

    @Test
    void a_door_that_is_set_up_otherwise_meanwhile_keeps_its_state() {
        Door longer = new Door(
                ID,
                SYSTEM,
                OURS.controller(),
                "Another name",
                OURS.site(),
                "1",
                "a",
                "b",
                Duration.ofSeconds(300),
                OURS.capabilities());
        List<Door> now = new ArrayList<>(List.of(OURS));
        DoorWatch watch = new DoorWatch(() -> at_(now.get(0)).get());
        take(watch, make.event(0, Kinds.MODE, "mode", "locked"));
        now.set(0, longer);
        take(watch, make.event(20, Kinds.OPENED));
        watch.tick(at(100), this::tell);
        assertThat(told).containsExactly("door.forced 20");
        watch.tick(at(400), this::tell);
        assertThat(told).hasSize(2).contains("door.held 320");
    }

    @Test
    void what_another_system_says_of_a_door_is_not_believed() {
        DoorWatch watch = new DoorWatch(at_(OURS));
        take(watch, make.event(0, Kinds.MODE, "mode", "locked"));
        take(
                watch,
                Event.of(new EventKey(new SystemId("brine"), 1, 1), Kinds.OPENED, at(20))
                        .door(ID)
                        .build());
        assertThat(told).isEmpty();
    }

    /** Whatever happens, in order: what is told is what the door's past says afterwards. */
    @Property(tries = 200)
    void what_is_told_agrees_with_the_states(@ForAll long seed) {
        Random random = new Random(seed);
        List<EventKind> kinds = List.of(
                Kinds.GRANTED,
                Kinds.GRANTED,
                Kinds.OPENED,
                Kinds.OPENED,
                Kinds.CLOSED,
                Kinds.CLOSED,
                Kinds.EXIT_REQUESTED,
                Kinds.MODE,
                Kinds.REPORT,
                Kinds.CONTROLLER_LOST,
                Kinds.CONTROLLER_BACK);
        DoorEvents own = new DoorEvents();
        DoorWatch watch = new DoorWatch(at_(OURS));
        DoorTimeline timeline = new DoorTimeline(OURS);
        Instant[] now = {at(0)};
        Map<Instant, Instant> held = new TreeMap<>();
        Set<Instant> forced = new TreeSet<>();
        Set<EventKey> nobody = new HashSet<>();
        DoorWatch.Listener listener = (kind, by, since) -> {
            if (kind.equals(Kinds.FORCED)) {
                assertThat(forced.add(since)).isTrue();
            } else if (kind.equals(Kinds.HELD)) {
                assertThat(held.put(since, now[0])).isNull();
            } else {
                assertThat(nobody.add(by.key())).isTrue();
            }
        };
        Set<Instant> reach = new TreeSet<>();
        double t = 0;
        for (int i = 0; i < 40; i++) {
            t += random.nextInt(4) == 0 ? 90 * random.nextDouble() : 6 * random.nextDouble();
            EventKind kind = kinds.get(random.nextInt(kinds.size()));
            Event event = kind.equals(Kinds.MODE)
                    ? own.event(t, kind, "mode", random.nextBoolean() ? "locked" : "unlocked")
                    : kind.equals(Kinds.REPORT)
                            ? own.event(t, kind, "mode", "locked", "position", random.nextBoolean() ? "open" : "closed")
                            : own.event(t, kind);
            if (!kind.equals(Kinds.REPORT) && kind.id().startsWith("controller")) {
                event = event.toBuilder().controller(OURS.controller()).build();
            }
            timeline.add(event);
            if (kind.id().startsWith("controller") || kind.equals(Kinds.REPORT)) {
                reach.add(event.time());
            }
            now[0] = event.time();
            watch.tick(event.time(), listener);
            watch.take(event, listener);
        }
        Instant end = at(t + 200);
        now[0] = end;
        watch.tick(end, listener);
        forced.forEach(f -> assertThat(timeline.at(f).forcedSince()).contains(f));
        held.forEach((since, when) ->
                assertThat(timeline.at(when.minusMillis(1)).heldSince()).contains(since));
        for (Instant i = at(0); i.isBefore(end); i = i.plusSeconds(1)) {
            DoorState state = timeline.at(i);
            Instant before = i.minusSeconds(20);
            boolean heard = state.outOfReachSince().isEmpty() && reach.stream().noneMatch(before::isBefore);
            state.heldSince().filter(h -> heard && h.isBefore(before)).ifPresent(h -> assertThat(held)
                    .containsKey(h));
        }
        Set<EventKey> expected = new HashSet<>();
        timeline.outcomes(at(-1), end, end).forEach((key, outcome) -> {
            if (outcome == GrantOutcome.NOBODY_ENTERED) {
                expected.add(key);
            }
        });
        assertThat(expected).containsAll(nobody);
        // Only what was waited for when its door could not be heard at the end may be missing.
        if (timeline.at(end).outOfReachSince().isEmpty()) {
            assertThat(nobody).isEqualTo(expected);
        }
    }
}
