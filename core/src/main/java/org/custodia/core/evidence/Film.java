package org.custodia.core.evidence;

import java.time.Duration;
import java.time.Instant;
import java.util.Optional;

/**
 * What a camera saw around the instant at which a door opened.
 *
 * @param after nothing while it was not asked for
 */
public record Film(Glimpse before, Glimpse at, Optional<Glimpse> after) {
    /** How long before a door opens somebody stands in front of it. */
    public static final Duration BEFORE = Duration.ofMillis(1_500);
    /** When the leaf is well open. */
    public static final Duration AT = Duration.ofMillis(700);
    /** When whoever opened it has come through. */
    public static final Duration AFTER = Duration.ofMillis(2_500);

    /** The three instants around an opening. */
    public static Instant[] instants(Instant opening) {
        return new Instant[] {opening.minus(BEFORE), opening.plus(AT), opening.plus(AFTER)};
    }
}
