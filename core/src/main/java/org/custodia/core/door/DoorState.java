package org.custodia.core.door;

import java.time.Instant;
import java.util.Optional;

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

    DoorState withPosition(Position value, Instant since) {
        boolean open = value == Position.OPEN;
        return new DoorState(
                value,
                Optional.ofNullable(since),
                lock,
                lockBy,
                lockUntil,
                next,
                open ? forcedSince : Optional.empty(),
                open ? heldSince : Optional.empty(),
                outOfReachSince,
                readerOff);
    }

    DoorState withLock(LockMode mode, Optional<String> by, Optional<Instant> until, Optional<Next> after) {
        return new DoorState(
                position, positionSince, mode, by, until, after, forcedSince, heldSince, outOfReachSince, readerOff);
    }

    DoorState withForced(Instant since) {
        return new DoorState(
                position,
                positionSince,
                lock,
                lockBy,
                lockUntil,
                next,
                Optional.ofNullable(since),
                heldSince,
                outOfReachSince,
                readerOff);
    }

    DoorState withHeld(Instant since) {
        return new DoorState(
                position,
                positionSince,
                lock,
                lockBy,
                lockUntil,
                next,
                forcedSince,
                Optional.ofNullable(since),
                outOfReachSince,
                readerOff);
    }

    DoorState withReach(Instant lostSince) {
        return new DoorState(
                position,
                positionSince,
                lock,
                lockBy,
                lockUntil,
                next,
                forcedSince,
                heldSince,
                Optional.ofNullable(lostSince),
                readerOff);
    }

    DoorState withReaderOff(boolean off) {
        return new DoorState(
                position, positionSince, lock, lockBy, lockUntil, next, forcedSince, heldSince, outOfReachSince, off);
    }
}
