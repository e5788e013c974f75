package org.custodia.core.message;

import org.custodia.core.saying.Saying;
import org.custodia.core.saying.Says;

/** A message did not go, or nobody knows whether it did. */
public final class NotSentException extends Exception implements Says {
    private static final long serialVersionUID = 1L;

    private final transient Saying saying;
    private final Why why;

    /** What follows for other messages and for this one. */
    public enum Why {
        /** It was refused as it is; another may fare better. */
        REFUSED,
        /** Nobody takes any for now; it has not arrived. */
        NOBODY_TAKES_ANY,
        /** No answer came, or one that does not tell; it may have arrived. */
        NOT_KNOWN
    }

    public NotSentException(Why why, Saying saying) {
        super(saying.text());
        this.why = why;
        this.saying = saying;
    }

    @Override
    public Saying saying() {
        return saying;
    }

    public Why why() {
        return why;
    }
}
