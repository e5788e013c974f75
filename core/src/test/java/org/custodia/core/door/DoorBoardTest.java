package org.custodia.core.door;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.core.door.DoorEvents.at;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.Sites;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

class DoorBoardTest {
    private final MemoryLog log = new MemoryLog();
    private final DoorEvents make = new DoorEvents();
    private final Door door = DoorEvents.door();
    private final SiteModel sites = new SiteModel(List.of(), List.of(door), List.of(), List.of());
    private Instant now = at(0);
    private final Clock clock = new Clock() {
        @Override
        public ZoneId getZone() {
            return ZoneOffset.UTC;
        }

        @Override
        public Clock withZone(ZoneId zone) {
            return this;
        }

        @Override
        public Instant instant() {
            return now;
        }
    };

    private void store(Event... events) {
        log.store(events);
    }

    @Test
    void it_keeps_up_with_the_log_and_says_which_doors_changed() {
        try (DoorBoard board = new DoorBoard(log, DoorCheckpoints.NONE, log, () -> sites, clock)) {
            assertThat(board.now(door.id())).isEqualTo(DoorState.UNKNOWN);
            Set<DoorId> changed = new HashSet<>();
            board.listen(changed::addAll);
            now = at(20);
            store(make.event(10, Kinds.OPENED), make.event(11, Kinds.VERDICT));
            assertThat(changed).containsExactly(door.id());
            assertThat(board.now(door.id()).open()).isTrue();
            changed.clear();
            store(log.events.get(0));
            assertThat(changed).isEmpty();
        }
    }

    @Test
    void what_seems_a_blink_ahead_counts_now_but_not_in_the_past() {
        try (DoorBoard board = new DoorBoard(log, DoorCheckpoints.NONE, log, () -> sites, clock)) {
            board.now(door.id());
            now = at(30);
            store(make.event(30.004, Kinds.OPENED));
            assertThat(board.now(door.id()).open()).isTrue();
            assertThat(board.at(door.id(), at(30)).open()).isFalse();
        }
    }

    @Test
    void a_late_event_corrects_the_past() {
        try (DoorBoard board = new DoorBoard(log, DoorCheckpoints.NONE, log, () -> sites, clock)) {
            board.now(door.id());
            now = at(300);
            store(make.event(100, Kinds.OPENED), make.event(200, Kinds.CLOSED));
            assertThat(board.at(door.id(), at(150)).open()).isTrue();
            store(make.event(120, Kinds.CLOSED));
            assertThat(board.at(door.id(), at(150)).open()).isFalse();
        }
    }

    @Test
    void what_a_door_was_then_decides_what_is_said_of_then() {
        Door door = DoorEvents.door(DoorCapability.REPORTS_HELD, DoorCapability.REPORTS_FORCED);
        SiteModel sites = new SiteModel(List.of(), List.of(door), List.of(), List.of());
        store(
                make.event(0, Kinds.REPORT, "mode", "locked", "position", "closed"),
                make.event(9, Kinds.GRANTED),
                make.event(10, Kinds.OPENED));
        Door later = new Door(
                door.id(),
                door.system(),
                door.controller(),
                "Another name",
                door.site(),
                door.level(),
                door.outside(),
                door.inside(),
                Duration.ofHours(3),
                door.capabilities());
        SiteModel today = new SiteModel(List.of(), List.of(later), List.of(), List.of());
        SiteModel[] current = {today};
        Sites changing = new Sites() {
            @Override
            public SiteModel get() {
                return current[0];
            }

            @Override
            public SiteModel at(Instant instant) {
                return instant.isBefore(DoorEvents.at(1_000)) ? sites : current[0];
            }
        };
        now = at(2_000);
        double held = 10 + door.heldLimit().toSeconds() + 5;
        try (DoorBoard board = new DoorBoard(log, DoorCheckpoints.NONE, log, changing, clock)) {
            assertThat(board.at(door.id(), at(held)).heldSince()).isPresent();
            assertThat(board.at(door.id(), at(1_500)).heldSince()).isEmpty();
            assertThat(board.now(door.id()).heldSince()).isEmpty();
            // A door that is no more was there then.
            current[0] = SiteModel.EMPTY;
            assertThat(board.at(door.id(), at(held)).open()).isTrue();
            assertThat(board.all(at(held)).get(door.id()).heldSince()).isPresent();
            assertThat(board.now(door.id())).isEqualTo(DoorState.UNKNOWN);
            assertThat(board.all(now)).isEmpty();
        }
    }

