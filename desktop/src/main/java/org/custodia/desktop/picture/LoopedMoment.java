package org.custodia.desktop.picture;

import java.time.Instant;
import java.time.ZoneId;
import java.util.Optional;
import javafx.scene.layout.StackPane;
import org.custodia.core.site.Camera;
import org.custodia.video.Pictures;

/** A moment of a camera, repeating from just before it to just after, second by second. */
public final class LoopedMoment extends StackPane {
    private static final int FROM = -4;
    private static final int TO = 8;

    private final PicturePane pane;
    private Optional<Instant> moment = Optional.empty();
    private long looped;
    private boolean seen;

    public LoopedMoment(Pictures pictures) {
        pane = new PicturePane(pictures);
        getChildren().setAll(pane);
    }

    /** Shows a moment of a camera from its lead-in on. */
    public void show(Camera camera, String label, ZoneId zone, Instant at) {
        setVisible(true);
        pane.live();
        pane.camera(camera, label, zone);
        pane.seen(seen);
        moment = Optional.of(at);
        looped = 0;
    }

    /** Shows nothing, until there is something to show. */
    public void clear() {
        moment = Optional.empty();
        pane.live();
        pane.seen(false);
        setVisible(false);
    }

    /** There is no camera that shows it. */
    public void none(String why) {
        setVisible(true);
        moment = Optional.empty();
        pane.none(why);
    }

    /** Whether somebody can see it. */
    public void seen(boolean visible) {
        seen = visible;
        if (moment.isPresent()) {
            pane.seen(visible);
        }
    }

    /** Goes on by half a second; called twice a second. */
    public void tick(Instant now) {
        if (moment.isEmpty() || !seen) {
            return;
        }
        int second = FROM + (int) (looped++ / 2 % (TO - FROM + 1));
        Instant shown = moment.get().plusSeconds(second);
        if (shown.isBefore(now.minusSeconds(1))) {
            pane.stillOf(shown, (int) Math.max(90, getHeight()));
        }
    }

    /** Lets go of the camera. */
    public void close() {
        pane.close();
    }
}
