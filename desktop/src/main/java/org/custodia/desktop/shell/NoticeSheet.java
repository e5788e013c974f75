package org.custodia.desktop.shell;

import javafx.collections.ListChangeListener;
import javafx.geometry.Pos;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.ScrollPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.desktop.control.ScrollKeys;
import org.custodia.desktop.notice.Notice;
import org.custodia.desktop.notice.Notices;
import org.custodia.desktop.text.Texts;

/** All notices in full, with what can be done about each. */
final class NoticeSheet extends VBox {
    private static final Texts TEXTS = Texts.of(NoticeSheet.class);

    private final Notices notices;
    private final VBox rows = new VBox();

    NoticeSheet(Notices notices, Runnable close) {
        this.notices = notices;
        getStyleClass().addAll("panel", "notice-sheet");
        Label title = new Label(TEXTS.say("notices"));
        title.getStyleClass().add("title");
        Button done = new Button(TEXTS.say("close"));
        done.setOnAction(e -> close.run());
        HBox end = new HBox(done);
        end.setAlignment(Pos.CENTER_RIGHT);
        ScrollPane pane = new ScrollPane(rows);
        pane.setFitToWidth(true);
        pane.setMinHeight(0);
        ScrollKeys.on(this, pane);
        VBox.setVgrow(pane, Priority.ALWAYS);
        setMinHeight(0);
        getChildren().addAll(title, pane, end);
        ListChangeListener<Notice> changed = c -> show();
        sceneProperty().addListener((o, before, now) -> {
            notices.shown().removeListener(changed);
            if (now != null) {
                notices.shown().addListener(changed);
                show();
            }
        });
    }

    private void show() {
        rows.getChildren().setAll(notices.shown().stream().map(this::row).toList());
        if (notices.shown().isEmpty()) {
            Label none = new Label(TEXTS.say("no-notices"));
            none.getStyleClass().add("muted");
            rows.getChildren().add(none);
        }
    }

    private Node row(Notice notice) {
        Label words = new Label(notice.words());
        words.setWrapText(true);
        words.setMinHeight(Region.USE_PREF_SIZE);
        words.setMinWidth(0);
        words.setMaxWidth(Double.MAX_VALUE);
        HBox.setHgrow(words, Priority.ALWAYS);
        if (notice.kind() == Notice.Kind.TROUBLE) {
            words.getStyleClass().add("strong");
        }
        HBox row = new HBox(10, words);
        row.getStyleClass().add("notice-row");
        row.setAlignment(Pos.CENTER_LEFT);
        row.getChildren().addAll(NoticeButtons.of(notice, notices));
        return row;
    }
}
