package org.custodia.desktop.doorstep;

import java.time.Duration;
import java.time.Instant;
import java.util.Optional;
import java.util.function.Supplier;
import javafx.beans.property.ReadOnlyObjectProperty;
import javafx.beans.property.ReadOnlyObjectWrapper;
import org.custodia.video.Picture;

/**
 * One of two faces: the picture, or in words why there is none, and what is said under it. What is asked for and comes after
 * the face was turned to somebody else is passed over; what may come yet is asked for again.
 */
abstract class FaceModel {
    /** Decoded pictures are this high: a little more than they are shown. */
    static final int FETCHED_HEIGHT = 300;

    static final Duration ASK_AGAIN = Duration.ofSeconds(3);

    /**
     * What is shown.
     *
     * @param words why there is no picture; empty where there is one
     * @param below two lines under it
     */
    record Shown(Optional<Picture> picture, String words, String below) {
        private static final Shown NOTHING = new Shown(Optional.empty(), "", "\n");
    }

    private final ReadOnlyObjectWrapper<Shown> shown = new ReadOnlyObjectWrapper<>(Shown.NOTHING);
    private final Supplier<Instant> now;
    private int turn;
    private Instant again = Instant.MAX;
    private Runnable ask = () -> {};

    FaceModel(Supplier<Instant> now) {
        this.now = now;
    }

    ReadOnlyObjectProperty<Shown> shown() {
        return shown.getReadOnlyProperty();
    }

    boolean hasPicture() {
        return shown.get().picture().isPresent();
    }

    /**
     * Turns to somebody else.
     *
     * @param asks asks for the picture; is asked again at {@link #again}
     */
    final void turnTo(Shown first, Runnable asks) {
        turn++;
        again = Instant.MAX;
        ask = asks;
        shown.set(first);
        asks.run();
    }

    /** What is shown now, to be compared with {@link #still} when an answer comes. */
    final int turn() {
        return turn;
    }

    /** Whether it is still the same that is shown. */
    final boolean still(int asked) {
        return asked == turn;
    }

    final void show(Picture picture, String below) {
        shown.set(new Shown(Optional.of(picture), "", below));
    }

    final void say(String words) {
        shown.set(new Shown(Optional.empty(), words, shown.get().below()));
    }

    /** Asks again at an instant. */
    final void again(Instant at) {
        again = at;
    }

    final Instant now() {
        return now.get();
    }

    /** Called several times a second. */
    final void tick() {
        if (!now().isBefore(again)) {
            again = Instant.MAX;
            ask.run();
        }
    }
}
