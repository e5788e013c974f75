package org.custodia.core.alarm;

import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.BiFunction;
import java.util.function.Predicate;

/**
 * When a rule holds, by the clock of where it happened. Without any span it always does.
 *
 * @param spans it holds in any of them
 * @param holidays what it is like on days that are holidays where it happens
 * @param within a timetable that has its own holidays; it holds only where both the spans and the timetable say so
 */
public record Hours(List<Span> spans, Holidays holidays, Optional<Within> within) {
    /** At all times. */
    public static final Hours ALWAYS = new Hours(List.of(), Holidays.AS_USUAL);

    /**
     * A timetable of an access system.
     *
     * @param timetable its id, which begins with the system's
     * @param outside whether it holds while the timetable is off, and not while it is on
     */
    public record Within(String timetable, boolean outside) {
        /** Characters of an id. */
        public static final int LONGEST = 300;

        public Within {
            if (timetable.isBlank() || timetable.length() > LONGEST) {
                throw new IllegalArgumentException("a timetable has an id");
            }
        }
    }

    /** Some hours, without a timetable. */
    public Hours(List<Span> spans, Holidays holidays) {
        this(spans, holidays, Optional.empty());
    }

    /** No rule has more spans. */
    public static final int MOST_SPANS = 50;

    /** What holidays make of it. */
    public enum Holidays {
        /** Nothing: the day of the week counts. */
        AS_USUAL,
        /** On holidays it holds all day. */
        ALL_DAY,
        /** On holidays it does not hold. */
        NEVER,
        /** It holds on holidays only, in its spans. */
        ONLY
    }

    public Hours {
        spans = List.copyOf(spans);
        if (spans.size() > MOST_SPANS) {
            throw new IllegalArgumentException("a rule has at most " + MOST_SPANS + " spans");
        }
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

    /**
     * Whether an instant lies in it.
     *
     * @param holiday whether a day is one there
     * @param on whether a timetable is on at a local time; nothing where it is not known any more, and then it counts for
     *     nothing: what a rule is for is not to be missed
     */
    public boolean include(
            Instant instant,
            ZoneId zone,
            Predicate<LocalDate> holiday,
            BiFunction<String, ZonedDateTime, Optional<Boolean>> on) {
        ZonedDateTime there = instant.atZone(zone);
        Optional<Boolean> here =
                within.flatMap(w -> on.apply(w.timetable(), there).map(is -> is != w.outside()));
        if (here.isPresent() && !here.get()) {
            return false;
        }
        boolean isOne = holidays != Holidays.AS_USUAL && holiday.test(there.toLocalDate());
        if (isOne && holidays == Holidays.ALL_DAY) {
            return true;
        }
        if (isOne && holidays == Holidays.NEVER || !isOne && holidays == Holidays.ONLY) {
            return false;
        }
        return spans.isEmpty() || spans.stream().anyMatch(s -> s.includes(there));
    }
}
