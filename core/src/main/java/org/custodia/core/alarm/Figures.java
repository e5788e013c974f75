package org.custodia.core.alarm;

import java.time.Duration;
import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.TreeMap;

/**
 * How much operators were called in a span, and how soon they came. What a person can bear is after EEMUA 191: about one alarm
 * in ten minutes on average, and at most ten in the worst ten.
 *
 * @param raised alarms that were raised in the span
 * @param seen how long it took until half of those that were seen were
 * @param perTen alarms in ten minutes, on average
 * @param worstTen in the worst of the ten minutes that the span is cut into
 */
public record Figures(int raised, Optional<Duration> seen, double perTen, int worstTen) {
    /** More than this in ten minutes nobody sees to. */
    public static final int MOST_IN_TEN = 10;
    /** More than this on average wears people out. */
    public static final double BEARABLE = 1;
    /** And more than this is too much for one. */
    public static final double MANAGEABLE = 2;

    private static final Duration TEN = Duration.ofMinutes(10);

    /** Of those of some alarms that were raised in a span, its end not included. */
    public static Figures of(Collection<Alarm> alarms, Instant from, Instant to) {
        List<Alarm> then = alarms.stream()
                .filter(a -> !a.origin().raised().isBefore(from)
                        && a.origin().raised().isBefore(to))
                .toList();
        TreeMap<Long, Integer> tens = new TreeMap<>();
        then.forEach(a -> tens.merge(Duration.between(from, a.origin().raised()).dividedBy(TEN), 1, Integer::sum));
        List<Duration> seen = then.stream()
                .flatMap(a -> a.acknowledged().stream()
                        .map(by -> Duration.between(a.origin().raised(), by.when())))
                .map(d -> d.isNegative() ? Duration.ZERO : d)
                .sorted()
                .toList();
        double spans = Math.max(1, Duration.between(from, to).toMillis() / (double) TEN.toMillis());
        return new Figures(
                then.size(),
                seen.isEmpty() ? Optional.empty() : Optional.of(seen.get((seen.size() - 1) / 2)),
                then.size() / spans,
                tens.values().stream().mapToInt(Integer::intValue).max().orElse(0));
    }
}
