package org.custodia.practice;

import java.time.Clock;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.Optional;
import org.custodia.practice.place.Installation;
import org.custodia.practice.timeline.Incidents;

/** Practice time: a clock that goes at the speed of the wall clock from a moment when something is about to happen. */
public final class PracticeClock extends Clock {
    /** The hour of the day after which a demo begins. */
    private static final double BUSY = 14.1;
    /** The latest such hour. */
    private static final double LATEST = 16.2;
    /** How long before something happens it begins: long enough to look round. */
    private static final double LOOK_ROUND = 25 / 3600.0;

    private final Clock wall;
    private final Duration ahead;
    private final ZoneId zone;

    private PracticeClock(Clock wall, Duration ahead, ZoneId zone) {
        this.wall = wall;
        this.ahead = ahead;
        this.zone = zone;
    }

    /**
     * Begins on the latest weekday, in the afternoon, shortly before one of those incidents with which a demo may begin; or
     * right after an earlier run if that is later.
     *
     * @param lastSeen the practice time at which the site was last running
     */
    public static PracticeClock starting(
            Clock wall, Optional<Instant> lastSeen, Installation installation, Incidents incidents) {
        Instant now = wall.instant();
        ZoneId local = zone(installation);
        LocalDate day = now.atZone(local).toLocalDate();
        Instant from = start(day, local, incidents);
        while (from.isAfter(now)
                || day.getDayOfWeek() == DayOfWeek.SATURDAY
                || day.getDayOfWeek() == DayOfWeek.SUNDAY) {
            day = day.minusDays(1);
            from = start(day, local, incidents);
        }
        if (lastSeen.isPresent() && lastSeen.get().isAfter(from)) {
            from = lastSeen.get();
        }
        return new PracticeClock(wall, Duration.between(now, from), ZoneOffset.UTC);
    }

    /** The same at Sternwick. */
    public static PracticeClock starting(Clock wall, Optional<Instant> lastSeen) {
        return starting(wall, lastSeen, Installation.sternwick(), Incidents.sternwick());
    }

    private static Instant start(LocalDate day, ZoneId zone, Incidents incidents) {
        double hour = incidents
                .opening(day, PracticeSite.SEED, BUSY)
                .filter(h -> h < LATEST)
                .orElse(BUSY);
        return day.atStartOfDay(zone).toInstant().plusMillis(Math.round((hour - LOOK_ROUND) * 3_600_000));
    }

    /** The time zone by which days are counted: that of the first site. */
    static ZoneId zone(Installation installation) {
        return ZoneId.of(installation.sites().get(0).timeZone());
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
