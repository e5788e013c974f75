package org.custodia.core.operator;

import org.custodia.core.saying.Saying;
import org.custodia.core.saying.SayingException;

/** Somebody asked for what they may not do; it says what. */
public class NotPermittedException extends SayingException {
    private static final long serialVersionUID = 1L;

    public NotPermittedException(Saying saying) {
        super(saying);
    }

    /**
     * At one site.
     *
     * @param what they may not do
     */
    public static NotPermittedException here(String who, Saying what) {
        return new NotPermittedException(Saying.of("permit.not-here", who, what));
    }

    /**
     * At no site at all.
     *
     * @param what they may not do
     */
    public static NotPermittedException anywhere(String who, Saying what) {
        return new NotPermittedException(Saying.of("permit.not", who, what));
    }

    /**
     * Of what belongs to no single site.
     *
     * @param what they may not do
     */
    public static NotPermittedException everywhere(String who, Saying what) {
        return new NotPermittedException(Saying.of("permit.not-everywhere", who, what));
    }
}
