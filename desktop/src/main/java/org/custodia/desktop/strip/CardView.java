package org.custodia.desktop.strip;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.Optional;
import java.util.function.Consumer;
import javafx.geometry.Pos;
import javafx.geometry.Side;
import javafx.scene.control.Label;
import javafx.scene.control.Tooltip;
import javafx.scene.image.ImageView;
import javafx.scene.input.KeyCode;
import javafx.scene.layout.Region;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Kinds;
import org.custodia.core.footage.Footage;
import org.custodia.desktop.Services;
import org.custodia.desktop.picture.PicturePane;
import org.custodia.desktop.picture.Pixels;
import org.custodia.desktop.picture.WantedStill;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.PriorityMark;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;

/** A still with the name and time beneath it; more than one event makes it a counted stack. */
public final class CardView extends Region {
    private static final Texts TEXTS = Texts.of(CardView.class);

    /** Pixels fetched for each that is shown at a scale of 1, so that displays scaled up to twice show them sharp. */
    private static final double SHARPNESS = 2;

    private final Services services;
    private final Consumer<StripItem> play;
    private final StackMenu stack;
    private Tooltip tip;
    private final Theme theme;
    private final ImageView image = new ImageView();
    private final Label missing = new Label("");
    private ZoneId zone;
    private final PriorityMark mark;
    private final Label who = new Label();
    private final Label when = new Label();
    private final Region[] behind = {new Region(), new Region()};
    private StripLayout.Card card;
    private EventKey shown;
    private StripSize size = StripSize.MIDDLE;
    /** The height that the still was asked for in. */
    private int fetched;
    /** None of the door's cameras was known when it was asked for; one may be by now. */
    private boolean noCamera;

    /**
     * @param play told which event was chosen
     */
    CardView(Services services, Theme theme, Consumer<StripItem> play) {
        this.services = services;
        this.theme = theme;
        this.play = play;
        this.stack = new StackMenu(services, theme);
        this.mark = new PriorityMark(theme, 15);
        getStyleClass().add("card");
        who.getStyleClass().add("who");
        when.getStyleClass().add("when");
        missing.getStyleClass().add("secondary");
        missing.setAlignment(Pos.CENTER);
        missing.setTextAlignment(javafx.scene.text.TextAlignment.CENTER);
        for (Region r : behind) {
            r.setStyle("-fx-background-color: -t-line, -t-raised; -fx-background-insets: 0, 1;");
        }
        getChildren().addAll(behind[1], behind[0], missing, image, mark, who, when);
        setFocusTraversable(true);
        setOnMouseClicked(e -> {
            if (e.isStillSincePress() && e.getButton() == javafx.scene.input.MouseButton.PRIMARY) {
                requestFocus();
                choose();
                e.consume();
            }
        });
        setOnKeyPressed(e -> {
            if (e.getCode() == KeyCode.ENTER) {
                choose();
                e.consume();
            }
        });
    }

    /** Plays its event; a stack is opened, so that each of its events can be played. */
    private void choose() {
        if (card.items().size() == 1) {
            play.accept(card.face());
        } else {
            stack.menu(card.items(), zone, play).show(this, Side.BOTTOM, 0, 0);
        }
    }

    public StripLayout.Card card() {
        return card;
    }

    void show(StripLayout.Card newCard, ZoneId newZone, StripSize newSize) {
        if (size != newSize) {
            size = newSize;
            who.getStyleClass().setAll("label", size.roomy() ? "who" : "count");
        }
        zone = newZone;
        card = newCard;
        StripItem face = newCard.face();
        int count = newCard.items().size();
        for (int i = 0; i < behind.length; i++) {
            behind[i].setVisible(count > i + 1);
        }
        mark.show(face.priority());
        String name = face.who();
        if (count > 1) {
            long refused = newCard.items().stream()
                    .filter(i -> i.event().kind().equals(Kinds.REFUSED))
                    .count();
            boolean one =
                    newCard.items().stream().map(StripItem::who).distinct().count() == 1;
            name = refused > 0
                    ? TEXTS.say("stack-refused", count, refused)
                    : one ? TEXTS.say("stack-of", count, face.who()) : TEXTS.say("stack", count);
        }
        // Where there is no room for words a stack is counted all the same.
        who.setText(size.roomy() ? name : count > 1 ? Integer.toString(count) : "");
        who.setVisible(!who.getText().isEmpty());
        when.setVisible(size.roomy());
        when.setText(ClockWords.clock(face.at(), zone));
        String one = face.who() + ", " + face.result() + ", " + ClockWords.clock(face.at(), zone);
        String spoken = count > 1 ? TEXTS.say("and-more", one, count - 1) : one;
        if (!spoken.equals(getAccessibleText())) {
            setAccessibleText(spoken);
            if (tip != null) {
                Tooltip.uninstall(this, tip);
            }
            tip = count > 1 ? stack.tip(newCard.items(), zone) : new Tooltip(spoken);
            Tooltip.install(this, tip);
        }
        if (!face.event().key().equals(shown)
                || fetched < stillPixels()
                || noCamera
                        && WantedStill.of(services.sites().get(), face.event()).isPresent()) {
            boolean another = !face.event().key().equals(shown);
            shown = face.event().key();
            if (another) {
                image.setImage(null);
            }
            fetch(face.event());
        }
        requestLayout();
    }

