package org.custodia.core.setup;

import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.event.Event;
import org.custodia.core.operator.Actor;
import org.custodia.core.site.Placing;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.Thing;
import org.custodia.core.site.Walk;

/** What systems say they have, what was said of it here, and which doors are neighbours, with all versions of each. */
public interface DeviceBook {
    /** All that systems have; and what they have no more, until somebody has seen that. By what it is called here. */
    List<Found> found();

    /**
     * What is to be said of one thing.
     *
     * @param basedOn the version that was looked at; 0 for one of which nothing was ever said
     */
    record PlacingEdit(Placing placing, long basedOn) {}

    /** All that was said here of things and holds, also of things that are not known, each with its version. */
    List<PlacingEdit> placings();

    /** The number of the newest version of what was said of a thing; 0 if nothing was. */
    long placingVersion(Thing thing);

    /** All doors that are said to be neighbours, also where they are not known. */
    List<Walk> allWalks();

    /** The sites that were made here. */
    List<Site> ownSites();

    /**
     * Says of many things where they are, all or none. A placing that says nothing ends what was said before.
     *
     * @param facts the events recording the edits; both are committed together, or neither
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up where they are, or will be
     * @throws org.custodia.core.event.EventLogException if somebody has said something else of one meanwhile, or it cannot
     *     be written
     */
    void place(List<PlacingEdit> edits, Actor by, List<Event.Builder> facts);

    /**
     * Marks what systems say as seen.
     *
     * @param versions by thing the number of what was seen; what the system has said since stays news
     * @param fact the event recording the edit; both are committed together, or neither
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up where they are
     * @throws org.custodia.core.event.EventLogException if it cannot be written
     */
    void seen(Map<Thing, Long> versions, Actor by, Event.Builder fact);

    /** The number of the newest version of what was said of two doors; 0 if nothing was. */
    long walkVersion(String key);

    /**
     * What is to be said of two doors.
     *
     * @param walk nothing to say that they are no neighbours
     */
    record WalkEdit(String key, Optional<Walk> walk, long basedOn) {}

    /** Says of pairs of doors whether they are neighbours, all or none; otherwise as {@link #place}. */
    void walks(List<WalkEdit> edits, Actor by, List<Event.Builder> facts);

    /** The number of the newest version of a site; 0 if there never was one. */
    long siteVersion(SiteId site);

    /** Keeps a new version of a site; otherwise as {@link #place}. */
    void keepSite(Site site, long basedOn, Actor by, Event.Builder fact);
}
