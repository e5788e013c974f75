package org.custodia.desktop.play;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;
import javafx.geometry.Pos;
import javafx.scene.canvas.Canvas;
import javafx.scene.canvas.GraphicsContext;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.ToggleButton;
import javafx.scene.control.ToggleGroup;
import javafx.scene.input.KeyEvent;
import javafx.scene.layout.FlowPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.Door;
import org.custodia.core.site.Pairing;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.desk.Playing;
import org.custodia.desktop.picture.PicturePane;
import org.custodia.desktop.picture.WantedStill;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Marks;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;
import org.custodia.desktop.words.EventWords;
import org.custodia.desktop.words.Names;
import org.custodia.video.Playback;

/** Plays a moment: the picture, what it is of, where it stands, and what can be done with it. */
public final class Deck extends HBox implements AutoCloseable {
    private static final Texts TEXTS = Texts.of(Deck.class);

    private static final double PICTURE_WIDTH = 448;
    private static final double PICTURE_HEIGHT = 252;
    /** A correction of the recorder's clock smaller than this is not worth a word. */
    private static final Duration BLINK = Duration.ofMillis(300);

    private final Desk desk;
    private final Theme theme;
    private final Door door;
    private final Playing playing;
    private final ZoneId zone;
    private final PlayerModel player;
    private final PicturePane pane;
    private final Label instant = new Label();
    private final Label mode = new Label();
    private final Button play = new Button(TEXTS.say("pause"));
    private final Button speed = new Button("1×");
    private final Canvas scrubber = new Canvas(300, 34);

    /**
     * Begins to play.
     *
     * @param door of which it is
     */
    public Deck(Desk desk, Theme theme, Door door, Playing playing) {
        this.desk = desk;
        this.theme = theme;
        this.door = door;
        this.playing = playing;
        this.zone = desk.zone();
        this.pane = new PicturePane(desk.services().pictures());
        this.player = new PlayerModel(desk.services(), playing, new PaneScreen(pane, desk::called, zone, desk::now));
        getStyleClass().add("deck");
        pane.setMinSize(PICTURE_WIDTH, PICTURE_HEIGHT);
        pane.setMaxSize(PICTURE_WIDTH, PICTURE_HEIGHT);
        pane.setPrefSize(PICTURE_WIDTH, PICTURE_HEIGHT);
        player.state().addListener((o, a, now) -> show(now));
        player.start();
        getChildren().addAll(pane, controls(desk.words()));
        show(player.state().get());
    }

