package org.custodia.desktop.feed;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.desktop.desk.DeskInHand.NOW;
import static org.custodia.desktop.desk.DeskInHand.STORE;
import static org.custodia.desktop.desk.DeskInHand.VAULT;
import static org.custodia.desktop.desk.DeskInHand.onFx;
import static org.custodia.desktop.desk.DeskInHand.until;

import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake.Batch;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.DoorId;
import org.custodia.desktop.desk.DeskInHand;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** A feed in what can go wrong with it: order, repetition, floods, a moment that moves while something is read. */
class EventFeedTest {
    @TempDir
    Path directory;

    private DeskInHand hand;
    private EventFeed feed;
    private boolean onlyVault;
    private long sequence;

    @BeforeEach
    void open() {
        hand = new DeskInHand(directory);
    }

    @AfterEach
    void close() {
        onFx(feed::close);
        hand.close();
    }

    private void feed() {
        feed = onFx(() -> new EventFeed(
                hand.desk,
                () -> EventQuery.all().kinds(Kinds.GRANTED),
                e -> e.kind().equals(Kinds.GRANTED),
                e -> !onlyVault || e.door().filter(VAULT::equals).isPresent()));
        onFx(feed::reload);
        until(() -> feed.state().get() instanceof EventFeed.State.Read);
    }

    private long happens(DoorId door, Instant at) {
        happens(List.of(DeskInHand.event(++sequence, Kinds.GRANTED, door, at)));
        return sequence;
    }

    private void happens(List<Event> events) {
        hand.log
                .feed(DeskInHand.SYSTEM)
                .accept(new Batch(events, List.of(), false))
                .join();
    }

    private void happen(int many, Instant from) {
        List<Event> all = new ArrayList<>();
        for (int i = 0; i < many; i++) {
            all.add(DeskInHand.event(++sequence, Kinds.GRANTED, VAULT, from.plusMillis(i)));
        }
        happens(all);
    }

    private List<Long> rows() {
        return onFx(() -> feed.rows().stream().map(e -> e.key().sequence()).toList());
    }

    private boolean sorted() {
        return onFx(() -> {
            List<Event> rows = List.copyOf(feed.rows());
            return rows.stream().sorted((a, b) -> b.compareTo(a)).toList().equals(rows);
        });
    }

    @Test
    void what_arrives_waits_until_it_is_shown_and_goes_to_its_place() {
        happens(VAULT, NOW.minusSeconds(60));
        happens(VAULT, NOW.minusSeconds(20));
        feed();
        assertThat(rows()).hasSize(2);
        long late = happens(VAULT, NOW.minusSeconds(40));
        long fresh = happens(STORE, NOW);
        happens(List.of(DeskInHand.event(++sequence, Kinds.OPENED, VAULT, NOW)));
        until(() -> feed.waiting().get() == 2);
        assertThat(rows()).hasSize(2);
        onFx(feed::showWaiting);
        assertThat(rows()).hasSize(4);
        assertThat(sorted()).isTrue();
        assertThat(rows().get(0)).isEqualTo(fresh);
        assertThat(rows().get(2)).isEqualTo(late);
        assertThat(onFx(() -> feed.waiting().get())).isZero();
        onFx(feed::showWaiting);
        assertThat(rows()).hasSize(4);
    }

    @Test
    void what_was_read_already_is_not_shown_twice() {
        feed();
        long event = happens(VAULT, NOW);
        until(() -> feed.waiting().get() == 1);
        // It is read before it is put among the rows.
        onFx(() -> feed.rows().setAll(hand.log.events.get(hand.log.events.size() - 1)));
        onFx(feed::showWaiting);
        assertThat(rows()).containsExactly(event);
    }

