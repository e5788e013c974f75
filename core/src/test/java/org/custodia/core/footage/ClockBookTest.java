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
    void drift_that_was_measured_is_carried_back_and_what_is_said_of_it_is_honest() {
        long partsPerMillion = 139;
        for (int second = 0; second <= 1_800; second += 20) {
            book.add(reading(second, 4_000 + second * partsPerMillion / 1_000, 10));
        }
        long hours = 19;
        Estimate then =
                book.estimate(SYSTEM, START.minus(Duration.ofHours(hours))).orElseThrow();
        long truly = 4_000 - hours * 3_600 * partsPerMillion / 1_000;
        long off = Math.abs(then.ahead().toMillis() - truly);
        assertThat(off).isLessThan(1_500);
        assertThat(then.uncertainty().toMillis()).isBetween(off, 4_000L);
        Estimate between = book.estimate(SYSTEM, START.plusSeconds(911)).orElseThrow();
        assertThat(between.ahead().toMillis()).isBetween(4_120L, 4_133L);
        assertThat(between.uncertainty()).isLessThan(Duration.ofMillis(40));
    }

    @Test
    void the_drift_of_before_a_clock_was_set_says_nothing_of_after_it() {
        for (int second = 0; second <= 1_800; second += 20) {
            book.add(reading(second, second / 10, 2));
        }
        book.add(reading(1_900, 60_000, 2));
        Estimate later = book.estimate(SYSTEM, START.plusSeconds(1_900 + 3_600)).orElseThrow();
        assertThat(later.ahead()).isEqualTo(Duration.ofSeconds(60));
        assertThat(later.uncertainty()).isGreaterThan(Duration.ofMillis(700));
    }

    @Test
    void pictures_say_what_a_clock_was_while_nobody_measured_it_and_nothing_where_somebody_did() {
        book.add(reading(0, 1_000, 10));
        Instant yesterday = START.minus(Duration.ofDays(1));
        assertThat(book.seen(new SystemId("ferry"), yesterday, Duration.ofSeconds(3), Duration.ofMillis(90)))
                .isEmpty();
        assertThat(book.seen(SYSTEM, START.minusSeconds(1_800), Duration.ofSeconds(3), Duration.ofMillis(90)))
                .isEmpty();
        Estimate kept = book.seen(SYSTEM, yesterday, Duration.ofSeconds(3), Duration.ofMillis(90))
                .orElseThrow();
        assertThat(kept.ahead()).isEqualTo(Duration.ofSeconds(4));
        assertThat(ahead(-86_400)).isEqualTo(Duration.ofSeconds(4));
        assertThat(ahead(0)).isEqualTo(Duration.ofSeconds(1));
        assertThat(book.seen(SYSTEM, yesterday, Duration.ofSeconds(3), Duration.ofMillis(200)))
                .as("what is known better stays")
                .isEmpty();
        assertThat(book.firstMeasured(SYSTEM)).contains(yesterday);
    }

    @Test
    void a_clock_may_be_off_by_thousands_of_years() {
        Duration off = Duration.ofDays(365L * 7_000);
        for (int second = 0; second <= 300; second += 100) {
            book.add(new Reading(SYSTEM, START.plusSeconds(second), off, Duration.ofMillis(10)));
        }
        for (Instant at : List.of(Instant.EPOCH, START.plusSeconds(50), Instant.parse("9990-01-01T00:00:00Z"))) {
            Estimate then = book.estimate(SYSTEM, at).orElseThrow();
            assertThat(then.ahead().minus(off).abs()).isLessThanOrEqualTo(then.uncertainty());
        }
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
