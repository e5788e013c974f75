package org.custodia.core.footage;

import java.time.Duration;
import java.time.Instant;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;

/**
 * Which footage a camera has, in our own time.
 *
 * @param keptFrom the oldest instant that is not overwritten yet
 * @param readyAfter how long a recorder writes before footage can be had
 * @param lostSince since when no picture has come in, if that is so
 * @param missing spans of which nothing was recorded, in order of time
 * @param rolls whether the oldest is seen to be overwritten as time passes
 */
public record Footage(
        Instant keptFrom, Duration readyAfter, Optional<Instant> lostSince, List<Missing> missing, boolean rolls) {
    public Footage {
        missing = missing.stream().sorted(Comparator.comparing(Missing::from)).toList();
    }

    /** One of which everything was recorded, as far as is known. */
    public Footage(Instant keptFrom, Duration readyAfter, Optional<Instant> lostSince) {
        this(keptFrom, readyAfter, lostSince, List.of(), false);
    }

    /**
     * A span of which nothing was recorded.
     *
     * @param to not included
     */
    public record Missing(Instant from, Instant to) {
        boolean has(Instant instant) {
            return !instant.isBefore(from) && instant.isBefore(to);
        }
    }

    /** What became of the footage of one instant. */
    public sealed interface At {
        /** It can be played. */
        record Ready() implements At {}

        /** It will be there at that time. */
        record Pending(Instant readyAt) implements At {}

        /** It was overwritten; nothing older than that is left. */
        record Overwritten(Instant keptFrom) implements At {}

        /**
         * The camera gave no picture then.
         *
         * @param until when it gave one again; nothing while it does not
         */
        record NoPicture(Instant since, Optional<Instant> until) implements At {}

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
            return new At.NoPicture(lostSince.get(), Optional.empty());
        }
        Optional<Missing> gap = missing.stream().filter(m -> m.has(instant)).findFirst();
        if (gap.isPresent()) {
            return new At.NoPicture(gap.get().from(), Optional.of(gap.get().to()));
        }
        Instant readyAt = instant.plus(readyAfter);
        return readyAt.isAfter(now) ? new At.Pending(readyAt) : new At.Ready();
    }

    /** When footage of an instant will be overwritten, if things go on as they do; nothing while that cannot be told. */
    public Optional<Instant> goneAt(Instant instant, Instant now) {
        return rolls && !instant.isBefore(keptFrom)
                ? Optional.of(instant.plus(Duration.between(keptFrom, now)))
                : Optional.empty();
    }
}
