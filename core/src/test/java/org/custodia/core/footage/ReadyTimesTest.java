package org.custodia.core.footage;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.util.Optional;
import org.custodia.core.site.CameraId;
import org.junit.jupiter.api.Test;

/** How long footage takes to be ready, from what was had and refused. */
class ReadyTimesTest {
    private static final CameraId CAMERA = new CameraId("quayside/a");
    private final ReadyTimes times = new ReadyTimes();

    private void asked(long millis, boolean had) {
        times.asked(CAMERA, Duration.ofMillis(millis), had);
    }

    @Test
    void the_youngest_that_was_had_and_the_oldest_that_was_refused_are_told() {
        assertThat(times.of(CAMERA)).isEmpty();
        asked(9_000, true);
        assertThat(times.of(CAMERA).orElseThrow().refused()).isEmpty();
        asked(1_200, false);
        asked(3_400, false);
        asked(4_100, true);
        ReadyTimes.Seen seen = times.of(CAMERA).orElseThrow();
        assertThat(seen.had()).contains(Duration.ofMillis(4_100));
        assertThat(seen.refused()).contains(Duration.ofMillis(3_400));
        assertThat(seen.times()).isEqualTo(4);
        assertThat(times.of(new CameraId("quayside/b"))).isEmpty();
    }

    @Test
    void what_is_old_or_to_come_says_nothing_and_what_was_long_ago_is_forgotten() {
        asked(400_000, true);
        asked(-5, true);
        assertThat(times.of(CAMERA)).isEmpty();
        asked(100, false);
        for (int i = 0; i < 1_000; i++) {
            asked(2_000 + i % 7, true);
        }
        ReadyTimes.Seen seen = times.of(CAMERA).orElseThrow();
        assertThat(seen.refused()).isEqualTo(Optional.empty());
        assertThat(seen.had()).contains(Duration.ofMillis(2_000));
        assertThat(seen.times()).isLessThan(100);
    }
}
