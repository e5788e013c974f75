package org.custodia.core.alarm;

import java.time.Duration;
import java.time.Instant;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.event.Priority;

/**
 * After how long an alarm that nobody has seen calls louder, and others too; and again after as long again, up to
 * {@link #MOST_STEPS} times.
 *
 * @param after by priority; one that is not there never does
 */
public record Escalation(Map<Priority, Duration> after) {
    /** Often enough. */
    public static final int MOST_STEPS = 3;

    /** Two minutes for what is urgent, ten for what is to be seen to soon; what can wait, waits. */
    public static final Escalation USUAL =
            new Escalation(Map.of(Priority.URGENT, Duration.ofMinutes(2), Priority.CAUTION, Duration.ofMinutes(10)));

    public Escalation {
        after = Map.copyOf(after);
        if (after.values().stream().anyMatch(d -> d.isNegative() || d.isZero())) {
            throw new IllegalArgumentException("nobody comes in no time");
        }
    }

    /** How many steps an alarm has come to at an instant; none for one that somebody has seen. */
    int steps(Alarm alarm, Instant now) {
        Duration after = this.after.get(alarm.origin().priority());
        if (after == null || alarm.state(now) != Alarm.State.NEW) {
            return 0;
        }
        long steps = Duration.between(alarm.call().since(), now).dividedBy(after);
        return (int) Math.max(0, Math.min(MOST_STEPS, steps));
    }

    /** When an alarm goes on to the next step if nobody comes; nothing where it does not. */
    public Optional<Instant> next(Alarm alarm, Instant now) {
        Duration after = this.after.get(alarm.origin().priority());
        if (after == null || alarm.state(now) != Alarm.State.NEW || alarm.call().steps() >= MOST_STEPS) {
            return Optional.empty();
        }
        return Optional.of(
                alarm.call().since().plus(after.multipliedBy(alarm.call().steps() + 1L)));
    }
}
