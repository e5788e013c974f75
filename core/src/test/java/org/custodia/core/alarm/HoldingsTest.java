package org.custodia.core.alarm;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.core.alarm.Happening.at;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Supplier;
import org.custodia.core.event.Kinds;
import org.junit.jupiter.api.Test;

/** Whether a state holds, where its beginnings and ends come in any order and there are many. */
class HoldingsTest {
    private static final Rule.Holding ON =
            new Rule.Holding(Set.of(Kinds.INPUT_ON), Set.of(Kinds.INPUT_OFF), Rule.Extent.ANYWHERE);

    private static final Supplier<List<Holdings.Change>> NOTHING = List::of;

    private final Holdings holdings = new Holdings(ON);

    private void changed(int second, boolean holds) {
        holdings.changed("", new Holdings.Change(at(second), holds), false);
    }

    private boolean holds(int second) {
        return holdings.holds("", at(second), NOTHING);
    }

    @Test
    void of_a_beginning_and_an_end_at_one_instant_the_end_counts_in_either_order() {
        assertThat(holds(0)).isFalse();
        changed(10, true);
        changed(10, false);
        assertThat(holds(10)).isFalse();
        changed(20, false);
        changed(20, true);
        assertThat(holds(20)).isFalse();
        changed(30, true);
        assertThat(holds(29)).isFalse();
        assertThat(holds(30)).isTrue();
    }

    /** What is too old to be in memory is asked of the log, and not taken to have been otherwise. */
    @Test
    void what_is_no_longer_in_memory_is_read_again() {
        assertThat(holds(0)).isFalse();
        for (int second = 1; second <= 400; second++) {
            changed(second, second % 2 == 1);
        }
        assertThat(holds(399)).isTrue();
        assertThat(holdings.holds("", at(11), () -> List.of(new Holdings.Change(at(11), true))))
                .isTrue();
        assertThat(holdings.holds("", at(12), () -> List.of(new Holdings.Change(at(12), false))))
                .isFalse();
    }

    /** Of very many changes since, those that are not held do not hide how it was. */
    @Test
    void how_it_was_before_very_many_changes_is_known() {
        List<Holdings.Change> stored = new ArrayList<>();
        stored.add(new Holdings.Change(at(1), true));
        for (int second = 10; second < 500; second++) {
            stored.add(new Holdings.Change(at(second), second % 2 == 1));
        }
        assertThat(holdings.holds("", at(5), () -> stored)).isTrue();
        assertThat(holdings.holds("", at(499), () -> stored)).isTrue();
    }

    @Test
    void a_change_that_is_stored_late_lasts_into_what_is_held() {
        assertThat(holds(100)).isFalse();
        changed(50, true);
        assertThat(holdings.holds("", at(100), () -> List.of(new Holdings.Change(at(50), true))))
                .isTrue();
    }

    @Test
    void a_change_makes_a_difference_until_the_next_and_none_where_it_was_so() {
        List<Holdings.Change> others = List.of(
                new Holdings.Change(at(10), true),
                new Holdings.Change(at(30), false),
                new Holdings.Change(at(40), true));
        assertThat(effect(20, true, others)).isEmpty();
        assertThat(effect(20, false, others)).contains(new Holdings.Effect(at(20), at(30), false));
        assertThat(effect(35, true, others)).contains(new Holdings.Effect(at(35), at(40), true));
        assertThat(effect(50, false, others)).contains(new Holdings.Effect(at(50), Instant.MAX, false));
        assertThat(effect(10, false, others)).contains(new Holdings.Effect(at(10), at(30), false));
        assertThat(effect(30, true, others)).isEmpty();
        assertThat(effect(5, true, others)).contains(new Holdings.Effect(at(5), at(10), true));
    }

    private Optional<Holdings.Effect> effect(int second, boolean holds, List<Holdings.Change> others) {
        return holdings.effect("", new Holdings.Change(at(second), holds), others);
    }
}
