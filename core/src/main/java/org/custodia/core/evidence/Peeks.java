package org.custodia.core.evidence;

import java.io.IOException;
import java.time.Instant;
import org.custodia.core.site.Camera;

/** Where pictures to compare come from. */
@FunctionalInterface
public interface Peeks {
    /**
     * What a camera saw at an instant, or just before it.
     *
     * @throws IOException if there is no picture of then
     */
    Glimpse at(Camera camera, Instant instant) throws IOException;
}
