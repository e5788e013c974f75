package org.custodia.core.setup;

import java.util.List;
import java.util.Map;
import org.custodia.core.event.Translation;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Lookout;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Placing;
import org.custodia.core.site.Site;
import org.custodia.core.site.SystemId;
import org.custodia.core.site.Walk;

/**
 * All that operators set up, without anything to sign in with. What systems themselves say is not part of it.
 *
 * @param name of the whole, shown at the top
 * @param sites those that no system has
 * @param pairs of each door the most telling first
 * @param meanings what systems' own words mean here, the first rule that fits
 * @param watch doors to have on watch until an operator chooses
 */
public record WholeSetup(
        String name,
        List<LinkSetup> links,
        List<Site> sites,
        List<Pairing> pairs,
        List<Placing> placings,
        List<Walk> neighbours,
        List<Lookout> lookouts,
        Map<SystemId, List<Translation.Rule>> meanings,
        List<DoorId> watch) {
    public WholeSetup {
        links = List.copyOf(links);
        sites = List.copyOf(sites);
        pairs = List.copyOf(pairs);
        placings = List.copyOf(placings);
        neighbours = List.copyOf(neighbours);
        lookouts = List.copyOf(lookouts);
        meanings = Map.copyOf(meanings);
        watch = List.copyOf(watch);
    }
}