    @Test
    void what_lies_further_back_than_is_at_hand_is_read_from_the_log() {
        store(
                make.event(0, Kinds.REPORT, "mode", "unlocked", "by", "timetable", "position", "closed"),
                make.event(50, Kinds.OPENED),
                make.event(90, Kinds.CLOSED));
        now = at(0).plus(Duration.ofDays(5));
        try (DoorBoard board = new DoorBoard(log, DoorCheckpoints.NONE, log, () -> sites, clock)) {
            assertThat(board.at(door.id(), at(60)).open()).isTrue();
            assertThat(board.at(door.id(), at(60)).lock()).isEqualTo(LockMode.UNLOCKED);
            assertThat(board.stretch(door.id(), at(40), at(100)).orElseThrow().openings())
                    .hasSize(1);
            assertThat(board.now(door.id()).lock()).isEqualTo(LockMode.UNLOCKED);
            assertThat(board.stretch(new DoorId("tidewater/none"), at(0), at(1)))
                    .isEmpty();
        }
    }

    @Test
    void as_days_pass_it_forgets_events_but_not_what_they_led_to() {
        try (DoorBoard board = new DoorBoard(log, DoorCheckpoints.NONE, log, () -> sites, clock)) {
            store(make.event(1, Kinds.MODE, "mode", "locked", "by", "command"));
            board.now(door.id());
            now = at(0).plus(Duration.ofDays(2));
            store(make.event(Duration.ofDays(2).toSeconds() - 60, Kinds.OPENED));
            assertThat(board.now(door.id()).lockBy()).contains("command");
            assertThat(board.now(door.id()).open()).isTrue();
        }
    }

    @Test
    void a_long_past_that_is_read_is_not_kept_in_memory_and_leads_to_the_same_state() {
        now = at(0).plus(Duration.ofDays(28));
        try (DoorBoard board = new DoorBoard(log, DoorCheckpoints.NONE, log, () -> sites, clock)) {
            board.now(door.id());
            store(make.event(0, Kinds.MODE, "mode", "unlocked", "by", "timetable"));
            long last = Duration.ofDays(28).toSeconds() - 30;
            int most = 0;
            for (long t = 100; t < last; t += 600) {
                store(make.event(t, Kinds.OPENED), make.event(t + 5, Kinds.CLOSED));
                most = Math.max(most, board.atHand(door.id()));
            }
            store(make.event(last, Kinds.OPENED));
            assertThat(most).isLessThan(8_002);
            assertThat(board.now(door.id()).open()).isTrue();
            assertThat(board.now(door.id()).lock()).isEqualTo(LockMode.UNLOCKED);
            assertThat(board.at(door.id(), at(102)).open()).isTrue();
            assertThat(board.at(door.id(), at(106)).open()).isFalse();
        }
    }

    @Test
    void an_event_later_than_what_is_kept_is_put_in_its_place_all_the_same() {
        now = at(0).plus(Duration.ofDays(28));
        try (DoorBoard board = new DoorBoard(log, DoorCheckpoints.NONE, log, () -> sites, clock)) {
            board.now(door.id());
            for (long t = 100; t < 300_000; t += 600) {
                store(make.event(t, Kinds.OPENED), make.event(t + 5, Kinds.CLOSED));
            }
            Set<DoorId> changed = new HashSet<>();
            board.listen(changed::addAll);
            // Older than all the others: it must not change how the door stands now.
            store(make.event(50, Kinds.OPENED));
            assertThat(changed).containsExactly(door.id());
            assertThat(board.now(door.id()).open()).isFalse();
            // Newer than all the others, and long ago.
            store(make.event(300_500, Kinds.OPENED));
            assertThat(board.now(door.id()).open()).isTrue();
        }
    }

