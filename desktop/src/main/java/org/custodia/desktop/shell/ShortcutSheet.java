package org.custodia.desktop.shell;

import java.util.Locale;
import javafx.geometry.Pos;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.MenuButton;
import javafx.scene.control.MenuItem;
import javafx.scene.control.ScrollPane;
import javafx.scene.layout.GridPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.desktop.control.ScrollKeys;
import org.custodia.desktop.desk.Shortcut;
import org.custodia.desktop.settings.Settings;
import org.custodia.desktop.text.Texts;

/** The sheet of all keys. */
final class ShortcutSheet extends VBox {
    private static final Texts TEXTS = Texts.of(ShortcutSheet.class);

    ShortcutSheet(Settings settings, Runnable close) {
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
            Label key = new Label(s.keys());
            key.getStyleClass().addAll("figures", "strong");
            key.setMinWidth(Region.USE_PREF_SIZE);
            grid.add(key, 0, row);
            grid.add(new Label(s.words()), 1, row++);
        }
        Button done = new Button(TEXTS.say("close"));
        done.setOnAction(e -> close.run());
        Region gap = new Region();
        HBox.setHgrow(gap, Priority.ALWAYS);
        HBox end = new HBox(10, language(settings), gap, done);
        end.setAlignment(Pos.CENTER_LEFT);
        // There are more keys than fit into a small window.
        ScrollPane keys = new ScrollPane(grid);
        keys.setFitToWidth(true);
        keys.setHbarPolicy(ScrollPane.ScrollBarPolicy.NEVER);
        keys.setMinHeight(0);
        ScrollKeys.on(this, keys);
        VBox.setVgrow(keys, Priority.ALWAYS);
        setMinHeight(0);
        getChildren().addAll(title, keys, end);
    }

    /** In which language the next window speaks; each language is called as it calls itself. */
    private static HBox language(Settings settings) {
        Label said = new Label();
        said.getStyleClass().add("secondary");
        MenuButton choice = new MenuButton(named(Texts.language()));
        choice.setAccessibleText(TEXTS.say("language"));
        for (Locale language : Texts.LANGUAGES) {
            MenuItem item = new MenuItem(named(language));
            item.setOnAction(e -> {
                settings.language(language.toLanguageTag());
                choice.setText(named(language));
                said.setText(TEXTS.say("language-next"));
            });
            choice.getItems().add(item);
        }
        HBox box = new HBox(8, new Label(TEXTS.say("language")), choice, said);
        box.setAlignment(Pos.CENTER_LEFT);
        return box;
    }

    private static String named(Locale language) {
        String name = language.getDisplayLanguage(language);
        return name.substring(0, 1).toUpperCase(language) + name.substring(1);
    }
}
