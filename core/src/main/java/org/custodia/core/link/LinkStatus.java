package org.custodia.core.link;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.SystemId;

/**
 * How a link is doing.
 *
 * @param make what the other end says it is; nothing before it was asked
 * @param lastHeard when anything last came from the other end
 * @param problem what went wrong last, while it matters
 * @param retryAt when it will try again, while it is down
 * @param done of a backlog: how many events were read so far
 * @param of of a backlog: how many there are in all
 * @param notices what is odd about the system though the link works, one each
 * @param lastTrouble what went wrong last, also when it is over
 */
public record LinkStatus(
        SystemId system,
        String name,
        Optional<String> make,
        State state,
        Instant since,
        Optional<Instant> lastHeard,
        Optional<Saying> problem,
        Optional<Instant> retryAt,
        long done,
        long of,
        List<Saying> notices,
        Optional<Trouble> lastTrouble) {
    public LinkStatus {
        notices = List.copyOf(notices);
    }

    /** Where a link stands. */
    public enum State {
        CONNECTING,
        READING_BACKLOG,
        UP,
        DOWN,
        CLOSED
    }

    /**
     * What went wrong.
     *
     * @param until when it was over; nothing while it is not
     */
    public record Trouble(Instant at, Optional<Instant> until, Saying saying) {}

    /** The same, with no connection at all, for a reason that does not pass by itself. */
    public LinkStatus failed(Saying why) {
        return of(State.DOWN, since, Optional.of(why), Optional.empty(), 0, 0);
    }

    /** The same, ended. */
    public LinkStatus closed() {
        return of(State.CLOSED, since, Optional.empty(), Optional.empty(), 0, 0).noting(List.of());
    }

    /** The same, in a state. */
    public LinkStatus of(
            State now, Instant from, Optional<Saying> why, Optional<Instant> again, long read, long ofAll) {
        return new LinkStatus(system, name, make, now, from, lastHeard, why, again, read, ofAll, notices, lastTrouble);
    }

    /** The same, heard of. */
    public LinkStatus heard(Instant at) {
        return new LinkStatus(
                system, name, make, state, since, Optional.of(at), problem, retryAt, done, of, notices, lastTrouble);
    }

    /** The same, with what is odd. */
    public LinkStatus noting(List<Saying> odd) {
        return new LinkStatus(
                system, name, make, state, since, lastHeard, problem, retryAt, done, of, odd, lastTrouble);
    }

    /** The same, with what it says it is. */
    public LinkStatus madeAs(String said) {
        return new LinkStatus(
                system,
                name,
                Optional.of(said),
                state,
                since,
                lastHeard,
                problem,
                retryAt,
                done,
                of,
                notices,
                lastTrouble);
    }

    /** The same, with what went wrong last. */
    public LinkStatus troubled(Optional<Trouble> last) {
        return new LinkStatus(system, name, make, state, since, lastHeard, problem, retryAt, done, of, notices, last);
    }

    /** A link that was just made. */
    public static LinkStatus starting(SystemId system, String name, Instant now) {
        return new LinkStatus(
                system,
                name,
                Optional.empty(),
                State.CONNECTING,
                now,
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                0,
                0,
                List.of(),
                Optional.empty());
    }
}
