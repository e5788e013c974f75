package org.custodia.link;

import java.io.IOException;

/** A request that failed; the message says what happened, for the operator. */
public class LinkException extends IOException {
    private static final long serialVersionUID = 1L;

    private final int status;
    private final boolean unheard;
    private final boolean unreadable;

    LinkException(int status, String message) {
        this(status, message, false, false);
    }

    private LinkException(int status, String message, boolean unheard, boolean unreadable) {
        super(message);
        this.status = status;
        this.unheard = unheard;
        this.unreadable = unreadable;
    }

    /** Nothing answers at all: whatever was asked never got there. */
    static LinkException nobodyThere(String message) {
        return new LinkException(0, message, true, false);
    }

    /** It was answered, and the answer makes no sense. */
    static LinkException unreadable(String message) {
        return new LinkException(0, message, false, true);
    }

    /** The HTTP status, or 0 if there was no answer. */
    public int status() {
        return status;
    }

    /** Whether the request certainly had no effect: nobody heard it, or whoever did would not take it. */
    public boolean withoutEffect() {
        return unheard || status >= 400 && status < 500 && status != 408 && status != 409 && status != 425;
    }

    /** Whether asking again would get the same answer, as far as one can tell. */
    boolean lasting() {
        return unreadable || status >= 400 && status < 500 && status != 408 && status != 429;
    }

    /** Whether the system answered, though not with what was asked for. */
    public boolean answered() {
        return status >= 400 || unreadable;
    }
}
