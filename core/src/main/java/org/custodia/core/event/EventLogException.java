package org.custodia.core.event;

/** The log could not be read or written; the message says what happened and what to do. */
public class EventLogException extends RuntimeException {
    private static final long serialVersionUID = 1L;

    public EventLogException(String message, Throwable cause) {
        super(message, cause);
    }
}
