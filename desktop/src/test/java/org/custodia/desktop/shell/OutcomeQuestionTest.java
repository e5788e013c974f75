package org.custodia.desktop.shell;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.Set;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

class OutcomeQuestionTest {
    private static final ZoneId LONDON = ZoneId.of("Europe/London");
    private static final Instant NOW = Instant.parse("2026-11-24T14:30:00Z");
    private static final PersonId LUCIA = new PersonId("tidewater/p7");
    private static final DoorId BAY = new DoorId("tidewater/bay");

    private static OutcomeQuestion of(String words) {
        return OutcomeQuestion.of(words, NOW, LONDON).orElseThrow();
    }

    private static Event event(EventKind kind, Instant at, PersonId person, DoorId door) {
        return Event.of(new EventKey(new SystemId("tidewater"), 1, 1), kind, at)
                .person(person)
                .door(door)
                .build();
    }

    @Test
    void outcomes_days_and_names_stand_in_any_order() {
        for (String words : new String[] {"refused Lucia today", "today lucia REFUSED", "lucia  refus today "}) {
            OutcomeQuestion question = of(words);
            assertThat(question.kinds()).containsExactly(Kinds.REFUSED);
            assertThat(question.day()).contains(LocalDate.of(2026, 11, 24));
            assertThat(question.rest()).isEqualTo("lucia");
        }
        assertThat(of("forced yesterday").day()).contains(LocalDate.of(2026, 11, 23));
        assertThat(OutcomeQuestion.of("Lucia today", NOW, LONDON)).isEmpty();
        assertThat(OutcomeQuestion.of("ref", NOW, LONDON)).isEmpty();
        assertThat(OutcomeQuestion.of("", NOW, LONDON)).isEmpty();
    }

    @Test
    void the_question_asks_for_whoever_and_wherever_is_called_so() {
        EventQuery query = of("refused lucia today")
                .query(LONDON, 50, w -> w.equals("lucia") ? Set.of(LUCIA) : Set.of(), w -> Set.of())
                .orElseThrow();
        assertThat(query.test(event(Kinds.REFUSED, NOW, LUCIA, BAY))).isTrue();
        assertThat(query.test(event(Kinds.GRANTED, NOW, LUCIA, BAY))).isFalse();
        assertThat(query.test(event(Kinds.REFUSED, NOW.minusSeconds(86_400), LUCIA, BAY)))
                .isFalse();
        assertThat(query.test(event(Kinds.REFUSED, NOW, new PersonId("tidewater/p8"), BAY)))
                .isFalse();
        EventQuery there = of("held bay")
                .query(LONDON, 50, w -> Set.of(), w -> Set.of(BAY))
                .orElseThrow();
        assertThat(there.test(event(Kinds.HELD, NOW, LUCIA, BAY))).isTrue();
        assertThat(there.limit()).isEqualTo(50);
        assertThat(of("held nowhere").query(LONDON, 50, w -> Set.of(), w -> Set.of()))
                .isEmpty();
        assertThat(of("held").query(LONDON, 50, w -> Set.of(), w -> Set.of())).isPresent();
    }
}
