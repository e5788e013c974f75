package org.custodia.core.access;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.DayOfWeek;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZonedDateTime;
import java.util.EnumSet;
import java.util.List;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.IntRange;
import org.junit.jupiter.api.Test;

class TimetableTest {
    private static Timetable daily(String from, String to) {
        LocalTime end = to.equals("24:00") ? LocalTime.MAX : LocalTime.parse(to);
        return new Timetable(
                "t", "T", List.of(new Timetable.Span(EnumSet.allOf(DayOfWeek.class), LocalTime.parse(from), end)));
    }

    private static ZonedDateTime at(String text) {
        return ZonedDateTime.parse(text);
    }

    @Test
    void the_next_change_is_right_where_clocks_are_put_on() {
        // 29 March 2026, London: 01:00 becomes 02:00.
        Timetable night = daily("01:30", "03:00");
        ZonedDateTime before = at("2026-03-29T00:30:00Z[Europe/London]");
        assertThat(night.nextChange(before).orElseThrow().toInstant())
                .isEqualTo(at("2026-03-29T02:00:00+01:00[Europe/London]").toInstant());
        assertThat(daily("01:00", "01:30").nextChange(before).orElseThrow().toLocalDate())
                .isEqualTo("2026-03-30");
        assertThat(daily("00:00", "01:30").nextChange(before).orElseThrow().toInstant())
                .isEqualTo(at("2026-03-29T01:00:00Z").toInstant());
    }

    @Test
    void the_next_change_is_right_where_clocks_are_put_back() {
        // 25 October 2026, London: 02:00 becomes 01:00.
        Timetable night = daily("01:30", "05:00");
        ZonedDateTime first = at("2026-10-25T01:40:00+01:00[Europe/London]");
        assertThat(night.on(first)).isTrue();
        ZonedDateTime back = night.nextChange(first).orElseThrow();
        assertThat(back.toInstant()).isEqualTo(at("2026-10-25T01:00:00Z").toInstant());
        assertThat(night.nextChange(back).orElseThrow().toInstant())
                .isEqualTo(at("2026-10-25T01:30:00Z").toInstant());
    }

    @Test
    void what_never_changes_has_no_next_change() {
        assertThat(daily("00:00", "24:00").nextChange(at("2026-11-24T10:00:00Z[Europe/London]")))
                .isEmpty();
        assertThat(new Timetable("n", "N", List.of()).nextChange(at("2026-11-24T10:00:00Z[Europe/London]")))
                .isEmpty();
        assertThat(daily("09:00", "24:00").nextChange(at("2026-11-24T10:00:00Z[Europe/London]")))
                .contains(at("2026-11-25T00:00:00Z[Europe/London]"));
    }

    /** Walks on minute by minute, as a clock would. */
    @Property(tries = 150)
    void it_is_the_first_minute_at_which_it_turns(
            @ForAll @IntRange(max = 1_438) int from,
            @ForAll @IntRange(min = 1, max = 1_439) int length,
            @ForAll @IntRange(max = 2_880) int start,
            @ForAll DayOfWeek off,
            @ForAll boolean holidays,
            @ForAll boolean spring) {
        LocalTime begin = LocalTime.MIN.plusMinutes(from);
        // Over midnight where it is long.
        LocalTime end = LocalTime.MIN.plusMinutes((from + length) % 1_440);
        Timetable table = new Timetable(
                "t", "T", List.of(new Timetable.Span(EnumSet.complementOf(EnumSet.of(off)), holidays, begin, end)));
        List<Holiday> calendar = List.of(new Holiday("h", "H", LocalDate.of(2026, 3, 29), LocalDate.of(2026, 3, 29)));
        ZonedDateTime t = at(spring
                        ? "2026-03-28T00:00:00Z[Europe/London]"
                        : "2026-10-24T00:00:00+01:00[Europe/London]")
                .plusMinutes(start);
        ZonedDateTime walk = t;
        do {
            walk = walk.plusMinutes(1);
        } while (table.on(walk, calendar) == table.on(t, calendar));
        assertThat(table.nextChange(t, calendar).orElseThrow().toInstant()).isEqualTo(walk.toInstant());
    }

    @Test
    void a_night_belongs_to_the_day_on_which_it_begins() {
        Timetable night = new Timetable(
                "n",
                "Night",
                List.of(new Timetable.Span(
                        EnumSet.of(DayOfWeek.FRIDAY), false, LocalTime.of(22, 0), LocalTime.of(6, 0))));
        ZonedDateTime friday = at("2026-11-27T23:00:00Z[Europe/London]");
        assertThat(night.on(friday)).isTrue();
        assertThat(night.on(friday.plusHours(6))).isTrue();
        assertThat(night.on(friday.plusHours(7))).isFalse();
        assertThat(night.on(friday.minusDays(1).plusHours(4))).isFalse();
        assertThat(night.nextChange(friday)).contains(friday.plusHours(7));
        // A holiday takes the night that begins on it, not the end of the one before.
        List<Holiday> saturday = List.of(new Holiday("h", "H", LocalDate.of(2026, 11, 28), LocalDate.of(2026, 11, 28)));
        assertThat(night.on(friday.plusHours(6), saturday)).isTrue();
        List<Holiday> fridays = List.of(new Holiday("h", "H", LocalDate.of(2026, 11, 27), LocalDate.of(2026, 11, 27)));
        assertThat(night.on(friday, fridays)).isFalse();
        assertThat(night.on(friday.plusHours(6), fridays)).isFalse();
    }
}
