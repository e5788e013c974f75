package org.custodia.store;

/** The file that holds the log is not where it was; the message says so and what to do. */
final class LogGoneException extends RuntimeException {
    private static final long serialVersionUID = 1L;

    LogGoneException(String message) {
        super(message);
    }
}
