package org.custodia.bench;

import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Locale;

/** Durations in milliseconds and their percentiles (nearest rank). */
final class Samples {
    private final List<Double> values = new ArrayList<>();

    synchronized void add(double millis) {
        values.add(millis);
    }

    synchronized int count() {
        return values.size();
    }

    synchronized double percentile(double share) {
        List<Double> sorted = new ArrayList<>(values);
        Collections.sort(sorted);
        int rank = (int) Math.ceil(share / 100 * sorted.size());
        return sorted.isEmpty() ? Double.NaN : sorted.get(Math.max(0, rank - 1));
    }

    @Override
    public String toString() {
        return String.format(
                Locale.ROOT,
                "n=%d  median %.0f ms  p95 %.0f ms  p99 %.0f ms  longest %.0f ms",
                count(),
                percentile(50),
                percentile(95),
                percentile(99),
                percentile(100));
    }
}
