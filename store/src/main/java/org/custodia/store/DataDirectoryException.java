package org.custodia.store;

import org.custodia.core.saying.Saying;
import org.custodia.core.saying.SayingException;

/** The data directory cannot be used; it says what is wrong and what to do. */
public class DataDirectoryException extends SayingException {
    private static final long serialVersionUID = 1L;

    /**
     * @param message in a sentence, for whoever starts Custodia at a terminal
     */
    public DataDirectoryException(String message, Throwable cause) {
        super(Saying.of("start.problem", message), message, cause);
    }

    DataDirectoryException(Saying saying, Throwable cause) {
        super(saying, cause);
    }
}
