package org.custodia.core.door;

import java.util.Locale;
import java.util.Optional;
import org.custodia.core.event.Event;

/** How a door's lock stands. */
public enum LockMode {
    LOCKED,
    UNLOCKED,
    BLOCKED,
    /** Nothing has said so far. */
    UNKNOWN;

    /** How a mode is written in events; nothing for one that is not known. */
    public Optional<String> word() {
        return this == UNKNOWN ? Optional.empty() : Optional.of(name().toLowerCase(Locale.ROOT));
    }

    /**
     * The mode that an event of {@link org.custodia.core.event.Kinds#MODE} tells. A system that has words of its own for how a
     * lock stands does not say it in ours: then the reason does, which is what somebody said here that it means.
     */
    public static LockMode told(Event event) {
        LockMode said = event.detail("mode").map(LockMode::parse).orElse(UNKNOWN);
        return said != UNKNOWN ? said : event.reason().map(LockMode::parse).orElse(UNKNOWN);
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
