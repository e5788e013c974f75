package org.custodia.core.access;

/** What an operator made of the enrolled photo and the picture from the door. */
public enum Verdict {
    SAME("same", "Same person"),
    DIFFERENT("different", "Not the same"),
    UNSURE("unsure", "Can't tell");

    private final String id;
    private final String words;

    Verdict(String id, String words) {
        this.id = id;
        this.words = words;
    }

    /** As stored in the log. */
    public String id() {
        return id;
    }

    public String words() {
        return words;
    }

    /** Reads what was stored. */
    public static java.util.Optional<Verdict> of(String id) {
        return java.util.Arrays.stream(values()).filter(v -> v.id.equals(id)).findFirst();
    }
}
