package org.custodia.core.setup;

import java.util.List;
import java.util.Optional;
import org.custodia.core.event.Event;
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

    /** Every pair that is kept, also of doors that are not known; of each door the most telling first. */
    List<Kept> allPairs();

    /** The number of the newest version that there ever was of one; 0 if there was none. */
    long version(PairId pair);

    /**
     * Keeps a new version; a pair that was not there comes last among those of its door.
     *
     * @param fact the event recording the edit; both are committed together, or neither
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up where door and camera are
     * @throws org.custodia.core.event.EventLogException if somebody has changed it meanwhile, or it cannot be written
     */
    long keep(Pairing pairing, long basedOn, Actor by, Event.Builder fact);

    /**
     * Says of many pairs at once how they are, all or none.
     *
     * @param edits a pair each; without a pairing to say that there is none any more
     * @param facts the events recording the edits; both are committed together, or neither
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up where they all are
     * @throws org.custodia.core.event.EventLogException if somebody has changed one meanwhile, or it cannot be written
     */
    void keepAll(List<Edit> edits, Actor by, List<Event.Builder> facts);

    /**
     * What is to be said of a pair.
     *
     * @param basedOn the version that was looked at; 0 for one that was never there
     */
    record Edit(PairId pair, Optional<Pairing> pairing, long basedOn) {}

    /**
     * Puts the pairs of a door into an order, the most telling first.
     *
     * @param order all pairs of the door as they stand
     * @param fact the event recording the edit; both are committed together, or neither
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up where they all are
     * @throws org.custodia.core.event.EventLogException if somebody has changed one meanwhile, or it cannot be written
     */
    void order(List<Kept> order, Actor by, Event.Builder fact);

    /** Keeps that there is none any more; otherwise the same. */
    long end(PairId pair, long basedOn, Actor by, Event.Builder fact);
}
