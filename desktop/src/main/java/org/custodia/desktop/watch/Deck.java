package org.custodia.desktop.watch;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import javafx.application.Platform;
import javafx.geometry.Pos;
import javafx.scene.canvas.Canvas;
import javafx.scene.canvas.GraphicsContext;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.ToggleButton;
import javafx.scene.control.ToggleGroup;
import javafx.scene.layout.FlowPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.event.Event;
import org.custodia.core.footage.Footage;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.Door;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Side;
import org.custodia.desktop.Services;
import org.custodia.desktop.picture.PicturePane;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Marks;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;
import org.custodia.desktop.words.EventWords;
import org.custodia.video.Picture;
import org.custodia.video.Playback;

/** Plays a moment inside its strip, from a lead-in before it, while all live pictures go on. */
final class Deck extends HBox {
    private static final Texts TEXTS = Texts.of(Deck.class);

    static final double PICTURE_WIDTH = 448;
    static final double PICTURE_HEIGHT = 252;
    /** Wider than shown, so that the picture stays sharp on displays that are scaled up. */
    private static final int DECODED_WIDTH = 640;
    /** How far beyond the event it plays by itself. */
    static final Duration AFTER = Duration.ofSeconds(15);

    private final Services services;
    private final Theme theme;
    private final Door door;
    private final Optional<Event> event;
    private final Instant moment;
    private final ZoneId zone;
    private final PicturePane pane;
    private final Label instant = new Label();
    private final Label mode = new Label();
    private final Button play = new Button(TEXTS.say("pause"));
    private final Button speed = new Button("1×");
    private final Canvas scrubber = new Canvas(300, 34);
    private final Runnable closed;
    private Playback playback;
    private Playback.Status status;
    private Pairing pairing;
    private Camera camera;
    private boolean runningLive;
    /** Where it stands until the first picture says so. */
    private Instant asked;
    /** Counts what was played here; what an earlier playback still says is passed over. */
    private int run;

    private PicturePane.Source screen;

    /**
     * @param event what is played; nothing for a bare moment
     * @param closed told when the operator is done with it
     */
    Deck(
            Services services,
            Theme theme,
            EventWords words,
            Door door,
            Optional<Event> event,
            Instant moment,
            ZoneId zone,
            Runnable closed) {
        this.services = services;
        this.theme = theme;
        this.door = door;
        this.event = event;
        this.moment = moment;
        this.zone = zone;
        this.closed = closed;
        this.pane = new PicturePane(services.pictures());
        getStyleClass().add("deck");
        pane.setMinSize(PICTURE_WIDTH, PICTURE_HEIGHT);
        pane.setMaxSize(PICTURE_WIDTH, PICTURE_HEIGHT);
        pane.setPrefSize(PICTURE_WIDTH, PICTURE_HEIGHT);
        Side side = event.flatMap(Event::side).orElse(Side.ENTRY);
        Pairing first = services.sites().get().pairing(door.id(), side).orElse(null);
        getChildren().addAll(pane, controls(words, first));
        services.sites().get().pairing(door.id(), side).ifPresentOrElse(this::use, this::noCamera);
    }

    private VBox controls(EventWords words, Pairing first) {
        Label title = new Label(event.map(words::subject).orElse(door.name()));
        title.getStyleClass().add("title");
        title.setWrapText(true);
        Label what = new Label(
                event.map(e -> door.name() + ", " + words.result(e, null)).orElse(TEXTS.say("moment-looked-at")));
        what.getStyleClass().add("muted");
        what.setWrapText(true);
        instant.getStyleClass().add("instant");
        mode.getStyleClass().add("muted");
        mode.setWrapText(true);
        scrubber.setAccessibleText(TEXTS.say("scrubber"));
        scrubber.setOnMousePressed(e -> seekTo(e.getX()));
        scrubber.setOnMouseDragged(e -> seekTo(e.getX()));
        play.setOnAction(e -> togglePlay());
        play.setMinWidth(68);
        speed.setOnAction(e -> nextSpeed());
        speed.setAccessibleText(TEXTS.say("speed"));
        Button back =
                button(TEXTS.say("minute-back"), () -> jump(Duration.ofMinutes(-1)), TEXTS.say("minute-back-tip"));
        Button on = button(TEXTS.say("minute-on"), () -> jump(Duration.ofMinutes(1)), TEXTS.say("minute-on-tip"));
        Button stepBack = button(TEXTS.say("frame-back"), () -> step(-1), TEXTS.say("frame-back-tip"));
        Button stepOn = button(TEXTS.say("frame-on"), () -> step(1), TEXTS.say("frame-on-tip"));
        Button live = button(TEXTS.say("stop-playing"), closed, TEXTS.say("stop-playing-tip"));
        live.getStyleClass().add("main");
        FlowPane buttons = new FlowPane(6, 6, play, stepBack, stepOn, speed, back, on);
        HBox cameras = cameras(first);
        Region room = new Region();
        VBox.setVgrow(room, Priority.ALWAYS);
        VBox box = new VBox(5, title, what, new HBox(12, instant), mode, scrubber, buttons, cameras, room, live);
        HBox.setHgrow(box, Priority.ALWAYS);
        box.setMinWidth(0);
        box.widthProperty().addListener((o, a, w) -> {
            scrubber.setWidth(Math.max(120, w.doubleValue() - 4));
            drawScrubber();
        });
        return box;
    }

