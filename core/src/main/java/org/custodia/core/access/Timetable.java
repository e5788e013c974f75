package org.custodia.core.access;

import java.time.DayOfWeek;
import java.time.LocalTime;
import java.time.ZonedDateTime;
import java.util.List;
import java.util.Optional;
import java.util.Set;

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

    /** When it next turns on or off after a local time; nothing if it never does within eight days. */
    public Optional<ZonedDateTime> nextChange(ZonedDateTime t) {
        boolean now = on(t);
        return java.util.stream.IntStream.rangeClosed(0, 8)
                .boxed()
                .flatMap(day -> spans.stream().flatMap(s -> java.util.stream.Stream.of(s.from(), s.to())
                        .map(clock -> clock.equals(LocalTime.MAX)
                                ? t.toLocalDate().plusDays(day + 1L).atStartOfDay(t.getZone())
                                : t.toLocalDate().plusDays(day).atTime(clock).atZone(t.getZone()))))
                .filter(at -> at.isAfter(t) && on(at) != now)
                .min(java.util.Comparator.naturalOrder());
    }
}
