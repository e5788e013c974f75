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
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.function.Supplier;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteModel;

/**
 * The state of all doors, kept up with the log, and any past stretch of a door made on demand. Safe for use by several
 * threads.
 */
public final class DoorBoard implements AutoCloseable {
    /** How much of the past is kept at hand; older stretches are read from the log. */
    public static final Duration AT_HAND = Duration.ofHours(12);

    /** How far ahead of our clock an event of this moment can seem to be. */
    public static final Duration CLOCK_ERROR = Duration.ofSeconds(2);

    /** So many events of a door are kept without a thought. */
    private static final int MANY = 400;

    private static final Duration REBASE_EVERY = Duration.ofHours(1);
    private static final Set<EventKind> OF_THE_DOOR = Set.of(
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
    private static final Set<EventKind> OF_THE_CONTROLLER = Set.of(Kinds.CONTROLLER_LOST, Kinds.CONTROLLER_BACK);
    private static final Set<EventKind> OF_THE_LINK = Set.of(Kinds.LINK_LOST, Kinds.LINK_BACK);

    private final EventLog log;
    private final Supplier<SiteModel> sites;
    private final Clock clock;
    private final Map<DoorId, DoorTimeline> timelines = new HashMap<>();
    private final List<Listener> listeners = new CopyOnWriteArrayList<>();
    private final EventIntake.Subscription subscription;
    private Instant baseTime;

    /** Told which doors changed; called on the intake's thread, must return quickly. */
    @FunctionalInterface
    public interface Listener {
        void changed(Set<DoorId> doors);
    }

    /** What a door looked like over a span. */
    public record Stretch(Door door, List<Opening> openings, Map<EventKey, GrantOutcome> outcomes) {}

    /** Starts following the log at once. */
    public DoorBoard(EventLog log, EventIntake intake, Supplier<SiteModel> sites, Clock clock) {
        this.log = log;
        this.sites = sites;
        this.clock = clock;
        this.baseTime = clock.instant().minus(AT_HAND);
        this.subscription = intake.subscribe(this::stored);
    }

    public void listen(Listener listener) {
        listeners.add(listener);
    }

    /**
     * The state now, by everything that is stored. Clocks are measured to a few milliseconds only, so what just happened can
     * lie a little ahead of our own clock; it counts all the same.
     */
    public DoorState now(DoorId door) {
        return at(door, clock.instant().plus(CLOCK_ERROR), clock.instant());
    }

    /** The state at an instant; reads the log where that is further back than is kept at hand. */
    public DoorState at(DoorId id, Instant instant) {
        return at(id, instant, instant);
    }

    private DoorState at(DoorId id, Instant instant, Instant lasting) {
        synchronized (this) {
            if (!instant.isBefore(baseTime)) {
                return timeline(id).map(t -> t.at(instant, lasting)).orElse(DoorState.UNKNOWN);
            }
        }
        return sites.get()
                .door(id)
                .map(d -> load(d, instant, instant.plusNanos(1000)).at(instant))
                .orElse(DoorState.UNKNOWN);
    }

    /** How a door stood over a span; reads the log where that is further back than is kept at hand. */
    public Optional<Stretch> stretch(DoorId id, Instant from, Instant to) {
        Instant now = clock.instant();
        synchronized (this) {
            if (!from.isBefore(baseTime)) {
                return timeline(id).map(t -> stretch(t, from, to, now));
            }
        }
        return sites.get()
                .door(id)
                .map(d -> stretch(load(d, from, to.plus(DoorTimeline.PASSAGE_WINDOW)), from, to, now));
    }

    private static Stretch stretch(DoorTimeline t, Instant from, Instant to, Instant now) {
        return new Stretch(t.door(), t.openings(from, to), t.outcomes(from, to, now));
    }

    private Optional<DoorTimeline> timeline(DoorId id) {
        DoorTimeline known = timelines.get(id);
        Optional<Door> door = sites.get().door(id);
        if (door.isEmpty() || known != null && known.door().equals(door.get())) {
            return Optional.ofNullable(known);
        }
        DoorTimeline fresh = load(door.get(), baseTime, Instant.MAX);
        timelines.put(id, fresh);
        return Optional.of(fresh);
    }

    /** A door's timeline over a span, started from the last full report before it. */
    private DoorTimeline load(Door door, Instant from, Instant to) {
        Optional<Event> report =
                log
                        .find(EventQuery.all()
                                .until(from)
                                .kinds(Kinds.REPORT)
                                .doors(Set.of(door.id()))
                                .newest(1))
                        .stream()
                        .findFirst();
        DoorTimeline timeline = new DoorTimeline(door, DoorState.UNKNOWN);
        Instant start = report.map(Event::time).orElse(Instant.EPOCH);
        Instant end = to.isAfter(FAR) ? FAR : to;
        EventQuery span = EventQuery.all().between(start, end);
        timeline.addAll(log.find(span.kinds(OF_THE_DOOR).doors(Set.of(door.id()))));
        timeline.addAll(log.find(span.kinds(OF_THE_CONTROLLER).controllers(Set.of(door.controller()))));
        timeline.addAll(log.find(span.kinds(OF_THE_LINK)).stream()
                .filter(e -> e.detail("system").equals(Optional.of(door.system().value())))
                .toList());
        return timeline;
    }

    private static final Instant FAR = Instant.parse("9000-01-01T00:00:00Z");

    private void stored(List<Event> events) {
        Set<DoorId> changed = new HashSet<>();
        synchronized (this) {
            for (Event event : events) {
                if (!DoorFold.concerns(event.kind())) {
                    continue;
                }
                for (DoorId id : doorsOf(event)) {
                    if (take(id, event)) {
                        changed.add(id);
                    }
                }
            }
            rebase();
        }
        if (!changed.isEmpty()) {
            listeners.forEach(l -> l.changed(changed));
        }
    }

    /** Adds an event to what is at hand of a door; whether anything changed. */
    private boolean take(DoorId id, Event event) {
        DoorTimeline known = timelines.get(id);
        if (known == null) {
            return false;
        }
        if (!known.reaches(event.time())) {
            // It came so late that its place is forgotten: all is read anew when somebody asks.
            timelines.remove(id);
            return true;
        }
        if (!known.add(event)) {
            return false;
        }
        // While a long past is read, most of what comes is older than what is to be kept.
        List<Event> all = known.events();
        if (all.size() >= MANY && all.get(all.size() / 2).time().isBefore(baseTime)) {
            timelines.put(id, known.startingAt(baseTime));
        }
        return true;
    }

    /** How many events of a door are kept in memory. */
    synchronized int atHand(DoorId id) {
        return Optional.ofNullable(timelines.get(id))
                .map(t -> t.events().size())
                .orElse(0);
    }

    private List<DoorId> doorsOf(Event event) {
        if (event.door().isPresent()) {
            return List.of(event.door().get());
        }
        SiteModel model = sites.get();
        List<DoorId> result = new ArrayList<>();
        if (event.controller().isPresent()) {
            model.doorsOf(event.controller().get()).forEach(d -> result.add(d.id()));
        } else if (OF_THE_LINK.contains(event.kind())) {
            event.detail("system").map(org.custodia.core.site.SystemId::new).ifPresent(s -> model.doorsOf(s)
                    .forEach(d -> result.add(d.id())));
        }
        return result;
    }

    private void rebase() {
        Instant wanted = clock.instant().minus(AT_HAND);
        if (Duration.between(baseTime, wanted).compareTo(REBASE_EVERY) > 0) {
            timelines.replaceAll((id, t) -> t.startingAt(wanted));
            baseTime = wanted;
        }
    }

    @Override
    public void close() {
        subscription.close();
    }
}
