package org.custodia.core.alarm;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.core.alarm.Happening.at;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Priority;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

/** No order of facts leaves an alarm in a state that cannot be, and the same facts leave the same. */
class AlarmBookTest {
    private static final List<EventKind> FACTS = AlarmBook.FACTS.stream()
            .sorted(java.util.Comparator.comparing(EventKind::id))
            .toList();

    private static Event fact(Random random, long position) {
        EventKind kind = FACTS.get(random.nextInt(FACTS.size()));
        Event.Builder b = Event.of(new EventKey(SystemId.CUSTODIA, 1, position), kind, at(position * 300))
                .position(position)
                .operator("o" + random.nextInt(3));
        if (kind.equals(Kinds.ALARM_RAISED)) {
            b.detail("rule", "r" + random.nextInt(2))
                    .detail("rule-version", "1")
                    .detail("name", "R")
                    .detail("priority", "CAUTION")
                    .detail("about", "DOOR tidewater/d" + random.nextInt(2))
                    .detail("condition", random.nextBoolean() ? "ON" : "MOMENT");
        } else {
            // Of one that was raised, is to come, or never was.
            b.detail("alarm", new EventKey(SystemId.CUSTODIA, 1, 1 + random.nextInt(40)).text());
        }
        String[] odd = {"", "not a time", "-1", at(position).toString()};
        b.detail("of", "tidewater:1:" + random.nextInt(20))
                .detail(
                        "since",
                        random.nextInt(9) == 0
                                ? odd[random.nextInt(3)]
                                : at(position * 300).toString())
                .detail(
                        "until",
                        random.nextInt(4) == 0
                                ? odd[random.nextInt(3)]
                                : at(position * 300 + 1_500).toString())
                .detail("outcome", random.nextBoolean() ? "harmless" : "something else");
        if (random.nextInt(3) == 0) {
            b.detail("unwatched", "yes");
        }
        if (random.nextInt(5) > 0) {
            b.detail("owner", "o" + random.nextInt(3));
        }
        return b.build();
    }

    @Property(tries = 300)
    void no_order_of_facts_leaves_what_cannot_be(@ForAll long seed) {
        Random random = new Random(seed);
        List<Event> facts = new ArrayList<>();
        AlarmBook book = new AlarmBook();
        Map<EventKey, Alarm> finished = new HashMap<>();
        Map<EventKey, Alarm> last = new HashMap<>();
        for (long i = 1; i <= 60; i++) {
            Event fact = fact(random, i);
            facts.add(fact);
            book.take(fact).ifPresent(a -> {
                assertThat(finished).doesNotContainKey(a.id());
                if (!a.open()) {
                    finished.put(a.id(), a);
                }
                for (Instant now : List.of(at(0), at(30), at(1_000))) {
                    assertThat(a.state(now) == Alarm.State.FINISHED).isEqualTo(!a.open());
                }
                assertThat(a.owner().isEmpty()
                                || a.acknowledged().isPresent()
                                || a.shelved().isEmpty())
                        .isTrue();
                assertThat(a.times()).isPositive();
                Alarm before = last.put(a.id(), a);
                if (before != null
                        && before.acknowledged().isEmpty()
                        && fact.kind().equals(Kinds.ALARM_AGAIN)) {
                    assertThat(a.call())
                            .as("what nobody has seen calls since it did")
                            .isEqualTo(before.call());
                }
                if (before != null && a.condition() != before.condition()) {
                    assertThat(a.condition())
                            .isIn(
                                    before.condition() == Alarm.Condition.ON
                                            ? Set.of(Alarm.Condition.ENDED, Alarm.Condition.UNWATCHED)
                                            : Set.of(Alarm.Condition.ON));
                    assertThat(before.condition()).isNotEqualTo(Alarm.Condition.MOMENT);
                }
            });
        }
        AlarmBook again = new AlarmBook();
        facts.forEach(again::take);
        assertThat(again.open()).isEqualTo(book.open());
        assertThat(again.finished()).isEqualTo(book.finished());
        assertThat(book.finished())
                .allSatisfy(a -> assertThat(finished.get(a.id())).isEqualTo(a));
        // All that were raised are either open or finished, and none is both.
        Set<EventKey> open =
                new java.util.HashSet<>(book.open().stream().map(Alarm::id).toList());
        assertThat(open).noneMatch(finished::containsKey);
    }

