package org.custodia.desktop.control;

import java.util.List;
import javafx.geometry.Pos;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.input.KeyCode;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Region;
import org.custodia.desktop.text.Texts;

/**
 * A button for a destructive action: it asks first, and the answer that changes nothing has the focus. A key pressed twice or a
 * press beside the intended button deletes nothing.
 */
public final class AskedButton extends HBox {
    private static final Texts TEXTS = Texts.of(AskedButton.class);

    private final Button first;
    private final Label question;
    private final Button no = new Button(TEXTS.say("no"));
    private final Button yes;

    /**
     * @param words what the button says, and the answer that goes on
     * @param asked the question
     * @param act runs once the operator confirms
     */
    public AskedButton(String words, String asked, Runnable act) {
        first = new Button(words);
        yes = new Button(words);
        question = new Label(asked);
        setSpacing(8);
        setAlignment(Pos.CENTER_RIGHT);
        for (Region region : List.of(first, question, no, yes)) {
            region.setMinWidth(Region.USE_PREF_SIZE);
        }
        first.setOnAction(e -> {
            getChildren().setAll(question, no, yes);
            no.requestFocus();
        });
        no.setOnAction(e -> back());
        yes.setOnAction(e -> {
            rest();
            act.run();
        });
        setOnKeyPressed(e -> {
            if (e.getCode() == KeyCode.ESCAPE && getChildren().contains(no)) {
                back();
                e.consume();
            }
        });
        disabledProperty().addListener((o, was, now) -> rest());
        rest();
    }

    private void back() {
        rest();
        first.requestFocus();
    }

    /** Asks nothing any more: what it is about is another thing now. */
    public void rest() {
        if (!getChildren().equals(List.of(first))) {
            getChildren().setAll(first);
        }
    }

    /** Says to a screen reader what is taken away. */
    public void spoken(String words) {
        first.setAccessibleText(words);
        yes.setAccessibleText(words);
    }
}
