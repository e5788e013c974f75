package org.custodia.link;

import java.time.Clock;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.link.LinkStatus.State;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.SystemId;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Holds a link's status and tells of changes. Safe for several threads. */
final class StatusBox {
    private static final Logger LOG = LoggerFactory.getLogger(StatusBox.class);
    private static final int MOST_NOTICES = 30;

    private final Clock clock;
    private final Consumer<LinkStatus> listener;
    private final Map<String, Saying> notices = new LinkedHashMap<>();
    private LinkStatus status;

    StatusBox(SystemId system, String name, Clock clock, Consumer<LinkStatus> listener) {
        this.clock = clock;
        this.listener = listener;
        this.status = LinkStatus.starting(system, name, clock.instant());
    }

    synchronized LinkStatus get() {
        return status;
    }

    synchronized void heard() {
        LinkStatus s = status;
        status = new LinkStatus(
                s.system(),
                s.name(),
                s.state(),
                s.since(),
                Optional.of(clock.instant()),
                s.problem(),
                s.retryAt(),
                s.done(),
                s.of(),
                s.notices());
    }

    void state(State state) {
        set(state, Optional.empty(), Optional.empty(), 0, 0);
    }

    void backlog(long done, long of) {
        set(State.READING_BACKLOG, Optional.empty(), Optional.empty(), done, of);
    }

    void down(Saying problem, Instant retryAt) {
        set(State.DOWN, Optional.of(problem), Optional.of(retryAt), 0, 0);
    }

    /** Says what is odd about the system, in place of what was said about the same matter before; written down once. */
    void notice(String matter, Saying said) {
        LinkStatus now;
        synchronized (this) {
            if (said.equals(notices.get(matter)) || !notices.containsKey(matter) && notices.size() >= MOST_NOTICES) {
                return;
            }
            if (!notices.containsKey(matter)) {
                LOG.warn("{}: {}.", status.name(), said);
            }
            notices.put(matter, said);
            now = renewed();
        }
        listener.accept(now);
    }

    /** Says it no more. */
    void settled(String matter) {
        LinkStatus now;
        synchronized (this) {
            if (notices.remove(matter) == null) {
                return;
            }
            now = renewed();
        }
        listener.accept(now);
    }

    private LinkStatus renewed() {
        LinkStatus s = status;
        status = new LinkStatus(
                s.system(),
                s.name(),
                s.state(),
                s.since(),
                s.lastHeard(),
                s.problem(),
                s.retryAt(),
                s.done(),
                s.of(),
                List.copyOf(notices.values()));
        return status;
    }

    private void set(State state, Optional<Saying> problem, Optional<Instant> retryAt, long done, long of) {
        LinkStatus now;
        synchronized (this) {
            LinkStatus s = status;
            Instant since = s.state() == state ? s.since() : clock.instant();
            now = new LinkStatus(
                    s.system(), s.name(), state, since, s.lastHeard(), problem, retryAt, done, of, s.notices());
            status = now;
        }
        listener.accept(now);
    }
}
