package org.custodia.desktop.desk;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.custodia.core.Patience.await;
import static org.custodia.desktop.desk.DeskInHand.onFx;

import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import org.custodia.core.alarm.Rule;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** When alarms are heard, and when they are not. */
class AlarmBellTest {
    @TempDir
    Path directory;

    private DeskInHand hand;
    private int number;

    @BeforeEach
    void open() {
        hand = new DeskInHand(directory, Rule.shipped());
    }

    @AfterEach
    void close() {
        hand.close();
    }

    private void happens(EventKind kind) {
        hand.log.store(Event.of(
                        new EventKey(DeskInHand.SYSTEM, 1, 100 + ++number),
                        kind,
                        hand.now().plusMillis(number))
                .door(number % 2 == 0 ? DeskInHand.STORE : DeskInHand.VAULT)
                .build());
    }

    private void open_(int count) {
        await().until(() -> {
            onFx(() -> hand.desk.alarms().refresh());
            return onFx(() -> hand.desk.alarms().open().get().size() == count);
        });
    }

    private void tick(int seconds) {
        hand.pass(Duration.ofSeconds(seconds));
        onFx(() -> hand.desk.bell().tick(hand.desk.alarms().unseen(), hand.desk.now()));
    }

    private void heard(int times) {
        await().until(() -> hand.reached.size() == times);
    }

    @Test
    void a_clock_that_is_set_back_silences_nothing() {
        happens(Kinds.DURESS);
        open_(1);
        tick(0);
        heard(1);
        tick(-7_200);
        heard(2);
        onFx(() -> hand.desk.bell().mute(hand.desk.now(), Duration.ofHours(1)));
        tick(-86_400);
        heard(3);
    }

    @Test
    void what_is_urgent_is_heard_at_once_and_again_until_somebody_has_seen_it() {
        tick(1);
        assertThat(hand.reached).isEmpty();
        happens(Kinds.DURESS);
        open_(1);
        tick(0);
        heard(1);
        tick(3);
        tick(4);
        heard(2);
        // One more, that waits until it is heard: at once, in its own voice.
        happens(Kinds.HELD);
        open_(2);
        tick(1);
        heard(3);
        assertThat(hand.reached.get(2)).isNotEqualTo(hand.reached.get(0));
        onFx(() -> hand.desk
                .alarms()
                .acknowledge(
                        hand.desk.alarms().open().get().stream()
                                .map(a -> a.seen())
                                .toList(),
                        why -> {}));
        await().until(() -> onFx(() -> hand.desk.alarms().unseen().isEmpty()));
        tick(100);
        assertThat(hand.reached).hasSize(3);
    }

    @Test
    void what_can_wait_is_not_heard() {
        happens(Kinds.READER_OFF);
        open_(1);
        tick(1);
        tick(100);
        // Sounds are played by a thread of their own; one that is heard for certain comes after it.
        happens(Kinds.DURESS);
        open_(2);
        tick(1);
        heard(1);
    }

    @Test
    void nothing_is_heard_while_it_is_silenced_and_it_comes_back_by_itself() {
        onFx(() -> hand.desk.bell().mute(hand.desk.now(), Duration.ofMinutes(10)));
        happens(Kinds.DURESS);
        open_(1);
        tick(60);
        tick(60);
        assertThat(onFx(() -> hand.desk.bell().mutedUntil(hand.desk.now()))).isPresent();
        assertThat(hand.reached).isEmpty();
        tick(600);
        heard(1);
        assertThat(onFx(() -> hand.desk.bell().mutedUntil(hand.desk.now()))).isEmpty();
        onFx(() -> {
            hand.desk.bell().mute(hand.desk.now(), Duration.ofMinutes(10));
            hand.desk.bell().unmute();
        });
        tick(10);
        heard(2);
        assertThatThrownBy(() -> onFx(() -> hand.desk.bell().mute(hand.desk.now(), Duration.ofDays(1))))
                .hasRootCauseInstanceOf(IllegalArgumentException.class);
    }

    @Test
    void a_machine_without_sound_says_so_until_it_has_some() {
        hand.mute = true;
        happens(Kinds.DURESS);
        open_(1);
        tick(1);
        await().until(() -> hand.desk.bell().silent());
        tick(20);
        tick(20);
        // It is a sign, and no card that covers what can be pressed.
        assertThat(onFx(() -> hand.desk.notices().shown())).isEmpty();
        hand.mute = false;
        await().until(() -> {
            tick(20);
            return !hand.reached.isEmpty();
        });
        await().until(() -> !hand.desk.bell().silent());
        // The loudness that was chosen is remembered, and one that is none makes no sound.
        onFx(() -> hand.desk.bell().volume(0));
        assertThat(onFx(() -> hand.desk.bell().volume())).isZero();
        int before = hand.reached.size();
        tick(20);
        assertThat(List.copyOf(hand.reached)).hasSize(before);
    }
}
