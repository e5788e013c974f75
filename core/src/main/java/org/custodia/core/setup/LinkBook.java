package org.custodia.core.setup;

import java.util.Collection;
import java.util.List;
import org.custodia.core.event.Event;
import org.custodia.core.operator.Actor;
import org.custodia.core.site.SystemId;

/** Which connections are set up, with all versions of each. */
public interface LinkBook {
    /**
     * One as it stands.
     *
     * @param version by which an edit says what it changes
     */
    record Kept(LinkSetup link, long version) {}

    /** Those that are set up now, by kind and name. */
    List<Kept> all();

    /** The number of the newest version that there ever was of one; 0 if there was none. */
    long version(SystemId system);

    /**
     * Keeps a new version.
     *
     * @param fact the event recording the edit; both are committed together, or neither
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up everywhere
     * @throws org.custodia.core.event.EventLogException if somebody has changed it meanwhile, or it cannot be written
     */
    long keep(LinkSetup link, long basedOn, Actor by, Event.Builder fact);

    /** Keeps that there is none any more; otherwise the same. */
    long end(SystemId system, long basedOn, Actor by, Event.Builder fact);

    /**
     * Takes over what a file has: what is new or different in it than it was the last time, and what it had and has no more.
     *
     * @throws org.custodia.core.event.EventLogException if it cannot be written
     */
    void take(Collection<LinkSetup> ofFile);
}
