package org.custodia.practice;

import java.time.Clock;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.ZonedDateTime;
import java.util.Optional;
import org.custodia.practice.timeline.Timeline;

/** Practice time: a clock that goes at the speed of the wall clock from a time of day when much is going on. */
public final class PracticeClock extends Clock {
    private static final LocalTime BUSY = LocalTime.of(14, 20);

    private final Clock wall;
    private final Duration ahead;
    private final ZoneId zone;

    private PracticeClock(Clock wall, Duration ahead, ZoneId zone) {
        this.wall = wall;
        this.ahead = ahead;
        this.zone = zone;
    }

    /**
     * Begins at the latest weekday 14:20 of Harbour House, or right after an earlier run if that is later.
     *
     * @param lastSeen the practice time at which the site was last running
     */
    public static PracticeClock starting(Clock wall, Optional<Instant> lastSeen) {
        Instant now = wall.instant();
        ZonedDateTime local = now.atZone(Timeline.zone());
        ZonedDateTime start = local.with(BUSY);
        while (start.isAfter(local)
                || start.getDayOfWeek() == DayOfWeek.SATURDAY
                || start.getDayOfWeek() == DayOfWeek.SUNDAY) {
            start = start.minusDays(1).with(BUSY);
        }
        Instant from = start.toInstant();
        if (lastSeen.isPresent() && lastSeen.get().isAfter(from)) {
            from = lastSeen.get();
        }
        return new PracticeClock(wall, Duration.between(now, from), ZoneOffset.UTC);
    }

    @Override
    public ZoneId getZone() {
        return zone;
    }

    @Override
    public Clock withZone(ZoneId other) {
        return new PracticeClock(wall, ahead, other);
    }

    @Override
    public Instant instant() {
        return wall.instant().plus(ahead);
    }
}
