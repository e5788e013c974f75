package org.custodia.desktop.shell;

import java.io.IOException;
import java.nio.file.Path;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import javafx.geometry.Pos;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.ScrollPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.mishap.Mishaps;
import org.custodia.desktop.control.FileQuestion;
import org.custodia.desktop.control.ScrollKeys;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.saying.SayingWords;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.words.ClockWords;

/** The state of Custodia itself: links, clocks and internal errors, with a file of diagnostics to send to support. */
final class HealthSheet extends VBox {
    private static final Texts TEXTS = Texts.of(HealthSheet.class);

    private final Desk desk;
    private final Label saved = new Label();
    private final Button save = new Button(TEXTS.say("save-diagnostics"));

    /**
     * @param links what is known of links
     * @param clocks what is known of clocks
     */
    HealthSheet(Desk desk, Health.Line links, Health.Line clocks, Runnable close) {
        this.desk = desk;
        getStyleClass().addAll("panel", "key-sheet");
        Label title = new Label(TEXTS.say("health"));
        title.getStyleClass().add("title");
        VBox all = new VBox(4);
        desk.services().trouble().get().ifPresent(t -> all.getChildren()
                .addAll(heading("health-trouble"), text(SayingWords.of(t))));
        all.getChildren().addAll(heading("health-links"), text(links.details()));
        if (!clocks.details().isBlank()) {
            all.getChildren().addAll(heading("health-clocks"), text(clocks.details()));
        }
        all.getChildren().add(heading("health-inside"));
        List<Mishaps.Seen> seen = desk.services().mishaps().get();
        if (seen.isEmpty()) {
            all.getChildren().add(text(TEXTS.say("health-nothing-wrong")));
        }
        seen.forEach(one -> all.getChildren().add(text(words(one, desk.now(), desk.zone()))));
        Label what = text(TEXTS.say("diagnostics-what"));
        what.getStyleClass().add("secondary");
        all.getChildren().add(what);
        ScrollPane rows = new ScrollPane(all);
        rows.setFitToWidth(true);
        rows.setHbarPolicy(ScrollPane.ScrollBarPolicy.NEVER);
        rows.setMinHeight(0);
        ScrollKeys.on(this, rows);
        VBox.setVgrow(rows, Priority.ALWAYS);
        save.setMinWidth(Region.USE_PREF_SIZE);
        save.setOnAction(e -> choose());
        Button done = new Button(TEXTS.say("close"));
        done.setMinWidth(Region.USE_PREF_SIZE);
        done.setOnAction(e -> close.run());
        saved.setWrapText(true);
        saved.getStyleClass().add("secondary");
        HBox.setHgrow(saved, Priority.ALWAYS);
        saved.setMaxWidth(Double.MAX_VALUE);
        // What does nothing has the focus at first.
        HBox end = new HBox(10, done, saved, save);
        end.setAlignment(Pos.CENTER_LEFT);
        setMinHeight(0);
        getChildren().addAll(title, rows, end);
    }

    /** What went wrong in one part, and when. */
    static String words(Mishaps.Seen seen, Instant now, ZoneId zone) {
        return TEXTS.say(
                "mishap",
                seen.part(),
                seen.times(),
                ClockWords.dated(seen.first(), now, zone),
                ClockWords.dated(seen.last(), now, zone));
    }

    private static Label heading(String words) {
        Label label = new Label(TEXTS.say(words));
        label.getStyleClass().add("group");
        return label;
    }

    private static Label text(String words) {
        Label label = new Label(words.strip());
        label.setWrapText(true);
        label.setMinHeight(Region.USE_PREF_SIZE);
        return label;
    }

    private void choose() {
        FileQuestion.save(this, "custodia-diagnostics.zip").ifPresent(this::save);
    }

    /** Writes the file, and says whether that went well. */
    void save(Path file) {
        save.setDisable(true);
        saved.setText(TEXTS.say("diagnostics-saving"));
        desk.work()
                .load(
                        () -> {
                            try {
                                desk.services().diagnostics().save(file);
                                return TEXTS.say("diagnostics-saved", file.toString());
                            } catch (IOException e) {
                                return TEXTS.say("diagnostics-not-saved", file.toString());
                            }
                        },
                        this::say,
                        this::say);
    }

    private void say(String words) {
        saved.setText(words);
        save.setDisable(false);
    }
}
