package org.custodia.core.site;

import java.util.Optional;

/**
 * What was said here of something that a system has. It holds beside what the system says, whatever that says next; what is
 * not said here is as the system has it.
 *
 * @param leftOut whether it is not to be shown here; what happens there is logged all the same
 * @param name how it is called here
 * @param site where it is
 * @param level on which floor
 * @param outside name of the zone on a door's entry side
 * @param inside name of the zone behind a door
 */
public record Placing(
        Thing thing,
        boolean leftOut,
        Optional<String> name,
        Optional<SiteId> site,
        Optional<String> level,
        Optional<String> outside,
        Optional<String> inside) {
    /** Characters of a name, a level or a zone. */
    public static final int LONGEST = 120;

    /** Nothing but what the system says. */
    public static Placing none(Thing thing) {
        return new Placing(
                thing, false, Optional.empty(), Optional.empty(), Optional.empty(), Optional.empty(), Optional.empty());
    }

    /** Whether it says anything. */
    public boolean saysNothing() {
        return equals(none(thing));
    }

    public Placing leftOut(boolean now) {
        return new Placing(thing, now, name, site, level, outside, inside);
    }

    public Placing name(Optional<String> other) {
        return new Placing(thing, leftOut, other, site, level, outside, inside);
    }

    public Placing site(Optional<SiteId> other) {
        return new Placing(thing, leftOut, name, other, level, outside, inside);
    }

    public Placing level(Optional<String> other) {
        return new Placing(thing, leftOut, name, site, other, outside, inside);
    }

    public Placing outside(Optional<String> other) {
        return new Placing(thing, leftOut, name, site, level, other, inside);
    }

    public Placing inside(Optional<String> other) {
        return new Placing(thing, leftOut, name, site, level, outside, other);
    }

    /** A door as it stands here. */
    public Door on(Door d) {
        return new Door(
                d.id(),
                d.system(),
                d.controller(),
                name.orElse(d.name()),
                site.orElse(d.site()),
                level.orElse(d.level()),
                outside.orElse(d.outside()),
                inside.orElse(d.inside()),
                d.heldLimit(),
                d.capabilities(),
                d.asks());
    }

    /** A camera as it stands here. */
    public Camera on(Camera c) {
        return new Camera(c.id(), c.recorder(), name.orElse(c.name()), site.orElse(c.site()));
    }

    /** A device as it stands here. */
    public Device on(Device d) {
        return new Device(
                d.id(), d.system(), d.controller(), d.kind(), name.orElse(d.name()), site.orElse(d.site()), d.door());
    }
}
