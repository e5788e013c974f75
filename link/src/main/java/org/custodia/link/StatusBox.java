package org.custodia.link;

import java.time.Clock;
import java.time.Instant;
import java.util.Optional;
import java.util.function.Consumer;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.link.LinkStatus.State;
import org.custodia.core.site.SystemId;

/** Holds a link's status and tells of changes. Safe for several threads. */
final class StatusBox {
    private final Clock clock;
    private final Consumer<LinkStatus> listener;
    private volatile LinkStatus status;

    StatusBox(SystemId system, String name, Clock clock, Consumer<LinkStatus> listener) {
        this.clock = clock;
        this.listener = listener;
        this.status = LinkStatus.starting(system, name, clock.instant());
    }

    LinkStatus get() {
        return status;
    }

    void heard() {
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
                s.of());
    }

    void state(State state) {
        set(state, Optional.empty(), Optional.empty(), 0, 0);
    }

    void backlog(long done, long of) {
        set(State.READING_BACKLOG, Optional.empty(), Optional.empty(), done, of);
    }

    void down(String problem, Instant retryAt) {
        set(State.DOWN, Optional.of(problem), Optional.of(retryAt), 0, 0);
    }

    private void set(State state, Optional<String> problem, Optional<Instant> retryAt, long done, long of) {
        LinkStatus s = status;
        Instant since = s.state() == state ? s.since() : clock.instant();
        status = new LinkStatus(s.system(), s.name(), state, since, s.lastHeard(), problem, retryAt, done, of);
        listener.accept(status);
    }
}
