package org.custodia.core.site;

import java.time.Duration;

/**
 * Which camera looks at which side of a door.
 *
 * @param view what it sees
 * @param leadIn how long before an event its footage is played from
 * @param face where a head is after {@code faceAfter}, used for face pairs and strips
 * @param faceAfter how long after a badge is presented on that side the head is there: none for a camera that looks at the
 *     reader, some seconds for one that sees people only once they come out
 */
public record Pairing(
        DoorId door, CameraId camera, Side side, View view, Duration leadIn, Crop face, Duration faceAfter) {
    /** Played from this long before an event when nothing else is set. */
    public static final Duration DEFAULT_LEAD_IN = Duration.ofSeconds(10);

    public Pairing {
        // Those written down before this was asked for.
        faceAfter = faceAfter == null ? Duration.ZERO : faceAfter;
    }

    /** What a camera sees of a door. */
    public enum View {
        OUTSIDE,
        INSIDE,
        OVERVIEW
    }
}
