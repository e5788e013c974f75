package org.custodia.core.workplace;

import java.util.EnumSet;
import java.util.Set;
import org.custodia.core.operator.Permission;

/** What there is to see, and which permissions open it: any one of them does, at the level of looking. */
public enum Sight {
    /** That a site is there, with its doors and cameras. */
    PLACES("see anything", EnumSet.allOf(Permission.class)),
    /** How doors stand now, and what becomes of commands. */
    STATES(
            "see how doors stand",
            EnumSet.of(
                    Permission.SEE_LIVE,
                    Permission.LOOK_BACK,
                    Permission.ACT_ON_DOORS,
                    Permission.HANDLE_ALARMS,
                    Permission.EMERGENCY)),
    /** What is happening, as it is stored. */
    ARRIVALS(
            "see what is happening",
            EnumSet.of(Permission.SEE_LIVE, Permission.LOOK_BACK, Permission.HANDLE_ALARMS, Permission.EMERGENCY)),
    /** Live pictures, and those of a moment ago. */
    PICTURES("see live pictures", EnumSet.of(Permission.SEE_LIVE)),
    /** What happened: events, states, footage. */
    PAST("look back", EnumSet.of(Permission.LOOK_BACK)),
    /** Who signed in, and what somebody tried who was not permitted to. */
    AUDIT("read the audit", EnumSet.of(Permission.AUDIT)),
    /** Who somebody is of whom an event tells: name and photo. */
    NAMES(
            "see who somebody is",
            EnumSet.of(
                    Permission.SEE_LIVE,
                    Permission.LOOK_BACK,
                    Permission.HANDLE_ALARMS,
                    Permission.EMERGENCY,
                    Permission.EDIT_PEOPLE,
                    Permission.REPORT)),
    /** The people and badges on file. */
    PEOPLE("search people", EnumSet.of(Permission.LOOK_BACK, Permission.EDIT_PEOPLE, Permission.REPORT));

    private final String words;
    private final Set<Permission> opened;

    Sight(String words, Set<Permission> opened) {
        this.words = words;
        this.opened = Set.copyOf(opened);
    }

    /** As in "may …". */
    public String words() {
        return words;
    }

    /** The permissions any of which opens it. */
    public Set<Permission> openedBy() {
        return opened;
    }
}
