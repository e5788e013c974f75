package org.custodia.core.event;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.Duration;
import java.time.Instant;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

class EventTest {
    private static final Instant T = Instant.parse("2026-11-24T14:20:00.123456789Z");

    @Test
    void the_corrected_time_is_the_device_time_less_the_offset_in_microseconds() {
        Event e = Event.of(new EventKey(new SystemId("a"), 1, 2), Kinds.GRANTED, T)
                .received(T.plusSeconds(3), Duration.ofNanos(1_000_000_999))
                .build();
        assertThat(e.deviceTime()).isEqualTo(Instant.parse("2026-11-24T14:20:00.123456Z"));
        assertThat(e.time()).isEqualTo(Instant.parse("2026-11-24T14:19:59.123456Z"));
        assertThat(e.toBuilder().build()).isEqualTo(e);
    }

    @Test
    void keys_survive_being_written_whatever_the_system_is_called() {
        EventKey key = new EventKey(new SystemId("north:store"), 3, 99);
        assertThat(EventKey.parse(key.text())).isEqualTo(key);
        assertThatThrownBy(() -> EventKey.parse("nonsense")).isInstanceOf(IllegalArgumentException.class);
    }

    @Test
    void kinds_are_open_but_not_everything_is_one() {
        assertThat(Kinds.entry(new EventKind("sound.glass-breaking")).name()).isEqualTo("sound.glass-breaking");
        assertThatThrownBy(() -> new EventKind("Drop Table")).isInstanceOf(IllegalArgumentException.class);
        assertThat(Reasons.words(Reasons.NO_LEVEL)).isEqualTo("no level here");
        assertThat(Reasons.words("made-up")).isEqualTo("made-up");
    }
}
