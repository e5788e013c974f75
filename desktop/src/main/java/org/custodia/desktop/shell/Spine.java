package org.custodia.desktop.shell;

import java.util.HashMap;
import java.util.Map;
import java.util.function.Consumer;
import javafx.scene.control.Button;
import javafx.scene.control.ToggleButton;
import javafx.scene.control.Tooltip;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import javafx.scene.text.TextAlignment;
import org.custodia.desktop.desk.MainView;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;

/** The views, one under the other at the left, with the theme and the keys at the end. */
final class Spine extends VBox {
    private static final Texts TEXTS = Texts.of(Spine.class);

    private final Map<MainView.Plug, ToggleButton> items = new HashMap<>();

    Spine(Theme theme, Consumer<MainView.Plug> show, Runnable turnTheme, Runnable keys) {
        getStyleClass().add("spine");
        for (MainView.Plug view : Views.ALL) {
            Region icon = new Region();
            icon.getStyleClass().add("icon");
            icon.setStyle("-fx-shape: '" + view.icon() + "';");
            icon.setMinSize(22, 15);
            icon.setMaxSize(22, 15);
            ToggleButton item = new ToggleButton(view.name().get(), icon);
            item.getStyleClass().add("spine-item");
            item.setTooltip(new Tooltip(
                    view.name().get() + ", " + Shortcuts.lettered(view.key().getDisplayText())));
            item.setOnAction(e -> show.accept(view));
            items.put(view, item);
            getChildren().add(item);
        }
        Region gap = new Region();
        VBox.setVgrow(gap, Priority.ALWAYS);
        Button keySheet = new Button(TEXTS.say("keys"));
        keySheet.getStyleClass().add("spine-item");
        keySheet.setOnAction(e -> keys.run());
        Button day = new Button();
        day.getStyleClass().add("spine-item");
        Runnable name = () -> day.setText(TEXTS.say(theme.now().dark() ? "day-theme" : "night-theme"));
        theme.looks().addListener((o, a, b) -> name.run());
        name.run();
        day.setWrapText(true);
        day.setTextAlignment(TextAlignment.CENTER);
        day.setOnAction(e -> turnTheme.run());
        getChildren().addAll(gap, day, keySheet);
    }

    /** Says beside a view how many things wait there; nothing for none. */
    void count(MainView.Plug view, int waiting) {
        String name = view.name().get();
        items.get(view).setText(waiting > 0 ? TEXTS.say("waiting", name, waiting) : name);
    }

    /** Marks the view that is shown. */
    void mark(MainView.Plug shown) {
        items.forEach((view, item) -> item.setSelected(view == shown));
    }
}
