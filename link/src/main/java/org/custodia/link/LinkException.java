package org.custodia.link;

import java.io.IOException;
import org.custodia.core.saying.Saying;
import org.custodia.core.saying.Says;

/** A request that failed; it says what happened. */
public class LinkException extends IOException implements Says {
    private static final long serialVersionUID = 1L;

    private final transient Saying saying;
    private final int status;
    private final boolean unheard;
    private final boolean unreadable;

    LinkException(int status, Saying saying) {
        this(status, saying, false, false);
    }

    private LinkException(int status, Saying saying, boolean unheard, boolean unreadable) {
        super(saying.text());
        this.saying = saying;
        this.status = status;
        this.unheard = unheard;
        this.unreadable = unreadable;
    }

    /** There was no answer that can be used. */
    static LinkException of(String code, Object... of) {
        return new LinkException(0, Saying.of(code, of));
    }

    /** Nothing answers at all: whatever was asked never got there. */
    static LinkException nobodyThere(String code, Object... of) {
        return new LinkException(0, Saying.of(code, of), true, false);
    }

    /** It was answered, and the answer makes no sense. */
    static LinkException unreadable(String code, Object... of) {
        return new LinkException(0, Saying.of(code, of), false, true);
    }

    /** What went wrong with a request, whatever did. */
    public static Saying saying(IOException e) {
        return Says.of(e, Saying.of("link.broke"));
    }

    @Override
    public Saying saying() {
        return saying;
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
        return unreadable || status >= 400 && status < 500 && status != 408 && status != 425 && status != 429;
    }

    /** Whether the system answered, though not with what was asked for. */
    public boolean answered() {
        return status >= 400 || unreadable;
    }
}
