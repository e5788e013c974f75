package org.custodia.core.footage;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import net.jqwik.api.Arbitraries;
import net.jqwik.api.Arbitrary;
import net.jqwik.api.Combinators;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.Provide;
import net.jqwik.api.constraints.IntRange;
import net.jqwik.api.constraints.Size;
import org.custodia.core.site.SystemId;

class ClockBookPropertyTest {
    private static final Instant START = Instant.parse("2026-11-24T14:00:00Z");
    private static final SystemId RECORDER = new SystemId("quayside");

    /**
     * A question and its answer.
     *
     * @param there how long the way there took, in milliseconds
     * @param back how long the way back took
     */
    record Question(int there, int back) {}

    @Provide
    Arbitrary<Question> questions() {
        Arbitrary<Integer> way = Arbitraries.integers().between(0, 900);
        return Combinators.combine(way, way).as(Question::new);
    }

    private static void ask(ClockBook book, Instant asked, Question q, Duration trulyAhead) {
        Instant answered = asked.plusMillis(q.there());
        book.add(ClockBook.measure(RECORDER, asked, answered.plus(trulyAhead), answered.plusMillis(q.back())));
    }

    @Property
    void the_estimate_is_off_by_no_more_than_half_the_shortest_round_trip_near_by(
            @ForAll("questions") Question first,
            @ForAll @Size(min = 1, max = 12) List<@net.jqwik.api.From("questions") Question> rest,
            @ForAll @IntRange(min = -60_000, max = 60_000) int aheadMillis) {
        ClockBook book = new ClockBook();
        Duration ahead = Duration.ofMillis(aheadMillis);
        Instant asked = START;
        ask(book, asked, first, ahead);
        int shortest = first.there() + first.back();
        for (Question q : rest) {
            asked = asked.plusMillis(2_500);
            ask(book, asked, q, ahead);
            shortest = Math.min(shortest, q.there() + q.back());
        }
        // True measurements of a steady clock always agree.
        Duration off = book.ahead(RECORDER, asked.plusSeconds(3)).minus(ahead).abs();
        assertThat(off)
                .isLessThanOrEqualTo(Duration.ofMillis(shortest).dividedBy(2).plusMillis(8));
    }

    @Property
    void a_clock_that_was_set_counts_from_the_first_measurement_after_it(
            @ForAll("questions") Question before,
            @ForAll("questions") Question after,
            @ForAll @IntRange(min = 2_000, max = 600_000) int step) {
        ClockBook book = new ClockBook();
        ask(book, START, before, Duration.ZERO);
        Instant later = START.plusSeconds(20);
        ask(book, later, after, Duration.ofMillis(step));
        Duration off =
                book.ahead(RECORDER, later.plusSeconds(5)).minusMillis(step).abs();
        assertThat(off).isLessThanOrEqualTo(Duration.ofMillis(after.there() + after.back()));
        Duration earlier = book.ahead(RECORDER, START).abs();
        assertThat(earlier).isLessThanOrEqualTo(Duration.ofMillis(before.there() + before.back()));
    }

    @Property
    void hours_before_it_was_measured_a_clock_that_drifts_is_within_what_is_said(
            @ForAll @IntRange(min = -190, max = 190) int partsPerMillion,
            @ForAll @IntRange(min = 1, max = 120) int minutes,
            @ForAll @IntRange(min = 1, max = 48) int hoursBack,
            @ForAll @Size(min = 4, max = 4) List<@net.jqwik.api.From("questions") Question> ways) {
        ClockBook book = new ClockBook();
        for (int second = 0; second <= 60 * minutes; second += 20) {
            Question q = ways.get(second / 20 % ways.size());
            ask(book, START.plusSeconds(second), q, drifted(partsPerMillion, second));
        }
        for (int hours : List.of(-hoursBack, hoursBack)) {
            ClockBook.Estimate then =
                    book.estimate(RECORDER, START.plus(Duration.ofHours(hours))).orElseThrow();
            Duration off = then.ahead().minus(drifted(partsPerMillion, 3_600L * hours));
            assertThat(off.abs()).isLessThanOrEqualTo(then.uncertainty().plusMillis(5));
            assertThat(then.uncertainty())
                    .as("it says more than nothing")
                    .isLessThanOrEqualTo(Duration.ofMillis(1_000 + hoursBack * 3_600L * 2 / 5));
        }
    }

    private static Duration drifted(int partsPerMillion, long seconds) {
        return Duration.ofNanos(partsPerMillion * 1_000L * seconds);
    }

    @Property(tries = 20)
    void systems_do_not_mix(@ForAll("questions") Question q, @ForAll @IntRange(min = 1, max = 90_000) int aheadMillis) {
        ClockBook book = new ClockBook();
        ask(book, START, q, Duration.ofMillis(aheadMillis));
        assertThat(book.ahead(new SystemId("ferry"), START)).isZero();
        assertThat(book.estimate(new SystemId("ferry"), START)).isEmpty();
        assertThat(book.newest()).containsOnlyKeys(RECORDER);
    }
}
