package org.custodia.core.evidence;

import java.time.Instant;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Side;

/**
 * A door opened; that much is known.
 *
 * @param from on which side somebody stood who wanted it open, if that is known
 * @param alongside the other doors that opened at nearly the same time, at whatever site: what a lobby shows may belong to two
 */
public record KnownOpening(DoorId door, Instant at, Optional<Side> from, Set<DoorId> alongside) {
    public KnownOpening {
        alongside = Set.copyOf(alongside);
    }
}
