package org.custodia.core.message;

import java.util.Locale;
import java.util.Optional;

/** What a message is sent for. */
public enum Occasion {
    /** An alarm was raised, or nobody came to it. */
    RAISED,
    /** What an alarm is about has ended. */
    ENDED,
    /** Somebody wants to see whether messages arrive. */
    TRIAL,
    /** An access system is told that somebody has seen what it told. */
    ACKNOWLEDGED,
    /** An access system is told that somebody is done with it. */
    FINISHED;

    /** As it is written. */
    public String word() {
        return name().toLowerCase(Locale.ROOT);
    }

    /** What was written so. */
    public static Optional<Occasion> of(String word) {
        for (Occasion one : values()) {
            if (one.word().equals(word)) {
                return Optional.of(one);
            }
        }
        return Optional.empty();
    }
}
