package org.custodia.core.access;

import java.time.Clock;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ConcurrentHashMap;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Projection;
import org.custodia.core.event.ProjectionFollower;
import org.custodia.core.event.Snapshots;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.Permission;
import org.custodia.core.site.Sites;
import org.custodia.core.site.SystemId;

/** Verdicts on faces, recorded in the log. The newest of several on one event holds. */
public final class Verdicts implements AutoCloseable {
    private final EventIntake intake;
    private final Sites sites;
    private final Clock clock;
    private final Fold fold = new Fold();
    private final ProjectionFollower<State> follower;

    /** The verdict on one event. */
    record Entry(EventKey about, Verdict verdict) {}

    /** All verdicts, as a snapshot has them. */
    record State(List<Entry> verdicts) {}

    /** All verdicts by the event they are about. */
    private static final class Fold implements Projection<State> {
        private final Map<EventKey, Verdict> known = new ConcurrentHashMap<>();

        @Override
        public String name() {
            return "verdicts";
        }

        @Override
        public int version() {
            return 1;
        }

        @Override
        public Class<State> form() {
            return State.class;
        }

        @Override
        public Set<EventKind> kinds() {
            return Set.of(Kinds.VERDICT);
        }

        @Override
        public void apply(Event event) {
            event.detail("verdict").flatMap(Verdict::of).ifPresent(v -> event.detail("about")
                    .flatMap(EventKey::parse)
                    .ifPresent(k -> known.put(k, v)));
        }

        @Override
        public State state() {
            List<Entry> all = new ArrayList<>();
            known.forEach((about, verdict) -> all.add(new Entry(about, verdict)));
            return new State(all);
        }

        @Override
        public void restore(State state) {
            state.verdicts().forEach(e -> known.put(e.about(), e.verdict()));
        }
    }

    /**
     * @throws org.custodia.core.event.EventLogException if the log cannot be read
     */
    public Verdicts(EventLog log, EventIntake intake, Snapshots snapshots, Sites sites, Clock clock) {
        this.sites = sites;
        this.intake = intake;
        this.clock = clock;
        this.follower = new ProjectionFollower<>(fold, log, intake, snapshots, e -> {});
    }

    /** The verdict on an event, if an operator gave one. */
    public Optional<Verdict> of(EventKey about) {
        return Optional.ofNullable(fold.known.get(about));
    }

    /**
     * Records a verdict.
     *
     * @throws org.custodia.core.operator.NotPermittedException if the actor may not look at pictures where the event
     *     happened; where that is not known, if they may not everywhere
     */
    public CompletableFuture<Event> give(Actor actor, Event about, Verdict verdict) {
        about.door()
                .flatMap(
                        d -> sites.get().door(d).or(() -> sites.at(about.time()).door(d)))
                .ifPresentOrElse(
                        d -> actor.require(Permission.SEE_LIVE, d.site()),
                        () -> actor.requireEverywhere(Permission.SEE_LIVE));
        Event.Builder event = Event.of(new EventKey(SystemId.CUSTODIA, 1, 0), Kinds.VERDICT, clock.instant())
                .operator(actor.operator())
                .detail("operator-name", actor.name())
                .detail("about", about.key().text())
                .detail("verdict", verdict.id());
        about.door().ifPresent(event::door);
        about.person().ifPresent(event::person);
        return intake.record(event);
    }

    @Override
    public void close() {
        follower.close();
    }
}
