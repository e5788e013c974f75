package org.custodia.core.event;

/**
 * What sort of thing happened. An open identifier: systems may send kinds that nobody here knows yet; they are stored
 * and shown under their own name.
 *
 * @param id 1 to {@value #LONGEST} characters, without control characters; the common kinds are words in small letters
 *     joined by dots and dashes
 */
public record EventKind(String id) {
    /** Characters. */
    public static final int LONGEST = 100;

    public EventKind {
        if (id == null || id.isBlank() || id.length() > LONGEST || id.chars().anyMatch(Character::isISOControl)) {
            throw new IllegalArgumentException(
                    "a kind has 1 to " + LONGEST + " characters, and no control characters among them");
        }
    }

    @Override
    public String toString() {
        return id;
    }
}
