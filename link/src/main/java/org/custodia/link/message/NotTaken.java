package org.custodia.link.message;

import java.util.Optional;
import org.custodia.core.message.NotSentException;
import org.custodia.core.saying.Saying;
import org.custodia.link.Certificates;

/** What is said of a certificate that is not taken. */
final class NotTaken {
    private NotTaken() {}

    static NotSentException of(String where, Certificates.NotTrusted not) {
        return new NotSentException(
                NotSentException.Why.NOBODY_TAKES_ANY,
                Saying.of(not.changed() ? "message.certificate-changed" : "message.certificate-unknown", where),
                Optional.of(not.shown()));
    }
}
