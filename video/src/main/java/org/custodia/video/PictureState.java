package org.custodia.video;

import java.time.Duration;
import java.time.Instant;
import org.custodia.core.saying.Saying;

/** What a pane can say of its picture. */
public sealed interface PictureState {
    /** Not there yet. */
    record Connecting() implements PictureState {}

    /** Live. */
    record Live() implements PictureState {}

    /**
     * Frames come, and by their recorder's clock nobody can say that they are of now.
     *
     * @param off by how much the clock, or the picture, is off
     */
    record Doubtful(Duration off) implements PictureState {}

    /** Frames have stopped coming; the picture shown is of that instant. */
    record Stalled(Instant since) implements PictureState {}

    /** There is none, and why. */
    record None(Saying why) implements PictureState {}
}
