package org.custodia.core.alarm;

import java.time.Duration;
import java.time.Instant;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.event.Priority;

/**
 * After how long an alarm that nobody has seen calls louder, and who else is told then.
 *
 * @param version goes up by one with each change; 0 for the one that ships
 * @param steps by priority, in the order of their times, at most {@link #MOST_STEPS}; a priority that is not there waits
 */
public record Escalation(long version, Map<Priority, List<Step>> steps) {
    /** Often enough. */
    public static final int MOST_STEPS = 3;

    /** Nothing waits longer for its first step. */
    public static final Duration MOST_AFTER = Duration.ofHours(24);

    /** Two minutes for what is urgent, ten for what is to be seen to soon; what can wait, waits. */
    public static final Escalation USUAL = new Escalation(
            0,
            Map.of(
                    Priority.URGENT, every(Duration.ofMinutes(2)),
                    Priority.CAUTION, every(Duration.ofMinutes(10))));

    /**
     * One step.
     *
     * @param after since the alarm began to call; at most {@link #MOST_AFTER}
     * @param tells the ids of receivers, at most {@link Rule.Then#MOST_TOLD}
     */
    public record Step(Duration after, List<String> tells) {
        public Step {
            tells = tells.stream().distinct().toList();
            if (after.isNegative() || after.isZero() || after.compareTo(MOST_AFTER) > 0) {
                throw new IllegalArgumentException("a step comes after some time, and within a day");
            }
            if (tells.size() > Rule.Then.MOST_TOLD) {
                throw new IllegalArgumentException("a step has at most " + Rule.Then.MOST_TOLD + " told");
            }
            // An id is one wherever it stands.
            tells.forEach(t -> new Rule.Tell(Rule.At.START, t));
        }
    }

    public Escalation {
        steps = Map.copyOf(steps);
        if (!Set.copyOf(Rule.PRIORITIES).containsAll(steps.keySet())) {
            throw new IllegalArgumentException("an alarm is urgent, caution or low");
        }
        for (List<Step> some : steps.values()) {
            if (some.size() > MOST_STEPS) {
                throw new IllegalArgumentException("there are at most " + MOST_STEPS + " steps");
            }
            for (int i = 1; i < some.size(); i++) {
                if (some.get(i).after().compareTo(some.get(i - 1).after()) <= 0) {
                    throw new IllegalArgumentException("each step comes after the one before");
                }
            }
        }
    }

    private static List<Step> every(Duration time) {
        return List.of(
                new Step(time, List.of()),
                new Step(time.multipliedBy(2), List.of()),
                new Step(time.multipliedBy(3), List.of()));
    }

    /** The same in another version. */
    public Escalation version(long other) {
        return new Escalation(other, steps);
    }

    /** The steps of a priority; none for what waits. */
    public List<Step> of(Priority priority) {
        return steps.getOrDefault(priority, List.of());
    }

    /** How many steps an alarm has come to at an instant; none for one that somebody has seen. */
    int reached(Alarm alarm, Instant now) {
        if (alarm.state(now) != Alarm.State.NEW) {
            return 0;
        }
        Duration waited = Duration.between(alarm.call().since(), now);
        return (int) of(alarm.origin().priority()).stream()
                .filter(s -> s.after().compareTo(waited) <= 0)
                .count();
    }

    /** Whether others are told at the next step of an alarm. */
    public boolean nextTells(Alarm alarm) {
        List<Step> all = of(alarm.origin().priority());
        int steps = alarm.call().steps();
        if (steps >= all.size()) {
            return false;
        }
        Set<String> others = new HashSet<>(all.get(steps).tells());
        // Whoever was told already is not told again.
        all.subList(0, steps).forEach(s -> others.removeAll(s.tells()));
        return !others.isEmpty();
    }

    /** When an alarm goes on to the next step if nobody comes; nothing where it does not. */
    public Optional<Instant> next(Alarm alarm, Instant now) {
        List<Step> all = of(alarm.origin().priority());
        int steps = alarm.call().steps();
        if (alarm.state(now) != Alarm.State.NEW || steps >= all.size()) {
            return Optional.empty();
        }
        return Optional.of(alarm.call().since().plus(all.get(steps).after()));
    }
}
