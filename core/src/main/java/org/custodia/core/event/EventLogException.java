package org.custodia.core.event;

import org.custodia.core.saying.Saying;
import org.custodia.core.saying.Says;

/** The log could not be read or written; it says what happened and what to do. */
public class EventLogException extends RuntimeException implements Says {
    private static final long serialVersionUID = 1L;

    private final transient Saying saying;

    public EventLogException(Saying saying, Throwable cause) {
        super(saying.text(), cause);
        this.saying = saying;
    }

    @Override
    public Saying saying() {
        return saying;
    }
}