    @Test
    void a_lost_link_puts_all_its_doors_out_of_reach() {
        try (DoorBoard board = new DoorBoard(log, DoorCheckpoints.NONE, log, () -> sites, clock)) {
            board.now(door.id());
            now = at(10);
            store(Event.of(new EventKey(new SystemId("custodia"), 1, 1), Kinds.LINK_LOST, at(5))
                    .detail("system", "larkspur")
                    .build());
            assertThat(board.now(door.id()).outOfReachSince()).isEmpty();
            store(Event.of(new EventKey(new SystemId("custodia"), 1, 2), Kinds.LINK_LOST, at(6))
                    .detail("system", "tidewater")
                    .build());
            assertThat(board.now(door.id()).outOfReachSince()).contains(at(6));
            store(Event.of(new EventKey(new SystemId("custodia"), 1, 3), Kinds.LINK_BACK, at(9))
                    .detail("system", "tidewater")
                    .build());
            assertThat(board.now(door.id()).outOfReachSince()).isEmpty();
        }
    }

    private Event report(long asOf, String... details) {
        Event.Builder b = Event.of(new EventKey(SystemId.CUSTODIA, 1, asOf + 50), Kinds.REPORT, now)
                .door(door.id())
                .detail(DoorFact.AS_OF, "1:" + asOf);
        for (int i = 0; i < details.length; i += 2) {
            b.detail(details[i], details[i + 1]);
        }
        return b.build();
    }

    @Test
    void a_report_is_news_only_where_it_differs_by_more_than_clocks_do() {
        try (DoorBoard board = new DoorBoard(log, DoorCheckpoints.NONE, log, () -> sites, clock)) {
            String since = at(10).toString();
            store(
                    make.event(
                            5,
                            Kinds.MODE,
                            "mode",
                            "locked",
                            "by",
                            "timetable",
                            "next-mode",
                            "unlocked",
                            "next-at",
                            at(900).toString()),
                    make.event(10, Kinds.CLOSED));
            now = at(100);
            String[] same = {
                "mode",
                "locked",
                "by",
                "timetable",
                "next-mode",
                "unlocked",
                "next-at",
                at(901).toString(),
                "position",
                "closed",
                "position-since",
                since
            };
            assertThat(board.news(List.of(report(2, same)))).isEmpty();
            List<String[]> news = List.of(
                    new String[] {"mode", "unlocked"},
                    new String[] {"by", "command"},
                    new String[] {"next-mode", "blocked"},
                    new String[] {"next-at", at(903).toString()},
                    new String[] {"until", at(300).toString()},
                    new String[] {"position", "open"},
                    new String[] {"reader", "off"},
                    new String[] {"reach", "lost"});
            for (String[] change : news) {
                String[] changed = same.clone();
                boolean there = false;
                for (int i = 0; i < changed.length; i += 2) {
                    if (changed[i].equals(change[0])) {
                        changed[i + 1] = change[1];
                        there = true;
                    }
                }
                if (!there) {
                    changed = java.util.stream.Stream.concat(
                                    java.util.Arrays.stream(changed), java.util.Arrays.stream(change))
                            .toArray(String[]::new);
                }
                assertThat(board.news(List.of(report(2, changed))))
                        .as(change[0])
                        .hasSize(1);
            }
            assertThat(board.news(List.of(report(1, "mode", "unlocked", "position", "open"))))
                    .isEmpty();
            Event elsewhere = report(2, same).toBuilder()
                    .door(new DoorId("tidewater/none"))
                    .build();
            assertThat(board.news(List.of(elsewhere))).hasSize(1);
            assertThat(board.news(List.of(make.event(1, Kinds.CONTROLLER_LOST))))
                    .hasSize(1);
        }
    }

