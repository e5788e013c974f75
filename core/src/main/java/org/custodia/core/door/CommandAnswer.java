package org.custodia.core.door;

import org.custodia.core.saying.Saying;

/**
 * What a link has to say to a command.
 *
 * @param why it is so, for the log and the operator; what a system says of it is a quotation in it
 */
public record CommandAnswer(Result result, Saying why) {
    /** How it went. */
    public enum Result {
        /** The door did it. */
        DONE,
        /** The system would not, or the door could not. */
        REFUSED,
        /** It never got there. */
        NOT_REACHED,
        /** It may or may not have got there. */
        NOT_KNOWN
    }
}
