package org.custodia.core.access;

import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalTime;
import java.time.ZonedDateTime;
import java.time.zone.ZoneOffsetTransition;
import java.time.zone.ZoneRules;
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
     * On these days from one time to another on the same day.
     *
     * @param to not included; {@link LocalTime#MAX} for the end of the day
     */
    public record Span(Set<DayOfWeek> days, LocalTime from, LocalTime to) {
        public Span {
            days = Set.copyOf(days);
            if (!from.isBefore(to)) {
                throw new IllegalArgumentException("a span ends after it begins, this does not: " + from + " to " + to);
            }
        }

        boolean covers(ZonedDateTime t) {
            LocalTime clock = t.toLocalTime();
            return days.contains(t.getDayOfWeek()) && !clock.isBefore(from) && clock.isBefore(to);
        }
    }

    /** Whether it is on at a local time. */
    public boolean on(ZonedDateTime t) {
        return spans.stream().anyMatch(s -> s.covers(t));
    }

    /**
     * When it next turns on or off after a local time; nothing if it never does within eight days. Where clocks are put on or
     * back it may turn at that instant, and a time of day that comes twice turns it twice.
     */
    public Optional<ZonedDateTime> nextChange(ZonedDateTime t) {
        boolean now = on(t);
        ZoneRules rules = t.getZone().getRules();
        Instant end = t.plusDays(9).toInstant();
        Stream<Instant> byClock = IntStream.rangeClosed(-1, 8)
                .mapToObj(day -> t.toLocalDate().plusDays(day))
                .flatMap(day -> spans.stream()
                        .flatMap(s -> Stream.of(s.from(), s.to()))
                        .map(clock ->
                                clock.equals(LocalTime.MAX) ? day.plusDays(1).atStartOfDay() : day.atTime(clock)))
                .flatMap(local -> rules.getValidOffsets(local).stream().map(local::toInstant));
        Stream<Instant> byShift = Stream.iterate(
                        rules.nextTransition(t.toInstant()),
                        shift -> shift != null && !shift.getInstant().isAfter(end),
                        shift -> rules.nextTransition(shift.getInstant()))
                .map(ZoneOffsetTransition::getInstant);
        return Stream.concat(byClock, byShift)
                .filter(at -> at.isAfter(t.toInstant()))
                .map(at -> at.atZone(t.getZone()))
                .filter(at -> on(at) != now)
                .min(Comparator.naturalOrder());
    }
}
