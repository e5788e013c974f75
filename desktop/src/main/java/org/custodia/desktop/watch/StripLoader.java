package org.custodia.desktop.watch;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.door.DoorBoard;
import org.custodia.core.door.DoorState;
import org.custodia.core.door.Opening;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.DoorId;
import org.custodia.core.workplace.PermittedDoors;
import org.custodia.desktop.words.EventWords;

/** Puts together what a strip shows, from the log and the board. Runs off the JavaFX thread. */
final class StripLoader {
    private static final Set<EventKind> SHOWN =
            Set.of(Kinds.GRANTED, Kinds.REFUSED, Kinds.FORCED, Kinds.RELEASED, Kinds.EXIT_REQUESTED);
    /** A leaf that moves so soon after one of those needs no item of its own. */
    private static final Duration EXPLAINED = Duration.ofSeconds(12);

    private final EventLog log;
    private final PermittedDoors doors;
    private final EventWords words;

    StripLoader(EventLog log, PermittedDoors doors, EventWords words) {
        this.log = log;
        this.doors = doors;
        this.words = words;
    }

    StripData load(DoorId door, Instant end, Duration span) {
        Instant start = end.minus(span);
        DoorState state = doors.at(door, end);
        Optional<DoorBoard.Stretch> stretch = doors.stretch(door, start, end);
        List<Opening> openings = stretch.map(DoorBoard.Stretch::openings).orElse(List.of());
        List<Event> events = log.find(EventQuery.all()
                .between(start.minus(EXPLAINED), end.plusNanos(1000))
                .doors(Set.of(door))
                .kinds(SHOWN));
        List<StripItem> items = new ArrayList<>();
        for (Event event : events) {
            if (!event.time().isBefore(start)) {
                items.add(StripItem.of(
                        event, words, stretch.map(DoorBoard.Stretch::outcomes).orElse(Map.of())));
            }
        }
        if (!openings.isEmpty()) {
            unexplained(door, start, end, openings, events).forEach(e -> items.add(StripItem.of(e, words, Map.of())));
        }
        items.sort(java.util.Comparator.comparing(StripItem::event));
        return new StripData(state, end, List.copyOf(items), openings, false, Optional.empty());
    }

    /** Openings of an unlocked door: somebody passed, and nobody knows who. */
    private List<Event> unexplained(
            DoorId door, Instant start, Instant end, List<Opening> openings, List<Event> known) {
        List<Event> opened = log.find(EventQuery.all()
                .between(start, end.plusNanos(1000))
                .doors(Set.of(door))
                .kinds(Kinds.OPENED));
        List<Event> result = new ArrayList<>();
        for (Event event : opened) {
            boolean explained = known.stream()
                    .anyMatch(
                            k -> Duration.between(k.time(), event.time()).abs().compareTo(EXPLAINED) < 0
                                    && !k.kind().equals(Kinds.REFUSED));
            boolean isOpening = openings.stream().anyMatch(o -> o.start().equals(event.time()));
            if (!explained && isOpening) {
                result.add(event);
            }
        }
        return result;
    }
}
