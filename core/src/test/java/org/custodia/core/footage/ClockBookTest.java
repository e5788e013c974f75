package org.custodia.core.footage;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Random;
import org.custodia.core.footage.ClockBook.Estimate;
import org.custodia.core.footage.ClockBook.Reading;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

class ClockBookTest {
    private static final SystemId SYSTEM = new SystemId("tidewater");
    private static final Instant START = Instant.parse("2026-11-24T14:00:00Z");

    private final ClockBook book = new ClockBook();

    private static Reading reading(double at, long aheadMillis, long roundTripMillis) {
        return new Reading(
                SYSTEM,
                START.plusMillis((long) (at * 1000)),
                Duration.ofMillis(aheadMillis),
                Duration.ofMillis(roundTripMillis));
    }

    private Duration ahead(double at) {
        return book.ahead(SYSTEM, START.plusMillis((long) (at * 1000)));
    }

    @Test
    void a_slow_answer_between_quick_ones_moves_nothing_beyond_what_is_sure() {
        book.add(reading(0, 350, 2));
        book.add(reading(20, 352, 2));
        Estimate before = book.estimate(SYSTEM, START.plusSeconds(20)).orElseThrow();
        book.add(reading(40, 550, 400));
        Estimate after = book.estimate(SYSTEM, START.plusSeconds(40)).orElseThrow();
        assertThat(after.ahead().minus(before.ahead()).abs()).isLessThan(Duration.ofMillis(5));
        assertThat(after.uncertainty()).isLessThan(Duration.ofMillis(10));
    }

    @Test
    void a_clock_that_was_set_is_believed_at_once_and_the_past_stays_as_it_was() {
        book.add(reading(0, 350, 10));
        book.add(reading(600, 3_600_350, 10));
        assertThat(ahead(601)).isEqualTo(Duration.ofMillis(3_600_350));
        assertThat(ahead(1)).isEqualTo(Duration.ofMillis(350));
        assertThat(book.aheadWhenItShowed(SYSTEM, START.plusSeconds(620 + 3_600)))
                .isEqualTo(Duration.ofMillis(3_600_350));
    }

    @Test
    void an_old_estimate_is_less_sure() {
        book.add(reading(0, 0, 10));
        Duration young = book.estimate(SYSTEM, START).orElseThrow().uncertainty();
        book.add(reading(10_000, 1_500, 4_000));
        Estimate old = book.estimate(SYSTEM, START.plusSeconds(10_000)).orElseThrow();
        assertThat(old.uncertainty()).isGreaterThan(young.multipliedBy(50));
        assertThat(old.ahead()).isBetween(Duration.ZERO, Duration.ofMillis(2_100));
    }

    @Test
    void a_year_of_a_steady_clock_takes_little_room_and_one_that_drifts_is_kept_exactly() {
        List<Estimate> kept = new ArrayList<>();
        Random random = new Random(1);
        for (int minute = 0; minute < 60 * 24 * 30; minute++) {
            int drifted = minute / 10;
            book.add(reading(minute * 60, 900 + drifted + random.nextInt(5), 10 + random.nextInt(20)))
                    .ifPresent(kept::add);
        }
        assertThat(kept.size()).isBetween(700, 1_500);
        ClockBook restored = new ClockBook();
        kept.forEach(restored::restore);
        for (int day = 0; day < 30; day++) {
            Instant then = START.plus(Duration.ofDays(day)).plusSeconds(7_777);
            long truly = 900 + (day * 1_440 + 129) / 10;
            assertThat(restored.ahead(SYSTEM, then).toMillis()).isBetween(truly - 25, truly + 25);
        }
    }

    @Test
    void a_better_estimate_soon_after_takes_the_place_of_what_is_kept() {
        Estimate poor = book.add(reading(0, 200, 400)).orElseThrow();
        Estimate better = book.add(reading(20, 110, 4)).orElseThrow();
        assertThat(better.at()).isEqualTo(poor.at());
        assertThat(better.uncertainty()).isLessThan(Duration.ofMillis(10));
        assertThat(book.add(reading(40, 111, 4))).isEmpty();
        assertThat(ahead(-600)).isEqualTo(better.ahead());
        assertThat(book.add(reading(3_700, 111, 4))).isPresent();
    }

    @Test
    void a_time_told_in_passing_shows_that_a_clock_was_set() {
        Instant now = START.plusSeconds(5);
        assertThat(book.contradicts(SYSTEM, now, now)).isTrue();
        book.add(reading(0, 350, 10));
        assertThat(book.contradicts(SYSTEM, now, now.plusMillis(350))).isFalse();
        assertThat(book.contradicts(SYSTEM, now, now.minusMillis(500))).isFalse();
        assertThat(book.contradicts(SYSTEM, now, now.plusMillis(400))).isTrue();
        assertThat(book.contradicts(SYSTEM, now, now.minusMillis(1_300))).isTrue();
    }

    @Test
    void nothing_is_known_of_a_system_that_was_never_asked() {
        assertThat(book.estimate(SYSTEM, START)).isEqualTo(Optional.empty());
        assertThat(ahead(0)).isZero();
        assertThat(book.aheadWhenItShowed(SYSTEM, START)).isZero();
        assertThat(book.newest()).isEmpty();
        book.restore(new Estimate(SYSTEM, START, Duration.ofMillis(7), Duration.ofMillis(1)));
        assertThat(ahead(99_999)).isEqualTo(Duration.ofMillis(7));
        assertThat(book.newest()).isEmpty();
    }
}
