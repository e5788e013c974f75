package org.custodia.core.access;

/** What an operator made of the enrolled photo and the picture from the door. */
public enum Verdict {
    SAME("same"),
    DIFFERENT("different"),
    UNSURE("unsure");

    private final String id;

    Verdict(String id) {
        this.id = id;
    }

    /** As stored in the log. */
    public String id() {
        return id;
    }

    /** Reads what was stored. */
    public static java.util.Optional<Verdict> of(String id) {
        return java.util.Arrays.stream(values()).filter(v -> v.id.equals(id)).findFirst();
    }
}
