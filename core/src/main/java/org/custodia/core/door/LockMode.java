package org.custodia.core.door;

/** How a door's lock stands. */
public enum LockMode {
    LOCKED("locked"),
    UNLOCKED("unlocked"),
    BLOCKED("blocked"),
    /** Nothing has said so far. */
    UNKNOWN("lock not known");

    private final String words;

    LockMode(String words) {
        this.words = words;
    }

    public String words() {
        return words;
    }

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
