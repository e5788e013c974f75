package org.custodia.core.moment;

import java.time.Instant;

/** Which time the console shows: now, and going on, or a set instant in the past. */
public sealed interface Moment {
    /** Everything is live. */
    record Live() implements Moment {}

    /** Everything shows this instant. */
    record At(Instant instant) implements Moment {}

    Moment LIVE = new Live();

    /** The instant shown when it is now {@code now}. */
    default Instant at(Instant now) {
        return this instanceof At past ? past.instant() : now;
    }

    default boolean isLive() {
        return this instanceof Live;
    }
}
