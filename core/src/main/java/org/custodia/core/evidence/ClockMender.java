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
 * Corrects a recorder's clock for the time before its first measurement, by the lag between door contacts and pictures. A single
 * camera can be late by itself, so two cameras have to agree. Safe for use by several threads.
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
     * @param keep saves the correction for later runs
     */
    public ClockMender(ClockBook clocks, Consumer<Estimate> keep) {
        this.clocks = clocks;
        this.keep = keep;
    }

    /** The first measurement of a recorder's clock; empty if there is none, or if it was long ago. */
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
        boolean agreed = all.stream()
                .filter(m -> !m.camera().equals(measured.camera()))
                .map(m -> m.lag().orElseThrow())
                .anyMatch(l -> l.low().compareTo(lag.high().plus(BLUR)) <= 0
                        && lag.low().compareTo(l.high().plus(BLUR)) <= 0);
        if (agreed) {
            Duration half = lag.high().minus(lag.low()).dividedBy(2).plus(BLUR);
            clocks.seen(recorder, at, lag.lag(), half).ifPresent(keep);
        }
    }
}
