package org.custodia.desktop.doorstep;

import java.util.Optional;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.TextField;
import javafx.scene.layout.HBox;
import javafx.scene.layout.VBox;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.text.Texts;

/** Where the note on somebody who was let through is written. */
final class NoteCard extends VBox {
    private static final Texts TEXTS = Texts.of(NoteCard.class);

    private final NoteModel model;
    private final Label head = new Label();
    private final TextField who = new TextField();
    private final TextField why = new TextField();

    NoteCard(Desk desk) {
        model = new NoteModel(desk);
        getStyleClass().add("note-card");
        head.getStyleClass().add("strong");
        head.setWrapText(true);
        who.setPromptText(TEXTS.say("who-was-it"));
        who.setAccessibleText(TEXTS.say("who-let-through"));
        why.setPromptText(TEXTS.say("why-note"));
        why.setAccessibleText(TEXTS.say("why-let-through"));
        Button keep = new Button(TEXTS.say("keep-note"));
        keep.getStyleClass().add("main");
        keep.setOnAction(e -> keep());
        why.setOnAction(e -> keep());
        who.setOnAction(e -> why.requestFocus());
        Button no = new Button(TEXTS.say("not-needed"));
        no.setOnAction(e -> model.dismiss());
        getChildren().addAll(head, who, why, new HBox(8, keep, no));
        model.asked().addListener((o, a, now) -> show(now));
        desk.commands().newest().addListener((o, a, b) -> b.ifPresent(p -> model.progressed(p, !empty())));
        show(Optional.empty());
    }

    private void show(Optional<String> asked) {
        setVisible(asked.isPresent());
        setManaged(asked.isPresent());
        asked.ifPresent(head::setText);
        if (asked.isEmpty()) {
            who.clear();
            why.clear();
        }
    }

    private boolean empty() {
        return (who.getText() + why.getText()).isEmpty();
    }

    private void keep() {
        model.keep(who.getText(), why.getText());
    }

    void tick() {
        model.tick(empty() && !who.isFocused() && !why.isFocused());
    }
}