    private void fetch(Event event) {
        missing.setText("");
        Optional<WantedStill> wanted = WantedStill.of(services.sites().get(), event);
        if (wanted.isEmpty()) {
            missing(TEXTS.say("no-camera-here"));
            fetched = Integer.MAX_VALUE;
            noCamera = true;
            return;
        }
        noCamera = false;
        fetched = stillPixels();
        wanted.get().fetch(services.pictures(), fetched, got -> {
            if (event.key().equals(shown)) {
                take(event, wanted.get(), got);
            }
        });
    }

    /** Says why there is no still, as far as there is room. */
    private void missing(String why) {
        missing.setText(size.roomy() ? why : "–");
    }

    private int stillPixels() {
        return (int) Math.round(theme.px(size.still()) * SHARPNESS);
    }

    /** Why there is no picture, in a word or two: the same as panes say. */
    private String gone(Optional<Footage.At> there) {
        if (there.orElse(null) instanceof Footage.At.Overwritten overwritten) {
            return TEXTS.say("gone-before", ClockWords.day(overwritten.keptFrom(), zone));
        }
        return TEXTS.say(
                there.filter(Footage.At.NoPicture.class::isInstance).isPresent() ? "not-recorded" : "no-picture-here");
    }

    private void take(Event event, WantedStill wanted, WantedStill.Got got) {
        if (got.still().isPresent()) {
            image.setImage(Pixels.image(got.still().get().picture()));
        } else if (got.readyAt().isPresent()) {
            missing(TEXTS.say("ready-at", ClockWords.clock(got.readyAt().get(), zone)));
        } else {
            Optional<Footage.At> there = wanted.footage(services.pictures());
            missing(gone(there));
            Tooltip.install(
                    missing,
                    new Tooltip(PicturePane.why(
                            there, got.problem(), zone, services.clock().instant())));
        }
        got.again().ifPresent(t -> fetchAt(event, t));
        requestLayout();
    }

    /** Asks again when there is more to be had. */
    private void fetchAt(Event event, Instant at) {
        EventKey asked = event.key();
        Duration wait = Duration.between(services.clock().instant(), at);
        javafx.animation.PauseTransition pause =
                new javafx.animation.PauseTransition(javafx.util.Duration.millis(Math.max(0, wait.toMillis())));
        pause.setOnFinished(e -> {
            if (asked.equals(shown) && getScene() != null) {
                fetch(event);
            }
        });
        pause.play();
    }

    @Override
    protected double computePrefWidth(double height) {
        return theme.px(size.card()) - 4;
    }

    @Override
    protected double computePrefHeight(double width) {
        return theme.px(size.cardHeight());
    }

    @Override
    protected void layoutChildren() {
        double w = getWidth();
        double high = theme.px(size.still());
        image.setPreserveRatio(true);
        image.setFitHeight(high);
        image.setFitWidth(w - 4);
        image.relocate(2, 2);
        double iw =
                image.getImage() == null ? high * 0.86 : image.getLayoutBounds().getWidth();
        for (int i = 0; i < behind.length; i++) {
            behind[i].resizeRelocate(2 + 4 * (i + 1), 2 - Math.min(2, i + 1), iw, high - 2);
        }
        missing.resizeRelocate(2, 2, w - 4, high);
        mark.relocate(iw - 10, 0);
        if (size.roomy()) {
            who.resizeRelocate(2, high + 2, w, theme.px(17));
        } else {
            double room = Math.min(w, who.prefWidth(-1));
            who.resizeRelocate(Math.min(w - room, 2 + iw - room / 2), high - theme.px(13), room, theme.px(16));
        }
        when.resizeRelocate(2, high + theme.px(18), w, theme.px(16));
    }
}
