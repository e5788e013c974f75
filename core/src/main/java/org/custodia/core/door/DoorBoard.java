package org.custodia.core.door;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.function.Function;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.LogFollower;
import org.custodia.core.event.Provenance;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.Sites;
import org.custodia.core.site.SystemId;

/**
 * The state of all doors, kept up with the log, and any past stretch of a door made on demand. How much of the past is at
 * hand is bounded by number; what lies further back is read from the log, and never while the intake waits. Safe for use by
 * several threads.
 */
public final class DoorBoard implements AutoCloseable {
    /** How much of the past is kept at hand, unless that is too much. */
    public static final Duration AT_HAND = Duration.ofHours(12);

    /** How far ahead of our clock an event of this moment can seem to be. */
    public static final Duration CLOCK_ERROR = Duration.ofSeconds(2);

    /** So many events are kept in memory over all doors. */
    private static final int MOST = 120_000;

    private static final int LEAST_OF_A_DOOR = 250;
    private static final int MOST_OF_A_DOOR = 4_000;

    private static final int PAGE = 1_000;

    private final Duration atHand;
    private final int most;
    private final DoorHistory history;
    private final Sites sites;
    private final Clock clock;
    private final Map<DoorId, Slot> slots = new ConcurrentHashMap<>();
    private final List<Listener> listeners = new CopyOnWriteArrayList<>();
    private final LogFollower follower;

    /** Told which doors changed; called on the intake's thread, must return quickly. */
    @FunctionalInterface
    public interface Listener {
        void changed(Set<DoorId> doors);
    }

    /**
     * What a door looked like over a span.
     *
     * @param state how it stood at the end of it
     */
    public record Stretch(Door door, DoorState state, List<Opening> openings, Map<EventKey, GrantOutcome> outcomes) {}

    /** So few doors are read one by one. */
    private static final int FEW_DOORS = 20;

    /** What is at hand of one door; its lock is held for moments only, never while the log is read. */
    private static final class Slot {
        private final Object reading = new Object();
        private DoorTimeline timeline;
        /** What arrives while the log is being read; null while it is not. */
        private List<Event> meanwhile;
    }

    /** Starts following the log at once. */
    public DoorBoard(EventLog log, DoorCheckpoints checkpoints, EventIntake intake, Sites sites, Clock clock) {
        this(log, checkpoints, intake, sites, clock, AT_HAND, MOST_OF_A_DOOR, PAGE);
    }

    /**
     * @param atHand how much of the past is kept at hand
     * @param most events of a door that are kept, as long as there is room
     * @param page events that are read from the log in one go
     */
    DoorBoard(
            EventLog log,
            DoorCheckpoints checkpoints,
            EventIntake intake,
            Sites sites,
            Clock clock,
            Duration atHand,
            int most,
            int page) {
        this.atHand = atHand;
        this.most = most;
        this.history = new DoorHistory(log, checkpoints, page);
        this.sites = sites;
        this.clock = clock;
        this.follower = LogFollower.from(log.newestPosition(), log, intake, this::stored);
    }

    /** Asks to be told of changes until that is ended. */
    public EventIntake.Subscription listen(Listener listener) {
        listeners.add(listener);
        return () -> listeners.remove(listener);
    }

    /**
     * The state now, by everything that is stored. Clocks are measured to a few milliseconds only, so what just happened can
     * lie a little ahead of our own clock; it counts all the same.
     */
    public DoorState now(DoorId door) {
        Instant now = clock.instant();
        return ask(door, now, now.plus(CLOCK_ERROR), t -> t.at(now.plus(CLOCK_ERROR), now))
                .orElse(DoorState.UNKNOWN);
    }

    /** The state at an instant; reads the log where that is further back than is kept at hand. */
    public DoorState at(DoorId id, Instant instant) {
        return ask(id, instant, instant.plusNanos(1000), t -> t.at(instant)).orElse(DoorState.UNKNOWN);
    }

