package org.custodia.desktop.desk;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CancellationException;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicBoolean;
import javafx.beans.property.ReadOnlyObjectProperty;
import javafx.beans.property.ReadOnlyObjectWrapper;
import org.custodia.core.door.DoorState;
import org.custodia.core.door.LockMode;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.Priority;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.desktop.Services;
import org.custodia.desktop.Work;
import org.custodia.desktop.text.Texts;

/**
 * How all doors stand now, also while the console looks back. Those that change are looked at as soon as they do, and all often
 * enough that what changes by the passing of time is never more than a second old: by a thread of its own, since it must not
 * wait for anything that is loaded. After each look it rests, so that however much happens most of the time nothing is looked
 * at.
 */
public final class LiveDoors implements AutoCloseable {
    private static final Texts TEXTS = Texts.of(LiveDoors.class);

    private static final Duration EVERY = Duration.ofMillis(200);
    /** With thousands of doors it is looked less often, so that most of the time nothing is. */
    private static final int IDLE = 4;

    private static final Duration AT_LEAST_EVERY = Duration.ofMillis(800);
    private static final Duration TOO_OLD = Duration.ofSeconds(10);

    private final Services services;
    private final Work lane = new Work("doors now", 1);
    private final ReadOnlyObjectWrapper<Map<DoorId, DoorState>> states = new ReadOnlyObjectWrapper<>(Map.of());
    private final EventIntake.Subscription subscription;
    /** Those that have changed since they were looked at. */
    private final Set<DoorId> changed = ConcurrentHashMap.newKeySet();

    private final AtomicBoolean all = new AtomicBoolean(true);
    /** By {@link System#nanoTime}. */
    private long restsUntil = System.nanoTime();
    /** As looked at last; like that before, used by the lane alone. */
    private Map<DoorId, DoorState> seen = Map.of();

    private Instant askedAt = Instant.MIN;
    private Instant asOf = Instant.EPOCH;
    private Duration every = EVERY;

    LiveDoors(Services services) {
        this.services = services;
        this.subscription = services.doors().onChange(doors -> {
            changed.addAll(doors);
            ask();
        });
    }

    /** The state of every door, as of the last look. */
    public ReadOnlyObjectProperty<Map<DoorId, DoorState>> states() {
        return states.getReadOnlyProperty();
    }

    /** When the last look began that the states come from; {@link Instant#EPOCH} before there was one. */
    public Instant asOf() {
        return asOf;
    }

    /** The state of one door, as of the last look. */
    public DoorState state(DoorId door) {
        return states.get().getOrDefault(door, DoorState.UNKNOWN);
    }

    /** The doors that need somebody now: the worst first, then the oldest. */
    public List<DoorId> needing() {
        record Needing(DoorId id, DoorState state) {}
        List<Needing> found = new ArrayList<>();
        Instant now = services.clock().instant();
        for (Door door : services.sites().get().doors()) {
            DoorState state = state(door.id());
            boolean unlockedOnPurpose =
                    state.lock() == LockMode.UNLOCKED && state.forcedSince().isEmpty();
            if (state.priority() != Priority.NONE
                    && !unlockedOnPurpose
                    && !state.needsSince().orElse(now).isAfter(now)) {
                found.add(new Needing(door.id(), state));
            }
        }
        return found.stream()
                .sorted(Comparator.comparing((Needing n) -> n.state().priority())
                        .reversed()
                        .thenComparing(n -> n.state().needsSince().orElse(now)))
                .map(Needing::id)
                .toList();
    }

    /**
     * Whether what is known of a door is of an earlier time, since its system has not told yet how things stand now: why, in
     * words; nothing once it has, or while the door is known to be out of reach.
     */
    public Optional<String> notKnownYet(Door door) {
        if (!services.storing().getAsBoolean()) {
            return Optional.of(TEXTS.say("not-stored"));
        }
        return services.links().get().stream()
                .filter(s -> s.system().equals(door.system()))
                .findFirst()
                .flatMap(s -> switch (s.state()) {
                    case CONNECTING -> Optional.of(TEXTS.say("connecting"));
                    case READING_BACKLOG -> Optional.of(TEXTS.say("reads-history"));
                    case UP, DOWN, CLOSED -> Optional.empty();
                });
    }

    void tick() {
        Instant now = services.clock().instant();
        if (askedAt.equals(Instant.MIN) || Duration.between(askedAt, now).compareTo(every) > 0) {
            askedAt = now;
            refresh();
        }
    }

    /** Looks at all of them, soon. From any thread. */
    void refresh() {
        all.set(true);
        ask();
    }

    /** However often this is asked for, one look is under way and one waits. */
    private void ask() {
        lane.latest(this, this::look, this::take, why -> failed());
    }

    private record Look(Instant at, Map<DoorId, DoorState> states, boolean all, Duration took) {}

    private void take(Look look) {
        asOf = look.at();
        if (look.all()) {
            Duration pause = rest(look.took());
            every = pause.compareTo(EVERY) < 0 ? EVERY : pause;
        }
        if (!look.states().equals(states.get())) {
            states.set(look.states());
        }
    }

    private static Duration rest(Duration took) {
        Duration pause = took.multipliedBy(IDLE);
        return pause.compareTo(AT_LEAST_EVERY) > 0 ? AT_LEAST_EVERY : pause;
    }

    /** What cannot be looked at for a while is not known any more. */
    private void failed() {
        boolean old = Duration.between(asOf, services.clock().instant()).compareTo(TOO_OLD) > 0;
        if (old && !states.get().isEmpty()) {
            states.set(Map.of());
        }
    }

    private Look look() {
        rest();
        Instant at = services.clock().instant();
        long begun = System.nanoTime();
        boolean whole = all.getAndSet(false);
        Set<DoorId> some = Set.copyOf(changed);
        // What changes from here on is looked at once more.
        changed.removeAll(some);
        boolean done = false;
        try {
            Map<DoorId, DoorState> result = look(whole, some);
            seen = result;
            done = true;
            return new Look(at, result, whole, Duration.ofNanos(System.nanoTime() - begun));
        } finally {
            if (!done) {
                all.set(true);
            }
            long took = System.nanoTime() - begun;
            restsUntil = System.nanoTime() + rest(Duration.ofNanos(took)).toNanos();
        }
    }

    private void rest() {
        long left = restsUntil - System.nanoTime();
        if (left > 0) {
            try {
                TimeUnit.NANOSECONDS.sleep(left);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                throw new CancellationException();
            }
        }
    }

    private Map<DoorId, DoorState> look(boolean whole, Set<DoorId> some) {
        List<Door> doors = services.sites().get().doors().stream()
                .filter(d -> whole || some.contains(d.id()))
                .toList();
        Map<DoorId, DoorState> now =
                services.doors().now(doors.stream().map(Door::id).toList());
        Map<DoorId, DoorState> result = whole ? new LinkedHashMap<>() : new LinkedHashMap<>(seen);
        for (Door door : doors) {
            DoorState state = now.getOrDefault(door.id(), DoorState.UNKNOWN);
            // How it stood when the log ended is not how it stands.
            boolean old = state.outOfReachSince().isEmpty() && notKnownYet(door).isPresent();
            result.put(door.id(), old ? DoorState.UNKNOWN : state);
        }
        return result;
    }

    @Override
    public void close() {
        subscription.close();
        lane.close();
    }
}
