package org.custodia.core.footage;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.NavigableMap;
import java.util.Optional;
import java.util.TreeMap;
import java.util.function.Consumer;
import org.custodia.core.site.SystemId;

/**
 * How far each system's clock is ahead of ours, now and in the past. A measurement is the system's time less the middle of
 * the round trip that asked for it; the truth lies within half that round trip (RFC 5905, section 8, for any path).
 * Measurements are put together by cutting their ranges with each other (Marzullo's algorithm in its simplest form), each
 * range widening with age by what a clock can drift; two that do not meet mean that the clock was set in between. What is
 * past is kept for good, thinned to what differs. Safe for use by several threads.
 */
public final class ClockBook {
    /** Parts of a million by which a clock may run wrong. */
    private static final double DRIFT = 200e-6;

    private static final Duration GRAIN = Duration.ofMillis(1);
    /** What differs by less from what is kept is not kept. */
    private static final Duration DIFFERENT = Duration.ofMillis(15);
    /** Something is kept so often even if nothing differs. */
    private static final Duration KEEP_EVERY = Duration.ofHours(1);
    /** A better estimate so soon after one that is kept takes its place. */
    private static final Duration SOON = Duration.ofMinutes(2);
    /** A message that tells the time is not longer on its way than this, as a rule. */
    private static final Duration ON_ITS_WAY = Duration.ofMillis(1_500);

    private final Map<SystemId, Course> courses = new HashMap<>();
    private volatile Consumer<Estimate> measured = estimate -> {};

    /**
     * One measurement.
     *
     * @param at our time in the middle of the round trip
     * @param ahead by how much the system's clock was ahead; negative when behind
     * @param roundTrip how long the question took: the measurement is off by at most half of it
     */
    public record Reading(SystemId system, Instant at, Duration ahead, Duration roundTrip) {}

    /**
     * What follows from measurements.
     *
     * @param at our time for which it holds
     * @param ahead by how much the system's clock was ahead; negative when behind
     * @param uncertainty the truth lies no further from that
     */
    public record Estimate(SystemId system, Instant at, Duration ahead, Duration uncertainty) {
        private boolean meets(Estimate other) {
            Duration apart = ahead.minus(other.ahead).abs();
            return apart.compareTo(uncertainty.plus(other.uncertainty)) <= 0;
        }

        /** The same at a later time, when it is less sure. */
        Estimate at(Instant later) {
            long age = Math.abs(Duration.between(at, later).toNanos());
            return new Estimate(system, later, ahead, uncertainty.plusNanos(Math.round(age * DRIFT)));
        }
    }

    private static final class Course {
        private Estimate newest;
        private final NavigableMap<Instant, Estimate> kept = new TreeMap<>();
    }

    /** A measurement from the instants it was asked, answered and returned. */
    public static Reading measure(SystemId system, Instant asked, Instant systemTime, Instant returned) {
        Duration roundTrip = Duration.between(asked, returned);
        Instant middle = asked.plus(roundTrip.dividedBy(2));
        return new Reading(system, middle, Duration.between(middle, systemTime), roundTrip);
    }

    /**
     * Takes a measurement in.
     *
     * @return what is to be kept for later runs, under its instant, in place of what may have been kept there; nothing if
     *     what is kept says it already
     */
    public Optional<Estimate> add(Reading reading) {
        Optional<Estimate> toKeep;
        Estimate now;
        synchronized (this) {
            toKeep = take(reading);
            now = courses.get(reading.system()).newest;
        }
        measured.accept(now);
        return toKeep;
    }

    /**
     * Tells of each measurement what is known after it, on the thread that measured.
     *
     * @param told must return quickly
     */
    public void onMeasured(Consumer<Estimate> told) {
        measured = told;
    }

    /** What was known of a clock in a span, oldest first, with the newest that there is at its end. */
    public synchronized List<Estimate> course(SystemId system, Instant from, Instant to) {
        Course course = courses.get(system);
        if (course == null) {
            return List.of();
        }
        List<Estimate> all =
                new ArrayList<>(course.kept.subMap(from, true, to, true).values());
        Estimate newest = course.newest;
        boolean later = newest != null
                && !newest.at().isBefore(from)
                && !newest.at().isAfter(to)
                && (all.isEmpty() || newest.at().isAfter(all.get(all.size() - 1).at()));
        if (later) {
            all.add(newest);
        }
        return all;
    }

    private Optional<Estimate> take(Reading reading) {
        Course course = courses.computeIfAbsent(reading.system(), s -> new Course());
        Duration half = reading.roundTrip().abs().dividedBy(2).plus(GRAIN);
        Estimate measured = new Estimate(reading.system(), reading.at(), reading.ahead(), half);
        Estimate before = course.newest == null ? null : course.newest.at(reading.at());
        course.newest = before != null && before.meets(measured) ? cut(before, measured) : measured;
        return keep(course);
    }

