package org.custodia.core.door;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.LogFollower;
import org.custodia.core.mishap.Threads;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Sites;

/**
 * Makes checkpoints of all doors, in the background: of what lies in the log when it begins, and then of each door again when
 * enough has happened there. Where one is thrown away it is made again.
 */
public final class CheckpointKeeper implements AutoCloseable {
    /** Events of a door between two checkpoints. */
    private static final int STRIDE = 20;
    /** Events of a door that are read in one go. */
    private static final int PAGE = 2_000;
    /** What is younger than this may still be joined by what comes a little late. */
    private static final Duration SETTLED = Duration.ofSeconds(30);
    /** How often it is looked what is to be done. */
    private static final Duration EVERY = Duration.ofSeconds(5);
    /** With more events between two looks than this, it waits for less; but not for ever. */
    private static final int BUSY = 2_000;

    private static final int MOST_PASSES = 120;

    private final EventLog log;
    private final DoorCheckpoints checkpoints;
    private final DoorHistory history;
    private final Sites sites;
    private final Clock clock;
    private final Duration every;
    private final LogFollower follower;
    private final Thread thread;

    /** What happened at doors since they were looked at; those that were never looked at are not in it. */
    private final Map<DoorId, Integer> happened = new HashMap<>();

    private boolean closed;
    private boolean idle;
    /** Events that were stored since it was looked last what is to be done. */
    private int recent;

    /** Begins at once. */
    public CheckpointKeeper(EventLog log, DoorCheckpoints checkpoints, EventIntake intake, Sites sites, Clock clock) {
        this(log, checkpoints, intake, sites, clock, EVERY);
    }

    /**
     * @param every how often it is looked what is to be done
     */
    public CheckpointKeeper(
            EventLog log, DoorCheckpoints checkpoints, EventIntake intake, Sites sites, Clock clock, Duration every) {
        this.every = every;
        this.log = log;
        this.checkpoints = checkpoints;
        this.history = new DoorHistory(log, checkpoints, PAGE);
        this.sites = sites;
        this.clock = clock;
        this.follower = LogFollower.from(log.newestPosition(), log, intake, this::stored);
        this.thread = Threads.daemon("door checkpoints", this::run);
        thread.setPriority(Thread.MIN_PRIORITY);
        thread.start();
    }

    private synchronized void stored(List<Event> events) {
        recent += events.size();
        for (Event event : events) {
            event.door().ifPresent(d -> happened.computeIfPresent(d, (id, n) -> n + 1));
        }
    }

    private void run() {
        while (pause()) {
            Set<Door> doors = todo(fewAt());
            for (Door door : doors) {
                if (!go(door)) {
                    return;
                }
            }
            went(doors.isEmpty());
        }
    }

    private synchronized void went(boolean nothing) {
        idle = nothing;
        notifyAll();
    }

    /** Waits until there is nothing left to do for now. */
    public synchronized void awaitAll() throws InterruptedException {
        while (!idle && !closed) {
            wait();
        }
    }

    /** Waits a while; false if there is nothing more to do. */
    private synchronized boolean pause() {
        try {
            int passes = 0;
            do {
                recent = 0;
                if (!closed) {
                    wait(every.toMillis());
                }
                passes++;
                // A backlog needs the processors itself, and is soon over.
            } while (!closed && recent > BUSY && passes < MOST_PASSES);
        } catch (InterruptedException e) {
            return false;
        }
        return !closed;
    }

    private synchronized boolean knows(Door door) {
        return happened.containsKey(door.id());
    }

    /** Of doors that were never looked at, those of which the log has too little for a checkpoint: how much. */
    private Map<DoorId, Integer> fewAt() {
        if (sites.get().doors().stream().allMatch(this::knows)) {
            return Map.of();
        }
        try {
            Map<DoorId, Long> all = checkpoints.happened();
            Map<DoorId, Integer> few = new HashMap<>();
            for (Door door : sites.get().doors()) {
                long events = all.getOrDefault(door.id(), 0L);
                if (events < STRIDE) {
                    few.put(door.id(), (int) events);
                }
            }
            return few;
        } catch (EventLogException e) {
            // Then each is looked at by itself.
            return Map.of();
        }
    }

    private synchronized Set<Door> todo(Map<DoorId, Integer> few) {
        Set<Door> doors = new LinkedHashSet<>();
        for (Door door : sites.get().doors()) {
            Integer since = happened.get(door.id());
            if (since == null && few.containsKey(door.id())) {
                happened.put(door.id(), few.get(door.id()));
                continue;
            }
            if (since == null || since >= STRIDE) {
                doors.add(door);
                happened.put(door.id(), 0);
            }
        }
        return doors;
    }

    private synchronized boolean closed() {
        return closed;
    }

    /** Brings the checkpoints of a door up to date; false if it was closed meanwhile. */
    private boolean go(Door door) {
        try {
            Optional<DoorCheckpoint> last = checkpoints.newest(door.id(), Instant.MAX);
            if (last.isPresent() && last.get().courseOf(door).isEmpty()) {
                checkpoints.forget(door.id());
            }
            while (!closed()) {
                long position = log.newestPosition();
                List<DoorCheckpoint> made =
                        history.checkpoints(door, STRIDE, clock.instant().minus(SETTLED), PAGE);
                if (made.isEmpty()) {
                    return true;
                }
                Optional<DoorCheckpoint> before = checkpoints.newest(door.id(), Instant.MAX);
                checkpoints.keep(made, position);
                if (checkpoints.newest(door.id(), Instant.MAX).equals(before)) {
                    // Something came in between: another time.
                    again(door);
                    return true;
                }
            }
            return false;
        } catch (EventLogException e) {
            // The intake says what is wrong with the log.
            again(door);
            return !closed();
        }
    }

    private synchronized void again(Door door) {
        happened.put(door.id(), STRIDE);
    }

    @Override
    public void close() {
        follower.close();
        synchronized (this) {
            closed = true;
            notifyAll();
        }
        try {
            thread.join(Duration.ofSeconds(10).toMillis());
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
