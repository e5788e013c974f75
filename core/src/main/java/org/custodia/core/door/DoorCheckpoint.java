package org.custodia.core.door;

import java.time.Instant;
import java.util.Optional;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SystemId;

/**
 * All that is known of a door after one of its events, so that nothing before it need be read again. It holds as long as
 * nothing becomes known that happened before it.
 *
 * @param controller whose loss concerns the door
 * @param time of the event, which is included
 * @param key of the event
 * @param shape what of the door's own description it depends on; where that has changed it is of no use
 * @param course what is known, as {@link DoorCourse} writes it
 */
public record DoorCheckpoint(
        DoorId door,
        SystemId system,
        ControllerId controller,
        Instant time,
        EventKey key,
        String shape,
        String course) {

    static DoorCheckpoint after(Door door, DoorFact fact, DoorCourse course) {
        return new DoorCheckpoint(
                door.id(), door.system(), door.controller(), fact.time(), fact.key(), shape(door), course.write());
    }

    private static String shape(Door door) {
        return door.system() + " " + door.controller() + " "
                + door.capabilities().stream().map(Enum::name).sorted().toList();
    }

    /** Whether the same events say the same of both: names and places play no part. */
    static boolean alike(Door one, Door other) {
        return shape(one).equals(shape(other)) && one.heldLimit().equals(other.heldLimit());
    }

    /** The course from which to go on; nothing if the door is not what it was, or this cannot be read. */
    Optional<DoorCourse> courseOf(Door of) {
        return shape.equals(shape(of)) ? DoorCourse.read(of, course) : Optional.empty();
    }

    /** The event as something that others come before and after. */
    DoorFact floor() {
        return DoorFact.place(time, key);
    }

    /**
     * Which checkpoints an event takes the ground from, if it comes after they were made: those that are not before it, of
     * one door, of all doors of a controller, or of all doors of a system.
     */
    public record Touched(
            Optional<DoorId> door, Optional<ControllerId> controller, Optional<String> system, Instant time) {

        /** What an event touches; nothing if doors do not depend on it. */
        public static Optional<Touched> by(Event event) {
            if (DoorFact.ofALink().contains(event.kind())) {
                return event.detail("system")
                        .map(s -> new Touched(Optional.empty(), Optional.empty(), Optional.of(s), event.time()));
            }
            if (DoorFact.ofAController().contains(event.kind())
                    && event.controller().isPresent()) {
                return Optional.of(new Touched(Optional.empty(), event.controller(), Optional.empty(), event.time()));
            }
            return event.door().map(d -> new Touched(Optional.of(d), Optional.empty(), Optional.empty(), event.time()));
        }

        /** Whether a checkpoint is one of those. */
        public boolean touches(DoorCheckpoint checkpoint) {
            return !checkpoint.time().isBefore(time)
                    && door.map(checkpoint.door()::equals).orElse(true)
                    && controller.map(checkpoint.controller()::equals).orElse(true)
                    && system.map(checkpoint.system().value()::equals).orElse(true);
        }
    }
}
