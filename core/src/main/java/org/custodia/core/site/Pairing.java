package org.custodia.core.site;

import java.time.Duration;

/**
 * Which camera looks at which side of a door.
 *
 * @param view what it sees
 * @param leadIn how long before an event its footage is played from
 * @param face where a head is when a badge is presented, used for face pairs and strips
 */
public record Pairing(DoorId door, CameraId camera, Side side, View view, Duration leadIn, Crop face) {
    /** Played from this long before an event when nothing else is set. */
    public static final Duration DEFAULT_LEAD_IN = Duration.ofSeconds(10);

    /** What a camera sees of a door. */
    public enum View {
        OUTSIDE,
        INSIDE,
        OVERVIEW
    }
}
