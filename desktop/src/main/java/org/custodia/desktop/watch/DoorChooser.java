package org.custodia.desktop.watch;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import javafx.collections.FXCollections;
import javafx.collections.ObservableList;
import javafx.collections.transformation.FilteredList;
import javafx.geometry.Pos;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.ListCell;
import javafx.scene.control.ListView;
import javafx.scene.control.TextField;
import javafx.scene.input.KeyCode;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.VBox;
import org.custodia.core.site.Door;
import org.custodia.core.site.SiteModel;

/** Chooses the doors on watch and their order. */
final class DoorChooser extends VBox {
    private final ObservableList<Door> chosen = FXCollections.observableArrayList();
    private final ListView<Door> chosenList = new ListView<>(chosen);
    private final ListView<Door> otherList;
    private final TextField search = new TextField();

    DoorChooser(WatchModel watch, Runnable close) {
        SiteModel sites = watch.desk().services().sites().get();
        watch.onWatch().forEach(id -> sites.door(id).ifPresent(chosen::add));
        ObservableList<Door> all = FXCollections.observableArrayList(sites.doors());
        FilteredList<Door> others = new FilteredList<>(all);
        Runnable filter = () -> {
            String words = search.getText().trim().toLowerCase(Locale.ROOT);
            others.setPredicate(d -> !chosen.contains(d)
                    && text(sites, d).toLowerCase(Locale.ROOT).contains(words));
        };
        otherList = new ListView<>(others);
        getStyleClass().addAll("panel", "door-chooser");
        Label title = new Label("Doors on watch");
        title.getStyleClass().add("title");
        search.setPromptText("Find a door, building or zone");
        search.textProperty().addListener((o, a, b) -> filter.run());
        for (ListView<Door> list : List.of(chosenList, otherList)) {
            list.setCellFactory(v -> cell(sites));
            VBox.setVgrow(list, Priority.ALWAYS);
        }
        Label noDoor = new Label("No door is called that.");
        noDoor.getStyleClass().add("empty");
        otherList.setPlaceholder(noDoor);
        Label none = new Label("No door is on watch. Add some from the left.");
        none.getStyleClass().add("empty");
        chosenList.setPlaceholder(none);
        chosenList.setAccessibleText("Doors on watch, in order");
        otherList.setAccessibleText("Other doors");
        Button add = button("Add", () -> move(otherList, true, filter));
        Button remove = button("Take off", () -> move(chosenList, false, filter));
        Button up = button("Up", () -> shift(-1));
        Button down = button("Down", () -> shift(1));
        otherList.setOnMouseClicked(e -> {
            if (e.getClickCount() == 2) {
                move(otherList, true, filter);
            }
        });
        otherList.setOnKeyPressed(e -> {
            if (e.getCode() == KeyCode.ENTER) {
                move(otherList, true, filter);
                e.consume();
            }
        });
        Button keep = button("Watch these", () -> {
            watch.watch(chosen.stream().map(Door::id).toList());
            close.run();
        });
        keep.getStyleClass().add("main");
        Button cancel = button("Cancel", close);
        VBox left = new VBox(6, search, otherList, new HBox(8, add));
        VBox right = new VBox(6, new Label("On watch, from top to bottom"), chosenList, new HBox(8, remove, up, down));
        HBox.setHgrow(left, Priority.ALWAYS);
        HBox.setHgrow(right, Priority.ALWAYS);
        HBox lists = new HBox(16, left, right);
        VBox.setVgrow(lists, Priority.ALWAYS);
        HBox end = new HBox(8, cancel, keep);
        end.setAlignment(Pos.CENTER_RIGHT);
        getChildren().addAll(title, lists, end);
        filter.run();
    }

    private static String text(SiteModel sites, Door door) {
        String site = sites.siteOf(door.id()).map(s -> s.name()).orElse("");
        return door.name() + " " + site + " " + door.outside() + " " + door.inside();
    }

    private static ListCell<Door> cell(SiteModel sites) {
        return new ListCell<>() {
            @Override
            protected void updateItem(Door door, boolean none) {
                super.updateItem(door, none);
                setText(
                        none || door == null
                                ? null
                                : door.name() + "  ·  "
                                        + sites.siteOf(door.id())
                                                .map(s -> s.name())
                                                .orElse(""));
            }
        };
    }

    private static Button button(String text, Runnable action) {
        Button b = new Button(text);
        b.setOnAction(e -> action.run());
        return b;
    }

    private void move(ListView<Door> from, boolean toChosen, Runnable filter) {
        Door door = from.getSelectionModel().getSelectedItem();
        if (door == null) {
            return;
        }
        if (toChosen) {
            chosen.add(door);
        } else {
            chosen.remove(door);
        }
        filter.run();
    }

    private void shift(int by) {
        int at = chosenList.getSelectionModel().getSelectedIndex();
        int to = at + by;
        if (at >= 0 && to >= 0 && to < chosen.size()) {
            List<Door> order = new ArrayList<>(chosen);
            order.add(to, order.remove(at));
            chosen.setAll(order);
            chosenList.getSelectionModel().select(to);
        }
    }
}