    /** How all doors stood at an instant, each as {@link #at} would say. */
    public Map<DoorId, DoorState> all(Instant instant) {
        SiteModel model = sites.at(instant);
        Map<DoorId, DoorState> states = new HashMap<>(history.states(model.doors(), instant));
        for (Door door : model.doors()) {
            if (!states.containsKey(door.id())) {
                states.put(door.id(), at(door.id(), instant));
            }
        }
        return states;
    }

    /** How a door stood over a span; reads the log where that is further back than is kept at hand. */
    public Optional<Stretch> stretch(DoorId id, Instant from, Instant to) {
        Instant now = clock.instant();
        return ask(
                id,
                from,
                to.plus(DoorTimeline.PASSAGE_WINDOW),
                t -> new Stretch(t.door(), t.at(to), t.openings(from, to), t.outcomes(from, to, now)));
    }

    /**
     * The reports that would change what is known of their doors, so that they are worth storing. What is not at hand of the
     * doors is read together.
     *
     * @param reports as they would be stored
     */
    public List<Event> news(List<Event> reports) {
        Instant now = clock.instant();
        Instant end = now.plus(CLOCK_ERROR);
        SiteModel model = sites.get();
        List<Door> unread = reports.stream()
                .flatMap(r -> r.door().flatMap(model::door).stream())
                .filter(d -> !isAtHand(d))
                .toList();
        Map<DoorId, DoorTimeline> read = unread.size() < FEW_DOORS ? Map.of() : history.timelines(unread, end);
        return reports.stream()
                .filter(r -> r.door()
                        .flatMap(id -> Optional.ofNullable(read.get(id))
                                .map(t -> tellsNews(r, t, now, end))
                                .or(() -> ask(id, now, end, t -> tellsNews(r, t, now, end))))
                        .orElse(true))
                .toList();
    }

    private static boolean tellsNews(Event report, DoorTimeline timeline, Instant now, Instant end) {
        return DoorFact.of(report, timeline.door())
                .map(fact -> !timeline.with(fact, now).says(timeline.at(end, now)))
                .orElse(true);
    }

    private boolean isAtHand(Door door) {
        Slot slot = slots.get(door.id());
        if (slot == null) {
            return false;
        }
        synchronized (slot) {
            return slot.timeline != null && slot.timeline.door().equals(door);
        }
    }

    private <T> Optional<T> ask(DoorId id, Instant from, Instant to, Function<DoorTimeline, T> question) {
        Optional<Door> now = sites.get().door(id);
        Optional<Door> then = sites.at(from).door(id);
        if (then.isPresent()
                && now.filter(d -> DoorCheckpoint.alike(d, then.get())).isEmpty()) {
            // What is kept at hand is of the door as it is today.
            return Optional.of(question.apply(history.read(then.get(), from, Integer.MAX_VALUE, to)));
        }
        Optional<Door> door = now;
        if (door.isEmpty()) {
            return Optional.empty();
        }
        Slot slot = slots.computeIfAbsent(id, d -> new Slot());
        if (!from.isBefore(clock.instant().minus(atHand))) {
            synchronized (slot.reading) {
                boolean ready;
                synchronized (slot) {
                    ready = slot.timeline != null && slot.timeline.door().equals(door.get());
                    if (!ready) {
                        slot.timeline = null;
                        slot.meanwhile = new ArrayList<>();
                    }
                }
                if (!ready) {
                    fill(slot, door.get());
                }
            }
        }
        synchronized (slot) {
            if (slot.timeline != null && slot.timeline.door().equals(door.get()) && slot.timeline.covers(from)) {
                return Optional.of(question.apply(slot.timeline));
            }
        }
        return Optional.of(question.apply(history.read(door.get(), from, Integer.MAX_VALUE, to)));
    }

