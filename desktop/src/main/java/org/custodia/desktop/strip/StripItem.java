package org.custodia.desktop.strip;

import java.time.Instant;
import java.util.Map;
import org.custodia.core.door.GrantOutcome;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Priority;
import org.custodia.desktop.words.EventWords;

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

    /** What a strip shows of an event. */
    static StripItem of(Event event, EventWords words, Map<EventKey, GrantOutcome> outcomes) {
        GrantOutcome outcome = outcomes.get(event.key());
        boolean still = !event.kind().equals(Kinds.EXIT_REQUESTED);
        return new StripItem(
                event,
                words.who(event),
                words.result(event, outcome),
                Kinds.entry(event.kind()).priority(),
                outcome,
                still);
    }
}
