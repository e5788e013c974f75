package org.custodia.core.site;

import java.time.Instant;
import java.util.HashMap;
import java.util.Map;
import java.util.function.Supplier;

/** All places, as they are and as they were. Safe for use by several threads. */
@FunctionalInterface
public interface Sites extends Supplier<SiteModel> {
    /** All places as they stand now. */
    @Override
    SiteModel get();

    /** All places as they stood at an instant; before anything was known of a system, as it was when that was first read. */
    default SiteModel at(Instant instant) {
        return get();
    }

    /** The site of every door there ever was; of one that is gone or has moved, the last. */
    default Map<DoorId, SiteId> everyDoor() {
        Map<DoorId, SiteId> result = new HashMap<>();
        get().doors().forEach(d -> result.put(d.id(), d.site()));
        return result;
    }
}
