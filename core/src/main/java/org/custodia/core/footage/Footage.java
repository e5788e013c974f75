package org.custodia.core.footage;

import java.time.Duration;
import java.time.Instant;
import java.util.Optional;

/**
 * Which footage a camera has, in our own time.
 *
 * @param keptFrom the oldest instant that is not overwritten yet
 * @param readyAfter how long a recorder writes before footage can be had
 * @param lostSince since when no picture has come in, if that is so
 */
public record Footage(Instant keptFrom, Duration readyAfter, Optional<Instant> lostSince) {

    /** What became of the footage of one instant. */
    public sealed interface At {
        /** It can be played. */
        record Ready() implements At {}

        /** It will be there at that time. */
        record Pending(Instant readyAt) implements At {}

        /** It was overwritten; nothing older than that is left. */
        record Overwritten(Instant keptFrom) implements At {}

        /** The camera gave no picture then. */
        record NoPicture(Instant since) implements At {}

        /** It has not happened yet. */
        record Future() implements At {}
    }

    /** What can be had of an instant when it is now {@code now}. */
    public At at(Instant instant, Instant now) {
        if (instant.isAfter(now)) {
            return new At.Future();
        }
        if (instant.isBefore(keptFrom)) {
            return new At.Overwritten(keptFrom);
        }
        if (lostSince.isPresent() && !instant.isBefore(lostSince.get())) {
            return new At.NoPicture(lostSince.get());
        }
        Instant readyAt = instant.plus(readyAfter);
        return readyAt.isAfter(now) ? new At.Pending(readyAt) : new At.Ready();
    }
}
