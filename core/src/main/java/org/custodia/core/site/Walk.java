package org.custodia.core.site;

import java.time.Duration;

/**
 * Two doors that are neighbours, and how long people take from one to the other. The same both ways: the door whose id comes
 * first is the first.
 *
 * @param takes not negative, at most {@link #MOST}
 */
public record Walk(DoorId first, DoorId second, Duration takes) {
    /** Doors that are farther apart are no neighbours. */
    public static final Duration MOST = Duration.ofMinutes(30);

    public Walk {
        if (first.equals(second)) {
            throw new IllegalArgumentException("a door is not its own neighbour");
        }
        if (takes.isNegative() || takes.compareTo(MOST) > 0) {
            throw new IllegalArgumentException("a walk takes from nothing to half an hour");
        }
        if (first.value().compareTo(second.value()) > 0) {
            DoorId other = first;
            first = second;
            second = other;
        }
    }

    /** Which doors, as one word for both ways. */
    public String key() {
        return first + " " + second;
    }

    /** The door at the other end. */
    public DoorId from(DoorId door) {
        return door.equals(first) ? second : first;
    }
}
