package org.custodia.desktop.door;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.time.ZoneId;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** What may be typed as the time until which a door stays unlocked. */
class DoorCommandMenuTest {
    private static final Instant NOW = Instant.parse("2026-11-24T14:30:00Z");
    private static final ZoneId LONDON = ZoneId.of("Europe/London");

    @Test
    void a_typed_time_is_the_next_time_the_clock_shows_it() {
        assertThat(DoorCommandMenu.nextTime("16:45", NOW, LONDON)).contains(Instant.parse("2026-11-24T16:45:00Z"));
        assertThat(DoorCommandMenu.nextTime("9:05", NOW, LONDON)).contains(Instant.parse("2026-11-25T09:05:00Z"));
        // The time that it is now is tomorrow's: until now would be no time at all.
        assertThat(DoorCommandMenu.nextTime("14:30", NOW, LONDON)).contains(Instant.parse("2026-11-25T14:30:00Z"));
    }

    @Test
    void a_time_that_a_clock_change_leaves_out_is_the_one_after_it() {
        Instant before = Instant.parse("2027-03-27T23:00:00Z");
        assertThat(DoorCommandMenu.nextTime("01:30", before, LONDON)).contains(Instant.parse("2027-03-28T01:30:00Z"));
    }

    @ParameterizedTest
    @ValueSource(strings = {"", "soon", "25:00", "16.45", "-1:00", "16:45 please"})
    void what_is_no_time_is_none(String words) {
        assertThat(DoorCommandMenu.nextTime(words, NOW, LONDON)).isEmpty();
    }
}
