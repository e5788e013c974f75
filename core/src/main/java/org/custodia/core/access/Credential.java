package org.custodia.core.access;

import java.time.Instant;
import java.util.Locale;
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
        Optional<Pin> pin) {

    /**
     * What sort of thing it is. An open identifier: systems have kinds that nobody here knows.
     *
     * @param id a word in small letters
     */
    public record Kind(String id) {
        public static final Kind CARD = new Kind("card");
        public static final Kind PHONE = new Kind("phone");
        public static final Kind FINGERPRINT = new Kind("fingerprint");

        /** The kind of a word, in whatever letters it is written. */
        public static Kind of(String word) {
            return new Kind(word.toLowerCase(Locale.ROOT));
        }
    }

    /** Whether it may be used. */
    public enum Status {
        ACTIVE,
        SUSPENDED,
        LOST,
        RETURNED
    }
}
