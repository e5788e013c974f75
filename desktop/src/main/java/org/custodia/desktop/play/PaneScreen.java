package org.custodia.desktop.play;

import java.time.Instant;
import java.time.ZoneId;
import java.util.Optional;
import java.util.function.Function;
import java.util.function.Supplier;
import org.custodia.core.footage.Footage;
import org.custodia.core.site.Camera;
import org.custodia.core.site.Pairing;
import org.custodia.desktop.picture.PicturePane;
import org.custodia.desktop.text.Texts;
import org.custodia.video.Picture;

/** Shows what is played on a pane. */
final class PaneScreen implements Screen {
    private static final Texts TEXTS = Texts.of(PaneScreen.class);

    private final PicturePane pane;
    private final Function<Pairing, String> called;
    private final ZoneId zone;
    private final Supplier<Instant> now;

    /**
     * @param called what the picture of a pairing is called
     */
    PaneScreen(PicturePane pane, Function<Pairing, String> called, ZoneId zone, Supplier<Instant> now) {
        this.pane = pane;
        this.called = called;
        this.zone = zone;
        this.now = now;
    }

    @Override
    public Reel turnTo(Camera camera, Pairing pairing) {
        pane.camera(camera, called.apply(pairing), zone);
        PicturePane.Source source = pane.recorded();
        return new Reel() {
            @Override
            public void frame(Picture picture) {
                source.frame(picture);
            }

            @Override
            public void none(Optional<Footage.At> footage, String otherwise) {
                source.explain(TEXTS.say("no-picture"), PicturePane.why(footage, otherwise, zone, now.get()));
            }
        };
    }

    @Override
    public void live() {
        pane.live();
        pane.seen(true);
    }
}
