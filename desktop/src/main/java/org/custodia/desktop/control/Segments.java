package org.custodia.desktop.control;

import java.util.EnumMap;
import java.util.Map;
import java.util.function.Function;
import javafx.beans.property.ObjectProperty;
import javafx.geometry.Pos;
import javafx.scene.control.ToggleButton;
import javafx.scene.control.ToggleGroup;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Region;

/**
 * Buttons side by side of which one is chosen always, for each value of an enumeration.
 *
 * @param <E> what is chosen between
 */
public final class Segments<E extends Enum<E>> extends HBox {
    private final Map<E, ToggleButton> buttons;

    /**
     * @param chosen follows the buttons, and says which one is chosen at first
     */
    public Segments(Class<E> values, ObjectProperty<E> chosen) {
        buttons = new EnumMap<>(values);
        setAlignment(Pos.CENTER_LEFT);
        ToggleGroup group = new ToggleGroup();
        for (E value : values.getEnumConstants()) {
            ToggleButton button = new ToggleButton();
            button.getStyleClass().add("segment");
            button.setMinWidth(Region.USE_PREF_SIZE);
            button.setToggleGroup(group);
            button.setSelected(value == chosen.get());
            button.setOnAction(e -> {
                button.setSelected(true);
                chosen.set(value);
            });
            buttons.put(value, button);
            getChildren().add(button);
        }
        chosen.addListener((o, a, b) -> buttons.get(b).setSelected(true));
    }

    /** Says what stands on each button now. */
    public void letter(Function<E, String> words) {
        buttons.forEach((value, button) -> button.setText(words.apply(value)));
    }
}
