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
import org.custodia.core.link.LinkStatus.Trouble;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.SystemId;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Holds a link's status and tells of changes. Safe for several threads. */
final class StatusBox {
    private static final Logger LOG = LoggerFactory.getLogger(StatusBox.class);
    private static final int MOST_NOTICES = 30;
    private static final int LONGEST_MAKE = 60;

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
        status = status.heard(clock.instant());
    }

    /** What the other end says it is, in so many characters at most and without those that are none. */
    void make(String said) {
        String plain = said.codePoints()
                .filter(c -> !Character.isISOControl(c))
                .limit(LONGEST_MAKE)
                .collect(StringBuilder::new, StringBuilder::appendCodePoint, StringBuilder::append)
                .toString()
                .strip();
        LinkStatus now;
        synchronized (this) {
            if (plain.isEmpty() || status.make().filter(plain::equals).isPresent()) {
                return;
            }
            status = status.madeAs(plain);
            now = status;
        }
        listener.accept(now);
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
            if (said.equals(notices.get(matter))) {
                return;
            }
            if (!notices.containsKey(matter) && notices.size() >= MOST_NOTICES) {
                // The newest notices matter more than the oldest.
                notices.remove(notices.keySet().iterator().next());
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
        status = status.noting(List.copyOf(notices.values()));
        return status;
    }

    private void set(State state, Optional<Saying> problem, Optional<Instant> retryAt, long done, long of) {
        LinkStatus now;
        synchronized (this) {
            LinkStatus s = status;
            Instant at = clock.instant();
            // A try in between is no new trouble.
            Instant since = state == State.DOWN
                    ? s.lastTrouble()
                            .filter(t -> t.until().isEmpty())
                            .map(Trouble::at)
                            .orElse(at)
                    : at;
            now = s.of(state, s.state() == state ? s.since() : since, problem, retryAt, done, of)
                    .troubled(trouble(s, state, problem, at));
            status = now;
        }
        listener.accept(now);
    }

    /** What went wrong last: it begins when a link goes down, takes the newest reason, and is over when the link is up. */
    private static Optional<Trouble> trouble(LinkStatus before, State state, Optional<Saying> problem, Instant at) {
        Optional<Trouble> last = before.lastTrouble();
        Optional<Trouble> going = last.filter(t -> t.until().isEmpty());
        if (state == State.DOWN && problem.isPresent()) {
            return Optional.of(new Trouble(going.map(Trouble::at).orElse(at), Optional.empty(), problem.get()));
        }
        return state == State.UP && going.isPresent()
                ? going.map(t -> new Trouble(t.at(), Optional.of(at), t.saying()))
                : last;
    }
}
