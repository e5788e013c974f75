package org.custodia.desktop.picture;

import java.io.UncheckedIOException;
import java.time.Duration;
import java.time.Instant;
import java.util.Optional;
import java.util.concurrent.CompletionException;
import java.util.function.Consumer;
import javafx.application.Platform;
import org.custodia.core.event.Event;
import org.custodia.core.event.Kinds;
import org.custodia.core.footage.Footage;
import org.custodia.core.saying.Says;
import org.custodia.core.site.Camera;
import org.custodia.core.site.Crop;
import org.custodia.core.site.DeviceId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Lookout;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Side;
import org.custodia.core.site.SiteModel;
import org.custodia.desktop.saying.SayingWords;
import org.custodia.desktop.text.Texts;
import org.custodia.video.Pictures;
import org.custodia.video.Stills;

/**
 * One frame that is to be shown: of which camera, which part of it, and of when.
 *
 * @param at the instant wanted
 */
public record WantedStill(Camera camera, Crop crop, Instant at) {
    private static final Texts TEXTS = Texts.of(WantedStill.class);

    /** When somebody is looked for whom no camera of that side sees. */
    private static final Duration UNSEEN_AFTER = Duration.ofMillis(2_600);
    /** How much later than promised a recorder is asked. */
    private static final Duration READY_MARGIN = Duration.ofMillis(500);
    /** How long to wait before asking again a recorder that gave no picture. */
    private static final Duration ASK_AGAIN = Duration.ofSeconds(10);

    /**
     * What came of asking.
     *
     * @param still the frame; nothing if there is none
     * @param problem why there is none, in the recorder's words
     * @param readyAt when the recorder will have it, if that is why there is none
     * @param again when it is worth asking again; nothing if this is all there will ever be
     */
    public record Got(
            Optional<Stills.Still> still, String problem, Optional<Instant> readyAt, Optional<Instant> again) {}

    /** The frame that stands for an event; nothing where no camera shows its door, or the device it is of. */
    public static Optional<WantedStill> of(SiteModel sites, Event event) {
        if (event.door().isEmpty()) {
            return ofDevice(sites, event);
        }
        Side side = event.side().orElse(Side.ENTRY);
        Optional<Pairing> pairing = sites.pairing(event.door().get(), side);
        return pairing.flatMap(p -> sites.camera(p.camera()).map(c -> {
            if (event.kind().equals(Kinds.OPENED)) {
                // Nobody knows from which side; a moment later whoever it was is in the picture.
                return new WantedStill(c, Crop.WHOLE, event.time().plusMillis(700));
            }
            boolean face = p.side() == side;
            Duration after = face ? p.faceAfter() : UNSEEN_AFTER;
            if (event.kind().equals(Kinds.REFUSED) && !after.isZero()) {
                // Who is refused does not come out; what there was to see is the door.
                return new WantedStill(c, Crop.WHOLE, event.time());
            }
            return new WantedStill(c, face ? p.face() : Crop.WHOLE, event.time().plus(after));
        }));
    }

    private static Optional<WantedStill> ofDevice(SiteModel sites, Event event) {
        return event.detail("unit")
                .map(u -> event.key().system() + "/" + u)
                .filter(DeviceId::fits)
                .flatMap(u -> sites.lookouts(new Lookout.OfDevice(new DeviceId(u))).stream()
                        .findFirst())
                .flatMap(l -> sites.camera(l.camera()))
                .map(c -> new WantedStill(c, Crop.WHOLE, event.time()));
    }

    /** Why there is no camera at a door. */
    public static String whyNoCamera(SiteModel sites, DoorId door) {
        return sites.unheardCamera(door)
                .map(c -> TEXTS.say("camera-unheard", c))
                .orElse(TEXTS.say("not-paired"));
    }

    /**
     * Asks for it.
     *
     * @param height wanted height of the part in pixels
     * @param taker told on the JavaFX thread
     */
    public void fetch(Pictures pictures, int height, Consumer<Got> taker) {
        pictures.still(camera.id(), camera.recorder(), at, crop, height)
                .whenComplete((still, failure) ->
                        Platform.runLater(() -> taker.accept(got(still, failure, footage(pictures), pictures.now()))));
    }

    static Got got(Stills.Still still, Throwable failure, Optional<Footage.At> there, Instant now) {
        if (failure == null) {
            return new Got(
                    Optional.of(still), "", Optional.empty(), still.betterAt().map(t -> later(t, now)));
        }
        Throwable cause = failure;
        while ((cause instanceof CompletionException || cause instanceof UncheckedIOException)
                && cause.getCause() != null) {
            cause = cause.getCause();
        }
        String problem = cause instanceof Says says ? SayingWords.of(says.saying()) : TEXTS.say("picture-not-made");
        if (cause instanceof Stills.PendingException pending) {
            Instant ready = pending.readyAt();
            return new Got(Optional.empty(), problem, Optional.of(ready), Optional.of(later(ready, now)));
        }
        // What was never recorded never comes; a recorder that does not answer may do so in a while.
        boolean never = there.filter(a -> a instanceof Footage.At.NoPicture || a instanceof Footage.At.Overwritten)
                .isPresent();
        return new Got(
                Optional.empty(),
                problem,
                Optional.empty(),
                never ? Optional.empty() : Optional.of(now.plus(ASK_AGAIN)));
    }

    private static Instant later(Instant ready, Instant now) {
        return (ready.isBefore(now) ? now : ready).plus(READY_MARGIN);
    }

    /** What is known of the footage it is wanted from. */
    public Optional<Footage.At> footage(Pictures pictures) {
        return pictures.footage(camera.id(), camera.recorder(), at);
    }
}
