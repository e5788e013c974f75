package org.custodia.core.event;

import java.util.Optional;
import java.util.regex.Pattern;
import org.custodia.core.site.SystemId;

/**
 * Names an event for good: redelivery under the same key is harmless.
 *
 * @param epoch goes up when a system starts counting again; where it counts again within an epoch, after a restore, the
 *     upper bits say how often ({@link #again})
 * @param sequence the system's own number within the epoch, from 1
 */
public record EventKey(SystemId system, long epoch, long sequence) {
    public EventKey {
        if (epoch < 0 || sequence < 0) {
            throw new IllegalArgumentException("epoch and sequence are not negative: " + epoch + ", " + sequence);
        }
    }

    private static final Pattern OWN = Pattern.compile("[0-9]{1,18}:[0-9]{1,18}");

    /** The highest epoch that a system can give itself. */
    public static final long HIGHEST_EPOCH = (1L << 52) - 1;

    /** How often a system can count again within an epoch. */
    public static final int MOST_AGAIN = 1_000;

    /**
     * The epoch under which events are kept that a system numbers anew within an epoch.
     *
     * @param times how often it has begun to count again; 0 is the epoch itself
     */
    public static long again(long epoch, int times) {
        return epoch | (long) times << 52;
    }

    /** The epoch as the system numbers it. */
    public long systemsEpoch() {
        return epoch & HIGHEST_EPOCH;
    }

    /** As one word, for details of other events that point here. */
    public String text() {
        return system.value() + ":" + epoch + ":" + sequence;
    }

    /**
     * Reads the key of an event as its own system writes it.
     *
     * @param epochAndSequence both numbers with a colon between
     * @return nothing if it is anything else; never a key of another system
     */
    public static Optional<EventKey> of(SystemId system, String epochAndSequence) {
        int colon = epochAndSequence.indexOf(':');
        if (!OWN.matcher(epochAndSequence).matches()) {
            return Optional.empty();
        }
        return Optional.of(new EventKey(
                system,
                Long.parseLong(epochAndSequence.substring(0, colon)),
                Long.parseLong(epochAndSequence.substring(colon + 1))));
    }

    /**
     * Reads what {@link #text()} wrote.
     *
     * @return nothing if it is anything else
     */
    public static Optional<EventKey> parse(String text) {
        int second = text.lastIndexOf(':');
        int first = text.lastIndexOf(':', second - 1);
        if (first < 1) {
            return Optional.empty();
        }
        try {
            return Optional.of(new EventKey(
                    new SystemId(text.substring(0, first)),
                    Long.parseLong(text.substring(first + 1, second)),
                    Long.parseLong(text.substring(second + 1))));
        } catch (IllegalArgumentException e) {
            return Optional.empty();
        }
    }
}
