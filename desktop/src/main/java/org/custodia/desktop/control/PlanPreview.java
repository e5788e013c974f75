package org.custodia.desktop.control;

import java.util.List;
import java.util.function.Consumer;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.ListView;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.desktop.text.Texts;

/** What a file would change, line by line, before it does; and the two ways on. */
public class PlanPreview extends VBox {
    private static final Texts TEXTS = Texts.of(PlanPreview.class);

    private final ListView<String> lines = new ListView<>();
    private final Label said = new Label();
    private final Button doIt = new Button(TEXTS.say("import-do"));
    private boolean may;

    /**
     * @param head what it would do, in a sentence
     * @param odd how many things cannot be taken
     * @param close told when it is given up
     */
    protected PlanPreview(String head, int odd, Runnable close) {
        getStyleClass().add("import-preview");
        Label top = new Label(head);
        top.getStyleClass().add("large");
        top.setWrapText(true);
        top.setMinHeight(Region.USE_PREF_SIZE);
        Label wrong = new Label(TEXTS.say("import-odd", odd));
        wrong.getStyleClass().add("caution");
        wrong.setWrapText(true);
        wrong.setManaged(odd > 0);
        wrong.setVisible(odd > 0);
        lines.setAccessibleText(TEXTS.say("import-lines"));
        VBox.setVgrow(lines, Priority.ALWAYS);
        said.getStyleClass().add("caution");
        said.setWrapText(true);
        doIt.getStyleClass().add("main");
        doIt.setOnAction(e -> {
            doIt.setDisable(true);
            act();
        });
        Button leave = new Button(TEXTS.say("import-leave"));
        leave.setOnAction(e -> close.run());
        for (Button button : List.of(doIt, leave)) {
            button.setMinWidth(Region.USE_PREF_SIZE);
        }
        getChildren().setAll(top, wrong, lines, new HBox(8, doIt, leave), said);
    }

    /** Does it. */
    protected void act() {
        // There is nothing to be done.
    }

    /** Told why it could not be done, so that it can be tried again. */
    protected final Consumer<String> failed() {
        return why -> {
            said.setText(why);
            doIt.setDisable(!may);
        };
    }

    protected final void lines(List<String> all) {
        lines.getItems().setAll(all);
    }

    /** Whether there is anything to do. */
    protected final void may(boolean now) {
        may = now;
        doIt.setDisable(!now);
    }

    /** Something to choose, above the two ways on. */
    protected final void choice(Node node) {
        getChildren().add(3, node);
    }
}
