package org.custodia.link.message;

import java.time.Instant;
import java.util.Optional;
import org.custodia.core.link.RecorderLink;
import org.custodia.core.message.Message;
import org.custodia.core.message.Occasion;

/** Something to send. */
final class Messages {
    static final Instant T = Instant.parse("2026-11-24T14:20:00Z");
    static final Message.Words WORDS = new Message.Words(
            "Forced open: Bürotür\r\nBcc: others@custodia.test", "Forced open.\nTür 7, 14:20", "Forced open", "Tür 7");

    private Messages() {}

    static Message message(Optional<RecorderLink.Still> picture) {
        return new Message(
                "3f2a-1",
                2,
                true,
                T,
                Occasion.TRIAL,
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                picture);
    }
}
