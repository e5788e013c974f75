package org.custodia.core.setup;

import java.util.List;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;

/** Writes a setup as a links file, by which another Custodia, or this one anew, begins with the same. */
public interface SetupSheets {
    /**
     * Writes one, without anything to sign in with.
     *
     * @param site name of the whole
     * @param watch doors to have on watch at first
     */
    byte[] write(String site, List<LinkSetup> links, List<Pairing> pairs, List<DoorId> watch);
}