    private HBox cameras(Pairing first) {
        HBox box = new HBox(6);
        box.setAlignment(Pos.CENTER_LEFT);
        Map<CameraId, Pairing> each = new LinkedHashMap<>();
        services.sites().get().pairings(door.id()).forEach(p -> each.putIfAbsent(p.camera(), p));
        if (first != null) {
            each.replace(first.camera(), first);
        }
        Collection<Pairing> all = each.values();
        ToggleGroup group = new ToggleGroup();
        for (Pairing p : all) {
            ToggleButton toggle = new ToggleButton(viewWord(p));
            toggle.setToggleGroup(group);
            toggle.setUserData(p);
            toggle.setSelected(p.equals(first));
            toggle.setOnAction(e -> {
                toggle.setSelected(true);
                switchTo(p);
            });
            box.getChildren().add(toggle);
        }
        box.setVisible(all.size() > 1);
        box.setManaged(all.size() > 1);
        return box;
    }

    private static Button button(String text, Runnable action, String spoken) {
        Button b = new Button(text);
        b.setOnAction(e -> action.run());
        b.setAccessibleText(spoken);
        return b;
    }

    static String viewWord(Pairing p) {
        return p.view().name().toLowerCase(java.util.Locale.ROOT);
    }

    private void noCamera() {
        pane.none(TEXTS.say(
                "nothing-to-play", WantedStill.whyNoCamera(services.sites().get(), door.id())));
        play.setDisable(true);
    }

    private void use(Pairing chosen) {
        Instant from = moment.minus(event.isPresent() ? chosen.leadIn() : Duration.ZERO);
        start(chosen, from, moment.plus(AFTER), event.isEmpty());
    }

    private void switchTo(Pairing chosen) {
        if (chosen.equals(pairing)) {
            return;
        }
        Instant from = status == null ? moment.minus(chosen.leadIn()) : status.position();
        start(chosen, from, from.plus(chosen.leadIn()).plus(AFTER), playback != null && !playback.playing());
    }

    private void start(Pairing chosen, Instant from, Instant to, boolean paused) {
        end();
        pairing = chosen;
        status = null;
        asked = from;
        runningLive = false;
        play.setDisable(false);
        camera = services.sites().get().camera(chosen.camera()).orElseThrow();
        pane.camera(camera, viewWord(chosen), zone);
        PicturePane.Source onto = pane.recorded();
        screen = onto;
        int mine = run;
        try {
            playback = services.pictures()
                    .play(
                            camera.id(),
                            camera.recorder(),
                            from,
                            to,
                            paused,
                            () -> DECODED_WIDTH,
                            new Playback.Listener() {
                                @Override
                                public void frame(Picture picture) {
                                    onto.frame(picture);
                                }

                                @Override
                                public void status(Playback.Status s) {
                                    Platform.runLater(() -> {
                                        if (mine == run) {
                                            take(s);
                                        }
                                    });
                                }
                            });
        } catch (IllegalStateException | NotPermittedException e) {
            screen.explain(TEXTS.say("no-picture"), e.getMessage());
        }
    }

    private void end() {
        run++;
        if (playback != null) {
            playback.close();
        }
    }