    private VBox controls(EventWords words) {
        Label title = new Label(playing.event().map(words::subject).orElse(door.name()));
        title.getStyleClass().add("title");
        title.setWrapText(true);
        Label what = new Label(playing.event()
                .map(e -> door.name() + ", " + words.result(e, null))
                .orElse(TEXTS.say("moment-looked-at")));
        what.getStyleClass().add("muted");
        what.setWrapText(true);
        instant.getStyleClass().add("instant");
        mode.getStyleClass().add("muted");
        mode.setWrapText(true);
        scrubber.setAccessibleText(TEXTS.say("scrubber"));
        scrubber.setOnMousePressed(e -> player.seek(e.getX() / scrubber.getWidth()));
        scrubber.setOnMouseDragged(e -> player.seek(e.getX() / scrubber.getWidth()));
        play.setOnAction(e -> player.togglePlay());
        play.setMinWidth(68);
        speed.setOnAction(e -> player.nextSpeed().ifPresent(s -> speed.setText(times(s))));
        speed.setAccessibleText(TEXTS.say("speed"));
        Button back = button(TEXTS.say("minute-back"), () -> jump(-1), TEXTS.say("minute-back-tip"));
        Button on = button(TEXTS.say("minute-on"), () -> jump(1), TEXTS.say("minute-on-tip"));
        Button stepBack = button(TEXTS.say("frame-back"), () -> player.step(-1), TEXTS.say("frame-back-tip"));
        Button stepOn = button(TEXTS.say("frame-on"), () -> player.step(1), TEXTS.say("frame-on-tip"));
        Button live = button(TEXTS.say("stop-playing"), desk::stopPlaying, TEXTS.say("stop-playing-tip"));
        live.getStyleClass().add("main");
        FlowPane buttons = new FlowPane(6, 6, play, stepBack, stepOn, speed, back, on);
        HBox cameras = cameras();
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

    private static String times(double speed) {
        return (speed == Math.rint(speed) ? String.valueOf((int) speed) : String.valueOf(speed)) + "×";
    }

    private void jump(int minutes) {
        player.jump(Duration.ofMinutes(minutes));
    }

    private HBox cameras() {
        HBox box = new HBox(6);
        box.setAlignment(Pos.CENTER_LEFT);
        List<Pairing> all = player.ways();
        ToggleGroup group = new ToggleGroup();
        for (Pairing p : all) {
            ToggleButton toggle = new ToggleButton(Names.view(p.view()));
            toggle.setToggleGroup(group);
            toggle.setUserData(p);
            toggle.setSelected(player.way().filter(p::equals).isPresent());
            toggle.setOnAction(e -> {
                toggle.setSelected(true);
                player.switchTo(p);
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

    private void show(PlayerModel.State state) {
        play.setDisable(state instanceof PlayerModel.State.NoCamera || state instanceof PlayerModel.State.Live);
        if (state instanceof PlayerModel.State.NoCamera) {
            String why = WantedStill.whyNoCamera(desk.services().sites().get(), door.id());
            pane.none(TEXTS.say("nothing-to-play", why));
        } else if (state instanceof PlayerModel.State.Live) {
            mode.setText(TEXTS.say("now-live"));
        } else if (state instanceof PlayerModel.State.Recorded recorded) {
            show(recorded.at());
        }
    }

    private void show(Playback.Status s) {
        instant.setText(ClockWords.recorded(s.position(), desk.now(), zone, player.unsure(s.position())));
        boolean runs = s.mode() == Playback.Mode.PLAYING || s.mode() == Playback.Mode.WAITING;
        play.setText(TEXTS.say(runs ? "pause" : "play"));
        String from = s.fromLive() ? TEXTS.say("from-live") : "";
        mode.setText(
                switch (s.mode()) {
                    case WAITING -> TEXTS.say("loading-from", door.name());
                    case PLAYING -> clock(s.position()) + from;
                    case PAUSED -> TEXTS.say("recorded-paused") + from;
                    case ENDED -> TEXTS.say("stretch-ended");
                    case REACHED_NOW -> TEXTS.say("reached-now");
                    case FAILED -> "";
                });
        drawScrubber();
    }

    /** What was done about the recorder's clock, where that is more than a blink. */
    private String clock(Instant at) {
        Duration ahead = player.recorderAhead(at);
        if (ahead.abs().compareTo(BLINK) < 0) {
            return TEXTS.say("recorded");
        }
        return TEXTS.say(
                ahead.isNegative() ? "recorded-behind" : "recorded-ahead",
                ahead.abs().toMillis() / 1000.0);
    }

    private void drawScrubber() {
        GraphicsContext g = scrubber.getGraphicsContext2D();
        double w = scrubber.getWidth();
        g.clearRect(0, 0, w, scrubber.getHeight());
        if (player.status().isEmpty()) {
            return;
        }
        Playback.Status status = player.status().get();
        g.setFill(theme.now().line());
        g.fillRect(0, 18, w, 6);
        double x = share(status, status.position()) * w;
        g.setFill(theme.now().muted());
        g.fillRect(0, 18, Math.max(0, Math.min(w, x)), 6);
        g.setFill(theme.now().accent());
        g.fillRect(Math.max(0, Math.min(w - 4, x - 2)), 12, 4, 18);
        double at = share(status, playing.moment()) * w;
        if (at >= 0 && at <= w && playing.event().isPresent()) {
            g.setStroke(theme.now().ink());
            g.strokeLine(at, 10, at, 18);
            org.custodia.core.event.Priority p =
                    Kinds.entry(playing.event().get().kind()).priority();
            Marks.draw(
                    g,
                    p == org.custodia.core.event.Priority.NONE ? org.custodia.core.event.Priority.LOW : p,
                    at,
                    6,
                    5,
                    theme.now());
        }
    }

    private static double share(Playback.Status status, Instant t) {
        return Duration.between(status.from(), t).toMillis()
                / (double)
                        Math.max(1, Duration.between(status.from(), status.to()).toMillis());
    }

    /** Works the deck by a key; false if it is none of its keys. */
    public boolean key(KeyEvent e) {
        switch (e.getCode()) {
            case SPACE -> player.togglePlay();
            case COMMA -> player.step(-1);
            case PERIOD -> player.step(1);
            case OPEN_BRACKET -> jump(-1);
            case CLOSE_BRACKET -> jump(1);
            default -> {
                return false;
            }
        }
        return true;
    }

    /** The instant shown; nothing before the first picture. */
    public Optional<Instant> position() {
        return player.status().map(Playback.Status::position);
    }

    /** Whether a picture is shown. */
    public boolean hasPicture() {
        return pane.hasPicture();
    }

    @Override
    public void close() {
        player.close();
        pane.close();
    }
}
