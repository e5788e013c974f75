package org.custodia.desktop.picture;

import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;
import javafx.application.Platform;
import javafx.geometry.Pos;
import javafx.scene.control.Label;
import javafx.scene.image.ImageView;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.footage.Footage;
import org.custodia.core.site.Camera;
import org.custodia.core.site.Crop;
import org.custodia.desktop.saying.SayingWords;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.words.ClockWords;
import org.custodia.desktop.words.DoorWords;
import org.custodia.video.Picture;
import org.custodia.video.PictureState;
import org.custodia.video.Pictures;

/**
 * Shows one camera, and always says whether the picture is live or recorded, of which camera and which instant; without a
 * picture it says why. Costs nothing while nobody can see it.
 */
public final class PicturePane extends Region {
    private static final Texts TEXTS = Texts.of(PicturePane.class);

    private final Pictures pictures;
    private final ImageView view = new ImageView();
    private final Label tag = new Label();
    private final Label title = new Label();
    private final Label reason = new Label();
    private final VBox words = new VBox(2, title, reason);
    private final Pixels pixels = new Pixels();
    /** Held while a frame is handed from the video's thread to that of the screen. */
    private final Object handover = new Object();

    private final Runnable apply;
    /** Where what is shown comes from. */
    private Source source = new Source();

    private PictureState nextState;
    private Picture next;
    private int[] spare = {};
    private long frames;
    private volatile int shownWidth;
    private Camera camera;
    private String name = "";
    private String tagWords = "";
    /** The same in two lines, and without the camera's name, for where there is less room. */
    private List<String> tagShorter = List.of();

    private ZoneId zone = ZoneId.of("UTC");
    private Pictures.Look look;
    private PictureState state = new PictureState.Connecting();
    private boolean recorded;
    private boolean seen;
    /** Which instant's still frame was asked for last; nothing while live or played. */
    private Optional<Instant> still = Optional.empty();
    /** When to ask for it again, where it was not there yet or something better comes. */
    private Instant stillAgain = Instant.MAX;

    public PicturePane(Pictures pictures) {
        this.pictures = pictures;
        getStyleClass().add("picture");
        tag.getStyleClass().add("tag");
        title.getStyleClass().addAll("reason", "reason-title");
        reason.getStyleClass().add("reason");
        reason.setWrapText(true);
        words.setAlignment(Pos.CENTER);
        view.setPreserveRatio(true);
        view.setSmooth(true);
        getChildren().addAll(view, words, tag);
        this.apply = org.custodia.desktop.Work.conflated(this::apply);
        setMinSize(0, 0);
        widthProperty().addListener((o, a, b) -> fitTag());
    }

    /**
     * Sets the camera; nothing is fetched before the pane is seen.
     *
     * @param label how the camera is called here, for example "outside"
     */
    public void camera(Camera of, String label, ZoneId inZone) {
        if (of.equals(camera) && label.equals(name)) {
            return;
        }
        stop();
        camera = of;
        name = label;
        zone = inZone;
        view.setImage(null);
        state = new PictureState.Connecting();
        showWords();
    }

    /** There is no camera here. */
    public void none(String why) {
        stop();
        camera = null;
        view.setImage(null);
        title.setText(TEXTS.say("no-camera"));
        reason.setText(why);
        words.setVisible(true);
        tag.setVisible(false);
    }

    /** Whether somebody can see the pane; the live picture runs only while that is so. */
    public void seen(boolean visible) {
        seen = visible;
        shownWidth = visible ? wantedWidth(getWidth()) : 0;
        if (recorded || camera == null) {
            return;
        }
        if (visible && look == null) {
            Source live = change();
            look = pictures.live(camera.id(), camera.recorder(), () -> shownWidth, live::frame, live::state);
        } else if (!visible && look != null) {
            stop();
        }
    }

    /** Pixels of the display that a width of the pane is, since displays may be scaled up. */
    private int wantedWidth(double width) {
        boolean shown = getScene() != null && getScene().getWindow() != null;
        double scale = shown ? getScene().getWindow().getOutputScaleX() : 1;
        return (int) Math.max(16, Math.round(width * scale));
    }

