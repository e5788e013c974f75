package org.custodia.core.link;

import java.io.IOException;
import java.io.InputStream;
import java.time.Duration;
import java.time.Instant;
import java.util.Optional;
import org.custodia.core.footage.Footage;
import org.custodia.core.site.CameraId;

/** A connection to one recorder. All instants are in our own time; the link corrects for the recorder's clock. */
public non-sealed interface RecorderLink extends SystemLink {
    /** By how much the recorder's clock is ahead, as far as it is known; all instants are corrected by it. */
    Duration clockAhead();

    /** What a camera has, as last heard; nothing while it has not been heard of. */
    Optional<Footage> footage(CameraId camera);

    /**
     * Opens the live picture.
     *
     * @return H.264 in an MPEG transport stream, to be closed by the caller
     * @throws IOException if there is none; the message says why
     */
    Stream live(CameraId camera) throws IOException;

    /**
     * Opens footage, delivered as fast as it is read.
     *
     * @param from the first frame is the last one at or before this instant
     * @param to the last frame is at or before this instant; where that is still to come the stream goes on until then
     * @throws IOException if there is none; the message says why
     */
    Stream playback(CameraId camera, Instant from, Instant to) throws IOException;

    /**
     * Fetches one frame as JPEG.
     *
     * @param width wanted width in pixels; the recorder keeps the proportions
     * @throws IOException if there is none; the message says why
     */
    Still still(CameraId camera, Instant at, int width) throws IOException;

    /**
     * A running stream.
     *
     * @param firstFrame the instant of the first frame; presentation time counts from there
     */
    record Stream(InputStream bytes, Instant firstFrame) {}

    /**
     * One frame.
     *
     * @param at the instant it shows
     */
    record Still(byte[] jpeg, Instant at) {}
}
