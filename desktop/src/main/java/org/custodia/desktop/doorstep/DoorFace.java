package org.custodia.desktop.doorstep;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.Optional;
import org.custodia.core.event.Event;
import org.custodia.core.site.SiteModel;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.picture.PicturePane;
import org.custodia.desktop.picture.WantedStill;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.words.ClockWords;
import org.custodia.video.Stills;

/** The face at the door when a badge was presented. A recorder may have it only later, or better. */
final class DoorFace extends FaceModel {
    private static final Texts TEXTS = Texts.of(DoorFace.class);

    private final Desk desk;

    DoorFace(Desk desk) {
        super(desk::now);
        this.desk = desk;
    }

    /**
     * Shows who stood there at an event.
     *
     * @param zone of the door
     */
    void of(Event event, ZoneId zone) {
        turnTo(new Shown(Optional.empty(), TEXTS.say("loading-here"), "\n"), () -> ask(event, zone));
    }

    private void ask(Event event, ZoneId zone) {
        int asked = turn();
        SiteModel sites = desk.services().sites().get();
        Optional<WantedStill> wanted = WantedStill.of(sites, event);
        if (wanted.isEmpty()) {
            say(TEXTS.say(
                    "no-camera-why",
                    event.door().map(d -> WantedStill.whyNoCamera(sites, d)).orElse(TEXTS.say("no-door"))));
            // A recorder may name its cameras later than doors come.
            again(now().plus(ASK_AGAIN));
            return;
        }
        wanted.get().fetch(desk.services().pictures(), FETCHED_HEIGHT, got -> {
            if (still(asked)) {
                take(event, wanted.get(), got, zone);
            }
        });
    }

    private void take(Event event, WantedStill wanted, WantedStill.Got got, ZoneId zone) {
        again(got.again().orElse(Instant.MAX));
        if (got.still().isPresent()) {
            Stills.Still still = got.still().get();
            boolean face = wanted.at().equals(event.time());
            String how = TEXTS.say(still.betterAt().isPresent() ? "live-picture" : face ? "at-the-door" : "coming-out");
            if (event.door().filter(d -> desk.inDoubt(d, wanted.camera().id())).isPresent()) {
                how = TEXTS.say("in-doubt", how);
            }
            Instant at = still.picture().at();
            Duration unsure = desk.services().pictures().unsure(wanted.camera().recorder(), at);
            show(still.picture(), how + "\n" + ClockWords.recorded(at, at, zone, unsure));
        } else {
            say(got.readyAt()
                    .map(t -> TEXTS.say("being-written", ClockWords.clock(t, zone)))
                    .orElseGet(() ->
                            PicturePane.why(wanted.footage(desk.services().pictures()), got.problem(), zone, now())));
        }
    }
}
