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
 * past is kept for good, thinned to what differs. Between and beyond measurements the rate at which the clock was seen to drift
 * is taken to go on, and the uncertainty grows with the distance. Safe for use by several threads.
 */
public final class ClockBook {
    /** Parts of a million by which a clock may run wrong. */
    private static final double DRIFT = 200e-6;

    /** A quartz keeps its rate within so many parts of a million while the temperature of a room changes. */
    private static final double WANDER = 10e-6;
    /** A rate is measured over no longer than this, since it is not the same for ever. */
    private static final Duration RATE_SPAN = Duration.ofDays(2);

    private static final int MOST_FOR_RATE = 2_000;
    /** So near to a measurement the rate does not matter. */
    private static final Duration NEAR = Duration.ofMinutes(1);

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
            double age = Math.abs(nanos(Duration.between(at, later)));
            return new Estimate(system, later, ahead, uncertainty.plus(ofNanos(age * DRIFT)));
        }
    }

    private static final class Course {
        private Estimate newest;
        private final NavigableMap<Instant, Estimate> kept = new TreeMap<>();

        Optional<Estimate> before(Instant instant) {
            Optional<Estimate> last =
                    Optional.ofNullable(kept.floorEntry(instant)).map(Map.Entry::getValue);
            boolean newer = newest != null
                    && !newest.at().isAfter(instant)
                    && last.filter(l -> l.at().isAfter(newest.at())).isEmpty();
            return newer ? Optional.of(newest) : last;
        }

        Optional<Estimate> after(Instant instant) {
            Optional<Estimate> next =
                    Optional.ofNullable(kept.ceilingEntry(instant)).map(Map.Entry::getValue);
            boolean sooner = newest != null
                    && !newest.at().isBefore(instant)
                    && next.filter(n -> !n.at().isAfter(newest.at())).isEmpty();
            return sooner ? Optional.of(newest) : next;
        }

        /** What was measured before or after something, the nearest first. */
        List<Estimate> beyond(Estimate one, boolean later) {
            List<Estimate> all = new ArrayList<>();
            if (later) {
                kept.tailMap(one.at(), false).values().stream()
                        .limit(MOST_FOR_RATE)
                        .forEach(all::add);
                if (newest != null && newest.at().isAfter(one.at()) && all.size() < MOST_FOR_RATE) {
                    all.add(newest);
                }
            } else {
                kept.headMap(one.at(), false).descendingMap().values().stream()
                        .limit(MOST_FOR_RATE)
                        .forEach(all::add);
            }
            return all;
        }
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
            Estimate then = now.at(last.at());
            boolean better = then.uncertainty()
                            .multipliedBy(3)
                            .compareTo(last.uncertainty().multipliedBy(2))
                    < 0;
            return better ? kept(course, then) : Optional.empty();
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

    /**
     * What is known of a clock at an instant; nothing while nothing is. It follows from the measurement that lies nearest, with
     * the drift that was measured around it; the further away, the less sure it is.
     */
    public synchronized Optional<Estimate> estimate(SystemId system, Instant instant) {
        Course course = courses.get(system);
        if (course == null) {
            return Optional.empty();
        }
        Optional<Estimate> before = course.before(instant);
        Optional<Estimate> after = course.after(instant);
        if (before.isEmpty() && after.isEmpty()) {
            return Optional.empty();
        }
        if (before.isPresent()
                && after.isPresent()
                && before.get().at(after.get().at()).meets(after.get())) {
            return Optional.of(between(before.get(), after.get(), instant));
        }
        boolean later = before.isEmpty()
                || after.isPresent()
                        && Duration.between(instant, after.get().at())
                                        .compareTo(Duration.between(before.get().at(), instant))
                                < 0;
        Estimate nearest = (later ? after : before).orElseThrow();
        return Optional.of(
                Duration.between(nearest.at(), instant).abs().compareTo(NEAR) <= 0
                        ? nearest.at(instant)
                        : carried(nearest, course.beyond(nearest, later), instant));
    }

    /** What follows for an instant between two measurements of a clock that was not set meanwhile. */
    private static Estimate between(Estimate before, Estimate after, Instant instant) {
        double whole = nanos(Duration.between(before.at(), after.at()));
        double share = whole == 0 ? 0 : nanos(Duration.between(before.at(), instant)) / whole;
        double ahead = (1 - share) * nanos(before.ahead()) + share * nanos(after.ahead());
        double unsure = (1 - share) * nanos(before.uncertainty())
                + share * nanos(after.uncertainty())
                + WANDER * whole * Math.min(share, 1 - share);
        return new Estimate(before.system(), instant, ofNanos(ahead), ofNanos(unsure));
    }

    /**
     * What follows for an instant beyond a measurement.
     *
     * @param others measurements on the other side of it, the nearest first
     */
    private static Estimate carried(Estimate nearest, List<Estimate> others, Instant instant) {
        double least = -DRIFT;
        double most = DRIFT;
        Estimate last = nearest;
        for (Estimate other : others) {
            double apart = nanos(Duration.between(nearest.at(), other.at()));
            boolean wasSet = !last.at(other.at()).meets(other);
            if (wasSet || Math.abs(apart) > nanos(RATE_SPAN)) {
                break;
            }
            double seen = (nanos(other.ahead()) - nanos(nearest.ahead())) / apart;
            double around = (nanos(other.uncertainty()) + nanos(nearest.uncertainty())) / Math.abs(apart) + WANDER;
            if (seen + around >= least && seen - around <= most) {
                least = Math.max(least, seen - around);
                most = Math.min(most, seen + around);
            }
            last = other;
        }
        // A clock is taken to keep time as far as measurements allow that.
        double rate = Math.max(least, Math.min(most, 0));
        double unsure = Math.max(most - rate, rate - least);
        double away = nanos(Duration.between(nearest.at(), instant));
        return new Estimate(
                nearest.system(),
                instant,
                nearest.ahead().plus(ofNanos(away * rate)),
                nearest.uncertainty().plus(ofNanos(Math.abs(away) * unsure)));
    }

    /** In nanoseconds; a clock can be off by more than a whole number of them can say. */
    private static double nanos(Duration some) {
        return some.getSeconds() * 1e9 + some.getNano();
    }

    private static Duration ofNanos(double nanos) {
        long seconds = (long) Math.floor(nanos / 1e9);
        return Duration.ofSeconds(seconds, Math.round(nanos - seconds * 1e9));
    }

    /**
     * Takes in what pictures say of a clock at an instant at which nobody measured it: a door that is seen to open so much later
     * than its contact said so.
     *
     * @param later how much later, with the clock corrected by what is known here; negative if sooner
     * @param uncertainty the truth lies no further from that
     * @return what is to be kept for later runs; nothing where something was measured within the hour, or is known as well
     */
    public synchronized Optional<Estimate> seen(
            SystemId system, Instant instant, Duration later, Duration uncertainty) {
        Optional<Estimate> known = estimate(system, instant);
        if (known.isEmpty() || known.get().uncertainty().compareTo(uncertainty) <= 0) {
            return Optional.empty();
        }
        Course course = courses.get(system);
        if (!course.kept
                .subMap(instant.minus(KEEP_EVERY), true, instant.plus(KEEP_EVERY), true)
                .isEmpty()) {
            return Optional.empty();
        }
        return kept(course, new Estimate(system, instant, known.get().ahead().plus(later), uncertainty));
    }

    /** When a clock was first measured, by what is kept; nothing while it was not. */
    public synchronized Optional<Instant> firstMeasured(SystemId system) {
        return Optional.ofNullable(courses.get(system))
                .filter(c -> !c.kept.isEmpty())
                .map(c -> c.kept.firstKey());
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
