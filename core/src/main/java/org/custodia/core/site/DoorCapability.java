package org.custodia.core.site;

/** What a door can do or report. Only what a door can do is offered to the operator. */
public enum DoorCapability {
    /** A contact tells whether the leaf is open. Without it the position is never known. */
    CONTACT,
    /** Can be released once and locks again by itself. */
    LET_THROUGH,
    /** Can be left unlocked until told otherwise. */
    LEAVE_UNLOCKED,
    /** The controller itself can hold a mode until a set time. */
    UNTIL,
    /** Can be locked at once, whatever its timetable says. */
    LOCK,
    /** Has a timetable it can be handed back to. */
    TIMETABLE,
    /** Can be blocked, so that no badge opens it. */
    BLOCK,
    /** The controller decides that the door is held open; otherwise Custodia derives it. */
    REPORTS_HELD,
    /** The controller decides that the door was forced; otherwise Custodia derives it. */
    REPORTS_FORCED,
    /** Has a display that shows a text. */
    DISPLAY,
    /** Reports who goes out as well as who comes in. */
    EXIT_READER
}
