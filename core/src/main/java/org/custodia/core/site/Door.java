package org.custodia.core.site;

import java.time.Duration;
import java.util.Optional;
import java.util.Set;

/**
 * A door (or gate, turnstile, lift) with at least one reader.
 *
 * @param outside name of the zone on the entry side
 * @param inside name of the zone behind the door
 * @param heldLimit how long it may stand open after a passage before it counts as held open
 * @param asks what it asks for on the way in beside a badge; nothing where its system does not say
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
        Set<DoorCapability> capabilities,
        Optional<Set<DoorAsk>> asks) {
    public Door {
        capabilities = Set.copyOf(capabilities);
        asks = asks.map(Set::copyOf);
    }

    /** A door of which it is not known what it asks for. */
    public Door(
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
        this(id, system, controller, name, site, level, outside, inside, heldLimit, capabilities, Optional.empty());
    }

    /** Whether the door can do or report this. */
    public boolean can(DoorCapability capability) {
        return capabilities.contains(capability);
    }
}
