package org.custodia.desktop.watch;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.Optional;
import java.util.function.Consumer;
import javafx.geometry.Pos;
import javafx.scene.control.Label;
import javafx.scene.control.Tooltip;
import javafx.scene.image.ImageView;
import javafx.scene.input.KeyCode;
import javafx.scene.layout.Region;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Kinds;
import org.custodia.desktop.Services;
import org.custodia.desktop.picture.Pixels;
import org.custodia.desktop.theme.PriorityMark;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;

/** A still with the name and time beneath it; more than one event makes it a counted stack. */
final class CardView extends Region {
    private static final double STILL = 54;
    private static final double HEIGHT = STILL + 36;
    /** Pixels fetched for each that is shown at a scale of 1, so that displays scaled up to twice show them sharp. */
    private static final double SHARPNESS = 2;

    private final Services services;
    private final Theme theme;
    private final ImageView image = new ImageView();
    private final Label missing = new Label("");
    private final PriorityMark mark;
    private final Label who = new Label();
    private final Label when = new Label();
    private final Region[] behind = {new Region(), new Region()};
    private StripLayout.Card card;
    private EventKey shown;
    /** None of the door's cameras was known when it was asked for; one may be by now. */
    private boolean noCamera;

    CardView(Services services, Theme theme, Consumer<CardView> chosen) {
        this.services = services;
        this.theme = theme;
        this.mark = new PriorityMark(theme, 15);
        getStyleClass().add("card");
        who.getStyleClass().add("who");
        when.getStyleClass().add("when");
        missing.getStyleClass().add("secondary");
        missing.setAlignment(Pos.CENTER);
        for (Region r : behind) {
            r.setStyle("-fx-background-color: -t-line, -t-raised; -fx-background-insets: 0, 1;");
        }
        getChildren().addAll(behind[1], behind[0], missing, image, mark, who, when);
        setFocusTraversable(true);
        setOnMouseClicked(e -> {
            if (e.isStillSincePress() && e.getButton() == javafx.scene.input.MouseButton.PRIMARY) {
                requestFocus();
                chosen.accept(this);
                e.consume();
            }
        });
        setOnKeyPressed(e -> {
            if (e.getCode() == KeyCode.ENTER) {
                chosen.accept(this);
                e.consume();
            }
        });
    }

    /** How high cards are at a theme's scale. */
    static double height(Theme theme) {
        return theme.px(HEIGHT);
    }

    StripLayout.Card card() {
        return card;
    }

    void show(StripLayout.Card newCard, ZoneId zone) {
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
            name = "× " + count + (refused > 0 ? ", " + refused + " refused" : one ? " " + face.who() : "");
        }
        who.setText(name);
        when.setText(ClockWords.clock(face.at(), zone));
        String spoken = face.who() + ", " + face.result() + ", " + ClockWords.clock(face.at(), zone)
                + (count > 1 ? ", and " + (count - 1) + " more" : "");
        if (!spoken.equals(getAccessibleText())) {
            setAccessibleText(spoken);
            Tooltip.install(this, new Tooltip(spoken));
        }
        if (!face.event().key().equals(shown)
                || noCamera
                        && WantedStill.of(services.sites().get(), face.event()).isPresent()) {
            shown = face.event().key();
            image.setImage(null);
            fetch(face.event());
        }
        requestLayout();
    }

    private void fetch(Event event) {
        missing.setText("");
        Optional<WantedStill> wanted = WantedStill.of(services.sites().get(), event);
        if (wanted.isEmpty()) {
            missing.setText("no camera");
            noCamera = true;
            return;
        }
        noCamera = false;
        int height = (int) Math.round(theme.px(STILL) * SHARPNESS);
        wanted.get().fetch(services, height, got -> {
            if (event.key().equals(shown)) {
                take(event, got);
            }
        });
    }

    private void take(Event event, WantedStill.Got got) {
        if (got.still().isPresent()) {
            image.setImage(Pixels.image(got.still().get().picture()));
        } else if (got.readyAt().isPresent()) {
            missing.setText("written…");
        } else {
            missing.setText("no picture");
            Tooltip.install(missing, new Tooltip(got.problem()));
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
        return theme.px(StripLayout.CARD) - 4;
    }

    @Override
    protected double computePrefHeight(double width) {
        return height(theme);
    }

    @Override
    protected void layoutChildren() {
        double w = getWidth();
        double high = theme.px(STILL);
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
        who.resizeRelocate(2, high + 2, w, theme.px(17));
        when.resizeRelocate(2, high + theme.px(18), w, theme.px(16));
    }
}
