package org.custodia.core.access;

import java.time.Instant;
import java.util.Optional;
import org.custodia.core.site.PersonId;

/**
 * Something presented at a reader.
 *
 * @param number as the reader sends it
 * @param from from when it is good; nothing for always
 * @param until until when it is good, not included; nothing for ever
 */
public record Credential(
        String number,
        Kind kind,
        PersonId person,
        Status status,
        Optional<Instant> from,
        Optional<Instant> until,
        Optional<String> pin) {

    /** What sort of thing it is. */
    public enum Kind {
        CARD,
        PHONE,
        FINGERPRINT
    }

    /** Whether it may be used. */
    public enum Status {
        ACTIVE,
        SUSPENDED,
        LOST,
        RETURNED
    }
}
