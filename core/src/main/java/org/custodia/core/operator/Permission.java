package org.custodia.core.operator;

import java.util.Locale;
import org.custodia.core.saying.Saying;

/** The parts of the work that can be permitted one by one. */
public enum Permission {
    SEE_LIVE,
    LOOK_BACK,
    ACT_ON_DOORS,
    MOVE_CAMERAS,
    HANDLE_ALARMS,
    KEEP_FOOTAGE,
    REPORT,
    EDIT_PEOPLE,
    EDIT_TIMETABLES,
    EDIT_RULES,
    EMERGENCY,
    SET_UP,
    OPERATORS,
    AUDIT;

    /** The permission, as in "may …". */
    public Saying saying() {
        return Saying.of("permission." + name().toLowerCase(Locale.ROOT).replace('_', '-'));
    }
}
