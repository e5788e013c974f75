package org.custodia.core.alarm;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.core.alarm.Happening.at;

import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Priority;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

/** How much operators were called. */
class FiguresTest {
    private static Alarm alarm(int raised, Optional<Integer> seenAfter) {
        Alarm alarm = Alarm.of(
                new Alarm.Origin(
                        new EventKey(SystemId.CUSTODIA, 1, raised + 1),
                        raised + 1,
                        "held",
                        1,
                        "Held open",
                        Priority.CAUTION,
                        new Subject(Subject.Sort.DOOR, "tidewater/vault"),
                        new EventKey(new SystemId("tidewater"), 1, raised + 1),
                        at(raised),
                        at(raised),
                        true,
                        true),
                Alarm.Condition.ON);
        return seenAfter
                .map(s -> alarm.acknowledged(new Alarm.By("iv", "I. Vantongeren", at(raised + s))))
                .orElse(alarm);
    }

    @Test
    void what_lies_in_the_span_counts_and_half_were_seen_within_the_median() {
        List<Alarm> all = new ArrayList<>(List.of(
                alarm(0, Optional.of(10)),
                alarm(100, Optional.of(30)),
                alarm(599, Optional.of(50)),
                alarm(600, Optional.empty()),
                alarm(3_599, Optional.of(-5)),
                alarm(3_600, Optional.of(1))));
        Figures hour = Figures.of(all, at(0), at(3_600));
        assertThat(hour.raised()).isEqualTo(5);
        assertThat(hour.seen()).contains(Duration.ofSeconds(10));
        assertThat(hour.worstTen()).isEqualTo(3);
        assertThat(hour.perTen()).isEqualTo(5 / 6.0);
        Figures none = Figures.of(all, at(10_000), at(20_000));
        assertThat(none).isEqualTo(new Figures(0, Optional.empty(), 0, 0));
        // A shorter span than ten minutes does not make a load of one alarm.
        assertThat(Figures.of(all, at(0), at(1)).perTen()).isEqualTo(1);
    }
}
