package org.custodia.core.site;

import java.time.Duration;

/**
 * Which camera looks at which side of a door.
 *
 * @param id stays the same whatever else of it is changed
 * @param view what it sees
 * @param leadIn how long before an event its footage is played from
 * @param face where a head is after {@code faceAfter}, used for face pairs and strips
 * @param faceAfter how long after a badge is presented on that side the head is there: none for a camera that looks at the
 *     reader, some seconds for one that sees people only once they come out
 */
public record Pairing(
        PairId id, DoorId door, CameraId camera, Side side, View view, Duration leadIn, Crop face, Duration faceAfter) {
    /** Played from this long before an event when nothing else is set. */
    public static final Duration DEFAULT_LEAD_IN = Duration.ofSeconds(10);

    /** One that is named by what it was at first. */
    public Pairing(DoorId door, CameraId camera, Side side, View view, Duration leadIn, Crop face, Duration faceAfter) {
        this(PairId.of(door, camera, side, view), door, camera, side, view, leadIn, face, faceAfter);
    }

    /** An untuned pair. A camera inside shows people who leave. */
    public static Pairing of(DoorId door, CameraId camera, View view) {
        Side side = view == View.INSIDE ? Side.EXIT : Side.ENTRY;
        return new Pairing(door, camera, side, view, DEFAULT_LEAD_IN, Crop.WHOLE, Duration.ZERO);
    }

    /** What a camera sees of a door. */
    public enum View {
        OUTSIDE,
        INSIDE,
        OVERVIEW
    }
}
