package org.custodia.core.setup;

import java.util.List;
import org.custodia.core.operator.Actor;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PairId;
import org.custodia.core.site.Pairing;

/** Which cameras show which doors, with all versions of each pair. */
public interface PairBook {
    /**
     * One as it stands.
     *
     * @param version by which an edit says what it changes
     */
    record Kept(Pairing pairing, long version) {}

    /** The pairs of a door, the most telling first. */
    List<Kept> of(DoorId door);

    /** The number of the newest version that there ever was of one; 0 if there was none. */
    long version(PairId pair);

    /**
     * Keeps a new version; a pair that was not there comes last among those of its door.
     *
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up where door and camera are
     * @throws org.custodia.core.event.EventLogException if somebody has changed it meanwhile, or it cannot be written
     */
    long keep(Pairing pairing, long basedOn, Actor by);

    /** Keeps that there is none any more; otherwise the same. */
    long end(PairId pair, long basedOn, Actor by);
}
