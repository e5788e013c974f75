package org.custodia.core.alarm;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.DoubleConsumer;
import java.util.stream.Collectors;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;

/**
 * What rules would have called for in a span that is past. It is counted as if each alarm had been finished as soon as its
 * condition had ended, or {@link #FINISHED_AFTER} after it happened last; until then what happens again joins it. Events are
 * taken in the order in which they happened, what came late included, as if it had come in time.
 *
 * @param called the alarms, in order of time; at most {@link #MOST_KEPT}
 * @param total how many there were
 * @param worst when the ten minutes with the most began; nothing if there was none
 * @param worstTen how many began in those ten minutes
 * @param places how many there were about what, the most first
 * @param events how many events were looked at
 */
public record RuleTrial(
        Instant from,
        Instant to,
        List<Called> called,
        int total,
        Optional<Instant> worst,
        int worstTen,
        Map<Subject, Integer> places,
        long events) {
    /** What is over as soon as it happened is taken to be finished so long after it happened last. */
    public static final Duration FINISHED_AFTER = Duration.ofMinutes(30);

    /** Alarms of one trial that are kept. */
    public static final int MOST_KEPT = 5_000;

    /** A rule that calls more often a day is none that a person can bear. */
    public static final int MOST_A_DAY = 500;

    private static final int PAGE = 5_000;
    private static final Duration TEN = Duration.ofMinutes(10);

    /** How far before the span reading begins, so that what is counted or stands open at its beginning is known. */
    private static final Duration BEFORE = Duration.ofHours(2);

    public RuleTrial {
        called = List.copyOf(called);
    }

    /**
     * An alarm that there would have been.
     *
     * @param cause the event that would have raised it
     * @param at when that happened
     * @param times how often it would have happened before it was finished
     */
    public record Called(String rule, Subject subject, EventKey cause, Instant at, int times) {}

    /** How many there were in a day on average. */
    public double aDay() {
        double days = Math.max(
                1e-9,
                Duration.between(from, to).toMillis()
                        / (double) Duration.ofDays(1).toMillis());
        return total / Math.max(1, days);
    }

    /** How many there were in ten minutes on average. */
    public double perTen() {
        return total / Math.max(1, Duration.between(from, to).toMillis() / (double) TEN.toMillis());
    }

    /**
     * Goes through a span.
     *
     * @param told how far it has come, 0 to 1
     * @throws java.util.concurrent.CancellationException if it was taken back
     * @throws org.custodia.core.event.EventLogException if the log cannot be read
     */
    static RuleTrial of(
            List<Rule> rules,
            Instant from,
            Instant to,
            EventLog log,
            Known known,
            DoubleConsumer told,
            Cancellation cancellation) {
        Detector detector =
                new Detector(rules.stream().map(RuleTimeline::always).toList(), known, History.inTime(log));
        Run run = new Run(detector, from);
        Set<EventKind> kinds =
                Kinds.all().stream().filter(run.detector::looksAt).collect(Collectors.toCollection(HashSet::new));
        // Kinds of the site's own are not among those that are known here.
        rules.forEach(r -> kinds.addAll(r.looksAt()));
        Instant begin = from.minus(BEFORE);
        EventQuery page = EventQuery.all().between(begin, to).kinds(kinds).oldest(PAGE);
        double whole = Math.max(1, Duration.between(begin, to).toMillis());
        while (true) {
            List<Event> events = log.find(page, cancellation);
            events.forEach(run::take);
            if (events.size() < PAGE) {
                run.found(run.detector.tick(to));
                told.accept(1);
                return run.result(to);
            }
            Event last = events.get(events.size() - 1);
            told.accept(Duration.between(begin, last.time()).toMillis() / whole);
            page = page.after(last);
        }
    }

    /** One going through. */
    private static final class Run {
        private final Detector detector;
        private final Instant from;
        private final Map<Topic, Open> open = new HashMap<>();
        private final List<Called> called = new ArrayList<>();
        private final List<Instant> times = new ArrayList<>();
        private final Map<Subject, Integer> places = new HashMap<>();
        private long events;

        Run(Detector detector, Instant from) {
            this.detector = detector;
            this.from = from;
        }

        /** One that is not finished. */
        private static final class Open {
            private Instant latest;
            private boolean lasts;
            /** Where it stands among those that are kept; -1 where it is not. */
            private int index;
        }

        void take(Event event) {
            if (!event.time().isBefore(from)) {
                events++;
            }
            found(detector.tick(event.time()));
            found(detector.take(event));
        }

        void found(List<Detector.Finding> findings) {
            for (Detector.Finding finding : findings) {
                if (finding instanceof Detector.Raised raised) {
                    raised(raised.topic(), raised);
                } else if (finding instanceof Detector.Ended) {
                    open.keySet()
                            .removeIf(t -> t.rule().equals(finding.rule().id())
                                    && t.place().equals(Optional.of(finding.subject())));
                }
            }
        }

        private void raised(Topic topic, Detector.Raised raised) {
            Open before = open.get(topic);
            boolean joins = before != null
                    && (before.lasts
                            || Duration.between(before.latest, raised.at()).compareTo(FINISHED_AFTER) < 0);
            if (joins) {
                before.latest = raised.at().isAfter(before.latest) ? raised.at() : before.latest;
                if (before.index >= 0) {
                    Called c = called.get(before.index);
                    called.set(before.index, new Called(c.rule(), c.subject(), c.cause(), c.at(), c.times() + 1));
                }
                return;
            }
            Open now = new Open();
            now.latest = raised.at();
            now.lasts = !raised.rule().endedBy().isEmpty();
            now.index = -1;
            open.put(topic, now);
            if (raised.at().isBefore(from)) {
                return;
            }
            times.add(raised.at());
            places.merge(raised.subject(), 1, Integer::sum);
            if (called.size() < MOST_KEPT) {
                now.index = called.size();
                called.add(new Called(
                        raised.rule().id(), raised.subject(), raised.cause().key(), raised.at(), 1));
            }
        }

        RuleTrial result(Instant to) {
            times.sort(Comparator.naturalOrder());
            int most = 0;
            Optional<Instant> worst = Optional.empty();
            int first = 0;
            for (int i = 0; i < times.size(); i++) {
                while (!times.get(first).plus(TEN).isAfter(times.get(i))) {
                    first++;
                }
                if (i - first + 1 > most) {
                    most = i - first + 1;
                    worst = Optional.of(times.get(first));
                }
            }
            called.sort(Comparator.comparing(Called::at));
            Map<Subject, Integer> sorted = new LinkedHashMap<>();
            places.entrySet().stream()
                    .sorted(Map.Entry.<Subject, Integer>comparingByValue()
                            .reversed()
                            .thenComparing(e -> e.getKey().toString()))
                    .forEach(e -> sorted.put(e.getKey(), e.getValue()));
            return new RuleTrial(from, to, called, times.size(), worst, most, sorted, events);
        }
    }
}
