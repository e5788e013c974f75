package org.custodia.core.door;

/**
 * What a link has to say to a command.
 *
 * @param words in words, for the log and the operator
 */
public record CommandAnswer(Result result, String words) {
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
