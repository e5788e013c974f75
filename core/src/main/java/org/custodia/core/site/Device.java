package org.custodia.core.site;

import java.util.Optional;

/**
 * What an access system has that is no door: an input, a call station, a display, a muster reader.
 *
 * @param kind as the link protocol has it (panic-button, fire-contact, call-station …), or the make's own word
 * @param controller what it hangs on, where its system says so
 * @param door the door it belongs to, if it does
 */
public record Device(
        DeviceId id,
        SystemId system,
        Optional<ControllerId> controller,
        String kind,
        String name,
        SiteId site,
        Optional<DoorId> door) {
    /** The same, without the door it belongs to. */
    Device withoutDoor() {
        return new Device(id, system, controller, kind, name, site, Optional.empty());
    }
}
