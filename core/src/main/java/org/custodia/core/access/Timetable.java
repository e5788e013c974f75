package org.custodia.core.access;

import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZonedDateTime;
import java.time.zone.ZoneOffsetTransition;
import java.time.zone.ZoneRules;
import java.util.Collection;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.IntStream;
import java.util.stream.Stream;

/**
 * Times of the week in a site's own clock.
 *
 * @param spans when it is on
 */
public record Timetable(String id, String name, List<Span> spans) {
    public Timetable {
        spans = List.copyOf(spans);
    }

    /**
     * On these days from one time to another; where the second is not after the first, it is that of the day after.
     *
     * @param holidays whether it is on when it begins on a holiday, whatever day of the week that is; on holidays the days of
     *     the week do not count
     * @param to not included; {@link LocalTime#MAX} for the end of the day
     */
    public record Span(Set<DayOfWeek> days, boolean holidays, LocalTime from, LocalTime to) {
        public Span {
            days = Set.copyOf(days);
        }

        /** One that is off on holidays. */
        public Span(Set<DayOfWeek> days, LocalTime from, LocalTime to) {
            this(days, false, from, to);
        }

        private boolean beginsOn(LocalDate day, Collection<Holiday> calendar) {
            return calendar.stream().anyMatch(h -> h.covers(day)) ? holidays : days.contains(day.getDayOfWeek());
        }

        private boolean overMidnight() {
            return !from.isBefore(to);
        }

        boolean covers(ZonedDateTime t, Collection<Holiday> calendar) {
            LocalTime clock = t.toLocalTime();
            LocalDate day = t.toLocalDate();
            if (overMidnight()) {
                return !clock.isBefore(from) && beginsOn(day, calendar)
                        || clock.isBefore(to) && beginsOn(day.minusDays(1), calendar);
            }
            return !clock.isBefore(from) && clock.isBefore(to) && beginsOn(day, calendar);
        }
    }

    /** Whether it is on at a local time, where there are no holidays. */
    public boolean on(ZonedDateTime t) {
        return on(t, List.of());
    }

    /** Whether it is on at a local time. */
    public boolean on(ZonedDateTime t, Collection<Holiday> calendar) {
        return spans.stream().anyMatch(s -> s.covers(t, calendar));
    }

    /** When it next turns on or off where there are no holidays. */
    public Optional<ZonedDateTime> nextChange(ZonedDateTime t) {
        return nextChange(t, List.of());
    }

    /**
     * When it next turns on or off after a local time; nothing if it does not within eight days. Where clocks are put on or
     * back it may turn at that instant, and a time of day that comes twice turns it twice.
     */
    public Optional<ZonedDateTime> nextChange(ZonedDateTime t, Collection<Holiday> calendar) {
        boolean now = on(t, calendar);
        ZoneRules rules = t.getZone().getRules();
        Instant end = t.plusDays(9).toInstant();
        Stream<Instant> byClock = IntStream.rangeClosed(-1, 9)
                .mapToObj(day -> t.toLocalDate().plusDays(day))
                .flatMap(day -> Stream.concat(
                        Stream.of(day.atStartOfDay()),
                        spans.stream()
                                .flatMap(s -> Stream.of(s.from(), s.to()))
                                .filter(clock -> !clock.equals(LocalTime.MAX))
                                .map(day::atTime)))
                .flatMap(local -> rules.getValidOffsets(local).stream().map(local::toInstant));
        Stream<Instant> byShift = Stream.iterate(
                        rules.nextTransition(t.toInstant()),
                        shift -> shift != null && !shift.getInstant().isAfter(end),
                        shift -> rules.nextTransition(shift.getInstant()))
                .map(ZoneOffsetTransition::getInstant);
        return Stream.concat(byClock, byShift)
                .filter(at -> at.isAfter(t.toInstant()))
                .map(at -> at.atZone(t.getZone()))
                .filter(at -> on(at, calendar) != now)
                .min(Comparator.naturalOrder());
    }
}
