package org.custodia.desktop.play;

import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import javafx.application.Platform;
import javafx.beans.property.ReadOnlyObjectProperty;
import javafx.beans.property.ReadOnlyObjectWrapper;
import org.custodia.core.event.Event;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Side;
import org.custodia.core.site.SiteModel;
import org.custodia.desktop.Services;
import org.custodia.desktop.desk.Playing;
import org.custodia.desktop.saying.SayingWords;
import org.custodia.desktop.text.Texts;
import org.custodia.video.Picture;
import org.custodia.video.Playback;
import org.custodia.video.RecorderNotConnectedException;

/** Plays what is to be played, from a lead-in before it, by any camera of its door; where it runs into now it goes on live. */
final class PlayerModel implements AutoCloseable {
    private static final Texts TEXTS = Texts.of(PlayerModel.class);

    /** How far beyond the event it plays by itself. */
    static final Duration AFTER = Duration.ofSeconds(15);
    /** Wider than shown, so that the picture stays sharp on displays that are scaled up. */
    private static final int DECODED_WIDTH = 640;

    /** How it goes. */
    sealed interface State {
        /** No camera is paired with the door. */
        record NoCamera() implements State {}

        /** Nothing is known yet. */
        record Beginning() implements State {}

        /** The recording is played, waited for, or cannot be had. */
        record Recorded(Playback.Status at) implements State {}

        /** The recording ran into now, and the picture is live. */
        record Live() implements State {}
    }

    private final Services services;
    private final Playing playing;
    private final Screen screen;
    private final ReadOnlyObjectWrapper<State> state = new ReadOnlyObjectWrapper<>(new State.Beginning());
    private Playback playback;
    private Playback.Status status;
    private Pairing pairing;
    private Camera camera;
    /** Where it stands until the first picture says so. */
    private Instant asked;
    /** Counts what was played here; what an earlier playback still says is passed over. */
    private int run;

    PlayerModel(Services services, Playing playing, Screen screen) {
        this.services = services;
        this.playing = playing;
        this.screen = screen;
        this.asked = playing.moment();
    }

    /** Begins with the camera that sees the side of the event. */
    void start() {
        first().ifPresentOrElse(this::use, () -> state.set(new State.NoCamera()));
    }

    ReadOnlyObjectProperty<State> state() {
        return state.getReadOnlyProperty();
    }

    /** The pairings by which it can be looked at, each camera once: the one that shows most of it stands for its camera. */
    List<Pairing> ways() {
        Map<CameraId, Pairing> each = new LinkedHashMap<>();
        sites().pairings(door()).forEach(p -> each.putIfAbsent(p.camera(), p));
        first().ifPresent(f -> each.replace(f.camera(), f));
        return List.copyOf(each.values());
    }

    /** The pairing by which it is looked at. */
    Optional<Pairing> way() {
        return Optional.ofNullable(pairing);
    }

    /** What was done about the recorder's clock: how far it ran ahead at an instant. */
    Duration recorderAhead(Instant at) {
        return camera == null ? Duration.ZERO : services.clocks().ahead(camera.recorder(), at);
    }

    /** How far the time that is shown may be off at an instant. */
    Duration unsure(Instant at) {
        return camera == null ? Duration.ZERO : services.pictures().unsure(camera.recorder(), at);
    }

    private Optional<Pairing> first() {
        return sites().pairing(door(), playing.event().flatMap(Event::side).orElse(Side.ENTRY));
    }

    private SiteModel sites() {
        return services.sites().get();
    }

    private DoorId door() {
        return playing.door();
    }

    /** Begins with a camera of one's choice. */
    void use(Pairing chosen) {
        boolean event = playing.event().isPresent();
        Instant from = playing.moment().minus(event ? chosen.leadIn() : Duration.ZERO);
        start(chosen, from, playing.moment().plus(AFTER), !event);
    }

    /** Looks at the same instant by another pairing. */
    void switchTo(Pairing chosen) {
        if (chosen.equals(pairing)) {
            return;
        }
        Instant from = status == null ? playing.moment().minus(chosen.leadIn()) : status.position();
        start(chosen, from, from.plus(chosen.leadIn()).plus(AFTER), playback != null && !playback.playing());
    }

    private void start(Pairing chosen, Instant from, Instant to, boolean paused) {
        end();
        pairing = chosen;
        status = null;
        asked = from;
        state.set(new State.Beginning());
        camera = sites().camera(chosen.camera()).orElseThrow();
        Screen.Reel reel = screen.turnTo(camera, chosen);
        int mine = run;
        Playback.Listener listener = new Playback.Listener() {
            @Override
            public void frame(Picture picture) {
                reel.frame(picture);
            }

            @Override
            public void status(Playback.Status s) {
                Platform.runLater(() -> {
                    if (mine == run) {
                        take(s, reel);
                    }
                });
            }
        };
        try {
            playback = services.pictures()
                    .play(camera.id(), camera.recorder(), from, to, paused, () -> DECODED_WIDTH, listener);
        } catch (RecorderNotConnectedException | NotPermittedException e) {
            reel.none(Optional.empty(), SayingWords.of(e));
        }
    }

    private void end() {
        run++;
        if (playback != null) {
            playback.close();
            playback = null;
        }
    }

    private void take(Playback.Status s, Screen.Reel reel) {
        status = s;
        if (s.mode() == Playback.Mode.FAILED) {
            reel.none(
                    services.pictures().footage(camera.id(), camera.recorder(), s.from()),
                    s.failure().map(SayingWords::of).orElse(TEXTS.say("no-picture-here")));
        }
        if (s.mode() == Playback.Mode.REACHED_NOW) {
            goLive();
        } else {
            state.set(new State.Recorded(s));
        }
    }

    private void goLive() {
        end();
        screen.live();
        state.set(new State.Live());
    }

    private boolean recorded() {
        return playback != null;
    }

    void togglePlay() {
        if (!recorded()) {
            return;
        }
        if (status != null && status.mode() == Playback.Mode.PLAYING) {
            playback.pause();
        } else {
            playback.resume();
        }
    }

    void step(int frames) {
        if (recorded()) {
            playback.step(frames);
        }
    }

    /** Goes on or back by a time; to now or beyond it goes live. */
    void jump(Duration by) {
        if (pairing == null) {
            return;
        }
        boolean live = state.get() instanceof State.Live;
        Instant to = (status == null ? asked : status.position()).plus(by);
        if (!to.isBefore(services.clock().instant())) {
            if (!live) {
                goLive();
            }
        } else if (live || !recorded()) {
            start(pairing, to, to.plus(pairing.leadIn()).plus(AFTER), false);
        } else {
            playback.seek(to);
        }
    }

    /**
     * Goes to a place in what was fetched.
     *
     * @param share 0 for its beginning to 1 for its end
     */
    void seek(double share) {
        if (recorded() && status != null) {
            long length = Duration.between(status.from(), status.to()).toMillis();
            playback.seek(status.from().plusMillis((long) (Math.max(0, Math.min(1, share)) * length)));
        }
    }

    /** The next of the speeds there are; nothing where it cannot be changed. */
    Optional<Double> nextSpeed() {
        if (!recorded() || status == null) {
            return Optional.empty();
        }
        List<Double> all = Playback.SPEEDS;
        double next = all.get((all.indexOf(status.speed()) + 1) % all.size());
        playback.speed(next);
        return Optional.of(next);
    }

    /** Where it stands; nothing before the first picture. */
    Optional<Playback.Status> status() {
        return Optional.ofNullable(status);
    }

    @Override
    public void close() {
        end();
    }
}
