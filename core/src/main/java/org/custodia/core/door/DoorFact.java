package org.custodia.core.door;

import java.time.DateTimeException;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Provenance;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.SystemId;

/**
 * What of an event matters to a door: an event without its message and all that is about people, so that many fit into
 * memory.
 *
 * @param time when it really happened
 * @param offset by how much the clock was ahead by which times among the details are given
 * @param details those of a mode or a report; none otherwise
 */
record DoorFact(Instant time, EventKey key, EventKind kind, Duration offset, Map<String, String> details)
        implements Comparable<DoorFact> {

    /** Mark of a report that Custodia asked for: the number of the system's event up to which it holds, as epoch:number. */
    static final String AS_OF = Provenance.MARK + "as-of";

    private static final Set<EventKind> OF_A_DOOR = Set.of(
            Kinds.OPENED,
            Kinds.CLOSED,
            Kinds.FORCED,
            Kinds.HELD,
            Kinds.MODE,
            Kinds.REPORT,
            Kinds.READER_OFF,
            Kinds.READER_ON,
            Kinds.GRANTED,
            Kinds.RELEASED,
            Kinds.EXIT_REQUESTED);
    private static final Set<EventKind> OF_A_CONTROLLER = Set.of(Kinds.CONTROLLER_LOST, Kinds.CONTROLLER_BACK);
    private static final Set<EventKind> OF_A_LINK = Set.of(Kinds.LINK_LOST, Kinds.LINK_CLOSED, Kinds.LINK_BACK);

    /** The kinds that concern the one door they name. */
    static Set<EventKind> ofADoor() {
        return OF_A_DOOR;
    }

    /** The kinds that concern all doors of the controller they name. */
    static Set<EventKind> ofAController() {
        return OF_A_CONTROLLER;
    }

    /** The kinds that concern all doors of the system they name; Custodia's own. */
    static Set<EventKind> ofALink() {
        return OF_A_LINK;
    }

    /** What an event means to a door; nothing if it does not concern it. */
    static Optional<DoorFact> of(Event event, Door door) {
        EventKind kind = event.kind();
        if (!Provenance.trusted(event)) {
            return Optional.empty();
        }
        boolean concerns;
        if (OF_A_DOOR.contains(kind)) {
            boolean byItsSystem = event.key().system().equals(door.system());
            boolean reportedToUs =
                    kind.equals(Kinds.REPORT) && event.key().system().equals(SystemId.CUSTODIA);
            concerns = event.door().filter(door.id()::equals).isPresent() && (byItsSystem || reportedToUs);
        } else if (OF_A_CONTROLLER.contains(kind)) {
            concerns = event.key().system().equals(door.system())
                    && (event.controller().isPresent()
                            ? event.controller().get().equals(door.controller())
                            : event.door().filter(door.id()::equals).isPresent());
        } else {
            concerns = OF_A_LINK.contains(kind)
                    && event.detail("system")
                            .filter(door.system().value()::equals)
                            .isPresent();
        }
        if (!concerns) {
            return Optional.empty();
        }
        boolean told = kind.equals(Kinds.MODE) || kind.equals(Kinds.REPORT);
        return Optional.of(
                new DoorFact(event.time(), event.key(), kind, event.offset(), told ? told(event) : Map.of()));
    }

    /** What an event says of a door, in our words. */
    private static Map<String, String> told(Event event) {
        Optional<String> mode =
                event.kind().equals(Kinds.MODE) ? LockMode.told(event).word() : Optional.empty();
        if (mode.isEmpty() || mode.equals(event.detail("mode"))) {
            return event.details();
        }
        Map<String, String> details = new HashMap<>(event.details());
        details.put("mode", mode.get());
        return details;
    }

    /** Nothing but a place in the order of events. */
    static DoorFact place(Instant time, EventKey key) {
        return new DoorFact(time, key, Kinds.REPORT, Duration.ZERO, Map.of());
    }

    @Override
    public int compareTo(DoorFact other) {
        int byTime = time.compareTo(other.time);
        return byTime != 0 ? byTime : Event.compareKeys(key, other.key);
    }

    Optional<String> detail(String name) {
        return Optional.ofNullable(details.get(name));
    }

    /** A time in the details, put right by the same offset as the event's own. */
    Optional<Instant> instant(String name) {
        try {
            return detail(name).map(Instant::parse).map(t -> t.minus(offset));
        } catch (DateTimeException | ArithmeticException e) {
            return Optional.empty();
        }
    }

    /** The epoch in which the system counted when this held; nothing for what is not numbered by the system. */
    Optional<EventKey> asOf(Door door) {
        if (key.system().equals(door.system())) {
            return Optional.of(key);
        }
        return detail(AS_OF).flatMap(text -> EventKey.of(door.system(), text));
    }

    /** The leaf is open, or closed, according to a report; nothing where it does not say. */
    Optional<String> position() {
        return detail("position").filter(p -> p.equals("open") || p.equals("closed"));
    }

    /**
     * Whether a report says all there is to say of a door at rest, so that nothing that came before it matters to what comes
     * after.
     */
    boolean saysAllOf(Door door) {
        boolean lock = detail("mode").isPresent();
        boolean leaf = door.can(DoorCapability.CONTACT)
                ? position().filter("closed"::equals).isPresent()
                        && instant("position-since")
                                .filter(t -> !t.isAfter(time))
                                .isPresent()
                : detail("forced-since").isEmpty() && detail("held-since").isEmpty();
        boolean reach = !detail("reach").equals(Optional.of("lost"))
                || instant("reach-since").isPresent();
        return kind.equals(Kinds.REPORT) && lock && leaf && reach && asOf(door).isPresent();
    }
}
