package org.custodia.desktop.watch;

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
import java.util.Random;
import java.util.Set;
import org.custodia.core.event.EventIntake.Batch;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.DoorId;
import org.custodia.desktop.desk.DeskInHand;
import org.custodia.desktop.strip.StripData;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Strips that come into view and go out of it, while events come and the moment moves. */
class StripFeedTest {
    private static final Duration SPAN = Duration.ofMinutes(10);

    @TempDir
    Path directory;

    private DeskInHand hand;
    private StripModel vault;
    private StripModel store;
    private final List<StripModel> strips = new ArrayList<>();
    private StripFeed feed;
    private long sequence;

    @BeforeEach
    void open() {
        hand = new DeskInHand(directory);
        vault = strip(VAULT);
        store = strip(STORE);
        strips.addAll(List.of(vault, store));
        feed = onFx(() -> new StripFeed(hand.desk, strips, () -> SPAN));
    }

    @AfterEach
    void close() {
        onFx(feed::close);
        hand.close();
    }

    private StripModel strip(DoorId door) {
        return new StripModel(hand.desk.services().sites().get().door(door).orElseThrow());
    }

    private void inView(StripModel... strips) {
        onFx(() -> feed.inView(Set.of(strips)));
    }

    private void happens(DoorId door, Instant at) {
        hand.log
                .feed(DeskInHand.SYSTEM)
                .accept(new Batch(List.of(DeskInHand.event(++sequence, Kinds.GRANTED, door, at)), List.of(), false))
                .join();
    }

    private static int items(StripModel strip) {
        return strip.data().get().items().size();
    }

    private boolean allRead() {
        return vault.isRead() && store.isRead();
    }

    @Test
    void what_nobody_sees_is_not_read_and_what_happened_there_is_told_when_it_is_seen() {
        inView(vault);
        onFx(feed::readAll);
        until(vault::isRead);
        happens(STORE, NOW.minusSeconds(20));
        happens(VAULT, NOW.minusSeconds(10));
        until(() -> items(vault) == 1);
        onFx(feed::tick);
        assertThat(store.data().get()).isEqualTo(StripData.LOADING);
        assertThat(store.events()).isEmpty();

        inView(store);
        until(() -> items(store) == 1);
        assertThat(vault.events()).isEmpty();
    }

    @Test
    void a_strip_that_is_added_below_what_is_seen_is_not_read() {
        strips.remove(store);
        inView(vault);
        onFx(feed::readAll);
        until(vault::isRead);
        happens(STORE, NOW.minusSeconds(20));

        strips.add(store);
        onFx(() -> feed.read(List.of(store)));
        onFx(feed::readAll);
        until(vault::isRead);
        assertThat(store.isInView()).isFalse();
        assertThat(store.isRead()).isFalse();

        inView(vault, store);
        until(() -> items(store) == 1);
    }

    @Test
    void while_another_view_is_open_strips_rest_and_afterwards_show_all_that_happened() {
        inView(vault, store);
        onFx(feed::readAll);
        until(this::allRead);
        happens(VAULT, NOW.minusSeconds(30));
        until(() -> items(vault) == 1);
        onFx(() -> feed.inSight(false));
        happens(VAULT, NOW.minusSeconds(20));
        happens(STORE, NOW.minusSeconds(10));
        onFx(feed::tick);
        onFx(feed::readAll);
        assertThat(onFx(() -> items(vault))).isEqualTo(1);
        assertThat(vault.isRead()).isFalse();
        onFx(() -> feed.inSight(true));
        until(() -> items(vault) == 2 && items(store) == 1);
        happens(STORE, NOW.minusSeconds(5));
        until(() -> items(store) == 2);
    }

    @Test
    void a_moment_that_moved_meanwhile_is_what_a_strip_shows_when_it_is_seen_again() {
        happens(STORE, NOW.minusSeconds(20));
        happens(STORE, NOW.minusSeconds(3_000));
        happens(STORE, NOW.minusSeconds(3_010));
        onFx(feed::readAll);
        until(() -> allRead() && items(store) == 1);
        inView(vault);
        Instant then = NOW.minusSeconds(2_900);
        onFx(() -> {
            hand.desk.lookBack(then);
            feed.readAll();
        });
        until(vault::isRead);
        inView(vault, store);
        until(() -> store.isRead() && items(store) == 2);
        assertThat(store.data().get().end()).isEqualTo(then);
    }

    @Test
    void whatever_comes_and_goes_while_readings_wait_none_is_left_out() {
        happens(STORE, NOW.minusSeconds(20));
        happens(VAULT, NOW.minusSeconds(10));
        Random random = new Random(4);
        List<Set<StripModel>> looks = List.of(Set.of(), Set.of(vault), Set.of(store), Set.of(vault, store));
        for (int i = 0; i < 200; i++) {
            Set<StripModel> look = looks.get(random.nextInt(looks.size()));
            onFx(() -> {
                feed.inView(look);
                if (random.nextInt(3) == 0) {
                    feed.readAll();
                }
            });
        }
        inView(vault, store);
        until(() -> allRead() && items(vault) == 1 && items(store) == 1);
    }

    @Test
    void an_event_that_is_stored_while_a_strip_comes_into_view_is_there_once() {
        for (int i = 0; i < 50; i++) {
            inView(vault);
            Instant at = NOW.minusSeconds(60).plusMillis(i);
            // The strip asks to be read, and before that has begun something happens.
            onFx(() -> {
                feed.inView(Set.of(vault, store));
                happens(STORE, at);
            });
            int all = i + 1;
            until(() -> store.isRead() && items(store) == all);
        }
    }
}
