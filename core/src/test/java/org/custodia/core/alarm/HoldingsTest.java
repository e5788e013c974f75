package org.custodia.core.alarm;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.core.alarm.Happening.at;

import java.util.List;
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
        holdings.changed("", new Holdings.Change(at(second), holds));
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
}
