package org.custodia.core.setup;

import java.util.List;
import org.custodia.core.event.Translation;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.Lookout;
import org.custodia.core.site.Site;
import org.custodia.core.site.SystemId;

/**
 * What a whole setup that was read would change here, before it does. It adds and changes; what is here and not in it stays.
 *
 * @param shown what would be otherwise, thing by thing; but for meanings
 * @param problems what of it cannot be taken, and why
 * @param same how many things are here just so
 */
public record SetupPlan(
        List<LinkEdit> links,
        List<SiteEdit> sites,
        PairPlan pairs,
        List<DeviceBook.PlacingEdit> placings,
        List<DeviceBook.WalkEdit> neighbours,
        List<LookoutEdit> lookouts,
        List<MeaningsEdit> meanings,
        List<ChangeBook.Change> shown,
        List<Problem> problems,
        int same) {
    public SetupPlan {
        links = List.copyOf(links);
        sites = List.copyOf(sites);
        placings = List.copyOf(placings);
        neighbours = List.copyOf(neighbours);
        lookouts = List.copyOf(lookouts);
        meanings = List.copyOf(meanings);
        shown = List.copyOf(shown);
        problems = List.copyOf(problems);
    }

    /**
     * A connection as it would be.
     *
     * @param asksForToken whether somebody has to enter with what to sign in before it connects
     */
    public record LinkEdit(LinkSetup link, long basedOn, boolean asksForToken) {}

    /** A site that no system has. */
    public record SiteEdit(Site site, long basedOn) {}

    /** A camera of something that is no door. */
    public record LookoutEdit(Lookout lookout, long basedOn) {}

    /** What a system's words would mean. */
    public record MeaningsEdit(SystemId system, List<Translation.Rule> rules, long basedOn) {}

    /**
     * Something that cannot be taken.
     *
     * @param what as the file calls it
     */
    public record Problem(String what, Saying why) {}

    /** How many things would be changed. */
    public int changes() {
        return shown.size() + meanings.size();
    }
}
