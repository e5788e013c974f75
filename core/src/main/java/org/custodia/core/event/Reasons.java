package org.custodia.core.event;

import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Set;

/** Why a badge is refused, in plain words. The identifiers are open; these are the common ones. */
public final class Reasons {
    private static final Map<String, String> WORDS = new LinkedHashMap<>();

    public static final String UNKNOWN_CREDENTIAL = reason("unknown-credential", "unknown badge");
    public static final String SUSPENDED = reason("credential-suspended", "badge suspended");
    public static final String LOST = reason("credential-lost", "badge reported lost");
    public static final String ENDED = reason("credential-ended", "badge ended");
    public static final String NOT_YET_VALID = reason("credential-not-yet-valid", "badge not valid yet");
    public static final String PERSON_ENDED = reason("person-ended", "person's record ended");
    public static final String PERSON_STOPPED = reason("person-stopped", "person stopped");
    public static final String NO_LEVEL = reason("no-level", "no access level for this door");
    public static final String OUTSIDE_TIMETABLE = reason("outside-timetable", "outside timetable");
    public static final String WRONG_PIN = reason("wrong-pin", "wrong PIN");
    public static final String PIN_MISSING = reason("pin-missing", "PIN missing");
    public static final String NO_PIN_SET = reason("no-pin-set", "no PIN set for this badge");
    public static final String ALREADY_INSIDE = reason("already-inside", "already inside");
    public static final String SECOND_PERSON_MISSING = reason("second-person-missing", "second person missing");
    public static final String DESK_DID_NOT_AGREE = reason("desk-did-not-agree", "desk did not agree");
    public static final String DOOR_BLOCKED = reason("door-blocked", "door blocked");
    public static final String READER_OFF = reason("reader-off", "reader off");
    public static final String LOCKDOWN = reason("lockdown", "lockdown");
    public static final String FORMAT_NOT_SET_UP = reason("format-not-set-up", "badge format not set up");

    private Reasons() {}

    private static String reason(String id, String words) {
        WORDS.put(id, words);
        return id;
    }

    /** All reasons that are known here. */
    public static Set<String> all() {
        return Set.copyOf(WORDS.keySet());
    }

    /** The words for a reason; one nobody knows is shown as it came. */
    public static String words(String id) {
        return WORDS.getOrDefault(id, id);
    }
}
