package org.custodia.core.workplace;

import java.util.EnumSet;
import java.util.Locale;
import java.util.Set;
import org.custodia.core.operator.Permission;
import org.custodia.core.saying.Saying;

/** What there is to see, and which permissions open it: any one of them does, at the level of looking. */
public enum Sight {
    /** That a site is there, with its doors and cameras. */
    PLACES(EnumSet.allOf(Permission.class)),
    /** How doors stand now, and what becomes of commands. */
    STATES(EnumSet.of(
            Permission.SEE_LIVE,
            Permission.LOOK_BACK,
            Permission.ACT_ON_DOORS,
            Permission.HANDLE_ALARMS,
            Permission.EMERGENCY)),
    /** What is happening, as it is stored. */
    ARRIVALS(EnumSet.of(Permission.SEE_LIVE, Permission.LOOK_BACK, Permission.HANDLE_ALARMS, Permission.EMERGENCY)),
    /** Live pictures, and those of a moment ago. */
    PICTURES(EnumSet.of(Permission.SEE_LIVE)),
    /** What happened: events, states, footage. */
    PAST(EnumSet.of(Permission.LOOK_BACK)),
    /** Who signed in, and what somebody tried who was not permitted to. */
    AUDIT(EnumSet.of(Permission.AUDIT)),
    /** Who somebody is of whom an event tells: name and photo. */
    NAMES(EnumSet.of(
            Permission.SEE_LIVE,
            Permission.LOOK_BACK,
            Permission.HANDLE_ALARMS,
            Permission.EMERGENCY,
            Permission.EDIT_PEOPLE,
            Permission.REPORT)),
    /** The people and badges on file. */
    PEOPLE(EnumSet.of(Permission.LOOK_BACK, Permission.EDIT_PEOPLE, Permission.REPORT));

    private final Set<Permission> opened;

    Sight(Set<Permission> opened) {
        this.opened = Set.copyOf(opened);
    }

    /** The sight, as in "may …". */
    public Saying saying() {
        return Saying.of("sight." + name().toLowerCase(Locale.ROOT));
    }

    /** The permissions any of which opens it. */
    public Set<Permission> openedBy() {
        return opened;
    }
}
