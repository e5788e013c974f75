package org.custodia.store;

import org.custodia.core.saying.Saying;
import org.custodia.core.saying.Says;

/** The data directory cannot be used; it says what is wrong and what to do. */
public class DataDirectoryException extends RuntimeException implements Says {
    private static final long serialVersionUID = 1L;

    private final transient Saying saying;

    /**
     * @param message in a sentence, for whoever starts Custodia at a terminal
     */
    public DataDirectoryException(String message, Throwable cause) {
        super(message, cause);
        this.saying = Saying.of("start.problem", message);
    }

    DataDirectoryException(Saying saying, Throwable cause) {
        super(saying.text(), cause);
        this.saying = saying;
    }

    @Override
    public Saying saying() {
        return saying;
    }
}
