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
import java.util.concurrent.CompletionException;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Priority;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class BatchIntakeTest {
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
        return store.log.find(EventQuery.all());
    }

    @Test
    void what_is_stored_is_read_back_the_same_and_published_after_the_commit() {
        Event event = StoreFixture.event(1);
        store.intake.accept(List.of(event), false).join();
        assertThat(all()).containsExactlyElementsOf(store.published);
        Event stored = all().get(0);
        assertThat(stored.position()).isEqualTo(1);
        assertThat(stored.toBuilder().position(0).build()).isEqualTo(event);
        assertThat(store.log.byKey(event.key())).contains(stored);
        assertThat(store.log.lastOf(StoreFixture.SYSTEM)).contains(new EventLog.Resume(1, 1));
    }

    @Test
    void redelivery_in_any_order_and_number_stores_each_event_once() {
        Random random = new Random(7);
        List<Event> events = StoreFixture.events(1, 400);
        store.intake.accept(events, true).join();
        for (int i = 0; i < 5; i++) {
            List<Event> again = new ArrayList<>(events.subList(random.nextInt(200), 200 + random.nextInt(200)));
            Collections.shuffle(again, random);
            store.intake.accept(again, false).join();
        }
        assertThat(all()).hasSize(400);
        assertThat(store.published).hasSize(400);
    }

    @Test
    void a_key_that_comes_again_with_other_content_is_kept_as_a_conflict() {
        store.intake.accept(StoreFixture.events(1, 3), false).join();
        Event other = StoreFixture.event(2).toBuilder()
                .credential("99999")
                .raw("{\"other\":1}")
                .build();
        store.intake.accept(List.of(other), false).join();
        List<Event> conflicts = store.log.find(EventQuery.all().kinds(Kinds.CONFLICT));
        assertThat(conflicts).hasSize(1);
        assertThat(conflicts.get(0).detail("about")).contains(other.key().text());
        assertThat(conflicts.get(0).raw()).isEqualTo("{\"other\":1}");
        assertThat(store.log.byKey(other.key()).orElseThrow().credential()).contains("22");
        assertThat(store.published).contains(conflicts.get(0));
    }

    @Test
    void a_hole_in_the_numbers_is_an_event_of_its_own_but_a_new_epoch_is_none() {
        store.intake.accept(StoreFixture.events(5, 6), true).join();
        store.intake.accept(List.of(StoreFixture.event(10)), false).join();
        List<Event> gaps = store.log.find(EventQuery.all().kinds(Kinds.GAP));
        assertThat(gaps).hasSize(1);
        assertThat(gaps.get(0).detail("from")).contains("7");
        assertThat(gaps.get(0).detail("to")).contains("9");
        Event again = Event.of(new EventKey(StoreFixture.SYSTEM, 2, 4), Kinds.GRANTED, StoreFixture.START)
                .build();
        store.intake.accept(List.of(again), false).join();
        assertThat(store.log.find(EventQuery.all().kinds(Kinds.GAP))).hasSize(1);
        assertThat(store.log.lastOf(StoreFixture.SYSTEM)).contains(new EventLog.Resume(2, 4));
    }

    @Test
    void late_events_take_their_place_in_time_and_are_marked_unless_they_are_a_backlog() {
        store.intake
                .accept(List.of(StoreFixture.event(1, 10), StoreFixture.event(2, 30)), false)
                .join();
        store.intake.accept(List.of(StoreFixture.event(3, 20)), false).join();
        store.intake.accept(List.of(StoreFixture.event(4, 15)), true).join();
        assertThat(all()).extracting(e -> e.key().sequence()).containsExactly(1L, 4L, 3L, 2L);
        assertThat(all()).extracting(Event::late).containsExactly(false, false, true, false);
    }

    @Test
    void what_was_reached_is_remembered_over_a_restart() {
        store.intake.accept(StoreFixture.events(1, 20), true).join();
        Event mine = store.intake
                .record(Event.of(new EventKey(BatchIntake.OWN, 1, 0), Kinds.NOTE, StoreFixture.START))
                .join();
        assertThat(mine.key().sequence()).isEqualTo(1);
        store.close();
        store = new StoreFixture(path);
        Event next = store.intake
                .record(Event.of(new EventKey(BatchIntake.OWN, 1, 0), Kinds.NOTE, StoreFixture.START))
                .join();
        assertThat(next.key().sequence()).isEqualTo(2);
        assertThat(next.position()).isEqualTo(22);
        store.intake.accept(List.of(StoreFixture.event(22)), false).join();
        assertThat(store.log.find(EventQuery.all().kinds(Kinds.GAP))).hasSize(1);
    }

    @Test
    void a_full_disk_is_said_and_nothing_is_half_stored_and_later_all_is_well() {
        store.intake.accept(StoreFixture.events(1, 10), true).join();
        store.database.write(dsl -> {
            int pages = dsl.fetchOne("PRAGMA page_count").get(0, Integer.class);
            dsl.execute("PRAGMA max_page_count = " + pages);
        });
        List<Event> more = StoreFixture.events(11, 3_000);
        assertThatThrownBy(() -> store.intake.accept(more, true).join())
                .isInstanceOf(CompletionException.class)
                .hasCauseInstanceOf(EventLogException.class)
                .hasMessageContaining("is full")
                .hasMessageContaining("Free some space");
        assertThat(store.intake.trouble()).isPresent();
        assertThat(all()).hasSize(10);
        assertThat(store.published).hasSize(10);
        store.database.write(dsl -> dsl.execute("PRAGMA max_page_count = 1000000"));
        store.intake.accept(more, true).join();
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
        store.intake.accept(StoreFixture.events(1, 5), false).join();
        assertThat(seen).hasSize(5);
    }

    @Test
    void messages_that_cannot_be_understood_are_kept_and_counted() {
        store.intake.keepUnread(StoreFixture.SYSTEM, StoreFixture.START, "{\"seq\":", "cut off");
        store.intake.keepUnread(StoreFixture.SYSTEM, StoreFixture.START, "x".repeat(200_000), "too long");
        assertThat(store.log.unreadCount()).isEqualTo(2);
    }

    @Test
    void questions_narrow_and_pages_go_on_without_losing_or_repeating() {
        store.intake.accept(StoreFixture.events(1, 500), true).join();
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
        store.intake.accept(StoreFixture.events(1, 120), true).join();
        store.intake
                .record(Event.of(new EventKey(BatchIntake.OWN, 1, 0), Kinds.FORCED, StoreFixture.START.plusSeconds(70)))
                .join();
        store.intake
                .record(Event.of(new EventKey(BatchIntake.OWN, 1, 0), Kinds.REPORT, StoreFixture.START.plusSeconds(75)))
                .join();
        var slices = store.log.slices(StoreFixture.START, StoreFixture.START.plusSeconds(180), Duration.ofSeconds(60));
        assertThat(slices.values().stream().mapToInt(EventLog.Slice::events).sum())
                .isEqualTo(121);
        assertThat(slices.get(1).worst()).isEqualTo(Priority.URGENT);
        assertThat(slices.get(0).worst()).isEqualTo(Priority.NOTE);
    }

    @Test
    void nothing_can_be_handed_in_after_the_end() {
        store.intake.close();
        assertThat(store.intake.accept(StoreFixture.events(1, 2), false)).isCompletedExceptionally();
        assertThat(Optional.of(store.log.count(EventQuery.all()))).contains(0L);
    }
}
