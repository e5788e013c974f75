package org.custodia.core.site;

import java.time.Instant;
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
}