    /**
     * Stops the live picture and shows what the source is handed, marked as recorded, until the pane shows something else.
     * What was shown as recorded so far stays until the first frame.
     */
    public Source recorded() {
        if (!recorded) {
            recorded = true;
            stop();
            view.setImage(null);
            tag.getStyleClass().add("recorded");
            showWords();
        }
        return change();
    }

    /**
     * Shows the frame of an instant, marked as recorded, once the pane is seen. Call it as often as you like: it is asked
     * for once, and again where it was not there yet or something better comes.
     *
     * @param height in pixels
     */
    public void stillOf(Instant at, int height) {
        boolean asked = still.equals(Optional.of(at)) && pictures.now().isBefore(stillAgain);
        if (camera == null || asked) {
            return;
        }
        if (!seen) {
            if (!recorded) {
                recorded();
            }
            return;
        }
        Source onto = recorded();
        still = Optional.of(at);
        stillAgain = Instant.MAX;
        WantedStill wanted = new WantedStill(camera, Crop.WHOLE, at);
        wanted.fetch(pictures, height, got -> {
            if (source == onto) {
                got.again().ifPresent(t -> stillAgain = t);
                got.still()
                        .ifPresentOrElse(
                                s -> onto.frame(s.picture()),
                                () -> onto.explain(
                                        TEXTS.say("no-picture"),
                                        why(
                                                wanted.footage(pictures),
                                                TEXTS.say("none-of-that-moment"),
                                                zone,
                                                pictures.now())));
            }
        });
    }

    /** Ends showing what was recorded; the live picture comes once the pane is seen. */
    public void live() {
        if (!recorded) {
            return;
        }
        recorded = false;
        stop();
        view.setImage(null);
        state = new PictureState.Connecting();
        tag.getStyleClass().remove("recorded");
        showWords();
    }

    /** How many frames have come in so far. */
    public long frames() {
        synchronized (handover) {
            return frames;
        }
    }

    /** From now on only what the new source says is shown. */
    private Source change() {
        still = Optional.empty();
        synchronized (handover) {
            next = null;
            nextState = null;
            source = new Source();
            return source;
        }
    }

    /**
     * Where pictures come from. Decoders and recorders take a while to hear that they are not wanted any more, so whatever
     * one says after the pane has turned to another is passed over: a picture never stands under another camera's name, nor
     * a recorded one under the word live.
     */
    public final class Source {
        private Source() {}

        /** A frame, from any thread; what it holds is copied. */
        public void frame(Picture picture) {
            synchronized (handover) {
                if (source != this) {
                    return;
                }
                int size = picture.argb().length;
                if (spare.length != size) {
                    spare = new int[size];
                }
                System.arraycopy(picture.argb(), 0, spare, 0, size);
                next = new Picture(picture.width(), picture.height(), spare, picture.at());
                frames++;
            }
            apply.run();
        }

        private void state(PictureState newState) {
            synchronized (handover) {
                if (source != this) {
                    return;
                }
                nextState = newState;
            }
            apply.run();
        }

        /** Says in words why there is no picture; on the JavaFX thread. */
        public void explain(String heading, String why) {
            if (source == this) {
                PicturePane.this.explain(heading, why);
            }
        }
    }

    private void apply() {
        PictureState newState;
        synchronized (handover) {
            newState = nextState;
            nextState = null;
        }
        if (newState != null) {
            state = newState;
            showWords();
        }
        Optional<Instant> at = takeFrame();
        if (at.isPresent()) {
            words.setVisible(false);
            showTag(at.get());
        }
    }

    /** Puts the newest frame on the screen; nothing if there is none since the last. */
    private Optional<Instant> takeFrame() {
        javafx.scene.image.Image image;
        Instant at;
        synchronized (handover) {
            if (next == null) {
                return Optional.empty();
            }
            image = pixels.update(next);
            at = next.at();
            next = null;
        }
        if (view.getImage() != image) {
            view.setImage(image);
            requestLayout();
        }
        return Optional.of(at);
    }

