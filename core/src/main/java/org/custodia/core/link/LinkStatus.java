package org.custodia.core.link;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.SystemId;

/**
 * How a link is doing.
 *
 * @param lastHeard when anything last came from the other end
 * @param problem what went wrong last, while it matters
 * @param retryAt when it will try again, while it is down
 * @param done of a backlog: how many events were read so far
 * @param of of a backlog: how many there are in all
 * @param notices what is odd about the system though the link works, one each
 */
public record LinkStatus(
        SystemId system,
        String name,
        State state,
        Instant since,
        Optional<Instant> lastHeard,
        Optional<Saying> problem,
        Optional<Instant> retryAt,
        long done,
        long of,
        List<Saying> notices) {
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

    /** The same, with no connection at all, for a reason that does not pass by itself. */
    public LinkStatus failed(Saying why) {
        return new LinkStatus(
                system, name, State.DOWN, since, lastHeard, Optional.of(why), Optional.empty(), 0, 0, notices);
    }

    /** The same, ended. */
    public LinkStatus closed() {
        return new LinkStatus(
                system, name, State.CLOSED, since, lastHeard, Optional.empty(), Optional.empty(), 0, 0, List.of());
    }

    /** A link that was just made. */
    public static LinkStatus starting(SystemId system, String name, Instant now) {
        return new LinkStatus(
                system,
                name,
                State.CONNECTING,
                now,
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                0,
                0,
                List.of());
    }
}
