package org.custodia.core.alarm;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.core.alarm.Happening.at;

import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
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
                        true,
                        Optional.empty(),
                        Topic.of("held", new Subject(Subject.Sort.DOOR, "tidewater/vault")),
                        Set.of()),
                Alarm.Condition.ON,
                at(raised));
        return seenAfter
                .map(s -> alarm.acknowledged(new Alarm.By("iv", "I. Vantongeren", at(raised + s)), 1))
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
        assertThat(none).isEqualTo(Figures.NONE);
        // A shorter span than ten minutes does not make a load of one alarm.
        assertThat(Figures.of(all, at(0), at(1)).perTen()).isEqualTo(1);
    }

    @Test
    void nine_in_ten_what_it_turned_out_to_be_and_where_there_is_most_are_told() {
        List<Alarm> all = new ArrayList<>();
        for (int i = 1; i <= 10; i++) {
            Alarm alarm = alarm(i * 700, Optional.of(i));
            for (int again = 0; i == 3 && again < 4; again++) {
                alarm = alarm.again(
                        alarm.origin().cause(),
                        alarm.origin().subject(),
                        Optional.empty(),
                        at(i * 700 + 1),
                        at(i * 700 + 1),
                        at(i * 700 + 1),
                        Alarm.Condition.ON);
            }
            all.add(
                    i % 2 == 0
                            ? alarm.finished(new Alarm.Finished(
                                    new Alarm.By("iv", "I. Vantongeren", at(i * 700 + 60 * i)),
                                    i == 2 ? Outcome.GENUINE : Outcome.HARMLESS,
                                    ""))
                            : alarm);
        }
        Figures figures = Figures.of(all, at(0), at(86_400));
        assertThat(figures.seen()).contains(Duration.ofSeconds(5));
        assertThat(figures.seenMost()).contains(Duration.ofSeconds(9));
        assertThat(figures.finished()).contains(Duration.ofSeconds(360));
        assertThat(figures.finishedMost()).contains(Duration.ofSeconds(600));
        assertThat(figures.outcomes()).isEqualTo(Map.of(Outcome.GENUINE, 1, Outcome.HARMLESS, 4));
        Subject vault = new Subject(Subject.Sort.DOOR, "tidewater/vault");
        assertThat(figures.places()).isEqualTo(Map.of(vault, 10));
        assertThat(figures.chattering()).isEqualTo(Map.of(vault, 5));
        assertThat(figures.floods()).isEmpty();
    }

    @Test
    void a_flood_begins_with_more_than_ten_and_ends_with_fewer_than_five_in_ten_minutes() {
        List<Alarm> all = new ArrayList<>();
        for (int i = 0; i < 10; i++) {
            all.add(alarm(i * 50, Optional.empty()));
        }
        assertThat(Figures.of(all, at(0), at(9_000)).floods()).isEmpty();
        for (int i = 10; i < 20; i++) {
            all.add(alarm(i * 50, Optional.empty()));
        }
        // The fifth within ten minutes.
        all.add(alarm(1_350, Optional.empty()));
        all.add(alarm(2_500, Optional.empty()));
        assertThat(Figures.of(all, at(0), at(9_000)).floods()).containsExactly(new Figures.Flood(at(0), at(1_350), 21));
        // One that goes on at the end is told, too.
        assertThat(Figures.of(all, at(0), at(1_000)).floods()).containsExactly(new Figures.Flood(at(0), at(950), 20));
    }
}
