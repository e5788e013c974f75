package org.custodia.core.door;

/** What became of a grant. */
public enum GrantOutcome {
    WENT_THROUGH("went through"),
    NOBODY_ENTERED("nobody entered"),
    CANNOT_TELL("cannot tell who went through"),
    /** The time in which the door may be opened is not over yet. */
    PENDING("");

    private final String words;

    GrantOutcome(String words) {
        this.words = words;
    }

    public String words() {
        return words;
    }
}
