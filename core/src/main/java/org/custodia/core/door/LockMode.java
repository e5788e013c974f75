package org.custodia.core.door;

/** How a door's lock stands. */
public enum LockMode {
    LOCKED,
    UNLOCKED,
    BLOCKED,
    /** Nothing has said so far. */
    UNKNOWN;

    /** Reads a detail of an event; anything else is unknown. */
    static LockMode parse(String text) {
        return switch (text) {
            case "locked" -> LOCKED;
            case "unlocked" -> UNLOCKED;
            case "blocked" -> BLOCKED;
            default -> UNKNOWN;
        };
    }
}
