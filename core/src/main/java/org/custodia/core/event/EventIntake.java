package org.custodia.core.event;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import org.custodia.core.operator.Actor;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.SystemId;

/** The one way into the log. Everything handed in is stored, or the sender is told that it was not. */
public interface EventIntake {
    /**
     * Begins a run of deliveries from one system. Once one of them could not be stored, none that was handed in after it is
     * stored either: the sender begins anew from what {@link #coverage} says is settled, so that nothing overtakes what is
     * still to come.
     */
    Feed feed(SystemId system);

    /**
     * How far the log covers what a system numbered in an epoch, by what is committed.
     *
     * @param epoch the system's own number of the epoch
     * @throws EventLogException if the log cannot be read
     */
    Coverage coverage(SystemId system, long epoch);

    /** The highest epoch of which anything of a system is stored. */
    Optional<Long> newestEpoch(SystemId system);

    /**
     * Puts numbers down as missing, after they were asked for again in vain; what of them is held is left out. Each stretch
     * becomes an event, and another one if it is filled later.
     *
     * @param reason why, one of {@link Gaps}
     * @return what is newly missing
     */
    CompletableFuture<List<NumberRanges.Range>> missing(
            SystemId system, long epoch, NumberRanges.Range numbers, String reason);

    /**
     * Takes note that a system counts on from a lower number than it had reached, as one does that was restored from a
     * backup: what it sends under higher numbers from now on is new unless it is the same as before.
     *
     * @param lastSeq the number that it has reached now
     */
    CompletableFuture<Void> countsAgainFrom(SystemId system, long epoch, long lastSeq);

    /**
     * Stores something that Custodia itself or one of its operators did. It is written before deliveries that are still
     * queued, so that an operator never waits behind a backlog.
     *
     * @param event its key and position are replaced
     * @return the event as it was stored; fails with {@link EventLogException} if it could not be stored
     */
    CompletableFuture<Event> record(Event.Builder event);

    /**
     * Stores something that Custodia found out about a system, such as that its link is lost, after everything that was
     * delivered before it; otherwise as {@link #record}.
     */
    CompletableFuture<Event> recordInOrder(Event.Builder event);

    /** The translation that holds for a system. */
    Translation translation(SystemId system);

    /**
     * Changes what is meant by what a system sends, for everything that is stored and all that comes; nothing that was sent
     * is touched.
     *
     * @param basedOn the version that is changed
     * @param operator who does it
     * @return the new translation; fails with {@link EventLogException} if that version holds no more
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up everywhere
     */
    CompletableFuture<Translation> translate(
            SystemId system, long basedOn, List<Translation.Rule> rules, Actor operator);

    /** Keeps something that could not be understood, as it came: once, however often it comes. */
    CompletableFuture<Void> keepUnread(Unread unread);

    /** Asks to be told of each stored batch, in order, after its commit, on the intake's thread. */
    Subscription subscribe(Listener listener);

    /** A run of deliveries from one system, in the order in which they are handed in. */
    interface Feed {
        /**
         * Stores what was received. Waits while the intake has much to do, so that the sender slows down.
         *
         * @return completes when it is committed; fails with {@link EventLogException} if it could not be
         */
        CompletableFuture<Void> accept(Batch batch);
    }

    /**
     * What a link received in one go.
     *
     * @param events without position
     * @param unread messages that could not be understood
     * @param backlog whether this comes from a first backfill or a resumed backlog, and so is never late
     */
    record Batch(List<Event> events, List<Unread> unread, boolean backlog) {
        public Batch {
            events = List.copyOf(events);
            unread = List.copyOf(unread);
        }

        /** Events alone. */
        public static Batch of(List<Event> events, boolean backlog) {
            return new Batch(events, List.of(), backlog);
        }
    }

    /**
     * Something that could not be understood.
     *
     * @param key the number it came under, where that is known: it counts as held then
     * @param raw as it came; what is longer than a message may be is cut
     * @param why what is wrong with it, in words, without its content
     */
    record Unread(SystemId system, Optional<EventKey> key, Instant received, String raw, Saying why) {
        /** Something without a number. */
        public static Unread of(SystemId system, Instant received, String raw, Saying why) {
            return new Unread(system, Optional.empty(), received, raw, why);
        }
    }

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
