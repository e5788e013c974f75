package org.custodia.core.site;

/** What every id must be. */
final class Ids {
    /** A system's id, a slash, and up to 200 characters of the system's own. */
    static final int LONGEST = SystemId.LONGEST + 1 + 200;

    private Ids() {}

    static void check(String value) {
        if (value == null || value.isBlank()) {
            throw new IllegalArgumentException("an id must not be blank");
        }
        if (value.length() > LONGEST) {
            throw new IllegalArgumentException(
                    "an id is at most " + LONGEST + " characters, this one has " + value.length());
        }
    }
}
