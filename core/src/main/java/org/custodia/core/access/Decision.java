package org.custodia.core.access;

import java.util.Optional;

/**
 * What a controller decided at a reader.
 *
 * @param reason why it was refused, one of {@link org.custodia.core.event.Reasons}
 * @param credential what was presented, where it is on file
 * @param explanation why, in a sentence
 */
public record Decision(Result result, Optional<String> reason, Optional<Credential> credential, String explanation) {

    /** How it ended. */
    public enum Result {
        GRANTED,
        REFUSED,
        /** Good so far; a second person must follow. */
        SECOND_PERSON_NEEDED
    }

    static Decision refused(String reason, Credential credential, String explanation) {
        return new Decision(Result.REFUSED, Optional.of(reason), Optional.ofNullable(credential), explanation);
    }
}
