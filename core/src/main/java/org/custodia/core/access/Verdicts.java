package org.custodia.core.access;

import java.time.Clock;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ConcurrentHashMap;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.LogFollower;
import org.custodia.core.event.Provenance;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.Permission;
import org.custodia.core.site.Sites;
import org.custodia.core.site.SystemId;

/** Verdicts on faces, kept in the log. The newest of several on one event holds. */
public final class Verdicts implements AutoCloseable {
    private static final int REMEMBERED = 5_000;

    private final EventIntake intake;
    private final Sites sites;
    private final Clock clock;
    private final Map<EventKey, Verdict> known = new ConcurrentHashMap<>();
    private final LogFollower follower;

    public Verdicts(EventLog log, EventIntake intake, Sites sites, Clock clock) {
        this.sites = sites;
        this.intake = intake;
        this.clock = clock;
        long known = log.newestPosition();
        var past = log.find(EventQuery.all().kinds(Kinds.VERDICT).newest(REMEMBERED));
        for (int i = past.size() - 1; i >= 0; i--) {
            take(past.get(i));
        }
        this.follower = LogFollower.from(known, log, intake, events -> events.forEach(this::take));
    }

    private void take(Event event) {
        // Only what an operator said here is a verdict, whatever a system may send.
        if (event.kind().equals(Kinds.VERDICT) && Provenance.trusted(event)) {
            event.detail("verdict").flatMap(Verdict::of).ifPresent(v -> event.detail("about")
                    .flatMap(EventKey::parse)
                    .ifPresent(k -> known.put(k, v)));
        }
    }

    /** The verdict on an event, if somebody gave one. */
    public Optional<Verdict> of(EventKey about) {
        return Optional.ofNullable(known.get(about));
    }

    /**
     * Keeps a verdict.
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
