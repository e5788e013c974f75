package org.custodia.store;

import org.custodia.core.saying.Saying;
import org.custodia.core.saying.SayingException;

/** What holds the log is not there as it was; it says so and what to do. */
final class LogGoneException extends SayingException {
    private static final long serialVersionUID = 1L;

    LogGoneException(Saying saying) {
        super(saying);
    }
}
