package org.custodia.core.link;

import java.time.Instant;
import java.util.List;
import java.util.Locale;
import org.custodia.core.event.EventKey;

/**
 * What was done about something that an access system told.
 *
 * @param key the same each time this is told
 * @param events of that system; at least one
 * @param by who did it, as they are called here
 */
public record Handled(String key, What what, List<EventKey> events, String by, Instant at) {
    /** No more events are told of in one go. */
    public static final int MOST = 50;

    /** What it was. */
    public enum What {
        ACKNOWLEDGED,
        FINISHED;

        /** As it is written. */
        public String word() {
            return name().toLowerCase(Locale.ROOT);
        }
    }

    public Handled {
        events = List.copyOf(events);
        if (events.isEmpty() || events.size() > MOST) {
            throw new IllegalArgumentException("it is about 1 to " + MOST + " events");
        }
    }
}
