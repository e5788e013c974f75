package org.custodia.desktop.message;

import java.util.Optional;
import java.util.function.Supplier;
import javafx.geometry.Pos;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.TextField;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.setup.Connections;
import org.custodia.desktop.Work;
import org.custodia.desktop.control.CertificateBox;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.text.Texts;

/** Something of the page that is edited: fields with their names before them, a button that keeps it, and what came of that. */
abstract class EditedPart extends VBox {
    private static final Texts TEXTS = Texts.of(EditedPart.class);
    private static final double NAMES = 11;

    final Desk desk;
    final Button keep = new Button(TEXTS.say("keep"));
    final Label said = new Label();
    private final Work lane;
    private final Runnable changed;

    /**
     * @param lane what keeps it, in order
     * @param changed told once something is kept
     */
    EditedPart(Desk desk, Work lane, Runnable changed) {
        super(10);
        this.desk = desk;
        this.lane = lane;
        this.changed = changed;
        getStyleClass().add("rule-editor");
        keep.getStyleClass().add("main");
        keep.setMinWidth(Region.USE_PREF_SIZE);
        said.setWrapText(true);
        said.setMinHeight(Region.USE_PREF_SIZE);
        said.managedProperty().bind(said.textProperty().isNotEmpty());
    }

    /** By which a row of the list is this; nothing where it is of no row. */
    Optional<String> id() {
        return Optional.empty();
    }

    static Label head(String words) {
        Label label = new Label(words);
        label.getStyleClass().add("large");
        return label;
    }

    static Label hint(String words) {
        Label label = new Label(words);
        label.getStyleClass().add("muted");
        label.setWrapText(true);
        label.setMinHeight(Region.USE_PREF_SIZE);
        return label;
    }

    static HBox field(String name, TextField field, Node... more) {
        field.setAccessibleText(name);
        HBox.setHgrow(field, Priority.ALWAYS);
        HBox row = named(name, field);
        row.getChildren().addAll(more);
        return row;
    }

    static HBox named(String name, Node node) {
        Label label = new Label(name);
        label.setStyle("-fx-min-width: " + NAMES + "em; -fx-max-width: " + NAMES + "em;");
        label.setWrapText(true);
        HBox row = new HBox(8, label, node);
        row.setAlignment(Pos.CENTER_LEFT);
        return row;
    }

    /** Shows which certificate alone is taken, and lets it be forgotten; nothing where there is none. */
    final void showConfirmed(VBox where, Optional<String> fingerprint, boolean may, Runnable forget) {
        where.getChildren().clear();
        fingerprint.ifPresent(f -> {
            Label print = hint(CertificateBox.inTwoLines(Connections.Shown.written(f)));
            print.getStyleClass().setAll("label", "fingerprint");
            Button no = new Button(TEXTS.say("certificate-forget"));
            no.setMinWidth(Region.USE_PREF_SIZE);
            no.setDisable(!may);
            no.setOnAction(e -> forget.run());
            where.getChildren().setAll(hint(TEXTS.say("certificate-taken")), print, no);
        });
        where.setManaged(fingerprint.isPresent());
    }

    /** Says that something did not work. */
    final void wrong(String words) {
        said.getStyleClass().setAll("label", "caution");
        said.setText(words);
    }

    /** Says that something did. */
    final void fine(String words) {
        said.getStyleClass().setAll("label");
        said.setText(words);
    }

    /** Keeps something, and says what came of it. */
    final void keep(Supplier<String> how) {
        fine("");
        lane.load(
                how,
                kept -> {
                    fine(kept);
                    changed.run();
                },
                this::wrong);
    }
}
