package org.custodia.core.alarm;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.core.alarm.Happening.at;

import java.time.Duration;
import java.time.Instant;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

/** From when to when nothing follows from silence. */
class SilenceTest {
    private static final ControllerId GATE = new ControllerId("tidewater/c1");
    private final Silence silence = new Silence();

    private static Event of(EventKind kind, int second) {
        return Event.of(new EventKey(new SystemId("tidewater"), 1, second), kind, at(second))
                .received(at(second), Duration.ZERO)
                .controller(GATE)
                .build();
    }

    @Test
    void what_was_lost_and_is_back_is_waited_for_as_long_as_its_events_need_to_come() {
        Event opened = of(Kinds.OPENED, 5);
        Instant back = at(60);
        assertThat(silence.covers(opened, at(9))).isFalse();
        silence.take(of(Kinds.CONTROLLER_LOST, 10));
        assertThat(silence.covers(opened, at(10))).isTrue();
        assertThat(silence.covers(opened, back.minusNanos(1))).isTrue();
        silence.take(of(Kinds.CONTROLLER_BACK, 60));
        assertThat(silence.covers(opened, back)).isTrue();
        assertThat(silence.covers(opened, back.plus(Silence.AFTER).minusNanos(1)))
                .isTrue();
        assertThat(silence.covers(opened, back.plus(Silence.AFTER))).isFalse();
        // Once more known after a restart.
        Silence again = new Silence();
        again.restore(silence.state());
        assertThat(again.covers(opened, back)).isTrue();
        assertThat(again.covers(opened, back.plus(Silence.AFTER))).isFalse();
    }

    @Test
    void that_a_controller_is_not_back_follows_from_its_own_silence() {
        silence.take(of(Kinds.CONTROLLER_LOST, 10));
        assertThat(silence.covers(of(Kinds.CONTROLLER_LOST, 10), at(100))).isFalse();
    }
}
