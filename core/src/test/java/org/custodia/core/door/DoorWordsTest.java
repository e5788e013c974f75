package org.custodia.core.door;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.core.door.DoorEvents.at;

import java.time.Duration;
import java.time.ZoneId;
import java.util.List;
import org.custodia.core.event.Event;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.junit.jupiter.api.Test;

class DoorWordsTest {
    private static final ZoneId LONDON = ZoneId.of("Europe/London");
    private final DoorEvents make = new DoorEvents();

    private String say(Door door, double seconds, Event... events) {
        DoorTimeline t = new DoorTimeline(door);
        t.addAll(List.of(events));
        DoorState s = t.at(at(seconds));
        return DoorWords.headline(s, door, at(seconds), LONDON)
                + DoorWords.second(s, door, at(seconds), LONDON)
                        .map(x -> " / " + x)
                        .orElse("");
    }

    @Test
    void says_why_it_is_so_and_what_comes_next() {
        Event day = make.event(
                0,
                Kinds.MODE,
                "mode",
                "unlocked",
                "by",
                "timetable",
                "next-mode",
                "locked",
                "next-at",
                at(3 * 3600 + 1800).toString());
        Event shut = make.event(1, Kinds.CLOSED);
        assertThat(say(DoorEvents.door(), 5, day, shut)).isEqualTo("Unlocked by timetable / Locks 17:30");
        Event until = make.event(
                2,
                Kinds.MODE,
                "mode",
                "unlocked",
                "by",
                "command",
                "until",
                at(1800).toString(),
                "next-mode",
                "locked",
                "next-at",
                at(1800).toString());
        assertThat(say(DoorEvents.door(), 5, shut, until)).isEqualTo("Unlocked from the desk until 14:30");
        Event lock = make.event(2, Kinds.MODE, "mode", "locked", "by", "command");
        assertThat(say(DoorEvents.door(), 5, shut, lock)).isEqualTo("Locked from the desk until changed");
        Event plain = make.event(2, Kinds.MODE, "mode", "locked", "by", "timetable");
        assertThat(say(DoorEvents.door(), 5, shut, plain)).isEqualTo("Locked");
        assertThat(say(DoorEvents.door(DoorCapability.CONTACT), 5, plain))
                .isEqualTo("Locked / no contact: position not known");
    }

    @Test
    void says_the_worst_first() {
        Event plain = make.event(0, Kinds.MODE, "mode", "locked", "by", "timetable");
        Event opened = make.event(1, Kinds.OPENED);
        Event held = make.event(61, Kinds.HELD);
        assertThat(say(DoorEvents.door(), 162, plain, opened, held)).isEqualTo("Held open, 2 min 41 s / allowed 1 min");
        assertThat(say(DoorEvents.door(), 49, plain, make.event(1, Kinds.FORCED)))
                .isEqualTo("Forced open, 48 s / locked");
        assertThat(say(DoorEvents.door(), 49, plain, make.event(2, Kinds.CLOSED), make.event(3, Kinds.CONTROLLER_LOST)))
                .isEqualTo("Out of reach since 14:00 / last known: locked, closed");
        assertThat(say(DoorEvents.door(), 1)).startsWith("State not known yet");
    }

    @Test
    void lengths_of_time_are_readable() {
        assertThat(DoorWords.span(Duration.ofSeconds(59))).isEqualTo("59 s");
        assertThat(DoorWords.span(Duration.ofSeconds(120))).isEqualTo("2 min");
        assertThat(DoorWords.span(Duration.ofMinutes(185))).isEqualTo("3 h 05 min");
        assertThat(DoorWords.span(Duration.ofHours(52))).isEqualTo("2 d 4 h");
        assertThat(DoorWords.span(Duration.ofSeconds(-3))).isEqualTo("0 s");
    }
}
