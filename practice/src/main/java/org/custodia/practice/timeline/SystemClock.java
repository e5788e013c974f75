package org.custodia.practice.timeline;

import java.time.Instant;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.custodia.practice.place.Installation;

/** How far a device's clock is ahead of true time: a base, a drift since the last weekly sync, and what was set by hand. */
public final class SystemClock {
    private static final long WEEK = 7L * 24 * 3600 * 1000;
    /** A Monday, 00:00 UTC. */
    private static final long MONDAY = Instant.parse("2024-01-01T00:00:00Z").toEpochMilli();

    private final long base;
    private final double driftMillisPerHour;
    private final TreeMap<Long, Long> set = new TreeMap<>();

    private final Optional<String> source;
    private final boolean canSync;

    SystemClock(long baseMillis, double driftMillisPerHour) {
        this(baseMillis, driftMillisPerHour, Optional.empty(), false);
    }

    private SystemClock(long baseMillis, double driftMillisPerHour, Optional<String> source, boolean canSync) {
        this.base = baseMillis;
        this.driftMillisPerHour = driftMillisPerHour;
        this.source = source;
        this.canSync = canSync;
    }

    /** Where it says that it takes the time from. */
    public Optional<String> source() {
        return source;
    }

    /** Whether it is set when somebody asks for that. */
    public boolean canSync() {
        return canSync;
    }

    static SystemClock of(Installation.ClockEntry entry) {
        return new SystemClock(
                entry.aheadMillis(),
                entry.driftMillisPerHour(),
                Optional.ofNullable(entry.source()),
                Boolean.TRUE.equals(entry.canSync()));
    }

    /** How many milliseconds it is ahead at a true time. */
    public synchronized long ahead(long trueMillis) {
        Map.Entry<Long, Long> byHand = set.floorEntry(trueMillis);
        if (byHand != null) {
            return byHand.getValue();
        }
        double hours = Math.floorMod(trueMillis - MONDAY, WEEK) / 3_600_000.0;
        return base + Math.round(hours * driftMillisPerHour);
    }

    /** What it shows at a true time. */
    public long shows(long trueMillis) {
        return trueMillis + ahead(trueMillis);
    }

    /** The true time at which it shows something. */
    public long trueAt(long shownMillis) {
        long guess = shownMillis - ahead(shownMillis);
        return shownMillis - ahead(guess);
    }

    synchronized void set(long fromTrueMillis, long aheadMillis) {
        set.put(fromTrueMillis, aheadMillis);
    }
}
