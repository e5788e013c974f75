package org.custodia.core.event;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
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
        assertThat(EventKey.parse(key.text())).contains(key);
        assertThat(EventKey.parse("nonsense")).isEmpty();
    }

    @Test
    void kinds_are_open_but_not_everything_is_one() {
        assertThat(Kinds.of("door.opened")).isSameAs(Kinds.OPENED);
        assertThat(Kinds.entry(Kinds.of("Ventil auf")).name()).isEqualTo("Ventil auf");
        for (String bad : List.of("", " ", "a\nb", "x".repeat(101))) {
            assertThatThrownBy(() -> Kinds.of(bad)).isInstanceOf(IllegalArgumentException.class);
        }
    }
}
