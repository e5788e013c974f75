package org.custodia.core.door;

import java.time.Duration;
import java.time.Instant;
import java.util.Optional;
import org.custodia.core.event.Priority;

/**
 * Everything that is known of a door at one instant.
 *
 * @param position whether the leaf is open; never known for a door without contact
 * @param positionSince since when, where known
 * @param lock how the lock stands
 * @param lockBy what made it so: {@code timetable}, {@code command}, or the system's own word; empty while not known
 * @param lockUntil until when the controller holds it so
 * @param next what the controller will do next by itself
 * @param forcedSince since when it is open without anything that allowed it
 * @param heldSince since when it is open for longer than its limit
 * @param outOfReachSince since when nothing can be heard from it
 * @param readerOff whether its reader is switched off
 */
public record DoorState(
        Position position,
        Optional<Instant> positionSince,
        LockMode lock,
        Optional<String> lockBy,
        Optional<Instant> lockUntil,
        Optional<Next> next,
        Optional<Instant> forcedSince,
        Optional<Instant> heldSince,
        Optional<Instant> outOfReachSince,
        boolean readerOff) {

    /** Whether the leaf is open. */
    public enum Position {
        OPEN,
        CLOSED,
        UNKNOWN
    }

    /** A change that will come by itself. */
    public record Next(LockMode lock, Instant at) {}

    /** Nothing known. */
    public static final DoorState UNKNOWN = new DoorState(
            Position.UNKNOWN,
            Optional.empty(),
            LockMode.UNKNOWN,
            Optional.empty(),
            Optional.empty(),
            Optional.empty(),
            Optional.empty(),
            Optional.empty(),
            Optional.empty(),
            false);

    public boolean open() {
        return position == Position.OPEN;
    }

    /** How much it needs somebody: urgently while it is forced, soon while it is held open. */
    public Priority priority() {
        if (forcedSince.isPresent()) {
            return Priority.URGENT;
        }
        return heldSince.isPresent() ? Priority.CAUTION : Priority.NONE;
    }

    /** Since when it needs somebody; nothing if it does not. */
    public Optional<Instant> needsSince() {
        return forcedSince.or(() -> heldSince);
    }

    /** Two times that mean the same lie no further apart: clocks are measured, and not exactly. */
    private static final Duration SAME = Duration.ofSeconds(2);

    /** Whether another state says the same, but for what may differ because times are measured. */
    boolean says(DoorState other) {
        return position == other.position
                && lock == other.lock
                && lockBy.equals(other.lockBy)
                && same(lockUntil, other.lockUntil)
                && same(next.map(Next::at), other.next.map(Next::at))
                && next.map(Next::lock).equals(other.next.map(Next::lock))
                && same(forcedSince, other.forcedSince)
                && same(heldSince, other.heldSince)
                && same(outOfReachSince, other.outOfReachSince)
                && readerOff == other.readerOff;
    }

    private static boolean same(Optional<Instant> a, Optional<Instant> b) {
        return a.isPresent() == b.isPresent()
                && (a.isEmpty() || Duration.between(a.get(), b.get()).abs().compareTo(SAME) < 0);
    }
}