    private void fill(Slot slot, Door door) {
        DoorTimeline read = null;
        try {
            read = history.read(door, clock.instant().minus(atHand), ofADoor(), Instant.MAX)
                    .keeping(ofADoor());
        } finally {
            synchronized (slot) {
                List<Event> arrived = slot.meanwhile;
                slot.meanwhile = null;
                slot.timeline = read;
                for (Event event : arrived) {
                    take(slot, event);
                }
            }
        }
    }

    private int ofADoor() {
        return Math.min(most, Math.max(LEAST_OF_A_DOOR, MOST / Math.max(1, slots.size())));
    }

    private void stored(List<Event> events) {
        Set<DoorId> changed = new HashSet<>();
        SiteModel model = sites.get();
        for (Event event : events) {
            if (event.kind().equals(Kinds.TRANSLATED) && Provenance.trusted(event)) {
                event.detail("system").ifPresent(system -> changed.addAll(readAnew(system)));
                continue;
            }
            for (DoorId id : doorsOf(event, model)) {
                Slot slot = slots.get(id);
                if (slot != null) {
                    synchronized (slot) {
                        if (slot.meanwhile != null) {
                            slot.meanwhile.add(event);
                            changed.add(id);
                        } else if (take(slot, event)) {
                            changed.add(id);
                        }
                    }
                }
            }
        }
        if (!changed.isEmpty()) {
            listeners.forEach(l -> l.changed(changed));
        }
    }

    /** What happened at a system's doors means something else now. */
    private Set<DoorId> readAnew(String system) {
        Set<DoorId> doors = new HashSet<>();
        slots.forEach((id, slot) -> {
            synchronized (slot) {
                if (slot.timeline != null
                        && slot.timeline.door().system().value().equals(system)) {
                    slot.timeline = null;
                    doors.add(id);
                }
            }
        });
        return doors;
    }

    /** Adds an event to what is at hand of a door; whether anything changed. */
    private boolean take(Slot slot, Event event) {
        if (slot.timeline == null) {
            return false;
        }
        Optional<DoorFact> fact = DoorFact.of(event, slot.timeline.door());
        if (fact.isEmpty()) {
            return false;
        }
        if (!slot.timeline.reaches(fact.get())) {
            // It came so late that its place is forgotten: all is read anew when somebody asks.
            slot.timeline = null;
            return true;
        }
        if (!slot.timeline.add(fact.get())) {
            return false;
        }
        int kept = ofADoor();
        if (slot.timeline.size() > 2 * kept) {
            slot.timeline = slot.timeline.keeping(kept);
        }
        return true;
    }

    /** How many events of a door are kept in memory. */
    int atHand(DoorId id) {
        Slot slot = slots.get(id);
        if (slot == null) {
            return 0;
        }
        synchronized (slot) {
            return slot.timeline == null ? 0 : slot.timeline.size();
        }
    }

    /** The doors that an event may concern. */
    private static List<DoorId> doorsOf(Event event, SiteModel model) {
        if (DoorFact.ofADoor().contains(event.kind())) {
            return event.door().map(List::of).orElse(List.of());
        }
        if (DoorFact.ofAController().contains(event.kind())) {
            return event.controller()
                    .map(c -> model.doorsOf(c).stream().map(Door::id).toList())
                    .or(() -> event.door().map(List::of))
                    .orElse(List.of());
        }
        if (DoorFact.ofALink().contains(event.kind()) && event.key().system().equals(SystemId.CUSTODIA)) {
            return event.detail("system")
                    .flatMap(DoorBoard::system)
                    .map(s -> model.doorsOf(s).stream().map(Door::id).toList())
                    .orElse(List.of());
        }
        return List.of();
    }

    private static Optional<SystemId> system(String id) {
        try {
            return Optional.of(new SystemId(id));
        } catch (IllegalArgumentException e) {
            return Optional.empty();
        }
    }

    @Override
    public void close() {
        follower.close();
    }
}
