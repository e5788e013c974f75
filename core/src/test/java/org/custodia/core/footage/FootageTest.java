package org.custodia.core.footage;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

class FootageTest {
    private static final Instant NOW = Instant.parse("2026-11-24T14:20:00Z");
    private static final SystemId RECORDER = new SystemId("ferry");

    @Test
    void footage_has_a_life() {
        Footage f =
                new Footage(NOW.minus(Duration.ofDays(21)), Duration.ofSeconds(40), Optional.of(NOW.minusSeconds(300)));
        assertThat(f.at(NOW.plusSeconds(1), NOW)).isInstanceOf(Footage.At.Future.class);
        assertThat(f.at(NOW.minus(Duration.ofDays(22)), NOW)).isInstanceOf(Footage.At.Overwritten.class);
        assertThat(f.at(NOW.minusSeconds(200), NOW))
                .isEqualTo(new Footage.At.NoPicture(NOW.minusSeconds(300), Optional.empty()));
        assertThat(f.at(NOW.minusSeconds(400), NOW)).isInstanceOf(Footage.At.Ready.class);
        Footage whole = new Footage(f.keptFrom(), f.readyAfter(), Optional.empty());
        assertThat(whole.at(NOW.minusSeconds(10), NOW)).isEqualTo(new Footage.At.Pending(NOW.plusSeconds(30)));
    }

    @Test
    void a_clock_is_measured_by_half_the_round_trip_and_the_nearest_measurement_counts() {
        ClockBook book = new ClockBook();
        assertThat(book.ahead(RECORDER, NOW)).isZero();
        ClockBook.Reading early = ClockBook.measure(RECORDER, NOW, NOW.plusMillis(1_850), NOW.plusMillis(100));
        assertThat(early.ahead()).isEqualTo(Duration.ofMillis(1_800));
        book.add(early);
        book.add(ClockBook.measure(RECORDER, NOW.plusSeconds(100), NOW.plusSeconds(102), NOW.plusSeconds(100)));
        assertThat(book.ahead(RECORDER, NOW.minusSeconds(9999))).isEqualTo(Duration.ofMillis(1_800));
        assertThat(book.ahead(RECORDER, NOW.plusSeconds(40))).isEqualTo(Duration.ofMillis(1_800));
        assertThat(book.ahead(RECORDER, NOW.plusSeconds(60))).isEqualTo(Duration.ofSeconds(2));
        book.add(ClockBook.measure(RECORDER, NOW.plusSeconds(110), NOW.plusSeconds(115), NOW.plusSeconds(118)));
        assertThat(book.ahead(RECORDER, NOW.plusSeconds(114)))
                .as("a slow answer counts less than a quick one beside it")
                .isEqualTo(Duration.ofSeconds(2));
        book.add(ClockBook.measure(RECORDER, NOW.plusSeconds(130), NOW.plusSeconds(135), NOW.plusMillis(130_020)));
        assertThat(book.ahead(RECORDER, NOW.plusSeconds(131)))
                .as("a clock that was set counts at once, however quick the answers before were")
                .isEqualTo(Duration.ofMillis(4_990));
        book.add(ClockBook.measure(RECORDER, NOW.plusSeconds(200), NOW.plusSeconds(202), NOW.plusSeconds(200)));
        assertThat(book.newest().get(RECORDER).ahead()).isEqualTo(Duration.ofSeconds(2));
    }

    @Test
    void what_was_not_recorded_says_from_when_to_when_and_what_is_kept_when_it_will_be_gone() {
        Footage.Missing gap = new Footage.Missing(NOW.minusSeconds(5_000), NOW.minusSeconds(4_000));
        Footage.Missing earlier = new Footage.Missing(NOW.minusSeconds(9_000), NOW.minusSeconds(8_000));
        Footage rolling = new Footage(
                NOW.minus(Duration.ofDays(2)), Duration.ofSeconds(40), Optional.empty(), List.of(gap, earlier), true);
        assertThat(rolling.missing()).containsExactly(earlier, gap);
        assertThat(rolling.at(NOW.minusSeconds(4_500), NOW))
                .isEqualTo(new Footage.At.NoPicture(gap.from(), Optional.of(gap.to())));
        assertThat(rolling.at(gap.to(), NOW)).isEqualTo(new Footage.At.Ready());
        assertThat(rolling.at(gap.from().minusMillis(1), NOW)).isEqualTo(new Footage.At.Ready());
        assertThat(rolling.goneAt(NOW.minusSeconds(60), NOW))
                .contains(NOW.minusSeconds(60).plus(Duration.ofDays(2)));
        assertThat(rolling.goneAt(NOW.minus(Duration.ofDays(3)), NOW)).isEmpty();
        assertThat(new Footage(rolling.keptFrom(), Duration.ZERO, Optional.empty()).goneAt(NOW, NOW))
                .isEmpty();
    }
}
