package org.custodia.desktop.shell;

import javafx.geometry.Pos;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.layout.GridPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.desktop.desk.Shortcut;
import org.custodia.desktop.text.Texts;

/** The sheet of all keys. */
final class ShortcutSheet extends VBox {
    private static final Texts TEXTS = Texts.of(ShortcutSheet.class);

    ShortcutSheet(Runnable close) {
        getStyleClass().addAll("panel", "key-sheet");
        Label title = new Label(TEXTS.say("keys"));
        title.getStyleClass().add("title");
        GridPane grid = new GridPane();
        grid.setHgap(18);
        grid.setVgap(3);
        int row = 0;
        String where = "";
        for (Shortcut s : Shortcuts.all()) {
            if (!s.where().equals(where)) {
                where = s.where();
                Label group = new Label(where);
                group.getStyleClass().add("group");
                grid.add(group, 0, row++, 2, 1);
            }
            Label keys = new Label(s.keys());
            keys.getStyleClass().addAll("figures", "strong");
            keys.setMinWidth(Region.USE_PREF_SIZE);
            grid.add(keys, 0, row);
            grid.add(new Label(s.words()), 1, row++);
        }
        Button done = new Button(TEXTS.say("close"));
        done.setOnAction(e -> close.run());
        HBox end = new HBox(done);
        end.setAlignment(Pos.CENTER_RIGHT);
        getChildren().addAll(title, grid, end);
    }
}
