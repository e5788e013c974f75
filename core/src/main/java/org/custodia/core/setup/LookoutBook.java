package org.custodia.core.setup;

import java.util.List;
import java.util.Optional;
import org.custodia.core.event.Event;
import org.custodia.core.operator.Actor;
import org.custodia.core.site.Lookout;

/** Which cameras show something other than a door, with all versions. */
public interface LookoutBook {
    /** All that are kept, also of what is not known. */
    List<Lookout> allLookouts();

    /** The number of the newest version of one; 0 if it never was. */
    long lookoutVersion(String key);

    /**
     * Keeps a new version.
     *
     * @param lookout nothing to say that there is none any more
     * @param fact the event recording the edit; both are committed together, or neither
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up where both are
     * @throws org.custodia.core.event.EventLogException if somebody has changed it meanwhile, or it cannot be written
     */
    void keepLookout(String key, Optional<Lookout> lookout, long basedOn, Actor by, Event.Builder fact);
}
