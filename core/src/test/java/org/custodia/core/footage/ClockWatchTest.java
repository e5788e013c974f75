package org.custodia.core.footage;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Optional;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

class ClockWatchTest {
    private static final Instant NOW = Instant.parse("2026-11-24T14:00:00Z");
    private static final SystemId TIDEWATER = new SystemId("tidewater");

    private final MemoryLog log = new MemoryLog();
    private Optional<Duration> limit = Optional.of(Duration.ofSeconds(2));
    private ClockWatch watch = watch();

    private ClockWatch watch() {
        return new ClockWatch(log, log, s -> limit, Clock.fixed(NOW, ZoneOffset.UTC));
    }

    private List<String> after(long aheadMillis, long uncertaintyMillis) {
        watch.measured(new ClockBook.Estimate(
                TIDEWATER, NOW, Duration.ofMillis(aheadMillis), Duration.ofMillis(uncertaintyMillis)));
        return log.events.stream().map(e -> e.kind().id()).toList();
    }

    @Test
    void one_that_is_off_is_told_of_once_and_again_when_it_is_right() {
        assertThat(after(1_900, 10)).isEmpty();
        assertThat(after(-2_500, 10)).containsExactly("link.clock-off");
        assertThat(after(-2_600, 10)).hasSize(1);
        // At the edge it is neither.
        assertThat(after(-1_900, 10)).hasSize(1);
        assertThat(after(-2_100, 10)).hasSize(1);
        assertThat(after(500, 10)).containsExactly("link.clock-off", "link.clock-back");
        assertThat(log.events.get(0).detail("ahead-millis")).contains("-2500");
        assertThat(log.events.get(0).detail("allowed-millis")).contains("2000");
    }

    @Test
    void what_is_not_sure_is_not_told() {
        assertThat(after(2_500, 800)).isEmpty();
        assertThat(after(2_900, 800)).hasSize(1);
        assertThat(after(1_000, 800)).hasSize(1);
    }

    @Test
    void after_a_restart_it_is_not_told_anew() {
        after(5_000, 1);
        watch = watch();
        assertThat(after(5_000, 1)).hasSize(1);
        assertThat(after(0, 1)).hasSize(2);
        watch = watch();
        assertThat(after(0, 1)).hasSize(2);
    }

    @Test
    void what_another_says_of_it_is_not_believed_and_another_limit_holds_at_once() {
        log.store(Event.of(new EventKey(TIDEWATER, 1, 1), Kinds.CLOCK_OFF, NOW)
                .detail("system", "tidewater")
                .build());
        assertThat(after(5_000, 1)).hasSize(2);
        limit = Optional.of(Duration.ofSeconds(10));
        assertThat(after(5_000, 1)).hasSize(3);
        limit = Optional.empty();
        assertThat(after(50_000, 1)).hasSize(3);
    }

    @Test
    void what_could_not_be_written_is_told_again() {
        log.full = true;
        after(5_000, 1);
        log.full = false;
        assertThat(after(5_000, 1)).containsExactly("link.clock-off");
    }
}
