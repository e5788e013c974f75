package org.custodia.desktop.setup;

import java.util.List;
import java.util.Optional;
import java.util.function.Consumer;
import java.util.stream.Collectors;
import javafx.geometry.Pos;
import javafx.scene.AccessibleRole;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.input.KeyCode;
import javafx.scene.layout.FlowPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.evidence.Candidate;
import org.custodia.core.evidence.KnownOpening;
import org.custodia.core.site.Camera;
import org.custodia.core.site.Pairing;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;

/** A camera that evidence proposes for a door: what it saw, why it is proposed, and yes or no. Enter says yes, Delete no. */
final class CandidateRow extends HBox {
    private static final Texts TEXTS = Texts.of(CandidateRow.class);
    private static final int FILMS = 3;

    private final PairsModel pairs;
    private Candidate candidate;
    private List<KnownOpening> filmed = List.of();
    private final Camera camera;
    private final Theme theme;
    private final Label how = new Label();
    private final Label counts = new Label();
    private final Label together = new Label();
    private final FlowPane buttons = new FlowPane(8, 6);
    private final VBox words;
    private final Consumer<Pairing.View> accept;
    private Optional<Optional<Pairing.View>> offered = Optional.empty();

    /**
     * @param accept told from where it is seen, once somebody said that it shows the door
     * @param refuse told once somebody said that it does not
     */
    CandidateRow(
            PairsModel pairs,
            Theme theme,
            Camera camera,
            Candidate candidate,
            Consumer<Pairing.View> accept,
            Runnable refuse) {
        this.pairs = pairs;
        this.theme = theme;
        this.camera = camera;
        this.accept = accept;
        getStyleClass().add("candidate");
        setFocusTraversable(true);
        setAccessibleRole(AccessibleRole.PARENT);
        Label name = new Label(camera.name());
        name.getStyleClass().add("strong");
        name.setWrapText(true);
        for (Label label : List.of(how, counts, together)) {
            label.setWrapText(true);
            label.setMinHeight(Region.USE_PREF_SIZE);
        }
        counts.getStyleClass().add("muted");
        together.getStyleClass().add("caution");
        Button no = new Button(TEXTS.say("not-this-door"));
        no.setAccessibleText(TEXTS.say("not-this-door-spoken", camera.name()));
        no.setOnAction(e -> refuse.run());
        buttons.setAlignment(Pos.CENTER_LEFT);
        HBox line = new HBox(8, buttons);
        HBox.setHgrow(buttons, Priority.ALWAYS);
        words = new VBox(5, name, how, counts, together, line);
        words.setMinWidth(0);
        HBox.setHgrow(words, Priority.ALWAYS);
        setOnKeyPressed(e -> {
            if (e.getTarget() != this) {
                return;
            }
            if (e.getCode() == KeyCode.ENTER && this.candidate.view().isPresent()) {
                accept.accept(this.candidate.view().get());
                e.consume();
            } else if (e.getCode() == KeyCode.DELETE) {
                refuse.run();
                e.consume();
            }
        });
        setOnMousePressed(e -> requestFocus());
        buttons.setUserData(no);
        take(candidate);
    }

    Camera camera() {
        return camera;
    }

    /** Says what is known by now. */
    void take(Candidate now) {
        candidate = now;
        how.setText(TEXTS.say("confidence." + now.confidence().name().toLowerCase(java.util.Locale.ROOT)));
        counts.setText(TEXTS.say("moved", now.moved(), now.looked(), now.elsewhereMoved(), now.elsewhere()));
        together.setText(
                now.together().isEmpty()
                        ? ""
                        : TEXTS.say(
                                "together",
                                now.together().stream()
                                        .map(pairs::doorName)
                                        .sorted()
                                        .collect(Collectors.joining(", "))));
        together.setManaged(!now.together().isEmpty());
        setAccessibleText(TEXTS.say("candidate-spoken", camera.name(), how.getText(), counts.getText()));
        offer(now.view());
        List<KnownOpening> film = now.openings().stream().limit(FILMS).toList();
        if (!film.equals(filmed)) {
            filmed = film;
            getChildren().setAll(new FilmPane(pairs.desk(), theme, camera, film), words);
        }
    }

    private void offer(Optional<Pairing.View> view) {
        if (offered.equals(Optional.of(view))) {
            return;
        }
        offered = Optional.of(view);
        buttons.getChildren().clear();
        if (view.isPresent()) {
            Button yes = new Button(TEXTS.say("pair-seen." + of(view.get())));
            yes.getStyleClass().add("main");
            yes.setOnAction(e -> accept.accept(view.get()));
            buttons.getChildren().add(yes);
        }
        for (Pairing.View other : Pairing.View.values()) {
            if (!view.equals(Optional.of(other))) {
                Button button = new Button(TEXTS.say((view.isPresent() ? "instead." : "pair-seen.") + of(other)));
                button.setOnAction(e -> accept.accept(other));
                buttons.getChildren().add(button);
            }
        }
        buttons.getChildren().add((Button) buttons.getUserData());
        buttons.getChildren().forEach(b -> ((Button) b).setMinWidth(Region.USE_PREF_SIZE));
    }

    private static String of(Pairing.View view) {
        return view.name().toLowerCase(java.util.Locale.ROOT);
    }
}