    private void take(Playback.Status s) {
        status = s;
        instant.setText(ClockWords.exact(s.position(), services.clock().instant(), zone));
        boolean runs = s.mode() == Playback.Mode.PLAYING || s.mode() == Playback.Mode.WAITING;
        play.setText(TEXTS.say(runs ? "pause" : "play"));
        String from = s.fromLive() ? TEXTS.say("from-live") : "";
        mode.setText(
                switch (s.mode()) {
                    case WAITING -> TEXTS.say("loading-from", door.name());
                    case PLAYING -> clock() + from;
                    case PAUSED -> TEXTS.say("recorded-paused") + from;
                    case ENDED -> TEXTS.say("stretch-ended");
                    case REACHED_NOW -> TEXTS.say("reached-now");
                    case FAILED -> "";
                });
        if (s.mode() == Playback.Mode.FAILED) {
            Optional<Footage.At> there = services.pictures().footage(camera.id(), camera.recorder(), s.from());
            String why = PicturePane.why(
                    there,
                    s.failure().orElse(TEXTS.say("no-picture-here")),
                    zone,
                    services.clock().instant());
            screen.explain(TEXTS.say("no-picture"), why);
        }
        if (s.mode() == Playback.Mode.REACHED_NOW) {
            goLive();
        }
        drawScrubber();
    }

    /** What was done about the recorder's clock, where that is more than a blink. */
    private String clock() {
        Duration ahead =
                services.clocks().ahead(camera.recorder(), services.clock().instant());
        if (ahead.abs().toMillis() < 300) {
            return TEXTS.say("recorded");
        }
        return TEXTS.say(
                ahead.isNegative() ? "recorded-behind" : "recorded-ahead",
                ahead.abs().toMillis() / 1000.0);
    }

    /** Playback ran into now: the picture goes on live, and says so. */
    private void goLive() {
        runningLive = true;
        end();
        pane.live();
        pane.seen(true);
        mode.setText(TEXTS.say("now-live"));
        play.setDisable(true);
    }

    private void drawScrubber() {
        GraphicsContext g = scrubber.getGraphicsContext2D();
        double w = scrubber.getWidth();
        g.clearRect(0, 0, w, scrubber.getHeight());
        if (status == null) {
            return;
        }
        g.setFill(theme.now().line());
        g.fillRect(0, 18, w, 6);
        double x = share(status.position()) * w;
        g.setFill(theme.now().accent());
        g.fillRect(0, 18, Math.max(0, Math.min(w, x)), 6);
        g.setFill(theme.now().ink());
        g.fillRect(Math.max(0, Math.min(w - 4, x - 2)), 12, 4, 18);
        double at = share(moment) * w;
        if (at >= 0 && at <= w && event.isPresent()) {
            g.setStroke(theme.now().ink());
            g.strokeLine(at, 10, at, 18);
            org.custodia.core.event.Priority p =
                    org.custodia.core.event.Kinds.entry(event.get().kind()).priority();
            Marks.draw(
                    g,
                    p == org.custodia.core.event.Priority.NONE ? org.custodia.core.event.Priority.LOW : p,
                    at,
                    6,
                    5,
                    theme.now());
        }
    }

    private double share(Instant t) {
        return Duration.between(status.from(), t).toMillis()
                / (double)
                        Math.max(1, Duration.between(status.from(), status.to()).toMillis());
    }

    private void seekTo(double x) {
        if (status != null && playback != null && !runningLive) {
            double share = Math.max(0, Math.min(1, x / scrubber.getWidth()));
            long length = Duration.between(status.from(), status.to()).toMillis();
            playback.seek(status.from().plusMillis((long) (share * length)));
        }
    }

    void togglePlay() {
        if (playback == null || runningLive) {
            return;
        }
        if (status != null && status.mode() == Playback.Mode.PLAYING) {
            playback.pause();
        } else {
            playback.resume();
        }
    }

    void step(int frames) {
        if (playback != null && !runningLive) {
            playback.step(frames);
        }
    }

    void jump(Duration by) {
        if (playback == null) {
            return;
        }
        Instant to = (status == null ? asked : status.position()).plus(by);
        if (!to.isBefore(services.clock().instant())) {
            if (!runningLive) {
                goLive();
            }
            return;
        }
        if (runningLive) {
            start(pairing, to, to.plus(pairing.leadIn()).plus(AFTER), false);
        } else {
            playback.seek(to);
        }
    }

    private void nextSpeed() {
        if (playback == null || status == null) {
            return;
        }
        List<Double> all = Playback.SPEEDS;
        double next = all.get((all.indexOf(status.speed()) + 1) % all.size());
        playback.speed(next);
        speed.setText((next == Math.rint(next) ? String.valueOf((int) next) : String.valueOf(next)) + "×");
    }

    /** Where it stands; nothing before the first picture. */
    Optional<Playback.Status> status() {
        return Optional.ofNullable(status);
    }

    /** The instant shown, for the strip's playhead. */
    Optional<Instant> position() {
        return Optional.ofNullable(status).map(Playback.Status::position);
    }

    PicturePane pane() {
        return pane;
    }

    void close() {
        end();
        pane.close();
    }
}
