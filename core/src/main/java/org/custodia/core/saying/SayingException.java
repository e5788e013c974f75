package org.custodia.core.saying;

/** Something that cannot be done; its message is the saying as it stands in the log, for our own logs. */
public abstract class SayingException extends RuntimeException implements Says {
    private static final long serialVersionUID = 1L;

    private final transient Saying saying;

    protected SayingException(Saying saying) {
        this(saying, saying.text(), null);
    }

    protected SayingException(Saying saying, Throwable cause) {
        this(saying, saying.text(), cause);
    }

    protected SayingException(Saying saying, String message, Throwable cause) {
        super(message, cause);
        this.saying = saying;
    }

    @Override
    public final Saying saying() {
        return saying;
    }
}
