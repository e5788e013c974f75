package org.custodia.core.event;

import java.time.Instant;
import java.util.List;
import java.util.concurrent.CompletableFuture;
import org.custodia.core.site.SystemId;

/** The one way into the log. Everything handed in is stored, or the sender is told that it was not. */
public interface EventIntake {
    /**
     * Stores what a link received. Waits while the intake has much to do, so that the sender slows down.
     *
     * @param events without position
     * @param backlog whether these come from a first backfill or a resumed backlog, and so are never late
     * @return completes when they are committed; fails with {@link EventLogException} if they could not be
     */
    CompletableFuture<Void> accept(List<Event> events, boolean backlog);

    /**
     * Stores something that Custodia itself or one of its operators did; key and times are given here.
     *
     * @param event its key and position are replaced
     * @return the event as it was stored
     */
    CompletableFuture<Event> record(Event.Builder event);

    /** Keeps a message that could not be understood, as it came. */
    void keepUnread(SystemId system, Instant received, String raw, String why);

    /** Asks to be told of each stored batch, in order, after its commit, on the intake's thread. */
    Subscription subscribe(Listener listener);

    /** Told of what was stored. Must return quickly. */
    @FunctionalInterface
    interface Listener {
        void stored(List<Event> events);
    }

    /** Ends a subscription. */
    @FunctionalInterface
    interface Subscription extends AutoCloseable {
        @Override
        void close();
    }
}
