package org.custodia.desktop.watch;

import java.time.Instant;
import org.custodia.core.door.GrantOutcome;
import org.custodia.core.event.Event;
import org.custodia.core.event.Priority;

/**
 * Something on a strip.
 *
 * @param who short name of the person, or what is known instead
 * @param result in words: "in", "out", "refused, wrong PIN", …
 * @param still whether a still stands on the strip for it; otherwise only a tick
 */
public record StripItem(
        Event event, String who, String result, Priority priority, GrantOutcome outcome, boolean still) {
    public Instant at() {
        return event.time();
    }
}
