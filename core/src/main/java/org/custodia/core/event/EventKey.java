package org.custodia.core.event;

import org.custodia.core.site.SystemId;

/**
 * Names an event for good: redelivery under the same key is harmless.
 *
 * @param epoch goes up when a system starts counting again
 * @param sequence the system's own number within the epoch, from 1
 */
public record EventKey(SystemId system, long epoch, long sequence) {
    public EventKey {
        if (epoch < 0 || sequence < 0) {
            throw new IllegalArgumentException("epoch and sequence are not negative: " + epoch + ", " + sequence);
        }
    }

    /** As one word, for details of other events that point here. */
    public String text() {
        return system.value() + ":" + epoch + ":" + sequence;
    }

    /**
     * Reads what {@link #text()} wrote.
     *
     * @throws IllegalArgumentException if it is anything else
     */
    public static EventKey parse(String text) {
        int second = text.lastIndexOf(':');
        int first = text.lastIndexOf(':', second - 1);
        if (first < 1) {
            throw new IllegalArgumentException("not an event key: " + text);
        }
        return new EventKey(
                new SystemId(text.substring(0, first)),
                Long.parseLong(text.substring(first + 1, second)),
                Long.parseLong(text.substring(second + 1)));
    }
}
