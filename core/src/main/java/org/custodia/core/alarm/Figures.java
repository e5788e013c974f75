package org.custodia.core.alarm;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.EnumMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.function.Function;
import java.util.stream.Collectors;

/**
 * How much operators were called in a span, and how soon they came. What a person can bear is after EEMUA 191 and ISA-18.2:
 * about one alarm in ten minutes on average, at most ten in the worst ten; a flood begins with more than ten in ten minutes
 * and ends with fewer than five.
 *
 * @param raised alarms that were raised in the span
 * @param calls how often alarms called in the span: once when raised, and again each time an acknowledged alarm returned
 * @param seen median time from a call to its acknowledgement
 * @param seenMost 90th percentile of the same
 * @param finished how long it took until half of those that were finished were
 * @param finishedMost how long it took until nine in ten of them were
 * @param perTen calls in ten minutes, on average
 * @param worstTen in the worst of the ten minutes that the span is cut into
 * @param tens how many there were in each of those that had any, by number from the beginning
 * @param places how many there were about what, the most first
 * @param outcomes what they turned out to be; those that are not finished are left out
 * @param chattering what happened so often about one thing that it is a nuisance, the most first: more than
 *     {@link #CHATTERING} times on average in an alarm
 * @param floods the floods, in order of time
 */
public record Figures(
        int raised,
        int calls,
        Optional<Duration> seen,
        Optional<Duration> seenMost,
        Optional<Duration> finished,
        Optional<Duration> finishedMost,
        double perTen,
        int worstTen,
        Map<Long, Integer> tens,
        Map<Subject, Integer> places,
        Map<Outcome, Integer> outcomes,
        Map<Subject, Integer> chattering,
        List<Flood> floods) {
    /** More than this in ten minutes nobody sees to. */
    public static final int MOST_IN_TEN = 10;
    /** A flood is over with fewer than this in ten minutes. */
    public static final int FLOOD_OVER = 5;
    /** More than this on average wears people out. */
    public static final double BEARABLE = 1;
    /** And more than this is too much for one. */
    public static final double MANAGEABLE = 2;
    /** What happens more often than this while its alarm is open chatters. */
    public static final int CHATTERING = 3;

    /** What the span is cut into. */
    public static final Duration TEN = Duration.ofMinutes(10);

    /** None at all. */
    public static final Figures NONE = of(List.of(), Instant.EPOCH, Instant.EPOCH.plus(TEN));

    /**
     * Too many at once.
     *
     * @param alarms how many calls there were in it
     */
    public record Flood(Instant from, Instant to, int alarms) {}

    /** Of those of some alarms that were raised in a span, its end not included. */
    public static Figures of(Collection<Alarm> alarms, Instant from, Instant to) {
        List<Alarm> then = alarms.stream()
                .filter(a -> !a.origin().raised().isBefore(from)
                        && a.origin().raised().isBefore(to))
                .toList();
        TreeMap<Long, Integer> tens = new TreeMap<>();
        List<Instant> calls = alarms.stream()
                .flatMap(a -> a.calls().stream())
                .filter(t -> !t.isBefore(from) && t.isBefore(to))
                .sorted()
                .toList();
        calls.forEach(t -> tens.merge(Duration.between(from, t).dividedBy(TEN), 1, Integer::sum));
        List<Duration> seen = alarms.stream()
                .flatMap(a -> a.answers().stream())
                .filter(c -> !c.since().isBefore(from) && c.since().isBefore(to))
                .map(Alarm.Answer::waited)
                .sorted()
                .toList();
        List<Duration> finished = times(then, a -> a.finished().map(f -> f.by().when()));
        double spans = Math.max(1, Duration.between(from, to).toMillis() / (double) TEN.toMillis());
        Map<Outcome, Integer> outcomes = new EnumMap<>(Outcome.class);
        then.forEach(a -> a.finished().ifPresent(f -> outcomes.merge(f.outcome(), 1, Integer::sum)));
        return new Figures(
                then.size(),
                calls.size(),
                share(seen, 0.5),
                share(seen, 0.9),
                share(finished, 0.5),
                share(finished, 0.9),
                calls.size() / spans,
                tens.values().stream().mapToInt(Integer::intValue).max().orElse(0),
                tens,
                most(then.stream().collect(Collectors.toMap(a -> a.origin().subject(), a -> 1, Integer::sum))),
                outcomes,
                most(then.stream()
                        .filter(a -> a.times() > CHATTERING)
                        .collect(Collectors.toMap(a -> a.origin().subject(), Alarm::times, Integer::sum))),
                floods(calls));
    }

    private static List<Duration> times(List<Alarm> alarms, Function<Alarm, Optional<Instant>> until) {
        return alarms.stream()
                .flatMap(
                        a -> until.apply(a).map(t -> Duration.between(a.origin().raised(), t)).stream())
                .map(d -> d.isNegative() ? Duration.ZERO : d)
                .sorted()
                .toList();
    }

    /** How long it took until a share of them were done: the smallest time that so many did not exceed. */
    private static Optional<Duration> share(List<Duration> sorted, double share) {
        return sorted.isEmpty()
                ? Optional.empty()
                : Optional.of(sorted.get((int) Math.ceil(share * sorted.size()) - 1));
    }

    private static <K> Map<K, Integer> most(Map<K, Integer> counts) {
        Map<K, Integer> sorted = new LinkedHashMap<>();
        counts.entrySet().stream()
                .sorted(Map.Entry.<K, Integer>comparingByValue().reversed().thenComparing(e -> e.getKey()
                        .toString()))
                .forEach(e -> sorted.put(e.getKey(), e.getValue()));
        return sorted;
    }

    private static List<Flood> floods(List<Instant> times) {
        List<Flood> floods = new ArrayList<>();
        int first = 0;
        int begun = -1;
        for (int i = 0; i < times.size(); i++) {
            while (!times.get(first).plus(TEN).isAfter(times.get(i))) {
                first++;
            }
            int there = i - first + 1;
            if (begun < 0 && there > MOST_IN_TEN) {
                begun = first;
            } else if (begun >= 0 && there < FLOOD_OVER) {
                floods.add(flood(times, begun, i - 1));
                begun = -1;
            }
        }
        if (begun >= 0) {
            floods.add(flood(times, begun, times.size() - 1));
        }
        return floods;
    }

    private static Flood flood(List<Instant> times, int from, int to) {
        return new Flood(times.get(from), times.get(to), to - from + 1);
    }
}
