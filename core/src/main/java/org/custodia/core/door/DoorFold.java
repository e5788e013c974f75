package org.custodia.core.door;

import java.time.Instant;
import java.time.format.DateTimeParseException;
import java.util.Optional;
import org.custodia.core.door.DoorState.Next;
import org.custodia.core.door.DoorState.Position;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;

/** How one event changes what is known of a door. Pure: the same state and event always give the same state. */
final class DoorFold {
    private DoorFold() {}

    /** Whether an event can matter to a door's state or to what became of a grant. */
    static boolean concerns(EventKind kind) {
        return kind.equals(Kinds.OPENED)
                || kind.equals(Kinds.CLOSED)
                || kind.equals(Kinds.FORCED)
                || kind.equals(Kinds.HELD)
                || kind.equals(Kinds.MODE)
                || kind.equals(Kinds.REPORT)
                || kind.equals(Kinds.READER_OFF)
                || kind.equals(Kinds.READER_ON)
                || kind.equals(Kinds.CONTROLLER_LOST)
                || kind.equals(Kinds.CONTROLLER_BACK)
                || kind.equals(Kinds.LINK_LOST)
                || kind.equals(Kinds.LINK_BACK)
                || kind.equals(Kinds.GRANTED)
                || kind.equals(Kinds.RELEASED)
                || kind.equals(Kinds.EXIT_REQUESTED);
    }

    static DoorState apply(DoorState state, Event event, Door door) {
        EventKind kind = event.kind();
        boolean contact = door.can(DoorCapability.CONTACT);
        if (kind.equals(Kinds.OPENED)) {
            return contact ? opened(state, event) : state;
        }
        if (kind.equals(Kinds.CLOSED)) {
            return contact ? state.withPosition(Position.CLOSED, event.time()) : state;
        }
        if (kind.equals(Kinds.FORCED)) {
            DoorState open = contact ? opened(state, event) : state;
            return open.withForced(open.forcedSince().orElse(event.time()));
        }
        if (kind.equals(Kinds.HELD)) {
            DoorState open = contact ? opened(state, event) : state;
            return open.withHeld(open.heldSince().orElse(event.time()));
        }
        if (kind.equals(Kinds.MODE)) {
            return lock(state, event);
        }
        if (kind.equals(Kinds.REPORT)) {
            return report(state, event, contact);
        }
        if (kind.equals(Kinds.READER_OFF) || kind.equals(Kinds.READER_ON)) {
            return state.withReaderOff(kind.equals(Kinds.READER_OFF));
        }
        if (kind.equals(Kinds.CONTROLLER_LOST) || kind.equals(Kinds.LINK_LOST)) {
            return state.withReach(state.outOfReachSince().orElse(event.time()));
        }
        if (kind.equals(Kinds.CONTROLLER_BACK) || kind.equals(Kinds.LINK_BACK)) {
            return state.withReach(null);
        }
        return state;
    }

    private static DoorState opened(DoorState state, Event event) {
        return state.open() ? state : state.withPosition(Position.OPEN, event.time());
    }

    private static DoorState lock(DoorState state, Event event) {
        LockMode mode = event.detail("mode").map(LockMode::parse).orElse(state.lock());
        Optional<Next> next = event.detail("next-mode")
                .flatMap(m -> instant(event, "next-at").map(at -> new Next(LockMode.parse(m), at)));
        return state.withLock(mode, event.detail("by"), instant(event, "until"), next);
    }

    private static DoorState report(DoorState state, Event event, boolean contact) {
        DoorState result =
                lock(state, event).withReaderOff(event.detail("reader").equals(Optional.of("off")));
        String position = contact ? event.detail("position").orElse("") : "";
        Instant since = instant(event, "position-since").orElse(event.time());
        if (position.equals("open")) {
            result = result.open() ? result : result.withPosition(Position.OPEN, since);
            Instant forced = instant(event, "forced-since").orElse(null);
            Instant held = instant(event, "held-since").orElse(null);
            result = result.withForced(
                            forced == null ? null : result.forcedSince().orElse(forced))
                    .withHeld(held == null ? null : result.heldSince().orElse(held));
        } else if (position.equals("closed")) {
            result = result.position() == Position.CLOSED ? result : result.withPosition(Position.CLOSED, since);
        }
        if (event.detail("reach").equals(Optional.of("lost"))) {
            return result.withReach(result.outOfReachSince().orElse(since(event)));
        }
        return result.withReach(null);
    }

    private static Instant since(Event event) {
        return instant(event, "reach-since").orElse(event.time());
    }

    /** A time in the details, put right by the same offset as the event's own. */
    private static Optional<Instant> instant(Event event, String name) {
        try {
            return event.detail(name).map(Instant::parse).map(t -> t.minus(event.offset()));
        } catch (DateTimeParseException e) {
            return Optional.empty();
        }
    }
}
