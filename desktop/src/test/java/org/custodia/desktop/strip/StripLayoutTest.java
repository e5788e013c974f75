package org.custodia.desktop.strip;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.IntRange;
import net.jqwik.api.constraints.Size;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Priority;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

class StripLayoutTest {
    private static final Instant END = Instant.parse("2026-11-24T14:30:00Z");
    private static final TimeAxis AXIS = new TimeAxis(END, Duration.ofMinutes(10), 540);

    private static StripItem item(int number, int secondsAgo, boolean refused) {
        Event event = Event.of(
                        new EventKey(new SystemId("a"), 1, number),
                        refused ? Kinds.REFUSED : Kinds.GRANTED,
                        END.minusSeconds(secondsAgo))
                .build();
        return new StripItem(
                event, "H. Quill", refused ? "refused" : "in", refused ? Priority.NOTE : Priority.NONE, null, true);
    }

    private static List<StripItem> items(List<Integer> ages) {
        List<Integer> sorted = new ArrayList<>(ages);
        sorted.sort(java.util.Comparator.reverseOrder());
        List<StripItem> items = new ArrayList<>();
        for (int i = 0; i < sorted.size(); i++) {
            items.add(item(i + 1, sorted.get(i), sorted.get(i) % 5 == 0));
        }
        return items;
    }

    @Test
    void a_lone_still_stands_beside_its_tick() {
        List<StripLayout.Card> cards = StripLayout.place(List.of(item(1, 300, false)), AXIS);
        assertThat(cards).hasSize(1);
        assertThat(cards.get(0).tickX()).isEqualTo(270);
        assertThat(Math.abs(cards.get(0).x() - 270)).isLessThan(30);
    }

    @Test
    void many_at_once_become_a_counted_stack_that_shows_a_refusal() {
        List<StripItem> items = new ArrayList<>();
        for (int i = 0; i < 23; i++) {
            items.add(item(i + 1, 120 - i, i == 7));
        }
        List<StripLayout.Card> cards = StripLayout.place(items, AXIS);
        assertThat(cards.stream().mapToInt(c -> c.items().size()).sum()).isEqualTo(23);
        assertThat(cards.size()).isLessThanOrEqualTo(3);
        assertThat(cards).anySatisfy(c -> {
            assertThat(c.worst()).isEqualTo(Priority.NOTE);
            assertThat(c.face().priority()).isEqualTo(Priority.NOTE);
        });
    }

    @Property
    void nothing_is_lost_nothing_overlaps_and_nothing_with_a_priority_is_hidden(
            @ForAll @Size(max = 60) List<@IntRange(min = 0, max = 599) Integer> ages) {
        List<StripItem> items = items(ages);
        List<StripLayout.Card> cards = StripLayout.place(items, AXIS);
        assertThat(cards.stream().mapToInt(c -> c.items().size()).sum()).isEqualTo(items.size());
        for (int i = 0; i < cards.size(); i++) {
            StripLayout.Card card = cards.get(i);
            assertThat(card.x()).isBetween(0.0, AXIS.width());
            if (i + 1 < cards.size()) {
                assertThat(card.x() + StripLayout.CARD)
                        .isLessThanOrEqualTo(cards.get(i + 1).x() + 0.01);
            }
            boolean anyRefused = card.items().stream().anyMatch(x -> x.priority() == Priority.NOTE);
            assertThat(card.worst() == Priority.NOTE).isEqualTo(anyRefused);
        }
    }

    @Test
    void the_axis_letters_round_times_and_finds_instants_again() {
        List<TimeAxis.Line> lines = AXIS.lines(ZoneId.of("Europe/London"));
        assertThat(lines).extracting(TimeAxis.Line::label).contains("14:22", "14:24", "14:28");
        assertThat(AXIS.at(AXIS.x(END.minusSeconds(77)))).isBetween(END.minusMillis(77_010), END.minusMillis(76_990));
        for (Duration span : TimeAxis.SPANS) {
            assertThat(new TimeAxis(END, span, 540)
                            .lines(ZoneId.of("Europe/London"))
                            .size())
                    .isBetween(2, 8);
        }
        assertThat(TimeAxis.words(Duration.ofHours(2))).isEqualTo("2 h");
    }
}
