package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.Mockito.mock;

import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicReference;
import java.util.function.Consumer;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventIntake.Batch;
import org.custodia.core.event.EventIntake.Unread;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Gaps;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.NumberRanges.Range;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Senders that are stopped, parts of a batch that cannot be stored, disks that fill up and have room again. */
class IntakeInTroubleTest {
    /** More than half of what may wait to be written. */
    private static final String HALF = "x".repeat(5 * 1024 * 1024);

    @TempDir
    Path path;

    private StoreFixture store;

    @BeforeEach
    void open() {
        store = new StoreFixture(path);
    }

    @AfterEach
    void close() {
        store.close();
    }

    private List<Event> all() {
        return store.log.find(EventQuery.all().system(StoreFixture.SYSTEM));
    }

    private List<Event> own(org.custodia.core.event.EventKind kind) {
        return store.log.find(EventQuery.all().kinds(kind));
    }

    private static Event large(long sequence) {
        return StoreFixture.event(sequence).toBuilder().raw(HALF).build();
    }

    /** An event that a full disk has no room for. */
    private static Event incompressible(long sequence) {
        return StoreFixture.event(sequence).toBuilder()
                .raw(StoreFixture.noise(150_000 + (int) sequence))
                .build();
    }

    private static Event other(long sequence, String credential) {
        return StoreFixture.event(sequence).toBuilder().credential(credential).build();
    }

    /** An event whose time no log can hold. */
    private static Event poison(long sequence) {
        return StoreFixture.event(sequence).toBuilder()
                .time(Instant.MAX)
                .raw("{poison " + sequence + "}")
                .build();
    }

    private static Unread unread(long sequence, String raw) {
        return new Unread(
                StoreFixture.SYSTEM,
                Optional.of(new EventKey(StoreFixture.SYSTEM, 1, sequence)),
                StoreFixture.START,
                raw,
                Saying.quoted("it is not JSON"));
    }

    /** What a thread that waits for room is told once somebody does something to it. */
    private CompletableFuture<Void> whileWaiting(Consumer<Thread> then, AtomicBoolean interrupted) throws Exception {
        AtomicReference<CompletableFuture<Void>> second = new AtomicReference<>();
        EventIntake.Feed feed = store.intake.feed(StoreFixture.SYSTEM);
        try (Database.Turn turn = store.database.turn()) {
            CompletableFuture<Void> first = feed.accept(Batch.of(List.of(large(1)), false));
            Thread sender = new Thread(() -> {
                second.set(feed.accept(Batch.of(List.of(large(2)), false)));
                interrupted.set(Thread.currentThread().isInterrupted());
            });
            sender.start();
            StoreFixture.await().until(() -> sender.getState() == Thread.State.TIMED_WAITING);
            assertThat(first).isNotDone();
            then.accept(sender);
            sender.join(60_000);
        }
        return second.get();
    }

    @Test
    void a_sender_that_is_interrupted_while_it_waits_for_room_is_told_and_its_room_is_not_lost() throws Exception {
        AtomicBoolean interrupted = new AtomicBoolean();
        assertThat(whileWaiting(Thread::interrupt, interrupted))
                .failsWithin(Duration.ofSeconds(10))
                .withThrowableThat()
                .withMessageContaining("interrupted");
        assertThat(interrupted).isTrue();
        for (int i = 2; i < 8; i++) {
            store.accept(List.of(large(i)), false).join();
        }
        assertThat(all()).hasSize(7);
        assertThat(store.accept(List.of(), false)).isCompleted();
    }

    @Test
    void whoever_waits_for_room_when_the_log_is_closed_is_told_and_what_was_handed_in_is_stored() throws Exception {
        List<Thread> closing = new ArrayList<>();
        AtomicBoolean interrupted = new AtomicBoolean();
        assertThat(whileWaiting(
                        sender -> {
                            Thread close = new Thread(store.intake::close);
                            close.start();
                            closing.add(close);
                        },
                        interrupted))
                .isCompletedExceptionally();
        assertThat(interrupted).isFalse();
        closing.get(0).join(60_000);
        assertThat(all()).hasSize(1);
    }

