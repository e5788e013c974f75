package org.custodia.core.access;

import java.util.Optional;
import java.util.function.Function;

/**
 * What the registers say of something at some time.
 *
 * @param value what was on file; nothing where nothing was, or where that is not known
 * @param standing how sure that is
 */
public record OnFile<T>(Optional<T> value, Standing standing) {

    /** How sure an answer is. */
    public enum Standing {
        /** It was on file then, as it is given. */
        THEN,
        /** The register was read for the first time later, and this is what stood in it. */
        AS_READ_LATER,
        /** Nothing was on file then. */
        NOT_THEN,
        /** The register has not been read, or was read for the first time later and had nothing of this. */
        NOT_KNOWN_YET
    }

    /**
     * @throws IllegalArgumentException if there is a value where there can be none, or none where there must be one
     */
    public OnFile {
        if (value.isPresent() != (standing == Standing.THEN || standing == Standing.AS_READ_LATER)) {
            throw new IllegalArgumentException("there is " + value + ", and it is " + standing);
        }
    }

    public static <T> OnFile<T> then(T value) {
        return new OnFile<>(Optional.of(value), Standing.THEN);
    }

    public static <T> OnFile<T> asReadLater(T value) {
        return new OnFile<>(Optional.of(value), Standing.AS_READ_LATER);
    }

    public static <T> OnFile<T> notThen() {
        return new OnFile<>(Optional.empty(), Standing.NOT_THEN);
    }

    public static <T> OnFile<T> notKnownYet() {
        return new OnFile<>(Optional.empty(), Standing.NOT_KNOWN_YET);
    }

    /** What follows from the value, if there is one; no surer than this or that. */
    public <U> OnFile<U> flatMap(Function<T, OnFile<U>> next) {
        if (value.isEmpty()) {
            return new OnFile<>(Optional.empty(), standing);
        }
        OnFile<U> found = next.apply(value.get());
        return found.standing == Standing.THEN ? new OnFile<>(found.value, standing) : found;
    }
}
