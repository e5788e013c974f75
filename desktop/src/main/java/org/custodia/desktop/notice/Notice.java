package org.custodia.desktop.notice;

import java.util.List;
import java.util.Optional;
import java.util.OptionalDouble;

/**
 * One thing that is said.
 *
 * @param key tells it from others
 * @param words in a sentence or two
 * @param done how far work has come, 0 to 1; nothing where that is not known, or it is no work
 * @param cancel ends work; nothing where it cannot be ended
 * @param next what can be done about it
 */
public record Notice(
        String key, Kind kind, String words, OptionalDouble done, Optional<Runnable> cancel, List<Action> next) {
    public Notice {
        next = List.copyOf(next);
    }

    /** What sort of thing is said; the first matters most. */
    public enum Kind {
        /** Somebody has to do something. */
        TROUBLE,
        /** Something goes on in the background. */
        WORK,
        /** Something is over, or good to know. */
        NOTE
    }

    /**
     * Something to do about it.
     *
     * @param words on the button
     */
    public record Action(String words, Runnable run) {}

    /** One that only says something. */
    public static Notice of(String key, Kind kind, String words) {
        return new Notice(key, kind, words, OptionalDouble.empty(), Optional.empty(), List.of());
    }

    /** The same, with how far it has come. */
    public Notice done(double share) {
        return new Notice(key, kind, words, OptionalDouble.of(Math.max(0, Math.min(1, share))), cancel, next);
    }
}
