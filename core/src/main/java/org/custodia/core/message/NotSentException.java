package org.custodia.core.message;

import java.util.Optional;
import org.custodia.core.saying.Saying;
import org.custodia.core.saying.Says;
import org.custodia.core.setup.Connections;

/** A message did not go, or nobody knows whether it did. */
public final class NotSentException extends Exception implements Says {
    private static final long serialVersionUID = 1L;

    private final transient Saying saying;
    private final Why why;
    private final transient Optional<Connections.Shown> certificate;

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
        this(why, saying, Optional.empty());
    }

    /**
     * @param certificate the one that was shown and not taken, so that somebody may confirm it
     */
    public NotSentException(Why why, Saying saying, Optional<Connections.Shown> certificate) {
        super(saying.text());
        this.why = why;
        this.saying = saying;
        this.certificate = certificate;
    }

    /** The certificate that was shown and not taken; nothing where it went wrong for another reason. */
    public Optional<Connections.Shown> certificate() {
        return certificate;
    }

    @Override
    public Saying saying() {
        return saying;
    }

    public Why why() {
        return why;
    }
}
