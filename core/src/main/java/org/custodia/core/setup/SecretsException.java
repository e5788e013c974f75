package org.custodia.core.setup;

import org.custodia.core.saying.Saying;
import org.custodia.core.saying.SayingException;

/** Secrets cannot be read or kept. */
public final class SecretsException extends SayingException {
    private static final long serialVersionUID = 1L;

    public SecretsException(Saying saying, Throwable cause) {
        super(saying, cause);
    }
}
