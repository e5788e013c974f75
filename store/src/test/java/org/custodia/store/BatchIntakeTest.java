package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.concurrent.atomic.AtomicLong;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.Coverage;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventField;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventIntake.Batch;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Filter;
import org.custodia.core.event.Gaps;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.NumberRanges.Range;
import org.custodia.core.event.Priority;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.ReaderId;
import org.custodia.core.site.Side;
import org.custodia.core.site.SystemId;
import org.jooq.impl.DSL;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class BatchIntakeTest {
    /** Where the log lies, unless it lies in a file; the same throughout a test. */
    Optional<ServerAddress> server() {
        return Optional.empty();
    }

    @TempDir
    Path path;

    private StoreFixture store;

    @BeforeEach
    void open() {
        store = new StoreFixture(path, server());
    }

    @AfterEach
    void close() {
        store.close();
    }

    private List<Event> all() {
        return store.log.find(EventQuery.all());
    }

    @Test
    void whoever_writes_something_else_does_not_wait_for_all_that_comes() throws Exception {
        EventIntake.Feed feed = store.intake.feed(StoreFixture.SYSTEM);
        List<CompletableFuture<Void>> answers = new ArrayList<>();
        AtomicLong storedBefore = new AtomicLong(-1);
        Thread other =
                new Thread(() -> store.database.write(dsl -> storedBefore.set(dsl.fetchCount(DSL.table("event")))));
        try (Database.Turn turn = store.database.turn()) {
            for (int batch = 0; batch < 8; batch++) {
                List<Event> events = new ArrayList<>();
                for (int i = 1; i <= 500; i++) {
                    events.add(StoreFixture.event(batch * 500 + i));
                }
                answers.add(feed.accept(Batch.of(events, true)));
            }
            other.start();
            StoreFixture.await().until(() -> other.getState() == Thread.State.WAITING);
        }
        other.join(60_000);
        assertThat(storedBefore.get()).isBetween(0L, 2_000L);
        answers.forEach(CompletableFuture::join);
        assertThat(store.log.count(EventQuery.all())).isEqualTo(4_000);
    }

    @Test
    void what_is_stored_is_read_back_the_same_and_published_after_the_commit() {
        Event event = StoreFixture.event(1);
        store.accept(List.of(event), false).join();
        assertThat(all()).containsExactlyElementsOf(store.published);
        Event stored = all().get(0);
        assertThat(stored.position()).isEqualTo(1);
        assertThat(stored.toBuilder().position(0).build()).isEqualTo(event);
        assertThat(store.log.byKey(event.key())).contains(stored);
        assertThat(store.intake.coverage(StoreFixture.SYSTEM, 1).settled()).isEqualTo(1);
    }

    @Test
    void redelivery_in_any_order_and_number_stores_each_event_once() {
        Random random = new Random(7);
        List<Event> events = StoreFixture.events(1, 400);
        store.accept(events, true).join();
        for (int i = 0; i < 5; i++) {
            List<Event> again = new ArrayList<>(events.subList(random.nextInt(200), 200 + random.nextInt(200)));
            Collections.shuffle(again, random);
            store.accept(again, false).join();
        }
        assertThat(all()).hasSize(400);
        assertThat(store.published).hasSize(400);
    }

    @Test
    void a_key_that_comes_again_with_other_content_is_kept_as_a_conflict() {
        store.accept(StoreFixture.events(1, 3), false).join();
        Event other = StoreFixture.event(2).toBuilder()
                .credential("99999")
                .raw("{\"other\":1}")
                .build();
        store.accept(List.of(other), false).join();
        List<Event> conflicts = store.log.find(EventQuery.all().kinds(Kinds.CONFLICT));
        assertThat(conflicts).hasSize(1);
        assertThat(conflicts.get(0).detail("about")).contains(other.key().text());
        assertThat(conflicts.get(0).raw()).isEqualTo("{\"other\":1}");
        assertThat(store.log.byKey(other.key()).orElseThrow().credential()).contains("22");
        assertThat(store.published).contains(conflicts.get(0));
    }

    @Test
    void a_hole_is_a_gap_only_once_it_was_asked_for_in_vain_and_the_gap_closes_when_it_is_filled() {
        store.accept(StoreFixture.events(1, 6), true).join();
        store.accept(List.of(StoreFixture.event(10)), false).join();
        assertThat(store.log.find(EventQuery.all().kinds(Kinds.GAP))).isEmpty();
        Coverage coverage = store.intake.coverage(StoreFixture.SYSTEM, 1);
        assertThat(coverage.settled()).isEqualTo(6);
        assertThat(coverage.holes()).containsExactly(new Range(7, 9));
        store.intake
                .missing(StoreFixture.SYSTEM, 1, new Range(5, 9), Gaps.NOT_DELIVERED)
                .join();
        store.intake
                .missing(StoreFixture.SYSTEM, 1, new Range(7, 8), Gaps.NOT_DELIVERED)
                .join();
        List<Event> gaps = store.log.find(EventQuery.all().kinds(Kinds.GAP));
        assertThat(gaps).hasSize(1);
        assertThat(gaps.get(0).detail("from")).contains("7");
        assertThat(gaps.get(0).detail("to")).contains("9");
        assertThat(store.intake.coverage(StoreFixture.SYSTEM, 1).settled()).isEqualTo(10);
        store.close();
        store = new StoreFixture(path, server());
        assertThat(store.intake.coverage(StoreFixture.SYSTEM, 1).settled()).isEqualTo(10);
        store.accept(StoreFixture.events(7, 8), false).join();
        assertThat(store.log.find(EventQuery.all().kinds(Kinds.GAP_CLOSED))).isEmpty();
        store.accept(StoreFixture.events(9, 9), false).join();
        List<Event> closed = store.log.find(EventQuery.all().kinds(Kinds.GAP_CLOSED));
        assertThat(closed).hasSize(1);
        assertThat(closed.get(0).detail("from")).contains("7");
        assertThat(closed.get(0).detail("to")).contains("9");
    }

    @Test
    void an_epoch_that_begins_late_has_a_hole_and_a_stray_number_hides_nothing() {
        store.accept(List.of(event(2, 4)), true).join();
        assertThat(store.intake.coverage(StoreFixture.SYSTEM, 2).holes()).containsExactly(new Range(1, 3));
        store.accept(StoreFixture.events(1, 5), true).join();
        store.accept(List.of(event(1, Long.MAX_VALUE)), false).join();
        Coverage coverage = store.intake.coverage(StoreFixture.SYSTEM, 1);
        assertThat(coverage.settled()).isEqualTo(5);
        assertThat(coverage.highest()).isEqualTo(5);
        assertThat(coverage.holes()).isEmpty();
        assertThat(store.log.byKey(new EventKey(StoreFixture.SYSTEM, 1, Long.MAX_VALUE)))
                .isPresent();
    }

    private static Event event(long epoch, long sequence) {
        return StoreFixture.event(3).toBuilder()
                .key(new EventKey(StoreFixture.SYSTEM, epoch, sequence))
                .build();
    }

    @Test
    void nothing_of_a_feed_overtakes_what_was_lost_of_it() {
        EventIntake.Feed feed = store.intake.feed(StoreFixture.SYSTEM);
        feed.accept(Batch.of(StoreFixture.events(1, 3), false)).join();
        store.limitPages();
        assertThat(feed.accept(Batch.of(StoreFixture.events(4, 3_000), false))).failsWithin(Duration.ofSeconds(60));
        store.unlimitPages();
        assertThat(feed.accept(Batch.of(StoreFixture.events(3_001, 3_002), false)))
                .failsWithin(Duration.ofSeconds(60));
        assertThat(store.intake.coverage(StoreFixture.SYSTEM, 1).settled()).isEqualTo(3);
        assertThat(all()).hasSize(3);
        store.accept(StoreFixture.events(4, 3_002), false).join();
        assertThat(all()).hasSize(3_002);
    }

    @Test
    void a_conflict_is_logged_once_however_often_it_comes_and_for_whatever_differs() {
        store.accept(StoreFixture.events(1, 3), false).join();
        List<Event> others = List.of(
                StoreFixture.event(2).toBuilder().side(Side.EXIT).build(),
                StoreFixture.event(2).toBuilder().reader(new ReaderId("r9")).build(),
                StoreFixture.event(2).toBuilder().cause("command").build(),
                StoreFixture.event(2).toBuilder().code("T7").build());
        for (int i = 0; i < 3; i++) {
            for (Event other : others) {
                store.accept(List.of(other, StoreFixture.event(1), StoreFixture.event(3)), i == 1)
                        .join();
            }
        }
        assertThat(store.log.find(EventQuery.all().kinds(Kinds.CONFLICT))).hasSize(4);
        assertThat(all()).extracting(Event::position).containsExactlyInAnyOrder(1L, 2L, 3L, 4L, 5L, 6L, 7L);
    }

    @Test
    void what_a_restored_system_sends_under_old_numbers_is_new_unless_it_is_the_same() {
        store.accept(StoreFixture.events(1, 10), false).join();
        store.intake.countsAgainFrom(StoreFixture.SYSTEM, 1, 5).join();
        assertThat(store.intake.coverage(StoreFixture.SYSTEM, 1).settled()).isEqualTo(5);
        Event other = StoreFixture.event(6).toBuilder().credential("777").build();
        store.accept(List.of(other, StoreFixture.event(7)), false).join();
        store.accept(List.of(other, StoreFixture.event(5)), false).join();
        assertThat(all().stream().filter(e -> e.credential().equals(Optional.of("777"))))
                .hasSize(1);
        assertThat(store.log.count(EventQuery.all().system(StoreFixture.SYSTEM)))
                .isEqualTo(11);
        assertThat(store.log.find(EventQuery.all().kinds(Kinds.CONFLICT))).isEmpty();
        assertThat(store.log.find(EventQuery.all().kinds(Kinds.COUNTS_AGAIN))).hasSize(1);
        store.close();
        store = new StoreFixture(path, server());
        assertThat(store.intake.coverage(StoreFixture.SYSTEM, 1).settled()).isEqualTo(7);
        store.intake.countsAgainFrom(StoreFixture.SYSTEM, 1, 7).join();
        assertThat(store.log.find(EventQuery.all().kinds(Kinds.COUNTS_AGAIN))).hasSize(1);
    }

    @Test
    void nobody_else_writes_what_is_our_own() {
        Event forged = Event.of(new EventKey(StoreFixture.SYSTEM, 1, 1), Kinds.VERDICT, StoreFixture.START)
                .detail("verdict", "same")
                .raw("{forged}")
                .build();
        store.accept(List.of(forged, StoreFixture.event(2)), false).join();
        assertThat(store.log.find(EventQuery.all().kinds(Kinds.VERDICT))).isEmpty();
        assertThat(store.log.unreadCount()).isEqualTo(1);
        assertThat(store.intake.coverage(StoreFixture.SYSTEM, 1).settled()).isEqualTo(2);
    }

    @Test
    void one_event_that_cannot_be_stored_costs_itself_alone() {
        Event far = Event.of(new EventKey(StoreFixture.SYSTEM, 1, 2), Kinds.GRANTED, java.time.Instant.MAX)
                .raw("{far}")
                .build();
        Event poison = far.toBuilder()
                .received(StoreFixture.START, Duration.ZERO)
                .time(java.time.Instant.MAX)
                .build();
        store.accept(List.of(StoreFixture.event(1), poison, StoreFixture.event(3)), false)
                .join();
        assertThat(all()).hasSize(2);
        assertThat(store.log.unreadCount()).isEqualTo(1);
        assertThat(store.intake.coverage(StoreFixture.SYSTEM, 1).settled()).isEqualTo(3);
        assertThat(store.intake.trouble()).isEmpty();
    }

    @Test
    void late_events_take_their_place_in_time_and_are_marked_unless_they_are_a_backlog() {
        store.accept(List.of(StoreFixture.event(1, 10), StoreFixture.event(2, 30)), false)
                .join();
        store.accept(List.of(StoreFixture.event(3, 20)), false).join();
        store.accept(List.of(StoreFixture.event(4, 15)), true).join();
        assertThat(all()).extracting(e -> e.key().sequence()).containsExactly(1L, 4L, 3L, 2L);
        assertThat(all()).extracting(Event::late).containsExactly(false, false, true, false);
    }

    @Test
    void what_was_reached_is_remembered_over_a_restart() {
        store.accept(StoreFixture.events(1, 20), true).join();
        Event mine = store.intake
                .record(Event.of(new EventKey(SystemId.CUSTODIA, 1, 0), Kinds.NOTE, StoreFixture.START))
                .join();
        assertThat(mine.key().sequence()).isEqualTo(1);
        store.close();
        store = new StoreFixture(path, server());
        Event next = store.intake
                .record(Event.of(new EventKey(SystemId.CUSTODIA, 1, 0), Kinds.NOTE, StoreFixture.START))
                .join();
        assertThat(next.key().sequence()).isEqualTo(2);
        assertThat(next.position()).isEqualTo(22);
        store.accept(List.of(StoreFixture.event(22)), false).join();
        assertThat(store.intake.coverage(StoreFixture.SYSTEM, 1).holes()).containsExactly(new Range(21, 21));
    }

    @Test
    void a_full_disk_is_said_and_nothing_is_half_stored_and_later_all_is_well() {
        store.accept(StoreFixture.events(1, 10), true).join();
        store.limitPages();
        List<Event> more = StoreFixture.events(11, 3_000);
        assertThatThrownBy(() -> store.accept(more, true).join())
                .isInstanceOf(CompletionException.class)
                .hasCauseInstanceOf(EventLogException.class)
                .hasMessageContaining("store.not-stored.");
        assertThat(store.intake.trouble()).isPresent();
        assertThat(all()).hasSize(10);
        assertThat(store.published).hasSize(10);
        store.unlimitPages();
        store.accept(more, true).join();
        assertThat(store.intake.trouble()).isEmpty();
        assertThat(all()).hasSize(3_000);
    }

    @Test
    void a_listener_that_fails_takes_nothing_else_down() {
        store.intake.subscribe(events -> {
            throw new IllegalStateException("broken view");
        });
        List<Event> seen = new ArrayList<>();
        store.intake.subscribe(seen::addAll);
        store.accept(StoreFixture.events(1, 5), false).join();
        assertThat(seen).hasSize(5);
    }

    @Test
    void messages_that_cannot_be_understood_are_kept_and_counted() {
        store.intake
                .keepUnread(EventIntake.Unread.of(
                        StoreFixture.SYSTEM, StoreFixture.START, "{\"seq\":", Saying.quoted("cut off")))
                .join();
        store.intake
                .keepUnread(EventIntake.Unread.of(
                        StoreFixture.SYSTEM, StoreFixture.START, "x".repeat(200_000), Saying.quoted("too long")))
                .join();
        for (int i = 0; i < 5; i++) {
            store.intake
                    .keepUnread(EventIntake.Unread.of(
                            StoreFixture.SYSTEM, StoreFixture.START, "{\"seq\":", Saying.quoted("cut off")))
                    .join();
        }
        assertThat(store.log.unreadCount()).isEqualTo(2);
    }

    @Test
    void questions_narrow_and_pages_go_on_without_losing_or_repeating() {
        store.accept(StoreFixture.events(1, 500), true).join();
        EventQuery refusedAtOne = EventQuery.all().kinds(Kinds.REFUSED).doors(Set.of(new DoorId("tidewater/d1")));
        assertThat(store.log.find(refusedAtOne)).isNotEmpty().allSatisfy(e -> {
            assertThat(e.kind()).isEqualTo(Kinds.REFUSED);
            assertThat(e.door()).contains(new DoorId("tidewater/d1"));
        });
        assertThat(store.log.count(EventQuery.all().person(new PersonId("tidewater/p3"))))
                .isEqualTo(100);
        List<Event> paged = new ArrayList<>();
        List<Event> page = store.log.find(EventQuery.all().newest(37));
        while (!page.isEmpty()) {
            paged.addAll(page);
            page = store.log.find(
                    EventQuery.all().before(page.get(page.size() - 1)).newest(37));
        }
        List<Event> everything = new ArrayList<>(all());
        Collections.reverse(everything);
        assertThat(paged).isEqualTo(everything);
    }

    @Test
    void the_day_line_counts_by_slices_with_the_worst_in_each() {
        store.accept(StoreFixture.events(1, 120), true).join();
        store.intake
                .record(Event.of(
                        new EventKey(SystemId.CUSTODIA, 1, 0), Kinds.FORCED, StoreFixture.START.plusSeconds(70)))
                .join();
        store.intake
                .record(Event.of(
                        new EventKey(SystemId.CUSTODIA, 1, 0), Kinds.REPORT, StoreFixture.START.plusSeconds(75)))
                .join();
        EventQuery minutes = EventQuery.all()
                .between(StoreFixture.START, StoreFixture.START.plusSeconds(180))
                .where(Filter.not(Filter.is(EventField.KIND, Kinds.REPORT)));
        var slices = store.log.slices(minutes, Duration.ofSeconds(60), new Cancellation());
        assertThat(slices.values().stream().mapToInt(EventLog.Slice::events).sum())
                .isEqualTo(121);
        assertThat(slices.get(1).worst()).isEqualTo(Priority.URGENT);
        assertThat(slices.get(0).worst()).isEqualTo(Priority.NOTE);
    }

    @Test
    void nothing_can_be_handed_in_after_the_end() {
        store.intake.close();
        assertThat(store.accept(StoreFixture.events(1, 2), false)).isCompletedExceptionally();
        assertThat(Optional.of(store.log.count(EventQuery.all()))).contains(0L);
    }

    @Test
    void whoever_hands_in_waits_while_too_much_waits_to_be_written() throws Exception {
        String large = "x".repeat(1024 * 1024);
        EventIntake.Feed feed = store.intake.feed(StoreFixture.SYSTEM);
        java.util.concurrent.atomic.AtomicInteger handedIn = new java.util.concurrent.atomic.AtomicInteger();
        List<java.util.concurrent.CompletableFuture<Void>> answers = new java.util.concurrent.CopyOnWriteArrayList<>();
        Thread sender = new Thread(() -> {
            for (int i = 1; i <= 40; i++) {
                answers.add(feed.accept(Batch.of(
                        List.of(StoreFixture.event(i).toBuilder().raw(large).build()), true)));
                handedIn.incrementAndGet();
            }
        });
        try (Database.Turn turn = store.database.turn()) {
            sender.start();
            StoreFixture.await().until(() -> sender.getState() == Thread.State.TIMED_WAITING && handedIn.get() > 3);
            assertThat(handedIn.get()).isLessThan(12);
        }
        sender.join(60_000);
        assertThat(handedIn.get()).isEqualTo(40);
        answers.forEach(java.util.concurrent.CompletableFuture::join);
        assertThat(all()).hasSize(40);
    }

    @Test
    void pages_go_on_within_one_microsecond() {
        List<Event> sameTime = new ArrayList<>();
        for (int i = 1; i <= 60; i++) {
            Event e = StoreFixture.event(i, 5);
            sameTime.add(e.toBuilder().time(e.received()).build());
        }
        store.accept(sameTime, true).join();
        List<Long> paged = new ArrayList<>();
        List<Event> page = store.log.find(EventQuery.all().newest(7));
        while (!page.isEmpty()) {
            page.forEach(e -> paged.add(e.key().sequence()));
            page = store.log.find(
                    EventQuery.all().before(page.get(page.size() - 1)).newest(7));
        }
        assertThat(all()).extracting(Event::time).containsOnly(all().get(0).time());
        assertThat(paged).hasSize(60).doesNotHaveDuplicates().isSortedAccordingTo((a, b) -> Long.compare(b, a));
    }

    @Test
    void after_what_could_not_be_stored_positions_and_numbers_go_on_as_if_it_had_not_been() {
        store.accept(StoreFixture.events(1, 5), true).join();
        store.limitPages();
        assertThat(store.accept(StoreFixture.events(6, 3_000), true)).failsWithin(Duration.ofSeconds(60));
        assertThat(store.intake.record(Event.of(new EventKey(SystemId.CUSTODIA, 1, 0), Kinds.NOTE, StoreFixture.START)
                        .raw(StoreFixture.noise(3_000_000))))
                .failsWithin(Duration.ofSeconds(60));
        store.unlimitPages();
        Event own = store.intake
                .record(Event.of(new EventKey(SystemId.CUSTODIA, 1, 0), Kinds.NOTE, StoreFixture.START))
                .join();
        assertThat(own.position()).isEqualTo(6);
        assertThat(own.key().sequence()).isEqualTo(1);
        store.accept(StoreFixture.events(6, 6), true).join();
        assertThat(all()).extracting(Event::position).containsExactlyInAnyOrder(1L, 2L, 3L, 4L, 5L, 6L, 7L);
    }

    @Test
    void many_epochs_and_systems_take_no_more_memory_than_few() {
        for (int epoch = 1; epoch <= 450; epoch++) {
            store.accept(List.of(event(epoch, 1)), true).join();
        }
        assertThat(store.intake.newestEpoch(StoreFixture.SYSTEM)).contains(450L);
        assertThat(store.intake.coverage(StoreFixture.SYSTEM, 7).settled()).isEqualTo(1);
        store.accept(List.of(event(7, 1), event(7, 2)), true).join();
        assertThat(store.intake.coverage(StoreFixture.SYSTEM, 7).settled()).isEqualTo(2);
        assertThat(all()).hasSize(451);
        assertThat(store.intake.newestEpoch(new SystemId("nobody"))).isEmpty();
    }

    @Test
    void what_an_operator_does_is_stored_before_a_backlog_that_is_still_queued_and_what_a_link_finds_out_is_not() {
        List<CompletableFuture<Void>> backlog = new ArrayList<>();
        CompletableFuture<Event> found;
        CompletableFuture<Event> act;
        try (Database.Turn turn = store.database.turn()) {
            EventIntake.Feed feed = store.intake.feed(StoreFixture.SYSTEM);
            for (int i = 0; i < 10; i++) {
                backlog.add(
                        feed.accept(EventIntake.Batch.of(StoreFixture.events(i * 1_000 + 1, i * 1_000 + 1_000), true)));
            }
            found = store.intake.recordInOrder(StoreFixture.fact());
            act = store.intake.record(StoreFixture.fact());
        }
        backlog.forEach(CompletableFuture::join);
        found.join();
        act.join();
        List<Event> all = store.log.storedAfter(0, 20_000);
        assertThat(all).hasSize(10_002);
        // The batch that was under way when the act was handed in is at most two deliveries.
        assertThat(act.join().position()).isLessThanOrEqualTo(2_001);
        assertThat(found.join().position()).isEqualTo(10_002);
    }
}
