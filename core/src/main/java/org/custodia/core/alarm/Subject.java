package org.custodia.core.alarm;

import java.time.Duration;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.custodia.core.event.Event;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Device;
import org.custodia.core.site.DeviceId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Lookout;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;

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
        SYSTEM,
        /** A whole site. */
        SITE
    }

    /** What an event is about: the nearest thing that it names. */
    public static Subject of(Event event) {
        return event.detail("unit")
                .filter(u -> !u.isBlank())
                .flatMap(u -> known(Sort.DEVICE, event.key().system() + "/" + u))
                .or(() -> event.door().map(d -> new Subject(Sort.DOOR, d.value())))
                .or(() -> event.controller().map(c -> new Subject(Sort.CONTROLLER, c.value())))
                .or(() -> event.detail("camera").flatMap(c -> known(Sort.CAMERA, c)))
                .or(() -> event.detail("system").flatMap(s -> known(Sort.SYSTEM, s)))
                .orElseGet(() -> new Subject(Sort.SYSTEM, event.key().system().value()));
    }

    /** One whose id can be one, so that whoever asks for it need not ask whether it can; details are whatever was sent. */
    private static Optional<Subject> known(Sort sort, String id) {
        try {
            String itself =
                    switch (sort) {
                        case DOOR -> new DoorId(id).value();
                        case DEVICE -> new DeviceId(id).value();
                        case CAMERA -> new CameraId(id).value();
                        case CONTROLLER -> new ControllerId(id).value();
                        case SYSTEM -> new SystemId(id).value();
                        case SITE -> new SiteId(id).value();
                    };
            return Optional.of(new Subject(sort, itself));
        } catch (IllegalArgumentException e) {
            return Optional.empty();
        }
    }

    /** What was written so; nothing where it was not. */
    static Optional<Subject> parse(String text) {
        int blank = text.indexOf(' ');
        if (blank < 1 || blank == text.length() - 1) {
            return Optional.empty();
        }
        try {
            return known(Sort.valueOf(text.substring(0, blank)), text.substring(blank + 1));
        } catch (IllegalArgumentException e) {
            return Optional.empty();
        }
    }

    /** The door, if it is one. */
    public Optional<DoorId> door() {
        return sort == Sort.DOOR ? Optional.of(new DoorId(id)) : Optional.empty();
    }

    /** All sites that it is at; none for what is of no site, or is not known. A controller may drive doors of several. */
    public Set<SiteId> sites(SiteModel sites) {
        if (sort == Sort.CONTROLLER) {
            return sites.doorsOf(new ControllerId(id)).stream().map(Door::site).collect(Collectors.toSet());
        }
        return site(sites).map(Set::of).orElse(Set.of());
    }

    /** Where it is; nothing for what is of no one site, or is not known. */
    public Optional<SiteId> site(SiteModel sites) {
        return switch (sort) {
            case DOOR -> sites.door(new DoorId(id)).map(Door::site);
            case DEVICE -> sites.device(new DeviceId(id)).map(Device::site);
            case CAMERA -> sites.camera(new CameraId(id)).map(Camera::site);
            case CONTROLLER ->
                sites.doorsOf(new ControllerId(id)).stream().findFirst().map(Door::site);
            case SYSTEM -> Optional.empty();
            case SITE -> Optional.of(new SiteId(id));
        };
    }

    /** The most telling camera that shows it; nothing where none does. */
    public Optional<Camera> camera(SiteModel sites) {
        return switch (sort) {
            case DOOR -> cameraOf(new DoorId(id), sites);
            case DEVICE ->
                sites.lookouts(new Lookout.OfDevice(new DeviceId(id))).stream()
                        .flatMap(l -> sites.camera(l.camera()).stream())
                        .findFirst()
                        // What hangs on a door is seen where the door is.
                        .or(() -> sites.device(new DeviceId(id))
                                .flatMap(Device::door)
                                .flatMap(d -> cameraOf(d, sites)));
            case CAMERA -> sites.camera(new CameraId(id));
            case CONTROLLER, SYSTEM, SITE -> Optional.empty();
        };
    }

    private static Optional<Camera> cameraOf(DoorId door, SiteModel sites) {
        return sites.pairings(door).stream()
                .flatMap(p -> sites.camera(p.camera()).stream())
                .findFirst();
    }

    /**
     * A camera nearby.
     *
     * @param at the door that it shows
     * @param after how long the walk there takes
     */
    public record Nearby(Camera camera, DoorId at, Duration after) {}

    /** For a door that no camera shows: the one at the nearest of its neighbours that has one. */
    public Optional<Nearby> nearby(SiteModel sites) {
        return door().filter(d -> cameraOf(d, sites).isEmpty()).flatMap(d -> sites.walks(d).stream()
                .flatMap(w -> cameraOf(w.from(d), sites).map(c -> new Nearby(c, w.from(d), w.takes())).stream())
                .findFirst());
    }

    @Override
    public String toString() {
        return sort + " " + id;
    }
}
