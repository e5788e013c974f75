package org.custodia.link;

import java.io.IOException;

/** A request that failed; the message says what happened, for the operator. */
public class LinkException extends IOException {
    private static final long serialVersionUID = 1L;

    private final int status;

    LinkException(int status, String message) {
        super(message);
        this.status = status;
    }

    /** The HTTP status, or 0 if there was no answer. */
    public int status() {
        return status;
    }
}
