package org.custodia.core.site;

import java.time.Duration;
import java.util.Set;

/**
 * A door (or gate, turnstile, lift) with at least one reader.
 *
 * @param outside name of the zone on the entry side
 * @param inside name of the zone behind the door
 * @param heldLimit how long it may stand open after a passage before it counts as held open
 */
public record Door(
        DoorId id,
        SystemId system,
        ControllerId controller,
        String name,
        SiteId site,
        String level,
        String outside,
        String inside,
        Duration heldLimit,
        Set<DoorCapability> capabilities) {
    public Door {
        capabilities = Set.copyOf(capabilities);
    }

    /** Whether the door can do or report this. */
    public boolean can(DoorCapability capability) {
        return capabilities.contains(capability);
    }
}
