package org.custodia.core.site;

/**
 * Names one connected system, an access system or a recorder, or Custodia itself for what it logs of its own.
 *
 * @param value not blank, at most {@value #LONGEST} characters, without slashes, which set it apart from a system's own
 *     ids, and without control characters
 */
public record SystemId(String value) {
    /** Characters. */
    public static final int LONGEST = 60;

    /** Custodia's own name in the log. */
    public static final SystemId CUSTODIA = new SystemId("custodia");

    public SystemId {
        Ids.check(value);
        if (value.length() > LONGEST || value.chars().anyMatch(c -> c == '/' || Character.isISOControl(c))) {
            throw new IllegalArgumentException(
                    "a system's id has at most " + LONGEST + " characters, no slash and no control characters");
        }
    }

    /** The system whose own an id is: what stands before its first slash; Custodia where there is none. */
    public static SystemId of(String id) {
        int slash = id.indexOf('/');
        return slash < 1 || slash > LONGEST ? CUSTODIA : new SystemId(id.substring(0, slash));
    }

    @Override
    public String toString() {
        return value;
    }
}
