package org.custodia.desktop.alarm;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.core.Patience.await;
import static org.custodia.desktop.desk.DeskInHand.onFx;

import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.Optional;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.alarm.Rule;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Priority;
import org.custodia.core.site.DoorId;
import org.custodia.desktop.desk.DeskInHand;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Which alarms come as cards: few, the worst first, and summed up where there are many. */
class AlarmCallsTest {
    @TempDir
    Path directory;

    private DeskInHand hand;
    private final AlarmCalls calls = new AlarmCalls();
    private int number;

    @BeforeEach
    void open() {
        hand = new DeskInHand(directory, Rule.shipped());
    }

    @AfterEach
    void close() {
        hand.close();
    }

    private void happens(EventKind kind, DoorId door) {
        hand.log.store(Event.of(
                        new EventKey(DeskInHand.SYSTEM, 1, 100 + ++number),
                        kind,
                        hand.now().plusMillis(number))
                .door(door)
                .build());
    }

    private List<Alarm> unseen(int count) {
        await().until(() -> onFx(() -> hand.desk.alarms().unseen().size() == count));
        return onFx(() -> hand.desk.alarms().unseen());
    }

    private AlarmCalls.Shown show(List<Alarm> unseen, int raised) {
        return calls.show(unseen, raised, AlarmCalls.MOST_CARDS, hand.now());
    }

    @Test
    void the_worst_come_first_what_can_wait_does_not_come_and_what_is_put_away_stays_away_until_it_calls_anew() {
        happens(Kinds.READER_OFF, DeskInHand.VAULT);
        assertThat(show(unseen(1), 1).cards()).isEmpty();
        happens(Kinds.HELD, DeskInHand.VAULT);
        happens(Kinds.DURESS, DeskInHand.STORE);
        happens(Kinds.FORCED, DeskInHand.VAULT);
        List<Alarm> four = unseen(4);
        AlarmCalls.Shown shown = show(four, 4);
        assertThat(shown.cards())
                .hasSize(AlarmCalls.MOST_CARDS)
                .allMatch(a -> a.origin().priority() == Priority.URGENT);
        shown.cards().forEach(calls::hide);
        assertThat(show(four, 4).cards())
                .singleElement()
                .satisfies(a -> assertThat(a.origin().rule()).isEqualTo("held"));
        // Nobody came: it goes on to others, and comes back here as well.
        hand.pass(Duration.ofMinutes(3));
        await().until(() -> onFx(() -> hand.desk.alarms().unseen()).stream()
                .anyMatch(a -> a.call().steps() > 0));
        assertThat(show(onFx(() -> hand.desk.alarms().unseen()), 4).cards()).hasSize(2);
    }

    @Test
    void more_than_ten_in_ten_minutes_are_one_until_there_are_fewer_than_five() {
        happens(Kinds.FORCED, DeskInHand.VAULT);
        happens(Kinds.FORCED, DeskInHand.STORE);
        List<Alarm> two = unseen(2);
        assertThat(show(two, 10).cards()).hasSize(2);
        assertThat(show(two, 11)).isEqualTo(new AlarmCalls.Shown(List.of(), Optional.of(11)));
        assertThat(show(two, 6).flood()).contains(6);
        assertThat(show(two, 4).cards()).hasSize(2);
        assertThat(AlarmCalls.sorts(two)).containsEntry("Forced open", 2);
        // Put away, it is gone for ten minutes and comes back while it goes on.
        show(two, 20);
        calls.hideFlood(hand.now());
        assertThat(show(two, 20)).isEqualTo(AlarmCalls.Shown.NOTHING);
        hand.pass(AlarmCalls.WINDOW);
        assertThat(show(two, 20).flood()).contains(20);
        assertThat(show(List.of(), 20)).isEqualTo(AlarmCalls.Shown.NOTHING);
    }
}