    private void showTag(Instant at) {
        String when = recorded
                ? ClockWords.recorded(at, pictures.now(), zone, pictures.unsure(camera.recorder(), at))
                : ClockWords.clock(at, zone);
        String how = recorded ? TEXTS.say("recorded") : running();
        String text = name + " · " + how + " " + when;
        if (!text.equals(tagWords)) {
            tagWords = text;
            tagShorter = List.of(name + " · " + how + "\n" + when, how + "\n" + when);
            setAccessibleText(text);
            fitTag();
        }
        tag.setVisible(true);
    }

    /** What can be said of a picture that is not recorded. */
    private String running() {
        if (state instanceof PictureState.Doubtful doubtful) {
            return TEXTS.say("not-sure", DoorWords.span(doubtful.off()));
        }
        return TEXTS.say(state instanceof PictureState.Stalled ? "stopped-at" : "live");
    }

    private void fitTag() {
        tag.setText(tagWords);
        for (String shorter : tagShorter) {
            if (tag.prefWidth(-1) > getWidth() - 8) {
                tag.setText(shorter);
            }
        }
        requestLayout();
    }

    private void explain(String heading, String why) {
        view.setImage(null);
        title.setText(heading);
        reason.setText(why);
        words.setVisible(true);
        tag.setVisible(false);
        requestLayout();
    }

    private void showWords() {
        if (camera == null) {
            return;
        }
        view.setOpacity(state instanceof PictureState.Stalled ? 0.45 : 1);
        if (recorded) {
            explain(TEXTS.say("loading"), name);
        } else if (state instanceof PictureState.Connecting) {
            if (view.getImage() == null) {
                explain(TEXTS.say("connecting"), name);
            }
        } else if (state instanceof PictureState.None none) {
            Optional<Instant> lost = pictures.lostSince(camera.id(), camera.recorder());
            String why = lost.map(t -> TEXTS.say("camera-lost", DoorWords.clock(t, t, zone)))
                    .orElseGet(() -> SayingWords.of(none.why()));
            explain(TEXTS.say("no-picture"), name + ": " + why);
        } else if (state instanceof PictureState.Stalled stalled) {
            showTag(stalled.since());
        }
    }

    private void stop() {
        if (look != null) {
            look.close();
            look = null;
        }
        change();
    }

    /** Says what is known of footage at an instant when it cannot be played. */
    public static String why(Optional<Footage.At> at, String otherwise, ZoneId zone, Instant now) {
        if (at.isEmpty()) {
            return otherwise;
        }
        Footage.At there = at.get();
        if (there instanceof Footage.At.Pending pending) {
            return TEXTS.say("being-written", ClockWords.clock(pending.readyAt(), zone));
        }
        if (there instanceof Footage.At.Overwritten gone) {
            return TEXTS.say(
                    "overwritten",
                    DoorWords.clock(gone.keptFrom(), now, zone),
                    gone.keptFrom().atZone(zone).toLocalDate());
        }
        if (there instanceof Footage.At.NoPicture none) {
            return none.until()
                    .map(u -> TEXTS.say(
                            "gave-none-until", DoorWords.clock(none.since(), now, zone), DoorWords.clock(u, now, zone)))
                    .orElseGet(() -> TEXTS.say("gave-none", DoorWords.clock(none.since(), now, zone)));
        }
        if (there instanceof Footage.At.Future) {
            return TEXTS.say("not-yet");
        }
        return otherwise;
    }

    /** Whether a picture is shown. */
    public boolean hasPicture() {
        return view.getImage() != null;
    }

    @Override
    protected void layoutChildren() {
        double w = getWidth();
        double h = getHeight();
        view.setFitWidth(w);
        view.setFitHeight(h);
        double iw = view.getLayoutBounds().getWidth();
        double ih = view.getLayoutBounds().getHeight();
        view.relocate(Math.round((w - iw) / 2), Math.round((h - ih) / 2));
        words.resizeRelocate(6, 4, Math.max(0, w - 12), Math.max(0, h - 8));
        double tw = Math.min(w - 8, tag.prefWidth(-1));
        double th = tag.prefHeight(-1);
        tag.resizeRelocate(4, h - th - 4, tw, th);
        if (shownWidth > 0) {
            shownWidth = wantedWidth(w);
        }
    }

    /** Lets go of the camera. */
    public void close() {
        if (Platform.isFxApplicationThread()) {
            stop();
        } else {
            Platform.runLater(this::stop);
        }
    }
}