    @Test
    void it_is_read_back_page_by_page_to_the_very_first() {
        happen(205, NOW.minusSeconds(900));
        feed();
        assertThat(rows()).hasSize(80);
        for (int pages = 2; pages <= 4; pages++) {
            int wanted = Math.min(205, pages * 80);
            onFx(() -> {
                feed.more();
                feed.more();
            });
            until(() -> feed.rows().size() >= wanted);
            assertThat(rows()).hasSize(wanted).doesNotHaveDuplicates();
        }
        onFx(feed::more);
        assertThat(rows()).hasSize(205);
        assertThat(sorted()).isTrue();
    }

    @Test
    void what_is_older_than_all_that_was_read_is_read_when_its_turn_comes() {
        happen(100, NOW.minusSeconds(900));
        feed();
        happens(VAULT, NOW.minusSeconds(3_000));
        until(() -> feed.waiting().get() == 1);
        onFx(feed::showWaiting);
        assertThat(rows()).hasSize(80);
        onFx(feed::more);
        until(() -> feed.rows().size() == 101);
    }

    @Test
    void of_a_flood_only_a_page_is_kept_and_then_all_is_read_again() {
        feed();
        for (int i = 0; i < 5; i++) {
            happen(50, NOW.minusSeconds(100 - i));
        }
        until(() -> feed.waiting().get() == 250);
        assertThat(rows()).isEmpty();
        // It was read a moment ago: not with each batch.
        onFx(feed::showWaiting);
        assertThat(onFx(() -> feed.waiting().get())).isEqualTo(250);
        hand.pass(Duration.ofSeconds(1));
        onFx(feed::showWaiting);
        until(() -> feed.rows().size() == 80);
        assertThat(rows()).hasSize(80);
        assertThat(sorted()).isTrue();
        assertThat(onFx(() -> feed.waiting().get())).isZero();
        long next = happens(VAULT, NOW);
        until(() -> feed.waiting().get() == 1);
        onFx(feed::showWaiting);
        assertThat(rows().get(0)).isEqualTo(next);
    }

    @Test
    void looking_back_nothing_arrives_and_back_at_now_all_is_there() {
        happens(VAULT, NOW.minusSeconds(600));
        happens(VAULT, NOW.minusSeconds(60));
        feed();
        onFx(() -> hand.desk.lookBack(NOW.minusSeconds(300)));
        until(() -> feed.rows().size() == 1);
        happens(VAULT, NOW);
        assertThat(onFx(() -> feed.waiting().get())).isZero();
        onFx(() -> hand.desk.returnToNow());
        until(() -> feed.rows().size() == 3);
    }

    @Test
    void a_page_that_was_asked_for_before_the_moment_moved_is_passed_over() {
        happen(300, NOW.minusSeconds(900));
        feed();
        onFx(() -> {
            feed.more();
            hand.desk.lookBack(NOW.minusSeconds(899));
        });
        until(() -> !feed.rows().isEmpty()
                && feed.rows().stream().noneMatch(e -> e.time().isAfter(NOW.minusSeconds(899))));
        onFx(feed::more);
        assertThat(rows()).doesNotHaveDuplicates();
        assertThat(sorted()).isTrue();
    }

    @Test
    void what_does_not_belong_does_not_wait() {
        feed();
        onlyVault = true;
        happens(STORE, NOW);
        long wanted = happens(VAULT, NOW);
        until(() -> feed.waiting().get() == 1);
        onFx(feed::showWaiting);
        assertThat(rows()).containsExactly(wanted);
    }

    @Test
    void a_log_that_cannot_be_read_is_told_from_an_empty_one() {
        feed = onFx(() -> new EventFeed(hand.desk, EventQuery::all, e -> true, e -> true));
        assertThat(onFx(() -> feed.state().get())).isInstanceOf(EventFeed.State.Loading.class);
        hand.log.unreadable = true;
        onFx(feed::reload);
        until(() -> feed.state().get() instanceof EventFeed.State.Failed failed
                && failed.why().contains("could not be read"));
        hand.log.unreadable = false;
        onFx(feed::reload);
        until(() -> feed.state().get() instanceof EventFeed.State.Read);
    }
}
