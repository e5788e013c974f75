package org.custodia.wire;

/** A message that is not what it should be; the message says why. */
public class WireException extends RuntimeException {
    private static final long serialVersionUID = 1L;

    public WireException(String message) {
        super(message);
    }
}
