package org.custodia.core.operator;

/** The parts of the work that can be permitted one by one. */
public enum Permission {
    SEE_LIVE("see live pictures"),
    LOOK_BACK("look back"),
    ACT_ON_DOORS("act on doors"),
    MOVE_CAMERAS("move cameras"),
    HANDLE_ALARMS("handle alarms"),
    KEEP_FOOTAGE("keep and export footage"),
    REPORT("report"),
    EDIT_PEOPLE("edit people"),
    EDIT_TIMETABLES("edit timetables"),
    EDIT_RULES("edit rules and procedures"),
    EMERGENCY("start and end emergencies"),
    SET_UP("set up"),
    OPERATORS("change operators"),
    AUDIT("read the audit");

    private final String words;

    Permission(String words) {
        this.words = words;
    }

    /** As in "may …". */
    public String words() {
        return words;
    }
}
