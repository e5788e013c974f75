package org.custodia.desktop.control;

import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import java.util.function.Consumer;
import java.util.function.Function;
import javafx.scene.control.CheckBox;
import javafx.scene.control.ContentDisplay;
import javafx.scene.control.ListCell;
import javafx.scene.control.ListView;
import javafx.scene.control.TextField;
import javafx.scene.input.KeyCode;
import javafx.scene.input.KeyEvent;
import javafx.scene.layout.VBox;
import org.custodia.desktop.text.Texts;

/**
 * Some of many, ticked in a list that is searched by typing. What is ticked when it is shown comes first, and nothing moves
 * while somebody ticks.
 *
 * @param <T> what is chosen from
 */
public final class CheckList<T> extends VBox {
    private static final Texts TEXTS = Texts.of(CheckList.class);
    private static final int WITHOUT_SEARCH = 8;
    private static final int MOST_ROWS = 7;

    private final List<T> all;
    private final Function<T, String> name;
    private final Set<T> chosen;
    private final Consumer<Set<T>> told;
    private final ListView<T> list = new ListView<>();
    private final TextField search = new TextField();

    /**
     * @param what is chosen, for those who hear it
     * @param told what is chosen, each time that changes
     */
    public CheckList(String what, List<T> all, Set<T> now, Function<T, String> name, Consumer<Set<T>> told) {
        super(6);
        this.name = name;
        this.told = told;
        this.chosen = new LinkedHashSet<>(now);
        List<T> first = new ArrayList<>(now);
        List<T> others = new ArrayList<>(all);
        others.removeAll(now);
        first.addAll(others);
        this.all = first;
        getStyleClass().add("check-list");
        list.setAccessibleText(what);
        list.setCellFactory(v -> new Cell());
        list.addEventHandler(KeyEvent.KEY_PRESSED, e -> {
            T at = list.getSelectionModel().getSelectedItem();
            if (e.getCode() == KeyCode.SPACE && at != null) {
                toggle(at);
                e.consume();
            }
        });
        search.setPromptText(TEXTS.say("search"));
        search.setAccessibleText(TEXTS.say("search-in", what));
        search.textProperty().addListener((o, a, b) -> fill());
        fill();
        if (first.size() > WITHOUT_SEARCH) {
            getChildren().add(search);
        }
        getChildren().add(list);
    }

    private void fill() {
        String words = search.getText().strip().toLowerCase(Texts.language());
        List<T> now = words.isEmpty()
                ? all
                : all.stream().filter(t -> has(name.apply(t), words)).toList();
        list.getItems().setAll(now);
        double rows = Math.max(1, Math.min(MOST_ROWS, now.size()));
        list.setStyle(String.format(Locale.ROOT, "-fx-pref-height: %.1fem;", rows * 2.72 + 0.2));
    }

    private static boolean has(String name, String words) {
        String here = name.toLowerCase(Texts.language());
        for (String word : words.split("\\s+")) {
            if (!here.contains(word)) {
                return false;
            }
        }
        return true;
    }

    private void toggle(T one) {
        if (!chosen.remove(one)) {
            chosen.add(one);
        }
        list.refresh();
        told.accept(Set.copyOf(chosen));
    }

    /** Says again what is chosen, where what was ticked could not be. */
    public void choose(Set<T> now) {
        chosen.clear();
        chosen.addAll(now);
        list.refresh();
    }

    private final class Cell extends ListCell<T> {
        private final CheckBox box = new CheckBox();

        Cell() {
            setContentDisplay(ContentDisplay.GRAPHIC_ONLY);
            box.setFocusTraversable(false);
            box.setOnAction(e -> {
                if (getItem() != null) {
                    toggle(getItem());
                }
            });
        }

        @Override
        protected void updateItem(T item, boolean none) {
            super.updateItem(item, none);
            if (none || item == null) {
                setGraphic(null);
                setAccessibleText(null);
                return;
            }
            box.setText(name.apply(item));
            box.setSelected(chosen.contains(item));
            setAccessibleText(box.getText());
            setGraphic(box);
        }
    }
}
