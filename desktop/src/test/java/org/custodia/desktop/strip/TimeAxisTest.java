package org.custodia.desktop.strip;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import net.jqwik.api.Arbitraries;
import net.jqwik.api.Arbitrary;
import net.jqwik.api.Combinators;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.Provide;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class TimeAxisTest {
    private static final ZoneId LONDON = ZoneId.of("Europe/London");
    private static final Instant END = Instant.parse("2026-11-24T14:30:07Z");

    @Provide
    Arbitrary<TimeAxis> axes() {
        return Combinators.combine(
                        Arbitraries.longs().between(0, 4_000_000_000L),
                        Arbitraries.of(TimeAxis.SPANS),
                        Arbitraries.doubles().between(150, 4_000))
                .as((s, span, width) -> new TimeAxis(Instant.ofEpochSecond(s), span, width));
    }

    @Property
    void a_place_and_its_instant_belong_to_each_other(@ForAll("axes") TimeAxis axis) {
        for (double share : new double[] {0, 0.1, 0.5, 0.77, 1}) {
            double x = axis.width() * share;
            assertThat(axis.x(axis.at(x))).isCloseTo(x, org.assertj.core.data.Offset.offset(0.01));
        }
        assertThat(axis.x(axis.end())).isEqualTo(axis.width());
        assertThat(axis.x(axis.start())).isCloseTo(0, org.assertj.core.data.Offset.offset(1e-6));
    }

    @Property
    void lines_stand_at_round_times_inside_the_axis_with_room_for_their_letters(@ForAll("axes") TimeAxis axis) {
        List<TimeAxis.Line> lines = axis.lines(LONDON);
        for (int i = 0; i < lines.size(); i++) {
            TimeAxis.Line line = lines.get(i);
            assertThat(line.at()).isBetween(axis.start(), axis.end());
            assertThat(line.at().atZone(LONDON).getSecond() % 15).isZero();
            assertThat(line.x()).isCloseTo(axis.x(line.at()), org.assertj.core.data.Offset.offset(1e-6));
            if (i > 0) {
                assertThat(line.x() - lines.get(i - 1).x()).isGreaterThan(90);
            }
        }
    }

    @ParameterizedTest
    @CsvSource({"2, 540, 14:28:30", "10, 540, 14:22", "60, 540, 13:45", "480, 540, 08:00"})
    void lines_are_lettered_in_the_zones_own_time(int minutes, double width, String first) {
        TimeAxis axis = new TimeAxis(END, Duration.ofMinutes(minutes), width);
        assertThat(axis.lines(LONDON).get(0).label()).isEqualTo(first);
    }

    @Test
    void the_hour_that_comes_twice_is_lettered_twice() {
        // Summer time ended at 01:00 UTC on the 25th of October 2026.
        TimeAxis axis = new TimeAxis(Instant.parse("2026-10-25T03:00:00Z"), Duration.ofHours(4), 900);
        List<String> labels =
                axis.lines(LONDON).stream().map(TimeAxis.Line::label).toList();
        assertThat(labels.stream().filter("01:00"::equals)).hasSize(2);
    }

    @Test
    void spans_are_said_in_words() {
        assertThat(TimeAxis.SPANS.stream().map(TimeAxis::words))
                .containsExactly("2 min", "5 min", "10 min", "20 min", "1 h", "2 h", "4 h", "8 h");
    }
}
