package org.custodia.core.alarm;

import java.util.Locale;
import java.util.Optional;

/** What an alarm turned out to be. */
public enum Outcome {
    GENUINE,
    HARMLESS,
    DRILL,
    FAULT,
    NOT_KNOWN;

    /** As it is written in the log. */
    public String word() {
        return name().toLowerCase(Locale.ROOT).replace('_', '-');
    }

    /** What was written so; nothing where it was not. */
    static Optional<Outcome> of(String word) {
        for (Outcome outcome : values()) {
            if (outcome.word().equals(word)) {
                return Optional.of(outcome);
            }
        }
        return Optional.empty();
    }
}
