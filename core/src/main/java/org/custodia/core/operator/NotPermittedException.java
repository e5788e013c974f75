package org.custodia.core.operator;

/** Somebody asked for what they may not do; the message says what. */
public class NotPermittedException extends RuntimeException {
    private static final long serialVersionUID = 1L;

    public NotPermittedException(String message) {
        super(message);
    }
}
