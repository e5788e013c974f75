package org.custodia.desktop.watch;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.desktop.desk.DeskInHand.NOW;
import static org.custodia.desktop.desk.DeskInHand.STORE;
import static org.custodia.desktop.desk.DeskInHand.VAULT;
import static org.custodia.desktop.desk.DeskInHand.onFx;

import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import org.custodia.core.Patience;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.DoorId;
import org.custodia.desktop.desk.DeskInHand;
import org.custodia.desktop.strip.StripItem;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Who is named on a strip that stands empty. */
class EarlierItemsTest {
    private static final Duration SPAN = Duration.ofMinutes(10);

    @TempDir
    Path directory;

    private DeskInHand hand;
    private EarlierItems earlier;
    private long sequence;

    @BeforeEach
    void open() {
        hand = new DeskInHand(directory);
        earlier = new EarlierItems(hand.desk, VAULT);
    }

    @AfterEach
    void close() {
        hand.close();
    }

    private Event happened(EventKind kind, DoorId door, int secondsAgo) {
        Event event = DeskInHand.event(++sequence, kind, door, NOW.minusSeconds(secondsAgo));
        hand.log.store(event);
        return event;
    }

    private List<Instant> named() {
        return onFx(() -> earlier.items().get().stream().map(StripItem::at).toList());
    }

    private void tick(boolean empty) {
        onFx(() -> earlier.tick(empty, SPAN));
    }

    private void names(int... secondsAgo) {
        List<Instant> wanted = java.util.Arrays.stream(secondsAgo)
                .mapToObj(s -> NOW.minusSeconds(s))
                .toList();
        Patience.await().until(() -> named().equals(wanted));
    }

    @Test
    void the_last_three_before_what_is_shown_newest_first() {
        for (int ago : new int[] {5_000, 4_000, 3_000, 2_000, 30}) {
            happened(Kinds.GRANTED, VAULT, ago);
        }
        happened(Kinds.GRANTED, STORE, 700);
        tick(true);
        names(2_000, 3_000, 4_000);
    }

    @Test
    void what_a_leaf_does_after_a_badge_is_no_visit_of_its_own_and_a_passage_without_one_is() {
        happened(Kinds.GRANTED, VAULT, 3_000);
        happened(Kinds.OPENED, VAULT, 2_998);
        happened(Kinds.CLOSED, VAULT, 2_990);
        happened(Kinds.EXIT_REQUESTED, VAULT, 2_500);
        happened(Kinds.OPENED, VAULT, 2_499);
        happened(Kinds.CLOSED, VAULT, 2_490);
        happened(Kinds.OPENED, VAULT, 2_000);
        happened(Kinds.CLOSED, VAULT, 1_990);
        tick(true);
        names(2_000, 3_000);
    }

    @Test
    void a_strip_that_is_not_empty_asks_for_nothing_and_what_comes_late_is_found_in_a_while() {
        happened(Kinds.GRANTED, VAULT, 3_000);
        tick(false);
        assertThat(named()).isEmpty();
        tick(true);
        names(3_000);
        happened(Kinds.GRANTED, VAULT, 2_000);
        tick(true);
        names(3_000);
        hand.pass(Duration.ofSeconds(31));
        tick(true);
        names(2_000, 3_000);
        tick(false);
        assertThat(named()).isEmpty();
    }

    @Test
    void another_moment_is_another_question() {
        happened(Kinds.GRANTED, VAULT, 9_000);
        happened(Kinds.GRANTED, VAULT, 3_000);
        tick(true);
        names(3_000, 9_000);
        onFx(() -> hand.desk.lookBack(NOW.minusSeconds(5_000)));
        tick(true);
        names(9_000);
    }

    @Test
    void nobody_ever_is_nobody() {
        tick(true);
        names();
        assertThat(named()).isEmpty();
    }
}
