package org.custodia.desktop.play;

import java.util.Optional;
import org.custodia.core.footage.Footage;
import org.custodia.core.site.Camera;
import org.custodia.core.site.Pairing;
import org.custodia.video.Picture;

/** Where what is played is to be seen; all on the JavaFX thread but frames. */
interface Screen {
    /** Of what was recorded; what is said after another reel was begun is passed over. */
    interface Reel {
        /** A frame, on any thread; what it holds is copied. */
        void frame(Picture picture);

        /**
         * Says why there is no picture.
         *
         * @param footage what is known of the footage, if anything
         * @param otherwise why, where that does not say it
         */
        void none(Optional<Footage.At> footage, String otherwise);
    }

    /** Turns to another camera, and to what it recorded. */
    Reel turnTo(Camera camera, Pairing pairing);

    /** Shows the camera live from now on. */
    void live();
}
