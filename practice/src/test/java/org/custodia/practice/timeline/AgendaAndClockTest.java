package org.custodia.practice.timeline;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Clock;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.ZonedDateTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.LongRange;
import org.custodia.practice.PracticeClock;
import org.custodia.practice.place.Look;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class AgendaAndClockTest {
    @Test
    void tasks_run_in_order_of_time_and_those_of_the_journal_last() {
        Agenda agenda = new Agenda(0);
        List<String> done = new ArrayList<>();
        agenda.journal(10, t -> done.add("journal"));
        agenda.at(20, t -> done.add("later"));
        agenda.at(10, t -> {
            done.add("first");
            agenda.at(5, u -> done.add("overdue"));
        });
        agenda.at(10, t -> done.add("second"));
        assertThat(agenda.next()).isEqualTo(10);
        agenda.runTo(15);
        assertThat(done).containsExactly("first", "second", "overdue", "journal");
        agenda.runTo(20);
        assertThat(done).endsWith("later");
        assertThat(agenda.next()).isEqualTo(Long.MAX_VALUE);
        assertThat(agenda.now()).isEqualTo(20);
    }

    @Property
    void a_clock_that_drifts_is_read_back_to_the_millisecond(
            @ForAll @LongRange(min = 1_700_000_000_000L, max = 1_900_000_000_000L) long millis) {
        SystemClock clock = new SystemClock(900, 6);
        // At the weekly sync the clock jumps back and a time is shown twice.
        org.junit.jupiter.api.Assumptions.assumeTrue(clock.ahead(millis + 3_000) >= clock.ahead(millis - 3_000));
        assertThat(clock.trueAt(clock.shows(millis))).isBetween(millis - 1, millis + 1);
        assertThat(clock.ahead(millis)).isBetween(900L, 1_920L);
    }

    @Test
    void a_clock_set_by_hand_stays_as_it_was_set() {
        SystemClock clock = new SystemClock(0, 6);
        clock.set(1_800_000_000_000L, -5_000);
        assertThat(clock.ahead(1_799_999_999_999L)).isNotNegative();
        assertThat(clock.ahead(1_800_000_000_001L)).isEqualTo(-5_000);
        assertThat(clock.shows(1_900_000_000_000L)).isEqualTo(1_899_999_995_000L);
    }

    @ParameterizedTest
    @CsvSource({
        // On a Wednesday in the morning it is Tuesday; in the evening it is the same day; on a weekend it is Friday.
        "2026-11-25T00:10:00Z, 2026-11-24",
        "2026-11-25T20:00:00Z, 2026-11-25",
        "2026-11-29T12:00:00Z, 2026-11-27",
        "2026-11-30T09:00:00Z, 2026-11-27",
        "2026-07-01T20:00:00Z, 2026-07-01"
    })
    void practice_time_begins_in_the_afternoon_of_the_latest_weekday(Instant wall, LocalDate day) {
        Clock fixed = Clock.fixed(wall, ZoneOffset.UTC);
        Instant begins = PracticeClock.starting(fixed, Optional.empty()).instant();
        ZonedDateTime local = begins.atZone(ZoneId.of("Europe/London"));
        assertThat(local.toLocalDate()).isEqualTo(day);
        assertThat(local.toLocalTime()).isBetween(LocalTime.of(14, 5), LocalTime.of(16, 13));
        Instant later = begins.plusSeconds(500);
        assertThat(PracticeClock.starting(fixed, Optional.of(later)).instant()).isEqualTo(later);
        assertThat(PracticeClock.starting(fixed, Optional.of(begins.minusSeconds(9)))
                        .instant())
                .isEqualTo(begins);
    }

    @Test
    void scenes_tell_who_is_near_a_door_and_how_far_the_leaf_is_open() {
        Scenes scenes = new Scenes();
        Look look = Look.random(new java.util.Random(1), Look.Dress.COAT, null);
        scenes.visit("d", new Scenes.Visit(look, true, 10_000, 12_000, true, 'g'));
        scenes.visit("d", new Scenes.Visit(look, false, 9_000, 9_500, true, 'g'));
        assertThat(scenes.visits("d", 5_000)).isEmpty();
        assertThat(scenes.visits("d", 8_000)).hasSize(2);
        assertThat(scenes.visits("d", 14_000)).hasSize(1);
        assertThat(scenes.visits("other", 8_000)).isEmpty();
        scenes.open("d", 12_000);
        assertThat(scenes.leaf("d", 11_000)).isZero();
        assertThat(scenes.leaf("d", 12_300)).isBetween(0.1, 0.99);
        assertThat(scenes.leaf("d", 14_000)).isEqualTo(1);
        scenes.close("d", 15_000);
        assertThat(scenes.leaf("d", 16_000)).isZero();
        scenes.visit("d", new Scenes.Visit(look, true, 20_000, 80_000, false, '-'));
        scenes.cutShort("d", look, 20_000, 30_000);
        assertThat(scenes.visits("d", 29_000)).hasSize(1);
        assertThat(scenes.visits("d", 31_000)).isEmpty();
    }
}
