package org.custodia.core.message;

import org.custodia.core.saying.Saying;
import org.custodia.core.saying.SayingException;

/** Something that cannot be done with receivers or messages, and why. */
public final class MessageException extends SayingException {
    private static final long serialVersionUID = 1L;

    public MessageException(Saying saying) {
        super(saying);
    }
}
