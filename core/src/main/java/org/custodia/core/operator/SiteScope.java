package org.custodia.core.operator;

import java.util.Set;
import org.custodia.core.site.SiteId;

/**
 * At which sites something is permitted: all that there are and will be, or those that are named. Naming none means nowhere.
 *
 * @param all everywhere; no sites are named then
 */
public record SiteScope(boolean all, Set<SiteId> sites) {
    public SiteScope {
        sites = Set.copyOf(sites);
        if (all && !sites.isEmpty()) {
            throw new IllegalArgumentException("all sites, or some: not both");
        }
    }

    public static SiteScope everywhere() {
        return new SiteScope(true, Set.of());
    }

    public static SiteScope at(SiteId... some) {
        return new SiteScope(false, Set.of(some));
    }

    public static SiteScope nowhere() {
        return new SiteScope(false, Set.of());
    }

    public boolean includes(SiteId site) {
        return all || sites.contains(site);
    }
}