    @Test
    void what_arrives_while_the_log_is_read_is_not_lost_and_the_log_is_not_waited_for() {
        Event before = make.event(10, Kinds.CLOSED);
        Event meanwhile = make.event(12, Kinds.OPENED);
        store(before);
        now = at(20);
        boolean[] asked = {false};
        org.custodia.core.event.EventLog slow = org.mockito.Mockito.mock(org.custodia.core.event.EventLog.class);
        org.mockito.Mockito.when(slow.find(org.mockito.ArgumentMatchers.any())).thenAnswer(i -> {
            List<Event> found = log.find(i.getArgument(0));
            if (!asked[0]) {
                asked[0] = true;
                // Whoever stores must get through while the board reads.
                Thread storing = new Thread(() -> store(meanwhile));
                storing.start();
                storing.join(30_000);
                assertThat(storing.isAlive()).isFalse();
            }
            return found;
        });
        Set<DoorId> changed = new HashSet<>();
        try (DoorBoard board = new DoorBoard(slow, DoorCheckpoints.NONE, log, () -> sites, clock)) {
            board.listen(changed::addAll);
            assertThat(board.now(door.id()).open()).isTrue();
            assertThat(changed).containsExactly(door.id());
            assertThat(board.atHand(door.id())).isEqualTo(2);
            assertThat(board.atHand(new DoorId("tidewater/none"))).isZero();
        }
        Event after = make.event(15, Kinds.CLOSED);
        changed.clear();
        store(after);
        assertThat(changed).isEmpty();
    }

    @Test
    void memory_is_bounded_by_number_whatever_comes() {
        now = at(100_000);
        try (DoorBoard board =
                new DoorBoard(log, DoorCheckpoints.NONE, log, () -> sites, clock, DoorBoard.AT_HAND, 10, 5)) {
            board.now(door.id());
            for (int i = 0; i < 200; i++) {
                store(make.event(i * 10, i % 2 == 0 ? Kinds.OPENED : Kinds.CLOSED));
                assertThat(board.atHand(door.id())).isLessThanOrEqualTo(20);
            }
            assertThat(board.atHand(door.id())).isGreaterThanOrEqualTo(10);
            assertThat(board.at(door.id(), at(5)).open()).isTrue();
            assertThat(board.at(door.id(), at(1_995)).open()).isFalse();
        }
    }

    @Test
    void an_event_of_a_controller_moves_its_doors_and_one_of_a_door_only_that() {
        try (DoorBoard board = new DoorBoard(log, DoorCheckpoints.NONE, log, () -> sites, clock)) {
            board.now(door.id());
            now = at(20);
            Set<DoorId> changed = new HashSet<>();
            board.listen(changed::addAll);
            store(Event.of(new EventKey(DoorEvents.SYSTEM, 1, 500), Kinds.OPENED, at(5))
                    .controller(door.controller())
                    .build());
            assertThat(changed).isEmpty();
            assertThat(board.now(door.id()).open()).isFalse();
            store(Event.of(new EventKey(DoorEvents.SYSTEM, 1, 501), Kinds.CONTROLLER_LOST, at(6))
                    .controller(door.controller())
                    .build());
            assertThat(changed).containsExactly(door.id());
            assertThat(board.now(door.id()).outOfReachSince()).contains(at(6));
            changed.clear();
            store(Event.of(new EventKey(SystemId.CUSTODIA, 1, 1), Kinds.LINK_LOST, at(7))
                    .detail("system", "a/b")
                    .build());
            store(Event.of(new EventKey(DoorEvents.SYSTEM, 1, 502), Kinds.LINK_LOST, at(7))
                    .detail("system", "tidewater")
                    .build());
            assertThat(changed).isEmpty();
        }
    }
}
