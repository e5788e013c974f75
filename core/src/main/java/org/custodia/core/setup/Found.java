package org.custodia.core.setup;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import org.custodia.core.site.Camera;
import org.custodia.core.site.Device;
import org.custodia.core.site.Door;
import org.custodia.core.site.Placing;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SystemId;
import org.custodia.core.site.Thing;

/**
 * Something that a system has or had: what the system says of it, what was said of it here, and what is new about it since
 * somebody looked last.
 *
 * @param said what its system says, or said last
 * @param saidVersion the number of that; what is marked as seen is marked with it
 * @param placing what holds here beside
 * @param version of the placing; 0 where nothing was ever said here
 * @param changes what is different in what the system says, where the news is {@link News#CHANGED}
 */
public record Found(
        Thing thing, Said said, long saidVersion, Placing placing, long version, News news, List<Difference> changes) {
    public Found {
        changes = List.copyOf(changes);
    }

    /** What happened to it at its system since somebody looked last. */
    public enum News {
        NONE,
        NEW,
        CHANGED,
        /** The system has it no more. */
        GONE
    }

    /** What of it is different. */
    public enum Part {
        NAME,
        SITE,
        LEVEL,
        OUTSIDE,
        INSIDE,
        CONTROLLER,
        HELD_LIMIT,
        CAN,
        KIND,
        DOOR
    }

    /** One part that the system says otherwise now. */
    public record Difference(Part part, String before, String now) {}

    /** What a system says of a thing. */
    public sealed interface Said {
        String name();

        SiteId site();

        /** The parts of which a change is worth telling, as words. */
        List<String> parts();
    }

    /** Of a door. */
    public record SaidDoor(Door door) implements Said {
        @Override
        public String name() {
            return door.name();
        }

        @Override
        public SiteId site() {
            return door.site();
        }

        @Override
        public List<String> parts() {
            return List.of(
                    door.name(),
                    door.site().value(),
                    door.level(),
                    door.outside(),
                    door.inside(),
                    own(door.controller().value(), door.system()),
                    String.valueOf(door.heldLimit().toSeconds()),
                    String.join(
                            ", ",
                            door.capabilities().stream()
                                    .map(c -> c.name().toLowerCase(Locale.ROOT).replace('_', '-'))
                                    .sorted()
                                    .toList()),
                    "",
                    "");
        }
    }

    /** Of a camera. */
    public record SaidCamera(Camera camera) implements Said {
        @Override
        public String name() {
            return camera.name();
        }

        @Override
        public SiteId site() {
            return camera.site();
        }

        @Override
        public List<String> parts() {
            return List.of(camera.name(), camera.site().value(), "", "", "", "", "", "", "", "");
        }
    }

    /** Of a device that is no door. */
    public record SaidDevice(Device device) implements Said {
        @Override
        public String name() {
            return device.name();
        }

        @Override
        public SiteId site() {
            return device.site();
        }

        @Override
        public List<String> parts() {
            return List.of(
                    device.name(),
                    device.site().value(),
                    "",
                    "",
                    "",
                    device.controller()
                            .map(c -> own(c.value(), device.system()))
                            .orElse(""),
                    "",
                    "",
                    device.kind(),
                    device.door().map(d -> own(d.value(), device.system())).orElse(""));
        }
    }

    /** The system's own part of an id. */
    private static String own(String id, SystemId system) {
        return id.startsWith(system + "/") ? id.substring(system.value().length() + 1) : id;
    }

    /** What is different between what was said before and what is said now. */
    public static List<Difference> differences(Said before, Said now) {
        List<Difference> found = new ArrayList<>();
        for (Part part : Part.values()) {
            String was = before.parts().get(part.ordinal());
            String is = now.parts().get(part.ordinal());
            if (!was.equals(is)) {
                found.add(new Difference(part, was, is));
            }
        }
        return found;
    }

    /** How it is called here. */
    public String name() {
        return placing.name().orElse(said.name());
    }

    /** Where it is, as it stands here. */
    public SiteId site() {
        return placing.site().orElse(said.site());
    }

    /** The system's own id for it. */
    public String ownId() {
        return own(thing.id(), thing.system());
    }

    /** Whether its system has it still. */
    public boolean there() {
        return news != News.GONE;
    }

    /** The door, with what was said here. */
    public Optional<Door> door() {
        return said instanceof SaidDoor d ? Optional.of(placing.on(d.door())) : Optional.empty();
    }

    /** The camera, with what was said here. */
    public Optional<Camera> camera() {
        return said instanceof SaidCamera c ? Optional.of(placing.on(c.camera())) : Optional.empty();
    }

    /** The device, with what was said here. */
    public Optional<Device> device() {
        return said instanceof SaidDevice d ? Optional.of(placing.on(d.device())) : Optional.empty();
    }
}
