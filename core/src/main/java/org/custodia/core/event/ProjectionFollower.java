package org.custodia.core.event;

import java.time.Duration;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.PriorityQueue;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.function.Consumer;
import org.custodia.core.mishap.Threads;
import org.custodia.core.site.SystemId;

/**
 * Folds the log into a {@link Projection}: from its newest snapshot, then what was stored since, then what is being stored. An
 * event that cannot be taken costs itself and nothing else. Snapshots are made in the background and at the end. After a
 * restart the state is what it would be without one.
 *
 * @param <S> the state as a snapshot has it
 */
public final class ProjectionFollower<S> implements AutoCloseable {
    private static final Duration SAVE_EVERY = Duration.ofSeconds(30);
    private static final int PAGE = 2_000;
    /** After so many events a snapshot is made even if none of them changed the state, so that a start reads no more. */
    private static final int SAVE_AFTER = 20_000;
    /** Where there is no snapshot events are read by their times, which run back where a clock was set, by so many. */
    private static final int SHUFFLED = 20_000;

    private final Projection<S> projection;
    private final Snapshots snapshots;
    private final Consumer<Event> applied;
    private final LogFollower follower;
    private final ScheduledExecutorService saver;
    /** Guards the projection and what is below. */
    private final Object lock = new Object();

    private long position;
    /** Position of the newest snapshot. */
    private long savedPosition;

    private boolean changed;

    /**
     * Begins to follow; the state is up to date when this returns.
     *
     * @param applied called after each event that was taken in while following, on the thread that stores it
     * @throws EventLogException if the log cannot be read
     */
    public ProjectionFollower(
            Projection<S> projection, EventLog log, EventIntake intake, Snapshots snapshots, Consumer<Event> applied) {
        this.projection = projection;
        this.snapshots = snapshots;
        this.applied = applied;
        long newest = log.newestPosition();
        Optional<Snapshots.Snapshot<S>> snapshot = snapshots
                .load(projection.name(), projection.version(), projection.form())
                // A log restored from a backup may end before the snapshot's position.
                .filter(s -> s.position() <= newest);
        if (snapshot.isPresent()) {
            projection.restore(snapshot.get().state());
            position = snapshot.get().position();
            savedPosition = position;
        } else {
            foldAll(log, newest);
            position = newest;
            changed = true;
        }
        this.follower = LogFollower.from(position, log, intake, this::stored);
        this.saver = Executors.newSingleThreadScheduledExecutor(Threads.factory("snapshots of " + projection.name()));
        saver.scheduleWithFixedDelay(this::save, SAVE_EVERY.toMillis(), SAVE_EVERY.toMillis(), TimeUnit.MILLISECONDS);
    }

    /** Folds everything up to a position; done once, where there is no snapshot that can be used. */
    private void foldAll(EventLog log, long newest) {
        PriorityQueue<Event> waiting = new PriorityQueue<>(Comparator.comparingLong(Event::position));
        EventQuery query = EventQuery.all().kinds(projection.kinds()).oldest(PAGE);
        if (projection.kinds().stream().allMatch(Provenance::own)) {
            query = query.where(Filter.is(EventField.SYSTEM, SystemId.CUSTODIA));
        }
        List<Event> page = log.find(query);
        while (!page.isEmpty()) {
            page.stream().filter(e -> e.position() <= newest).forEach(waiting::add);
            while (waiting.size() > SHUFFLED) {
                apply(waiting.poll());
            }
            page = log.find(query.after(page.get(page.size() - 1)));
        }
        while (!waiting.isEmpty()) {
            apply(waiting.poll());
        }
    }

    private void stored(List<Event> events) {
        for (Event event : events) {
            boolean taken;
            synchronized (lock) {
                taken = apply(event);
                position = event.position();
                changed |= taken;
            }
            if (taken) {
                tell(event);
            }
        }
    }

    private boolean apply(Event event) {
        if (!projection.kinds().contains(event.kind()) || !Provenance.trusted(event)) {
            return false;
        }
        try {
            projection.apply(event);
        } catch (RuntimeException e) {
            Threads.stumbled(e);
        }
        return true;
    }

    private void tell(Event event) {
        try {
            applied.accept(event);
        } catch (RuntimeException e) {
            Threads.stumbled(e);
        }
    }

    private void save() {
        S state;
        long at;
        synchronized (lock) {
            if (!changed && position - savedPosition < SAVE_AFTER) {
                return;
            }
            state = projection.state();
            at = position;
            changed = false;
        }
        try {
            snapshots.save(projection.name(), projection.version(), at, state);
            synchronized (lock) {
                savedPosition = at;
            }
        } catch (EventLogException e) {
            // The intake says that nothing can be stored; the snapshot of before loses nothing.
            synchronized (lock) {
                changed = true;
            }
        } catch (RuntimeException e) {
            Threads.stumbled(e);
        }
    }

    @Override
    public void close() {
        follower.close();
        saver.shutdown();
        try {
            saver.awaitTermination(10, TimeUnit.SECONDS);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
        save();
    }
}
