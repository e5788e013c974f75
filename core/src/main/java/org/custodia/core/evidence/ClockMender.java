package org.custodia.core.evidence;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import org.custodia.core.evidence.EvidenceSearch.Measured;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.footage.ClockBook.Estimate;
import org.custodia.core.site.SystemId;

/**
 * Mends what is known of a recorder's clock before anybody measured it, by how much later than doors its pictures were then. One
 * camera may be late by itself, so either two say the same, or what one says lies within what was known. Safe for use by several
 * threads.
 */
public final class ClockMender {
    /** A span before the first measurement matters for so long after it. */
    private static final Duration MATTERS = Duration.ofDays(3);
    /** Doors move before their contacts tell, and pictures come some time apart. */
    private static final Duration BLUR = Duration.ofMillis(100);

    private final ClockBook clocks;
    private final Consumer<Estimate> keep;
    private final Map<SystemId, List<Measured>> told = new HashMap<>();

    /**
     * @param keep keeps what follows for later runs
     */
    public ClockMender(ClockBook clocks, Consumer<Estimate> keep) {
        this.clocks = clocks;
        this.keep = keep;
    }

    /** Until when nobody had measured a recorder's clock, where that is not long ago. */
    public Optional<Instant> unmeasured(SystemId recorder, Instant now) {
        return clocks.firstMeasured(recorder).filter(first -> first.isAfter(now.minus(MATTERS)));
    }

    /** Takes in what a camera of a recorder says of some span. */
    public synchronized void take(SystemId recorder, Measured measured) {
        Optional<Instant> first = clocks.firstMeasured(recorder);
        if (measured.lag().isEmpty()
                || first.filter(f -> measured.to().isAfter(f)).isPresent()) {
            return;
        }
        List<Measured> all = told.computeIfAbsent(recorder, r -> new ArrayList<>());
        all.removeIf(m -> !m.from().equals(measured.from())
                || m.camera().equals(measured.camera()) && m.door().equals(measured.door()));
        all.add(measured);
        PictureLag.Lag lag = measured.lag().get();
        Instant at = measured.from()
                .plus(Duration.between(measured.from(), measured.to()).dividedBy(2));
        boolean within = clocks.estimate(recorder, at)
                .filter(e -> lag.lag().abs().compareTo(e.uncertainty()) <= 0)
                .isPresent();
        boolean agreed = all.stream()
                .filter(m -> !m.camera().equals(measured.camera()))
                .map(m -> m.lag().orElseThrow())
                .anyMatch(l -> l.low().compareTo(lag.high().plus(BLUR)) <= 0
                        && lag.low().compareTo(l.high().plus(BLUR)) <= 0);
        if (within || agreed) {
            Duration half = lag.high().minus(lag.low()).dividedBy(2).plus(BLUR);
            clocks.seen(recorder, at, lag.lag(), half).ifPresent(keep);
        }
    }
}
