package org.custodia.core.alarm;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.core.alarm.Happening.at;

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
import org.custodia.core.site.SystemId;

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
}
