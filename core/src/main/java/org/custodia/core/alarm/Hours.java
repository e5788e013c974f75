package org.custodia.core.alarm;

import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.util.List;
import java.util.Set;

/**
 * When a rule holds, by the clock of where it happened. Without any span it always does.
 *
 * @param spans it holds in any of them
 */
public record Hours(List<Span> spans) {
    /** At all times. */
    public static final Hours ALWAYS = new Hours(List.of());

    public Hours {
        spans = List.copyOf(spans);
    }

    /**
     * Some hours on some days.
     *
     * @param to not included; where it is not after {@code from}, that of the next day
     */
    public record Span(Set<DayOfWeek> days, LocalTime from, LocalTime to) {
        public Span {
            days = Set.copyOf(days);
            if (days.isEmpty()) {
                throw new IllegalArgumentException("a span is on some day");
            }
        }

        private boolean includes(ZonedDateTime at) {
            LocalTime time = at.toLocalTime();
            if (from.isBefore(to)) {
                return days.contains(at.getDayOfWeek()) && !time.isBefore(from) && time.isBefore(to);
            }
            // Over midnight: it belongs to the day on which it began.
            return !time.isBefore(from) && days.contains(at.getDayOfWeek())
                    || time.isBefore(to) && days.contains(at.getDayOfWeek().minus(1));
        }
    }

    /** Whether an instant lies in it. */
    public boolean include(Instant instant, ZoneId zone) {
        return spans.isEmpty() || spans.stream().anyMatch(s -> s.includes(instant.atZone(zone)));
    }
}
