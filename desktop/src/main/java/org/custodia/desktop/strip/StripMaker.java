package org.custodia.desktop.strip;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.NavigableSet;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;
import org.custodia.core.door.DoorBoard;
import org.custodia.core.door.DoorState;
import org.custodia.core.door.Opening;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.site.DoorId;
import org.custodia.core.workplace.PermittedDoors;
import org.custodia.desktop.saying.SayingWords;
import org.custodia.desktop.words.EventWords;

/** Makes what a strip shows of the events at its door and of how the door stood. Runs off the JavaFX thread. */
public final class StripMaker {
    /** The kinds that strips are made of. */
    public static final Set<EventKind> SHOWN = Set.of(
            Kinds.GRANTED,
            Kinds.REFUSED,
            Kinds.DURESS,
            Kinds.FORCED,
            Kinds.RELEASED,
            Kinds.EXIT_REQUESTED,
            Kinds.OPENED);
    /** A leaf that moves so soon after a badge or a button needs no item of its own. */
    public static final Duration EXPLAINED = Duration.ofSeconds(12);

    private final PermittedDoors doors;
    private final EventWords words;

    public StripMaker(PermittedDoors doors, EventWords words) {
        this.doors = doors;
        this.words = words;
    }

    /**
     * @param events at that door, in order of time, from {@link #EXPLAINED} before the span on
     */
    public StripData make(DoorId door, List<Event> events, Instant end, Duration span) {
        Instant start = end.minus(span);
        Optional<DoorBoard.Stretch> stretch;
        try {
            stretch = doors.stretch(door, start, end);
        } catch (NotPermittedException e) {
            return new StripData(DoorState.UNKNOWN, end, List.of(), List.of(), false, Optional.of(SayingWords.of(e)));
        }
        List<Opening> openings = stretch.map(DoorBoard.Stretch::openings).orElse(List.of());
        Set<Event> passed = passed(events, openings);
        List<StripItem> items = new ArrayList<>();
        for (Event event : events) {
            boolean within = !event.time().isBefore(start) && !event.time().isAfter(end);
            boolean shown = !event.kind().equals(Kinds.OPENED) || passed.contains(event);
            if (within && shown) {
                items.add(StripItem.of(
                        event, words, stretch.map(DoorBoard.Stretch::outcomes).orElse(Map.of())));
            }
        }
        return new StripData(
                stretch.map(DoorBoard.Stretch::state).orElse(DoorState.UNKNOWN),
                end,
                List.copyOf(items),
                openings,
                false,
                Optional.empty());
    }

    /** The openings of an unlocked door: somebody passed, and nobody knows who. */
    private static Set<Event> passed(List<Event> events, List<Opening> openings) {
        NavigableSet<Instant> explains = new TreeSet<>();
        for (Event event : events) {
            if (!event.kind().equals(Kinds.OPENED) && !event.kind().equals(Kinds.REFUSED)) {
                explains.add(event.time());
            }
        }
        Set<Instant> starts = openings.stream().map(Opening::start).collect(Collectors.toSet());
        return events.stream()
                .filter(e -> e.kind().equals(Kinds.OPENED) && starts.contains(e.time()))
                .filter(e -> !near(e.time(), explains.floor(e.time())) && !near(e.time(), explains.ceiling(e.time())))
                .collect(Collectors.toSet());
    }

    private static boolean near(Instant one, Instant other) {
        return other != null && Duration.between(one, other).abs().compareTo(EXPLAINED) < 0;
    }
}
