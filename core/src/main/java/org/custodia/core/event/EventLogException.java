package org.custodia.core.event;

import org.custodia.core.saying.Saying;
import org.custodia.core.saying.SayingException;

/** The log could not be read or written; it says what happened and what to do. */
public class EventLogException extends SayingException {
    private static final long serialVersionUID = 1L;

    public EventLogException(Saying saying, Throwable cause) {
        super(saying, cause);
    }
}
