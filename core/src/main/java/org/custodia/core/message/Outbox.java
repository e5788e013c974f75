package org.custodia.core.message;

import java.time.Duration;
import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.saying.Saying;

/**
 * The messages that are under way, and those that were. What was put in is kept until it has arrived or is given up, also when
 * the process ends. All methods throw {@link org.custodia.core.event.EventLogException} if it cannot be read or written.
 */
public interface Outbox {
    /** What the receiver of a slip begins with that is for an access system, and not for a person; its id follows. */
    String SYSTEM = "@";

    /** Nothing waits longer for its next attempt; what seems to was put there before the clock was set back. */
    Duration LONGEST_AHEAD = Duration.ofMinutes(15);

    /** Whether what is to be tried at an instant is to be tried now. */
    static boolean due(Instant next, Instant now) {
        return !next.isAfter(now) || next.isAfter(now.plus(LONGEST_AHEAD));
    }

    /** How far a message has come. */
    enum State {
        WAITING,
        SENT,
        GIVEN_UP
    }

    /**
     * That somebody is to be told of something. There is one message for each of them, however often it is put in.
     *
     * @param alarm the key of the fact that raised it, or, for a system, of what was done
     * @param raised when that was
     * @param receiver by id
     * @param call which of the calls of the alarm that is: it is told anew where it calls once more after somebody had seen it
     */
    record Slip(EventKey alarm, Instant raised, String receiver, Occasion occasion, int call) {
        /** Of the first call. */
        public Slip(EventKey alarm, Instant raised, String receiver, Occasion occasion) {
            this(alarm, raised, receiver, occasion, 1);
        }
    }

    /**
     * A message.
     *
     * @param number in the order in which they were put in
     * @param id by which whoever gets it twice knows it again
     * @param made when it was put in
     * @param attempts how often it was tried
     * @param maybe whether it may have arrived: it was tried, and what came of that is not known
     * @param next when it is tried next
     * @param said what there is to say about it, of late
     * @param remaining the addresses it has not gone to yet, where it went to others; empty for all of the receiver's
     * @param changed when anything of this changed
     */
    record Entry(
            long number,
            String id,
            Slip slip,
            Instant made,
            State state,
            int attempts,
            boolean maybe,
            Instant next,
            Optional<Saying> said,
            List<String> remaining,
            Instant changed) {}

    /**
     * How one receiver fares.
     *
     * @param oldest when that was put in which waits for longest
     * @param sent when something arrived last
     */
    record Fares(int waiting, Optional<Instant> oldest, Optional<Instant> sent) {}

    /** Puts messages in; those that are there already, in whatever state, are passed over. All or none. */
    void put(Collection<Slip> slips, Instant now);

    /** Who has something to be sent by now. */
    Set<String> receiversDue(Instant now);

    /** What is to be sent to somebody by now, the oldest first. */
    List<Entry> due(String receiver, Instant now, int most);

    /** Keeps that one is being tried, before it is: it may have arrived from then on. */
    void begin(Entry entry, Instant now);

    /**
     * What came of an attempt.
     *
     * @param maybe whether it may have arrived
     * @param next when it is tried next
     * @param remaining as in {@link Entry}
     */
    record Result(State state, boolean maybe, Instant next, Optional<Saying> said, List<String> remaining) {
        public Result {
            remaining = List.copyOf(remaining);
        }

        /** One that has nothing to do with single addresses. */
        public Result(State state, boolean maybe, Instant next, Optional<Saying> said) {
            this(state, maybe, next, said, List.of());
        }
    }

    /**
     * Stores what came of an attempt.
     *
     * @param facts the events recording it; both are committed together, or neither
     */
    void end(Entry entry, Result result, Instant now, List<Event.Builder> facts);

    /** Removes a message that will not be sent. */
    void remove(Entry entry);

    /** Has all that waits for somebody tried at once. */
    void hurry(String receiver, Instant now);

    /** Those to people that wait, the oldest first, and then the others, the newest first. */
    List<Entry> all(int most);

    /** Those about an alarm. */
    List<Entry> of(EventKey alarm);

    /** One of them. */
    Optional<Entry> entry(long number);

    /** How each receiver fares that has any, but for systems. */
    Map<String, Fares> fares();

    /** Forgets what arrived or was given up before. */
    void forget(Instant before);
}
