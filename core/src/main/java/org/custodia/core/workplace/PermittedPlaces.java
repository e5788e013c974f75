package org.custodia.core.workplace;

import java.time.Instant;
import java.util.Map;
import java.util.stream.Collectors;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.Sites;

/** The sites at which its reader may do or see anything at all. */
final class PermittedPlaces implements Sites {
    private final Permit permit;
    private final Sites sites;
    private volatile Part part = new Part(null, null);

    /** What can be seen of the places as they stand now. */
    private record Part(SiteModel whole, SiteModel seen) {}

    PermittedPlaces(Permit permit, Sites sites) {
        this.permit = permit;
        this.sites = sites;
    }

    @Override
    public SiteModel get() {
        SiteModel whole = sites.get();
        Part here = part;
        if (here.whole() != whole) {
            here = new Part(whole, seen(whole));
            part = here;
        }
        return here.seen();
    }

    @Override
    public SiteModel at(Instant instant) {
        SiteModel whole = sites.at(instant);
        return whole == part.whole() ? part.seen() : seen(whole);
    }

    private SiteModel seen(SiteModel whole) {
        return permit.seesEverywhere(Sight.PLACES)
                ? whole
                : whole.only(s -> permit.sees(Sight.PLACES, s), d -> permit.sees(Sight.PLACES, d));
    }

    @Override
    public Map<DoorId, SiteId> everyDoor() {
        return sites.everyDoor().entrySet().stream()
                .filter(e -> permit.sees(Sight.PLACES, e.getKey()))
                .collect(Collectors.toMap(Map.Entry::getKey, Map.Entry::getValue));
    }
}
