package org.custodia.store;

/** The data directory cannot be used; the message says what is wrong and what to do. */
public class DataDirectoryException extends RuntimeException {
    private static final long serialVersionUID = 1L;

    public DataDirectoryException(String message, Throwable cause) {
        super(message, cause);
    }
}
