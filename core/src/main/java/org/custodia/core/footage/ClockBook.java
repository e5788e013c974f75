package org.custodia.core.footage;

import java.time.Duration;
import java.time.Instant;
import java.util.Comparator;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentSkipListMap;
import org.custodia.core.site.SystemId;

/**
 * How far each system's clock is ahead of ours, as measured over time. A measurement is the system's time less the
 * middle of the round trip that asked for it (the usual estimate, e.g. RFC 5905, for a symmetric path). Safe for use by
 * several threads.
 */
public final class ClockBook {
    private static final int KEPT = 20_000;
    /** How far a clock may wander between measurements that are compared. */
    private static final Duration DRIFT = Duration.ofMillis(10);

    private static final Duration AROUND = Duration.ofSeconds(45);

    /**
     * One measurement.
     *
     * @param at our time in the middle of the round trip
     * @param ahead by how much the system's clock was ahead; negative when behind
     * @param roundTrip how long the question took: the estimate is off by at most half of it
     */
    public record Reading(SystemId system, Instant at, Duration ahead, Duration roundTrip) {}

    private final Map<SystemId, ConcurrentSkipListMap<Instant, Reading>> readings = new ConcurrentHashMap<>();

    /** A measurement from the instants it was asked, answered and returned. */
    public static Reading measure(SystemId system, Instant asked, Instant systemTime, Instant returned) {
        Duration roundTrip = Duration.between(asked, returned);
        Instant middle = asked.plus(roundTrip.dividedBy(2));
        return new Reading(system, middle, Duration.between(middle, systemTime), roundTrip);
    }

    public void add(Reading reading) {
        var all = readings.computeIfAbsent(reading.system(), s -> new ConcurrentSkipListMap<>());
        all.put(reading.at(), reading);
        while (all.size() > KEPT) {
            all.pollFirstEntry();
        }
    }

    /** The measurement nearest in time to an instant. */
    public Optional<Reading> nearest(SystemId system, Instant instant) {
        var all = readings.get(system);
        if (all == null || all.isEmpty()) {
            return Optional.empty();
        }
        var before = all.floorEntry(instant);
        var after = all.ceilingEntry(instant);
        if (before == null) {
            return Optional.of(after.getValue());
        }
        if (after == null) {
            return Optional.of(before.getValue());
        }
        Duration toBefore = Duration.between(before.getKey(), instant);
        Duration toAfter = Duration.between(instant, after.getKey());
        return Optional.of(toBefore.compareTo(toAfter) <= 0 ? before.getValue() : after.getValue());
    }

    /**
     * How far a system was ahead at an instant: of the measurements around the nearest one that agree with it, the one with
     * the shortest round trip, which is the surest (the clock filter of RFC 5905, section 10, in its simplest form); zero
     * while there is none. Measurements that cannot both be true mean that the clock was set in between.
     */
    public Duration ahead(SystemId system, Instant instant) {
        return nearest(system, instant)
                .map(n ->
                        readings
                                .get(system)
                                .subMap(n.at().minus(AROUND), true, n.at().plus(AROUND), true)
                                .values()
                                .stream()
                                .filter(r -> agree(r, n))
                                .min(Comparator.comparing(Reading::roundTrip))
                                .orElse(n))
                .map(Reading::ahead)
                .orElse(Duration.ZERO);
    }

    /** Whether two measurements can both be true: each is off by at most half its round trip. */
    private static boolean agree(Reading a, Reading b) {
        Duration apart = a.ahead().minus(b.ahead()).abs();
        Duration allowed = a.roundTrip().plus(b.roundTrip()).dividedBy(2).plus(DRIFT);
        return apart.compareTo(allowed) <= 0;
    }

    /** The newest measurement of each system. */
    public Map<SystemId, Reading> newest() {
        Map<SystemId, Reading> result = new TreeMap<>((a, b) -> a.value().compareTo(b.value()));
        readings.forEach((system, all) -> {
            if (!all.isEmpty()) {
                result.put(system, all.lastEntry().getValue());
            }
        });
        return result;
    }
}
