package org.custodia.store;

import org.custodia.core.saying.Saying;
import org.custodia.core.saying.Says;

/** What holds the log is not there as it was; it says so and what to do. */
final class LogGoneException extends RuntimeException implements Says {
    private static final long serialVersionUID = 1L;

    private final transient Saying saying;

    LogGoneException(Saying saying) {
        super(saying.text());
        this.saying = saying;
    }

    @Override
    public Saying saying() {
        return saying;
    }
}
