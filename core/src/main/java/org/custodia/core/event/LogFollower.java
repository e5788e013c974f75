package org.custodia.core.event;

import java.util.ArrayList;
import java.util.List;

/**
 * Follows the log from a position on: first what was stored after it, then all that is being stored, each event once and in
 * the order of storing, with no gap between the two.
 */
public final class LogFollower implements AutoCloseable {
    private static final int PAGE = 1_000;

    private final EventIntake.Listener listener;
    private final EventIntake.Subscription subscription;
    private long position;
    /** What is stored while the past is being read; null once that is done. */
    private List<List<Event>> meanwhile = new ArrayList<>();
    /** Events in {@link #meanwhile}; beyond a page they are read from the log as well. */
    private int waiting;

    private LogFollower(EventIntake intake, long position, EventIntake.Listener listener) {
        this.listener = listener;
        this.position = position;
        this.subscription = intake.subscribe(this::stored);
    }

    /**
     * Begins to follow. What is past is told on this thread before this returns, what comes then on the intake's thread.
     *
     * @param position what was stored after this is told; 0 for everything
     * @param listener must return quickly
     * @throws EventLogException if the log cannot be read; nothing is followed then
     */
    public static LogFollower from(long position, EventLog log, EventIntake intake, EventIntake.Listener listener) {
        LogFollower follower = new LogFollower(intake, position, listener);
        try {
            follower.catchUp(log);
        } catch (RuntimeException | Error e) {
            follower.close();
            throw e;
        }
        return follower;
    }

    private void catchUp(EventLog log) {
        boolean all = false;
        while (true) {
            if (!all) {
                List<Event> page = log.storedAfter(position, PAGE);
                tell(page);
                all = page.size() < PAGE;
            }
            List<List<Event>> arrived;
            synchronized (this) {
                if (all && meanwhile.isEmpty()) {
                    meanwhile = null;
                    return;
                }
                if (waiting > PAGE) {
                    // Some were passed over; the log has them.
                    all = false;
                    arrived = List.of();
                } else {
                    arrived = all ? meanwhile : List.of();
                }
                if (all || waiting > PAGE) {
                    meanwhile = new ArrayList<>();
                    waiting = 0;
                }
            }
            arrived.forEach(this::tell);
        }
    }

    private synchronized void stored(List<Event> events) {
        if (meanwhile == null) {
            tell(events);
            return;
        }
        if (waiting <= PAGE) {
            meanwhile.add(events);
            waiting += events.size();
        }
    }

    private void tell(List<Event> events) {
        List<Event> fresh = events;
        if (!events.isEmpty() && events.get(0).position() <= position) {
            long told = position;
            fresh = events.stream().filter(e -> e.position() > told).toList();
        }
        if (!fresh.isEmpty()) {
            position = fresh.get(fresh.size() - 1).position();
            listener.stored(fresh);
        }
    }

    @Override
    public void close() {
        subscription.close();
    }
}
