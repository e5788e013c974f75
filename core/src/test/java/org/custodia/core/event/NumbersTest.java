package org.custodia.core.event;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeSet;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.IntRange;
import net.jqwik.api.constraints.Size;
import org.custodia.core.event.NumberRanges.Range;
import org.junit.jupiter.api.Test;

/** Sets of numbers against plain sets, and what follows from them. */
class NumbersTest {
    record Change(
            @IntRange(min = 1, max = 60) int from,
            @IntRange(max = 12) int more,
            boolean add) {}

    @Property(tries = 600)
    void ranges_say_the_same_as_a_plain_set_and_changes_lead_to_the_same(
            @ForAll @Size(max = 40) List<@net.jqwik.api.From("changes") Change> changes) {
        NumberRanges ranges = new NumberRanges();
        TreeSet<Long> plain = new TreeSet<>();
        Map<Long, Long> saved = new HashMap<>();
        for (Change c : changes) {
            if (c.add() && c.more() == 0) {
                assertThat(ranges.add(c.from())).isEqualTo(plain.add((long) c.from()));
            } else if (c.add()) {
                ranges.add(c.from(), c.from() + c.more());
                for (long n = c.from(); n <= c.from() + c.more(); n++) {
                    plain.add(n);
                }
            } else {
                ranges.remove(c.from(), c.from() + c.more());
                for (long n = c.from(); n <= c.from() + c.more(); n++) {
                    plain.remove(n);
                }
            }
            ranges.takeChanges().forEach((first, last) -> {
                if (last == null) {
                    saved.remove(first);
                } else {
                    saved.put(first, last);
                }
            });
        }
        for (long n = 1; n <= 75; n++) {
            assertThat(ranges.contains(n)).as("%d in %s", n, ranges).isEqualTo(plain.contains(n));
            long end = n;
            while (plain.contains(end)) {
                end++;
            }
            assertThat(ranges.endOf(n)).isEqualTo(end - 1);
            Long next = plain.ceiling(n);
            assertThat(ranges.firstFrom(n).orElse(-1)).isEqualTo(next == null ? -1 : next);
            assertThat(ranges.containsAll(n, n + 3)).isEqualTo(plain.containsAll(List.of(n, n + 1, n + 2, n + 3)));
        }
        TreeSet<Long> without = new TreeSet<>();
        ranges.without(5, 50).forEach(r -> {
            for (long n = r.first(); n <= r.last(); n++) {
                without.add(n);
            }
        });
        TreeSet<Long> expected = new TreeSet<>();
        for (long n = 5; n <= 50; n++) {
            if (!plain.contains(n)) {
                expected.add(n);
            }
        }
        assertThat(without).isEqualTo(expected);
        assertThat(ranges.highest()).isEqualTo(plain.isEmpty() ? 0 : plain.last());
        assertThat(ranges.isEmpty()).isEqualTo(plain.isEmpty());
        List<Range> all = ranges.ranges();
        for (int i = 1; i < all.size(); i++) {
            assertThat(all.get(i).first()).isGreaterThan(all.get(i - 1).last() + 1);
        }
        Map<Long, Long> now = new HashMap<>();
        all.forEach(r -> now.put(r.first(), r.last()));
        assertThat(saved).isEqualTo(now);
    }

    @net.jqwik.api.Provide
    net.jqwik.api.Arbitrary<Change> changes() {
        return net.jqwik.api.Combinators.combine(
                        net.jqwik.api.Arbitraries.integers().between(1, 60),
                        net.jqwik.api.Arbitraries.integers().between(0, 12),
                        net.jqwik.api.Arbitraries.of(true, true, false))
                .as(Change::new);
    }

    @Test
    void the_largest_numbers_do_not_wrap_round() {
        NumberRanges ranges = new NumberRanges();
        ranges.add(Long.MAX_VALUE);
        ranges.add(Long.MAX_VALUE - 1);
        assertThat(ranges.ranges()).containsExactly(new Range(Long.MAX_VALUE - 1, Long.MAX_VALUE));
        assertThat(ranges.without(1, Long.MAX_VALUE)).containsExactly(new Range(1, Long.MAX_VALUE - 2));
        assertThat(new Range(1, Long.MAX_VALUE).size()).isEqualTo(Long.MAX_VALUE);
        assertThat(new Range(3, 5).size()).isEqualTo(3);
        assertThatThrownBy(() -> new Range(0, 1)).isInstanceOf(IllegalArgumentException.class);
        assertThatThrownBy(() -> new Range(5, 4)).isInstanceOf(IllegalArgumentException.class);
        Ledger ledger = new Ledger();
        ledger.hold(Long.MAX_VALUE);
        ledger.miss(1, Long.MAX_VALUE);
        assertThat(ledger.coverage(1, 1).settled()).isEqualTo(Long.MAX_VALUE);
    }

    @Test
    void everything_up_to_the_first_hole_is_settled_and_holes_are_named_in_order() {
        Ledger ledger = new Ledger();
        assertThat(ledger.coverage(3, 3).known()).isFalse();
        assertThat(ledger.coverage(3, 3).settled()).isZero();
        for (long n : new long[] {1, 2, 4, 7, 8}) {
            assertThat(ledger.hold(n)).isTrue();
        }
        assertThat(ledger.hold(4)).isFalse();
        Coverage coverage = ledger.coverage(3, 9);
        assertThat(coverage.known()).isTrue();
        assertThat(coverage.epoch()).isEqualTo(3);
        assertThat(coverage.logsEpoch()).isEqualTo(9);
        assertThat(coverage.settled()).isEqualTo(2);
        assertThat(coverage.highest()).isEqualTo(8);
        assertThat(coverage.holes()).containsExactly(new Range(3, 3), new Range(5, 6));
        assertThat(ledger.miss(1, 5)).containsExactly(new Range(3, 3), new Range(5, 5));
        assertThat(ledger.coverage(3, 3).settled()).isEqualTo(5);
        assertThat(ledger.closed(List.of(3L))).isEmpty();
        ledger.hold(3);
        assertThat(ledger.closed(List.of(3L))).containsExactly(new Range(3, 3));
        assertThat(ledger.closed(List.of(3L))).isEmpty();
        assertThat(ledger.missing().ranges()).containsExactly(new Range(5, 5));
    }

    @Test
    void a_number_far_ahead_is_believed_once_enough_follow_it() {
        Ledger ledger = new Ledger();
        ledger.held().add(1, 10);
        long far = 10 + Coverage.STRAY + 2;
        ledger.hold(far);
        assertThat(ledger.coverage(1, 1).holes()).isEmpty();
        assertThat(ledger.coverage(1, 1).highest()).isEqualTo(10);
        ledger.held().add(far, far + Coverage.CONVINCING - 2);
        assertThat(ledger.coverage(1, 1).holes()).isEmpty();
        ledger.held().add(far, far + Coverage.CONVINCING - 1);
        assertThat(ledger.coverage(1, 1).holes()).containsExactly(new Range(11, far - 1));
        Ledger near = new Ledger();
        near.held().add(1, 10);
        near.hold(far - 1);
        assertThat(near.coverage(1, 1).holes()).containsExactly(new Range(11, far - 2));
        Ledger many = new Ledger();
        for (long n = 2; n < 2_000; n += 2) {
            many.hold(n);
        }
        assertThat(many.coverage(1, 1).holes()).hasSize(Coverage.MOST_HOLES);
    }
}