    private static Estimate cut(Estimate a, Estimate b) {
        Duration low = later(a.ahead().minus(a.uncertainty()), b.ahead().minus(b.uncertainty()));
        Duration high = earlier(a.ahead().plus(a.uncertainty()), b.ahead().plus(b.uncertainty()));
        Duration half = high.minus(low).dividedBy(2);
        return new Estimate(b.system(), b.at(), low.plus(half), half.compareTo(GRAIN) < 0 ? GRAIN : half);
    }

    private static Duration later(Duration a, Duration b) {
        return a.compareTo(b) >= 0 ? a : b;
    }

    private static Duration earlier(Duration a, Duration b) {
        return a.compareTo(b) <= 0 ? a : b;
    }

    private static Optional<Estimate> keep(Course course) {
        Estimate now = course.newest;
        Estimate last = course.kept.isEmpty() ? null : course.kept.lastEntry().getValue();
        if (last == null) {
            return kept(course, now);
        }
        Duration age = Duration.between(last.at(), now.at());
        if (age.compareTo(SOON) < 0 && last.meets(now)) {
            boolean better = now.uncertainty()
                            .multipliedBy(3)
                            .compareTo(last.uncertainty().multipliedBy(2))
                    < 0;
            return better
                    ? kept(course, new Estimate(now.system(), last.at(), now.ahead(), now.uncertainty()))
                    : Optional.empty();
        }
        boolean different = now.ahead().minus(last.ahead()).abs().compareTo(DIFFERENT) > 0;
        return different || age.compareTo(KEEP_EVERY) >= 0 ? kept(course, now) : Optional.empty();
    }

    private static Optional<Estimate> kept(Course course, Estimate estimate) {
        course.kept.put(estimate.at(), estimate);
        return Optional.of(estimate);
    }

    /** Takes in what an earlier run kept. */
    public synchronized void restore(Estimate estimate) {
        courses.computeIfAbsent(estimate.system(), s -> new Course()).kept.put(estimate.at(), estimate);
    }

    /** What is known of a clock at an instant, from what lies nearest in time; nothing while nothing is. */
    public synchronized Optional<Estimate> estimate(SystemId system, Instant instant) {
        Course course = courses.get(system);
        if (course == null) {
            return Optional.empty();
        }
        Estimate nearest = course.newest;
        nearest = nearer(course.kept.floorEntry(instant), nearest, instant);
        nearest = nearer(course.kept.ceilingEntry(instant), nearest, instant);
        return Optional.ofNullable(nearest);
    }

    private static Estimate nearer(Map.Entry<Instant, Estimate> entry, Estimate known, Instant to) {
        return entry != null && (known == null || nearer(entry.getValue(), known, to)) ? entry.getValue() : known;
    }

    private static boolean nearer(Estimate a, Estimate b, Instant to) {
        return Duration.between(a.at(), to)
                        .abs()
                        .compareTo(Duration.between(b.at(), to).abs())
                < 0;
    }

    /** How far a system was ahead at an instant of our time; zero while nothing is known. */
    public Duration ahead(SystemId system, Instant instant) {
        return estimate(system, instant).map(Estimate::ahead).orElse(Duration.ZERO);
    }

    /** How far a system was ahead when its own clock showed something; zero while nothing is known. */
    public Duration aheadWhenItShowed(SystemId system, Instant shown) {
        Duration guess = ahead(system, shown);
        return guess.isZero() ? guess : ahead(system, shown.minus(guess));
    }

    /**
     * Whether a time that a system tells in passing contradicts what is known of its clock: it must have been set, and is to
     * be measured anew.
     *
     * @param received when the message arrived
     * @param shown the time that it tells
     */
    public synchronized boolean contradicts(SystemId system, Instant received, Instant shown) {
        Course course = courses.get(system);
        if (course == null || course.newest == null) {
            return true;
        }
        Estimate now = course.newest.at(received);
        Duration least = Duration.between(received, shown);
        return now.ahead().plus(now.uncertainty()).plus(GRAIN).compareTo(least) < 0
                || now.ahead().minus(now.uncertainty()).compareTo(least.plus(ON_ITS_WAY)) > 0;
    }

    /** The newest estimate of each system that was measured in this run, in order of name. */
    public synchronized Map<SystemId, Estimate> newest() {
        Map<SystemId, Estimate> result = new TreeMap<>(Comparator.comparing(SystemId::value));
        courses.forEach((system, course) -> {
            if (course.newest != null) {
                result.put(system, course.newest);
            }
        });
        return result;
    }
}
