package org.custodia.core.event;

/**
 * What sort of thing happened. An open identifier: systems may send kinds that nobody here knows yet; they are stored
 * and shown under their own name.
 *
 * @param id words in small letters joined by dots and dashes, at most 60 characters
 */
public record EventKind(String id) {
    public EventKind {
        if (id == null || id.isEmpty() || id.length() > 60) {
            throw new IllegalArgumentException("a kind has 1 to 60 characters");
        }
        for (int i = 0; i < id.length(); i++) {
            char c = id.charAt(i);
            if (!(c >= 'a' && c <= 'z' || c >= '0' && c <= '9' || c == '.' || c == '-')) {
                throw new IllegalArgumentException(
                        "a kind is written in small letters, digits, dots and dashes: " + id);
            }
        }
    }

    @Override
    public String toString() {
        return id;
    }
}
