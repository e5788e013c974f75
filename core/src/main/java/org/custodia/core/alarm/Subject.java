package org.custodia.core.alarm;

import java.util.Optional;
import org.custodia.core.event.Event;
import org.custodia.core.site.Device;
import org.custodia.core.site.DeviceId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;

/**
 * What an alarm is about: a door, a device, a camera, a controller or a system. What happens again there joins it.
 *
 * @param sort which of them
 * @param id as it is written in the log
 */
public record Subject(Sort sort, String id) {
    /** What it is. */
    public enum Sort {
        DOOR,
        DEVICE,
        CAMERA,
        CONTROLLER,
        SYSTEM
    }

    /** What an event is about: the nearest thing that it names. */
    public static Subject of(Event event) {
        Optional<String> unit = event.detail("unit").filter(u -> !u.isBlank());
        if (unit.isPresent() && unit.get().length() < 200) {
            return new Subject(Sort.DEVICE, event.key().system() + "/" + unit.get());
        }
        if (event.door().isPresent()) {
            return new Subject(Sort.DOOR, event.door().get().value());
        }
        if (event.controller().isPresent()) {
            return new Subject(Sort.CONTROLLER, event.controller().get().value());
        }
        return event.detail("camera")
                .filter(c -> !c.isBlank())
                .map(c -> new Subject(Sort.CAMERA, c))
                .or(() -> event.detail("system").filter(s -> !s.isBlank()).map(s -> new Subject(Sort.SYSTEM, s)))
                .orElseGet(() -> new Subject(Sort.SYSTEM, event.key().system().value()));
    }

    /** What was written so; nothing where it was not. */
    static Optional<Subject> parse(String text) {
        int blank = text.indexOf(' ');
        if (blank < 1 || blank == text.length() - 1) {
            return Optional.empty();
        }
        try {
            return Optional.of(new Subject(Sort.valueOf(text.substring(0, blank)), text.substring(blank + 1)));
        } catch (IllegalArgumentException e) {
            return Optional.empty();
        }
    }

    /** The door, if it is one. */
    public Optional<DoorId> door() {
        return sort == Sort.DOOR ? Optional.of(new DoorId(id)) : Optional.empty();
    }

    /** Where it is; nothing for what is of no one site, or is not known. */
    public Optional<SiteId> site(SiteModel sites) {
        try {
            return switch (sort) {
                case DOOR -> sites.door(new DoorId(id)).map(d -> d.site());
                case DEVICE -> sites.device(new DeviceId(id)).map(Device::site);
                case CAMERA ->
                    sites.cameras().stream()
                            .filter(c -> c.id().value().equals(id))
                            .findFirst()
                            .map(c -> c.site());
                case CONTROLLER ->
                    sites.doors().stream()
                            .filter(d -> d.controller().value().equals(id))
                            .findFirst()
                            .map(d -> d.site());
                case SYSTEM -> Optional.empty();
            };
        } catch (IllegalArgumentException e) {
            return Optional.empty();
        }
    }

    @Override
    public String toString() {
        return sort + " " + id;
    }
}
