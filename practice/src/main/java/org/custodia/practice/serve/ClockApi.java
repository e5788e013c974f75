package org.custodia.practice.serve;

import io.javalin.Javalin;
import java.time.Clock;
import java.time.Instant;
import java.util.Optional;
import org.custodia.practice.timeline.Act;
import org.custodia.practice.timeline.SystemClock;
import org.custodia.practice.timeline.Timeline;
import org.custodia.wire.ClockMessage;

/** What a system's clock shows, where it takes that from, and setting it, which is an act like any other. */
final class ClockApi {
    private final String system;
    private final SystemClock shows;
    private final Timeline timeline;
    private final Clock clock;

    /**
     * @param system whose clock it is
     * @param clock true time
     */
    ClockApi(String system, SystemClock shows, Timeline timeline, Clock clock) {
        this.system = system;
        this.shows = shows;
        this.timeline = timeline;
        this.clock = clock;
    }

    /** Answers below an address. */
    void register(Javalin app, String base) {
        app.get(base + "time", ctx -> Answers.json(ctx, message()));
        app.post(base + "time/sync", ctx -> {
            if (!shows.canSync()) {
                throw new Answers.BadRequest("its clock is not set by asking");
            }
            Optional<String> problem = timeline.act(Act.of("clock").target(system), clock.instant());
            if (problem.isPresent()) {
                throw new Answers.BadRequest(problem.get());
            }
            Answers.json(ctx, message());
        });
    }

    private ClockMessage message() {
        return new ClockMessage(
                Instant.ofEpochMilli(shows.shows(clock.millis())),
                shows.source().orElse(null),
                shows.canSync() ? Boolean.TRUE : null);
    }
}
