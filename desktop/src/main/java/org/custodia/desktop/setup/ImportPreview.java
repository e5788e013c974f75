package org.custodia.desktop.setup;

import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Collectors;
import javafx.scene.control.Button;
import javafx.scene.control.CheckBox;
import javafx.scene.control.Label;
import javafx.scene.control.ListView;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.setup.PairPlan;
import org.custodia.core.site.Pairing;
import org.custodia.desktop.saying.SayingWords;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.words.Names;

/** What a sheet of pairs would change, before it does. */
final class ImportPreview extends VBox {
    private static final Texts TEXTS = Texts.of(ImportPreview.class);

    private final PairsModel pairs;

    /**
     * @param file as people know it
     * @param close told when it is done, or given up
     */
    ImportPreview(PairsModel pairs, String file, PairPlan plan, Runnable close) {
        this.pairs = pairs;
        getStyleClass().add("import-preview");
        Label head = new Label(TEXTS.say(
                "import-would", file, plan.added().size(), plan.changed().size(), plan.same()));
        head.getStyleClass().add("large");
        head.setWrapText(true);
        head.setMinHeight(Region.USE_PREF_SIZE);
        Label odd = new Label(TEXTS.say("import-odd", plan.problems().size()));
        odd.getStyleClass().add("caution");
        odd.setWrapText(true);
        odd.setManaged(!plan.problems().isEmpty());
        odd.setVisible(!plan.problems().isEmpty());
        CheckBox absent = new CheckBox(TEXTS.say("import-absent", plan.absent().size()));
        absent.setVisible(!plan.absent().isEmpty());
        absent.setManaged(!plan.absent().isEmpty());
        ListView<String> lines = new ListView<>();
        lines.setAccessibleText(TEXTS.say("import-lines"));
        lines.getItems().setAll(lines(plan, false));
        absent.selectedProperty().addListener((o, a, b) -> lines.getItems().setAll(lines(plan, b)));
        VBox.setVgrow(lines, Priority.ALWAYS);
        Label said = new Label();
        said.getStyleClass().add("caution");
        said.setWrapText(true);
        Button doIt = new Button(TEXTS.say("import-do"));
        doIt.getStyleClass().add("main");
        Button leave = new Button(TEXTS.say("import-leave"));
        leave.setOnAction(e -> close.run());
        Runnable may =
                () -> doIt.setDisable(plan.added().isEmpty() && plan.changed().isEmpty() && !absent.isSelected());
        absent.selectedProperty().addListener((o, a, b) -> may.run());
        may.run();
        doIt.setOnAction(e -> {
            doIt.setDisable(true);
            pairs.carryOut(
                    plan,
                    absent.isSelected(),
                    count -> {
                        pairs.desk().notices().note(TEXTS.say("import-done", count));
                        close.run();
                    },
                    why -> {
                        said.setText(why);
                        may.run();
                    });
        });
        for (Button button : List.of(doIt, leave)) {
            button.setMinWidth(Region.USE_PREF_SIZE);
        }
        getChildren().setAll(head, odd, lines, absent, new HBox(8, doIt, leave), said);
    }

    private List<String> lines(PairPlan plan, boolean alsoAbsent) {
        List<String> all = plan.problems().stream()
                .map(p -> TEXTS.say("import-problem", p.line(), SayingWords.of(p.saying())))
                .collect(Collectors.toList());
        plan.added().forEach(p -> all.add(TEXTS.say("import-added", words(p))));
        plan.changed().forEach(p -> all.add(TEXTS.say("import-changed", words(p), changes(p))));
        if (alsoAbsent) {
            plan.absent().forEach(p -> all.add(TEXTS.say("import-removed", words(p))));
        }
        return all;
    }

    /** What of a pair would be otherwise. */
    private String changes(Pairing p) {
        List<String> all = new ArrayList<>();
        pairs.pairingsOf(p.door()).stream()
                .filter(b -> b.id().equals(p.id()))
                .findFirst()
                .ifPresent(b -> {
                    if (!b.leadIn().equals(p.leadIn())) {
                        all.add(TEXTS.say("import-lead-in", seconds(b.leadIn()), seconds(p.leadIn())));
                    }
                    if (!b.faceAfter().equals(p.faceAfter())) {
                        all.add(TEXTS.say("import-face-after", seconds(b.faceAfter()), seconds(p.faceAfter())));
                    }
                    if (!b.face().equals(p.face())) {
                        all.add(TEXTS.say("import-face"));
                    }
                });
        return String.join(", ", all);
    }

    private static double seconds(Duration d) {
        return d.toMillis() / 1_000.0;
    }

    private String words(Pairing p) {
        return TEXTS.say("import-pair", pairs.doorName(p.door()), pairs.cameraName(p.camera()), Names.view(p.view()));
    }
}
