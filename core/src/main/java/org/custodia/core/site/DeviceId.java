package org.custodia.core.site;

/**
 * Names a device that is no door in every system: the system's id, a slash, and the system's own id for it.
 *
 * @param value not blank, at most {@value Ids#LONGEST} characters
 */
public record DeviceId(String value) {
    public DeviceId {
        Ids.check(value);
    }

    /** Whether a word can be one. */
    public static boolean fits(String value) {
        return value != null && !value.isBlank() && value.length() <= Ids.LONGEST;
    }

    @Override
    public String toString() {
        return value;
    }
}
