package org.custodia.core.evidence;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.footage.ClockBook.Estimate;
import org.custodia.core.setup.PairDesk.ClockLag;
import org.custodia.core.setup.PairDesk.ClockLag.Agreement;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

class ClockMenderTest {
    private static final Instant START = Instant.parse("2026-11-24T14:00:00Z");
    private static final SystemId RECORDER = new SystemId("quayside");
    private static final DoorId DOOR = new DoorId("tidewater/vault");

    private final ClockBook clocks = new ClockBook();
    private final List<Estimate> kept = new ArrayList<>();
    private final ClockMender mender = new ClockMender(clocks, kept::add);

    private static PictureLag.Lag lag(double low, double middle, double high) {
        return new PictureLag.Lag(seconds(middle), seconds(low), seconds(high), List.of(low, middle, high));
    }

    private static Duration seconds(double value) {
        return Duration.ofMillis(Math.round(value * 1_000));
    }

    private static EvidenceSearch.Measured measured(String camera, Instant to, PictureLag.Lag lag) {
        return new EvidenceSearch.Measured(
                DOOR, new CameraId("quayside/" + camera), Optional.of(lag), to.minus(Duration.ofDays(1)), to, START);
    }

    private void measuredSince(Instant first) {
        clocks.add(new ClockBook.Reading(RECORDER, first, Duration.ofSeconds(1), Duration.ofMillis(10)));
    }

    private Duration ahead(Instant at) {
        return clocks.ahead(RECORDER, at);
    }

    @Test
    void what_two_cameras_say_corrects_the_time_before_the_first_measurement() {
        measuredSince(START);
        assertThat(mender.unmeasured(RECORDER, START.plusSeconds(900))).contains(START);
        Instant then = START.minus(Duration.ofHours(12));
        assertThat(clocks.estimate(RECORDER, then).orElseThrow().uncertainty()).isGreaterThan(Duration.ofSeconds(8));
        mender.take(RECORDER, measured("outside", START, lag(-6.1, -6, -5.9)));
        assertThat(kept).as("a single camera may be late by itself").isEmpty();
        mender.take(RECORDER, measured("inside", START, lag(-6.1, -6, -5.9)));
        assertThat(kept).hasSize(1);
        assertThat(ahead(then)).isEqualTo(Duration.ofSeconds(-5));
        assertThat(clocks.estimate(RECORDER, then).orElseThrow().uncertainty()).isLessThan(Duration.ofMillis(300));
        assertThat(ahead(START)).isEqualTo(Duration.ofSeconds(1));
    }

    @Test
    void a_clock_that_was_set_in_between_is_believed_when_two_cameras_say_the_same() {
        measuredSince(START);
        Instant then = START.minus(Duration.ofHours(12));
        mender.take(RECORDER, measured("outside", START, lag(59.9, 60, 60.1)));
        assertThat(kept).as("one camera may be late by itself").isEmpty();
        mender.take(RECORDER, measured("outside", START, lag(59.9, 60, 60.1)));
        assertThat(kept).as("and says nothing more by saying it twice").isEmpty();
        mender.take(RECORDER, measured("inside", START, lag(20, 20.1, 20.2)));
        assertThat(kept).as("two that say something else say nothing").isEmpty();
        mender.take(RECORDER, measured("gate", START, lag(59.8, 59.9, 60.0)));
        assertThat(kept).hasSize(1);
        assertThat(ahead(then)).isBetween(Duration.ofSeconds(60), Duration.ofSeconds(62));
    }

    @Test
    void what_was_measured_is_not_mended_nor_what_is_long_ago_nor_what_was_never_measured() {
        mender.take(RECORDER, measured("outside", START, lag(-0.1, 0, 0.1)));
        assertThat(mender.unmeasured(RECORDER, START)).isEmpty();
        measuredSince(START);
        mender.take(RECORDER, measured("outside", START.plus(Duration.ofDays(1)), lag(-0.1, 0, 0.1)));
        assertThat(kept).isEmpty();
        assertThat(mender.unmeasured(RECORDER, START.plus(Duration.ofDays(30)))).isEmpty();
    }

    @Test
    void clocks_agree_only_where_that_is_proven() {
        assertThat(agreement(-0.1, 0.05, 0.2)).isEqualTo(Agreement.AGREES);
        assertThat(agreement(0.16, 2.11, 2.16)).isEqualTo(Agreement.UNDECIDED);
        assertThat(agreement(-2, 0, 0.1)).isEqualTo(Agreement.UNDECIDED);
        assertThat(agreement(1.9, 2.11, 2.16)).isEqualTo(Agreement.DISAGREES);
        assertThat(agreement(-1.9, -1, -0.401)).isEqualTo(Agreement.DISAGREES);
        assertThat(agreement(-0.4, 0, 0.4)).isEqualTo(Agreement.AGREES);
    }

    private static Agreement agreement(double low, double middle, double high) {
        return new ClockLag(
                        new CameraId("quayside/outside"),
                        RECORDER,
                        new SystemId("tidewater"),
                        lag(low, middle, high),
                        1,
                        START)
                .agreement();
    }
}
