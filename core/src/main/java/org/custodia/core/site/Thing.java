package org.custodia.core.site;

import java.util.Locale;
import java.util.Optional;

/**
 * Something that a system says it has.
 *
 * @param id the system's id, a slash, and the system's own id
 */
public record Thing(Sort sort, String id) {
    /** What it is. A door and an input of one system may be called the same. */
    public enum Sort {
        DOOR,
        CAMERA,
        DEVICE
    }

    public Thing {
        Ids.check(id);
    }

    public static Thing of(DoorId door) {
        return new Thing(Sort.DOOR, door.value());
    }

    public static Thing of(CameraId camera) {
        return new Thing(Sort.CAMERA, camera.value());
    }

    public static Thing of(DeviceId device) {
        return new Thing(Sort.DEVICE, device.value());
    }

    /** The system that has it. */
    public SystemId system() {
        return SystemId.of(id);
    }

    /** How it is written: the sort, a blank and the id. */
    @Override
    public String toString() {
        return sort.name().toLowerCase(Locale.ROOT) + " " + id;
    }

    /** What was written so; nothing where it was not. */
    public static Optional<Thing> parse(String written) {
        int blank = written.indexOf(' ');
        if (blank < 1) {
            return Optional.empty();
        }
        try {
            return Optional.of(new Thing(
                    Sort.valueOf(written.substring(0, blank).toUpperCase(Locale.ROOT)), written.substring(blank + 1)));
        } catch (IllegalArgumentException e) {
            return Optional.empty();
        }
    }
}