    @Test
    void all_that_was_handed_in_before_the_end_is_stored_and_the_end_does_not_wait_for_more() throws Exception {
        List<CompletableFuture<Void>> answers = new ArrayList<>();
        Thread close = new Thread(store.intake::close);
        try (Database.Turn turn = store.database.turn()) {
            for (int i = 0; i < 4; i++) {
                answers.add(store.accept(StoreFixture.events(i * 2_000 + 1, i * 2_000 + 2_000), true));
            }
            close.start();
            StoreFixture.await().until(() -> close.getState() == Thread.State.TIMED_WAITING);
        }
        close.join(60_000);
        answers.forEach(a -> assertThat(a).isCompleted());
        assertThat(store.log.count(EventQuery.all())).isEqualTo(8_000);
    }

    @Test
    void what_comes_with_an_event_that_cannot_be_stored_is_kept_all_the_same() {
        Batch batch = new Batch(
                List.of(StoreFixture.event(1), poison(2), StoreFixture.event(3), poison(4)),
                List.of(unread(5, "{a"), unread(6, "{b")),
                false);
        store.intake.feed(StoreFixture.SYSTEM).accept(batch).join();
        assertThat(all()).extracting(e -> e.key().sequence()).containsExactly(1L, 3L);
        assertThat(store.log.unreadCount()).isEqualTo(4);
        assertThat(store.intake.coverage(StoreFixture.SYSTEM, 1).settled()).isEqualTo(6);
    }

    @Test
    void a_number_whose_message_cannot_be_understood_closes_the_gap_it_is_in() {
        store.accept(List.of(StoreFixture.event(1), StoreFixture.event(5)), true)
                .join();
        store.intake
                .missing(StoreFixture.SYSTEM, 1, new Range(2, 4), Gaps.NOT_DELIVERED)
                .join();
        EventIntake.Feed feed = store.intake.feed(StoreFixture.SYSTEM);
        feed.accept(new Batch(List.of(StoreFixture.event(2)), List.of(unread(3, "{c")), true))
                .join();
        assertThat(own(Kinds.GAP_CLOSED)).isEmpty();
        feed.accept(new Batch(
                        List.of(),
                        List.of(unread(4, "{d"), Unread.of(StoreFixture.SYSTEM, Instant.EPOCH, "", Saying.quoted("x"))),
                        true))
                .join();
        assertThat(own(Kinds.GAP_CLOSED)).hasSize(1).first().satisfies(e -> {
            assertThat(e.time()).isEqualTo(StoreFixture.START);
            assertThat(e.detail("from")).contains("2");
            assertThat(e.detail("to")).contains("4");
        });
        assertThat(store.log.unreadCount()).isEqualTo(3);
    }

    @Test
    void an_error_in_what_is_to_be_written_is_said_and_the_next_is_written() {
        Event.Builder bad = mock(Event.Builder.class, call -> {
            throw new OutOfMemoryError("made up");
        });
        AtomicReference<Throwable> stumbled = new AtomicReference<>();
        Thread.UncaughtExceptionHandler before = Thread.getDefaultUncaughtExceptionHandler();
        Thread.setDefaultUncaughtExceptionHandler((t, e) -> stumbled.set(e));
        try {
            assertThat(store.intake.record(bad)).failsWithin(Duration.ofSeconds(30));
            StoreFixture.await().until(() -> stumbled.get() instanceof OutOfMemoryError);
        } finally {
            Thread.setDefaultUncaughtExceptionHandler(before);
        }
        assertThat(store.intake.trouble()).isPresent();
        store.accept(List.of(StoreFixture.event(1)), false).join();
        assertThat(store.intake.trouble()).isEmpty();
        assertThat(store.published).hasSize(1).allMatch(e -> e.position() == 1);
    }

    @Test
    void a_disk_that_fills_up_while_parts_are_stored_one_by_one_loses_nothing() {
        List<Event> events = new ArrayList<>(List.of(StoreFixture.event(1), poison(2)));
        for (int i = 3; i < 9; i++) {
            events.add(incompressible(i));
        }
        store.limitPages();
        EventIntake.Feed feed = store.intake.feed(StoreFixture.SYSTEM);
        assertThat(feed.accept(Batch.of(events, false)))
                .failsWithin(Duration.ofSeconds(30))
                .withThrowableThat()
                .withMessageContaining("store.not-stored.");
        assertThat(store.intake.trouble()).isPresent();
        assertThat(feed.accept(Batch.of(StoreFixture.events(9, 9), false))).failsWithin(Duration.ofSeconds(30));
        store.unlimitPages();
        store.accept(events, false).join();
        assertThat(all()).extracting(e -> e.key().sequence()).containsExactlyInAnyOrder(1L, 3L, 4L, 5L, 6L, 7L, 8L);
        assertThat(store.published).doesNotHaveDuplicates().hasSize(7);
        assertThat(store.log.unreadCount()).isEqualTo(1);
    }