    private static Event raised(long position, String cause) {
        return about(Kinds.ALARM_RAISED, position, cause)
                .detail("rule", "r")
                .detail("rule-version", "1")
                .detail("name", "R")
                .detail("priority", "CAUTION")
                .detail("about", "DOOR tidewater/gate")
                .detail("condition", "ON")
                .build();
    }

    private static Event.Builder about(EventKind kind, long position, String cause) {
        return Event.of(new EventKey(SystemId.CUSTODIA, 1, position), kind, at(position * 300))
                .position(position)
                .operator("o1")
                .detail("of", cause)
                .detail("since", at(position * 300).toString());
    }

    private static Event fact(EventKind kind, long position, long alarm, String cause) {
        return about(kind, position, cause)
                .detail("alarm", new EventKey(SystemId.CUSTODIA, 1, alarm).text())
                .build();
    }

    /** It was on its way to the log when the alarm was finished. */
    @Test
    void what_was_to_join_a_finished_alarm_raises_one_unless_there_is_one_again() {
        AlarmBook book = new AlarmBook();
        book.take(raised(1, "tidewater:1:1"));
        book.take(fact(Kinds.ALARM_FINISHED, 2, 1, "tidewater:1:1"));
        book.take(fact(Kinds.ALARM_AGAIN, 3, 1, "tidewater:1:2"));
        assertThat(book.unseen()).singleElement().satisfies(u -> assertThat(
                        u.occurrence().cause())
                .isEqualTo(new EventKey(new SystemId("tidewater"), 1, 2)));
        book.take(raised(4, "tidewater:1:2"));
        assertThat(book.unseen()).isEmpty();
        book.take(fact(Kinds.ALARM_AGAIN, 5, 1, "tidewater:1:3"));
        assertThat(book.unseen()).as("one is open and calls").isEmpty();
        book.take(fact(Kinds.ALARM_FINISHED, 6, 4, "tidewater:1:2"));
        book.take(fact(Kinds.ALARM_AGAIN, 7, 1, "tidewater:1:2"));
        assertThat(book.unseen()).as("it was found and seen").isEmpty();
    }

    @Test
    void one_event_is_counted_once_however_often_it_is_said() {
        AlarmBook book = new AlarmBook();
        book.take(raised(1, "tidewater:1:1"));
        book.take(fact(Kinds.ALARM_AGAIN, 2, 1, "tidewater:1:2"));
        book.take(fact(Kinds.ALARM_AGAIN, 3, 1, "tidewater:1:2"));
        book.take(fact(Kinds.ALARM_AGAIN, 4, 1, "tidewater:1:1"));
        assertThat(book.open()).singleElement().extracting(Alarm::times).isEqualTo(2);
    }

    @Test
    void a_step_is_reached_at_its_time_and_not_before() {
        AlarmBook book = new AlarmBook();
        book.take(raised(1, "tidewater:1:1"));
        Alarm alarm = book.open().get(0);
        for (int step = 1; step <= 3; step++) {
            Instant due = alarm.call().since().plus(Duration.ofMinutes(10L * step));
            assertThat(Escalation.USUAL.reached(alarm, due.minusNanos(1))).isEqualTo(step - 1);
            assertThat(Escalation.USUAL.reached(alarm, due)).isEqualTo(step);
        }
    }

    @Test
    void others_are_announced_only_where_a_step_tells_somebody_who_was_not_told() {
        Escalation escalation = new Escalation(
                1,
                Map.of(
                        Priority.CAUTION,
                        List.of(
                                new Escalation.Step(Duration.ofMinutes(1), List.of("duty")),
                                new Escalation.Step(Duration.ofMinutes(2), List.of("duty")),
                                new Escalation.Step(Duration.ofMinutes(3), List.of("duty", "manager")))));
        AlarmBook book = new AlarmBook();
        book.take(raised(1, "tidewater:1:1"));
        List<Boolean> tells = new ArrayList<>();
        for (int step = 1; step <= 4; step++) {
            tells.add(escalation.nextTells(book.open().get(0)));
            book.take(about(Kinds.ALARM_ESCALATED, 1 + step, "tidewater:1:1")
                    .detail("alarm", "custodia:1:1")
                    .detail("step", String.valueOf(step))
                    .build());
        }
        assertThat(tells).containsExactly(true, false, true, false);
    }
}
