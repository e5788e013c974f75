package org.custodia.core.setup;

import org.custodia.core.saying.Saying;
import org.custodia.core.saying.SayingException;

/** What somebody wants to set up cannot be so. */
public final class SetupException extends SayingException {
    private static final long serialVersionUID = 1L;

    public SetupException(Saying saying) {
        super(saying);
    }
}