    @Test
    void that_there_is_room_again_is_noticed_where_nothing_comes() throws Exception {
        try (BatchIntake quick = new BatchIntake(store.database, store.log, Clock.systemUTC(), Duration.ofMillis(20))) {
            store.limitPages();
            assertThat(quick.feed(StoreFixture.SYSTEM).accept(Batch.of(List.of(incompressible(1)), false)))
                    .failsWithin(Duration.ofSeconds(30));
            store.unlimitPages();
            StoreFixture.await().until(() -> quick.trouble().isEmpty());
        }
        // Nothing stays open on the connection that writes: it would keep the file from being tidied.
        store.accept(List.of(StoreFixture.event(1)), false).join();
        try (Database.Turn turn = store.database.turn()) {
            assertThat(store.database.writer().getAutoCommit()).isTrue();
        }
    }

    @Test
    void an_event_is_not_late_for_one_that_was_never_stored() {
        store.accept(List.of(StoreFixture.event(1, 10)), false).join();
        store.limitPages();
        Event far = incompressible(2).toBuilder()
                .time(StoreFixture.START.plusSeconds(500))
                .build();
        assertThat(store.accept(List.of(far), false)).failsWithin(Duration.ofSeconds(30));
        store.unlimitPages();
        store.accept(List.of(StoreFixture.event(2, 50)), false).join();
        assertThat(all()).extracting(Event::late).containsExactly(false, false);
    }

    @Test
    void what_a_restored_system_sends_otherwise_under_numbers_it_had_before_is_a_conflict_and_not_stored() {
        store.accept(StoreFixture.events(1, 10), false).join();
        store.intake.countsAgainFrom(StoreFixture.SYSTEM, 1, 5).join();
        store.accept(List.of(StoreFixture.event(5), other(5, "777"), other(3, "777"), other(6, "777")), false)
                .join();
        assertThat(own(Kinds.CONFLICT)).hasSize(2);
        assertThat(all()).hasSize(11);
        store.accept(List.of(other(7, "777"), other(8, "777")), false).join();
        store.intake.countsAgainFrom(StoreFixture.SYSTEM, 1, 7).join();
        store.accept(List.of(other(7, "888"), other(8, "888"), StoreFixture.event(6)), false)
                .join();
        assertThat(own(Kinds.CONFLICT)).hasSize(3);
        assertThat(all()).extracting(e -> e.credential().orElseThrow()).contains("888");
        assertThat(all()).hasSize(14);
    }

    @Test
    void keys_far_apart_are_looked_up_each_where_it_is() {
        List<Event> apart = List.of(
                StoreFixture.event(1), StoreFixture.event(2), StoreFixture.event(50_000), StoreFixture.event(90_000));
        store.accept(apart, true).join();
        store.accept(List.of(other(1, "9"), other(50_000, "9"), other(90_000, "9"), StoreFixture.event(2)), true)
                .join();
        assertThat(own(Kinds.CONFLICT)).hasSize(3);
        assertThat(all()).hasSize(4);
    }

    @Test
    void where_no_time_was_sent_it_makes_no_difference_when_the_same_came() {
        store.accept(List.of(StoreFixture.event(1)), true).join();
        for (int i = 1; i < 4; i++) {
            Event strange = Event.of(
                            new EventKey(StoreFixture.SYSTEM, 1, 1), Kinds.GRANTED, StoreFixture.START.plusSeconds(i))
                    .detail(Event.UNREAL, "soon")
                    .build();
            store.accept(List.of(strange), true).join();
        }
        assertThat(own(Kinds.CONFLICT)).hasSize(1);
    }

    @Test
    void too_much_of_our_own_at_once_is_refused_in_words_and_later_taken() {
        Event.Builder note = Event.of(new EventKey(SystemId.CUSTODIA, 1, 0), Kinds.NOTE, StoreFixture.START);
        CompletableFuture<Event> last = null;
        try (Database.Turn turn = store.database.turn()) {
            for (int i = 0; i <= 20_000; i++) {
                last = store.intake.record(note);
            }
            assertThat(last)
                    .failsWithin(Duration.ofSeconds(1))
                    .withThrowableThat()
                    .withMessageContaining("store.too-much");
        }
        StoreFixture.await().until(() -> store.log.count(EventQuery.all().kinds(Kinds.NOTE)) == 20_000);
        assertThat(store.intake.record(note)).succeedsWithin(Duration.ofSeconds(30));
    }
}
