package org.custodia.desktop.setup;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import javafx.geometry.Pos;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.evidence.Candidate;
import org.custodia.core.evidence.EvidenceSearch.Outcome;
import org.custodia.core.evidence.EvidenceSearch.Result;
import org.custodia.core.site.Door;
import org.custodia.core.site.Pairing;
import org.custodia.desktop.control.MovedRows;
import org.custodia.desktop.control.Pointing;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;

/** What was found for a door by what moved when it opened, and how to look for it. */
final class EvidencePart extends VBox {
    private static final Texts TEXTS = Texts.of(EvidencePart.class);

    /** What was found so long ago says when. */
    private static final Duration JUST_NOW = Duration.ofMinutes(30);

    private final PairsModel pairs;
    private final Door door;
    private final Theme theme;
    private final Runnable changed;
    private final Label state = new Label();
    private final Button look = new Button(TEXTS.say("look"));
    private final VBox rows = new VBox();
    private final List<CandidateRow> shown = new ArrayList<>();
    private boolean going;

    /**
     * @param changed told when somebody has accepted a camera
     */
    EvidencePart(PairsModel pairs, Door door, Theme theme, Runnable changed) {
        this.pairs = pairs;
        this.door = door;
        this.theme = theme;
        this.changed = changed;
        getStyleClass().add("evidence");
        state.setWrapText(true);
        state.setMinHeight(Region.USE_PREF_SIZE);
        state.getStyleClass().add("muted");
        HBox.setHgrow(state, Priority.ALWAYS);
        state.setMaxWidth(Double.MAX_VALUE);
        look.setMinWidth(Region.USE_PREF_SIZE);
        look.setOnAction(e -> pairs.look(List.of(door), this::ask, this::say));
        HBox line = new HBox(12, state, look);
        line.setAlignment(Pos.CENTER_LEFT);
        getChildren().setAll(line, rows);
        MovedRows.guard(rows);
        show(Optional.empty());
        ask();
    }

    /** Looks again what was found, while there may be more. */
    void tick() {
        if (going || pairs.looking().running()) {
            ask();
        }
    }

    /** Looks again what was found. */
    void ask() {
        pairs.found(door, this::show, this::say);
    }

    private void say(String words) {
        state.setText(words);
    }

    private void show(Optional<Result> found) {
        Outcome outcome = found.map(Result::outcome).orElse(null);
        going = outcome == Outcome.WAITING || outcome == Outcome.LOOKING;
        look.setDisable(going);
        look.setText(TEXTS.say(found.isEmpty() ? "look" : "look-again"));
        say(found.map(r -> words(r) + when(r)).orElse(TEXTS.say("not-looked")));
        List<Candidate> candidates = found.map(Result::cameras).orElse(List.of());
        List<CandidateRow> now = new ArrayList<>();
        for (Candidate candidate : candidates) {
            pairs.camera(candidate.camera()).ifPresent(camera -> {
                Optional<CandidateRow> known =
                        shown.stream().filter(r -> r.camera().equals(camera)).findFirst();
                known.ifPresent(r -> r.take(candidate));
                now.add(known.orElseGet(() -> new CandidateRow(
                        pairs, theme, camera, candidate, v -> accept(camera.id(), v), () -> refuse(candidate))));
            });
        }
        if (Pointing.at(rows)) {
            // The order does not change while the operator points; new candidates are added at the end.
            List<CandidateRow> wanted = List.copyOf(now);
            now.clear();
            shown.stream().filter(wanted::contains).forEach(now::add);
            wanted.stream().filter(r -> !now.contains(r)).forEach(now::add);
        }
        shown.clear();
        shown.addAll(now);
        if (!rows.getChildren().equals(now)) {
            rows.getChildren().setAll(now);
        }
    }

    /** When that was, where it is not of just now. */
    private String when(Result result) {
        Instant now = pairs.desk().now();
        return going || result.when().isAfter(now.minus(JUST_NOW))
                ? ""
                : " "
                        + TEXTS.say(
                                "evidence-when",
                                ClockWords.dated(
                                        result.when(), now, pairs.desk().zone()));
    }

    private String words(Result result) {
        return switch (result.outcome()) {
            case WAITING -> TEXTS.say("evidence-waits");
            case LOOKING -> TEXTS.say("evidence-looks", result.asked(), result.of(), result.openings());
            case DONE ->
                result.cameras().isEmpty() && !result.paired().isEmpty()
                        ? TEXTS.say(
                                "evidence-paired",
                                result.openings(),
                                result.asked(),
                                result.of(),
                                result.paired().size())
                        : result.cameras().isEmpty()
                                ? TEXTS.say("evidence-none", result.openings(), result.asked(), result.of())
                                : TEXTS.say("evidence-done", result.openings(), result.asked(), result.of());
            case NO_CONTACT -> TEXTS.say("evidence-no-contact");
            case NO_OPENINGS -> TEXTS.say("evidence-no-openings");
            case NOT_READ_YET -> TEXTS.say("evidence-not-read-yet");
            case NO_PICTURES -> TEXTS.say("evidence-no-pictures");
            case STOPPED -> TEXTS.say("evidence-stopped");
        };
    }

    private void accept(org.custodia.core.site.CameraId camera, Pairing.View view) {
        pairs.camera(camera)
                .ifPresent(c -> pairs.pair(
                        door,
                        c,
                        view,
                        () -> {
                            changed.run();
                            ask();
                        },
                        this::say));
    }

    private void refuse(Candidate candidate) {
        pairs.refuse(door, candidate.camera(), this::ask, this::say);
    }
}
