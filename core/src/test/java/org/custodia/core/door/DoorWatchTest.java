package org.custodia.core.door;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.core.door.DoorEvents.ID;
import static org.custodia.core.door.DoorEvents.SYSTEM;
import static org.custodia.core.door.DoorEvents.at;
import static org.custodia.core.door.DoorEvents.door;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.Supplier;
import java.util.stream.IntStream;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
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

    private final DoorWatch.Listener listener = new DoorWatch.Listener() {
        @Override
        public void follows(EventKind kind, Event by, Instant since) {
            told.add(kind.id() + " " + Duration.between(at(0), since).toSeconds());
        }

        @Override
        public void contradicted(EventKind kind, Event by, Instant since, Event because) {
            assertThat(told.remove(
                            kind.id() + " " + Duration.between(at(0), since).toSeconds()))
                    .isTrue();
        }
    };

    private void take(DoorWatch watch, Event... some) {
        for (Event event : some) {
            watch.take(event, listener);
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
        watch.tick(at(62.5), listener);
        assertThat(told).isEmpty();
        watch.tick(at(64.1), listener);
        watch.tick(at(70), listener);
        assertThat(told).containsExactly("door.held 62");
        take(watch, make.event(80, Kinds.CLOSED), make.event(90, Kinds.GRANTED), make.event(91, Kinds.OPENED));
        Event lost = Event.of(new EventKey(SystemId.CUSTODIA, 1, 1), Kinds.LINK_LOST, at(100))
                .detail("system", SYSTEM.value())
                .build();
        take(watch, lost);
        watch.tick(at(400), listener);
        assertThat(told).hasSize(1);
        Event back = Event.of(new EventKey(SystemId.CUSTODIA, 1, 2), Kinds.LINK_BACK, at(420))
                .detail("system", SYSTEM.value())
                .build();
        // What was kept meanwhile says that it was closed in time.
        take(watch, make.event(99, Kinds.CLOSED), back);
        watch.tick(at(500), listener);
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
            watch.tick(at(900), system -> !system.equals(SYSTEM), listener);
            watch.tick(at(916), system -> false, listener);
            assertThat(told).isEmpty();
            if (closed) {
                take(watch, make.event(8, Kinds.CLOSED));
            }
            // What comes in the end needs a moment.
            watch.tick(at(920), system -> true, listener);
            assertThat(told).isEmpty();
            watch.tick(at(960), system -> true, listener);
            if (closed) {
                assertThat(told).isEmpty();
            } else {
                assertThat(told).contains("door.held 62");
            }
        }
    }

    @Test
    void an_opening_that_is_stored_after_its_closing_was_forced_all_the_same() {
        DoorWatch watch = new DoorWatch(at_(OURS));
        Event locked = make.event(0, Kinds.MODE, "mode", "locked");
        Event opened = make.event(20, Kinds.OPENED);
        take(watch, locked, make.event(90, Kinds.CLOSED), opened);
        assertThat(told).containsExactly("door.forced 20", "door.held 80");
        // The exit button was pressed, which comes to be known last of all.
        take(watch, make.event(18, Kinds.EXIT_REQUESTED));
        assertThat(told).containsExactly("door.held 80");
        take(watch, make.event(30, Kinds.CLOSED), make.event(88, Kinds.EXIT_REQUESTED), make.event(89, Kinds.OPENED));
        assertThat(told).isEmpty();
    }

    @Test
    void what_followed_from_silence_is_contradicted_by_what_comes_late() {
        DoorWatch watch = new DoorWatch(at_(OURS));
        take(watch, make.event(0, Kinds.MODE, "mode", "locked"), make.event(5, Kinds.CLOSED));
        take(watch, make.event(10, Kinds.GRANTED));
        watch.tick(at(40), listener);
        assertThat(told).containsExactly("custodia.nobody-entered 10");
        take(watch, make.event(12, Kinds.OPENED));
        assertThat(told).isEmpty();
        watch.tick(at(100), listener);
        assertThat(told).containsExactly("door.held 72");
        take(watch, make.event(15, Kinds.CLOSED));
        watch.tick(at(300), listener);
        assertThat(told).isEmpty();
    }

    @Test
    void what_is_older_than_the_events_that_are_held_changes_nothing() {
        DoorWatch watch = new DoorWatch(at_(OURS));
        long later = DoorWatch.REMEMBERED.toSeconds() + 100;
        take(watch, make.event(0, Kinds.MODE, "mode", "locked"), make.event(50, Kinds.GRANTED));
        take(watch, make.event(51, Kinds.OPENED), make.event(52, Kinds.CLOSED), make.event(later, Kinds.CLOSED));
        take(watch, make.event(20, Kinds.OPENED), make.event(30, Kinds.CLOSED));
        assertThat(told).isEmpty();
    }

    /** In whatever order events are stored, with time passing in between and restarts, the same follows in the end. */
    @Property(tries = 300)
    void the_order_of_storing_makes_no_difference(@ForAll long seed, @ForAll boolean losses) {
        Random random = new Random(seed);
        List<EventKind> kinds = new ArrayList<>(
                List.of(Kinds.GRANTED, Kinds.GRANTED, Kinds.OPENED, Kinds.CLOSED, Kinds.EXIT_REQUESTED, Kinds.MODE));
        if (losses) {
            kinds.addAll(List.of(Kinds.CONTROLLER_LOST, Kinds.CONTROLLER_BACK));
        }
        DoorEvents own = new DoorEvents();
        List<Event> events = new ArrayList<>(List.of(own.event(0, Kinds.MODE, "mode", "locked")));
        double t = 1;
        for (int i = 0; i < 14; i++) {
            t += 0.01;
            t += random.nextInt(4) == 0 ? 90 * random.nextDouble() : 6 * random.nextDouble();
            EventKind kind = kinds.get(random.nextInt(kinds.size()));
            Event event = kind.equals(Kinds.MODE)
                    ? own.event(t, kind, "mode", random.nextBoolean() ? "locked" : "unlocked")
                    : own.event(t, kind);
            if (kind.id().startsWith("controller")) {
                event = event.toBuilder().controller(OURS.controller()).build();
            }
            if (t < DoorWatch.REMEMBERED.toSeconds()) {
                events.add(event);
            }
        }
        List<String> inOrder = follow(events, random, !losses, false);
        List<Event> shuffled = new ArrayList<>(events);
        Collections.shuffle(shuffled, random);
        assertThat(follow(shuffled, random, !losses, true)).containsExactlyInAnyOrderElementsOf(inOrder);
    }

    /**
     * What follows in the end.
     *
     * @param ticks whether time passes in between; what follows from silence before a loss depends on when it is noticed
     */
    private List<String> follow(List<Event> events, Random random, boolean ticks, boolean restarts) {
        told.clear();
        DoorWatch watch = new DoorWatch(at_(OURS));
        double latest = 0;
        for (Event event : events) {
            latest = Math.max(latest, Duration.between(at(0), event.time()).toMillis() / 1000.0);
            if (ticks && random.nextInt(3) == 0) {
                watch.tick(at(latest + random.nextInt(20)), listener);
            }
            if (restarts && random.nextInt(4) == 0) {
                DoorWatch next = new DoorWatch(at_(OURS));
                next.restore(
                        watch.state(),
                        key -> events.stream().filter(e -> e.key().equals(key)).findFirst());
                watch = next;
            }
            take(watch, event);
        }
        watch.tick(at(2_000), listener);
        watch.tick(at(3_000), listener);
        return List.copyOf(told);
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
        watch.tick(at(100), listener);
        assertThat(told).containsExactly("door.forced 20");
        watch.tick(at(400), listener);
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
        DoorWatch.Listener listener = new DoorWatch.Listener() {
            @Override
            public void follows(EventKind kind, Event by, Instant since) {
                if (kind.equals(Kinds.FORCED)) {
                    assertThat(forced.add(since)).isTrue();
                } else if (kind.equals(Kinds.HELD)) {
                    assertThat(held.put(since, now[0])).isNull();
                } else {
                    assertThat(nobody.add(by.key())).isTrue();
                }
            }

            @Override
            public void contradicted(EventKind kind, Event by, Instant since, Event because) {
                throw new AssertionError("nothing comes late here");
            }
        };
        Set<Instant> reach = new TreeSet<>();
        double t = 0;
        for (int i = 0; i < 40; i++) {
            t += 0.01;
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

    private static Door numbered(int number) {
        return new Door(
                new DoorId("tidewater/d" + number),
                OURS.system(),
                OURS.controller(),
                OURS.name(),
                OURS.site(),
                OURS.level(),
                OURS.outside(),
                OURS.inside(),
                OURS.heldLimit(),
                OURS.capabilities());
    }

    /** A flood within ten minutes is not all held, whether it comes in order or runs back. */
    @Test
    void what_is_held_of_many_doors_that_are_busy_at_once_is_bounded() {
        int many = 400;
        List<Door> doors =
                IntStream.range(0, many).mapToObj(DoorWatchTest::numbered).toList();
        SiteModel model = new SiteModel(List.of(), doors, List.of(), List.of());
        for (boolean back : new boolean[] {false, true}) {
            DoorWatch watch = new DoorWatch(() -> model);
            int sequence = 0;
            int most = 0;
            for (int i = 0; i < 600; i++) {
                for (Door door : doors) {
                    double seconds = back ? 500 - i * 0.5 : i * 0.5;
                    watch.take(
                            Event.of(
                                            new EventKey(SYSTEM, 1, ++sequence),
                                            i % 2 == 0 ? Kinds.OPENED : Kinds.CLOSED,
                                            at(seconds))
                                    .door(door.id())
                                    .build(),
                            listener);
                    most = Math.max(most, watch.held());
                }
                told.clear();
                if (back && i > 40) {
                    break;
                }
            }
            assertThat(most).isBetween(10_000, 2 * DoorWatch.MOST_IN_ALL);
            DoorWatch again = new DoorWatch(() -> model);
            again.restore(watch.state(), key -> Optional.empty());
            assertThat(again.held()).isEqualTo(watch.held());
        }
    }

    @Test
    void a_door_that_few_events_are_held_of_is_still_told_of_what_comes_late() {
        DoorWatch watch = new DoorWatch(at_(OURS));
        take(watch, make.event(0, Kinds.MODE, "mode", "locked"));
        for (int i = 0; i < 2_000; i++) {
            take(watch, make.event(10 + i * 0.2, i % 2 == 0 ? Kinds.EXIT_REQUESTED : Kinds.CLOSED));
        }
        Event opened = make.event(500, Kinds.OPENED);
        Event granted = make.event(499, Kinds.GRANTED);
        take(watch, opened);
        assertThat(told).containsExactly("door.forced 500");
        take(watch, granted);
        assertThat(told).isEmpty();
        assertThat(watch.held()).isLessThanOrEqualTo(500);
    }
}
