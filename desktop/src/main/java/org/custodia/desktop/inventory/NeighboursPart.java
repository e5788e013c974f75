package org.custodia.desktop.inventory;

import java.time.Duration;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import javafx.geometry.Pos;
import javafx.scene.control.Button;
import javafx.scene.control.ComboBox;
import javafx.scene.control.Label;
import javafx.scene.control.ListCell;
import javafx.scene.control.TextField;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.site.Door;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.Walk;
import org.custodia.desktop.text.Texts;

/** The neighbours of one door, and how long the walk there takes. */
final class NeighboursPart extends VBox {
    private static final Texts TEXTS = Texts.of(NeighboursPart.class);

    private final InventoryModel model;
    private final VBox walks = new VBox(4);
    private final ComboBox<Door> other = new ComboBox<>();
    private final TextField seconds = new TextField();
    private final Button add = new Button(TEXTS.say("neighbour-add"));
    private final Label said = new Label();
    private final HBox entry;
    private Optional<Door> door = Optional.empty();
    private boolean may;

    NeighboursPart(InventoryModel model) {
        super(8);
        this.model = model;
        getStyleClass().add("neighbours");
        Label head = new Label(TEXTS.say("neighbours"));
        head.getStyleClass().add("strong");
        other.setPromptText(TEXTS.say("neighbour-door"));
        other.setAccessibleText(TEXTS.say("neighbour-door"));
        other.setCellFactory(v -> cell());
        other.setButtonCell(cell());
        other.setMaxWidth(Double.MAX_VALUE);
        HBox.setHgrow(other, Priority.ALWAYS);
        seconds.setPrefColumnCount(3);
        seconds.setMinWidth(Region.USE_PREF_SIZE);
        seconds.setPromptText(TEXTS.say("neighbour-seconds"));
        seconds.setAccessibleText(TEXTS.say("neighbour-seconds-spoken"));
        seconds.setOnAction(e -> add());
        add.setMinWidth(Region.USE_PREF_SIZE);
        add.setOnAction(e -> add());
        entry = new HBox(6, other, seconds, add);
        entry.setAlignment(Pos.CENTER_LEFT);
        said.getStyleClass().add("caution");
        said.setWrapText(true);
        said.setMinHeight(Region.USE_PREF_SIZE);
        getChildren().setAll(head, walks, entry, said);
    }

    private ListCell<Door> cell() {
        return new ListCell<>() {
            @Override
            protected void updateItem(Door one, boolean nothing) {
                super.updateItem(one, nothing);
                setText(nothing || one == null ? "" : one.name());
            }
        };
    }

    /** Shows the neighbours of a door, or nothing. */
    void show(Optional<Door> now, boolean mayChange) {
        boolean same = now.map(Door::id).equals(door.map(Door::id));
        door = now;
        may = mayChange;
        setVisible(now.isPresent());
        setManaged(now.isPresent());
        if (!same) {
            tell("");
            seconds.clear();
            other.setValue(null);
        }
        fill();
    }

    private void fill() {
        walks.getChildren().clear();
        if (door.isEmpty()) {
            return;
        }
        Door here = door.get();
        SiteModel sites = model.sites();
        List<Walk> known = sites.walks(here.id());
        for (Walk walk : known) {
            Label words = new Label(TEXTS.say(
                    "neighbour",
                    sites.door(walk.from(here.id())).map(Door::name).orElse(""),
                    walk.takes().toSeconds()));
            words.setWrapText(true);
            words.setMaxWidth(Double.MAX_VALUE);
            HBox.setHgrow(words, Priority.ALWAYS);
            HBox line = new HBox(8, words);
            line.setAlignment(Pos.CENTER_LEFT);
            if (may) {
                Button end = new Button(TEXTS.say("neighbour-end"));
                end.setMinWidth(Region.USE_PREF_SIZE);
                end.setOnAction(e -> model.noNeighbours(walk, this::done, this::tell));
                line.getChildren().add(end);
            }
            walks.getChildren().add(line);
        }
        if (known.isEmpty()) {
            Label none = new Label(TEXTS.say("neighbours-none"));
            none.getStyleClass().add("muted");
            none.setWrapText(true);
            none.setMinHeight(Region.USE_PREF_SIZE);
            walks.getChildren().add(none);
        }
        entry.setVisible(may);
        entry.setManaged(may);
        Door chosen = other.getValue();
        List<Door> others = sites.doors().stream()
                .filter(d -> d.site().equals(here.site()) && !d.id().equals(here.id()))
                .sorted(Comparator.comparing(Door::name))
                .toList();
        if (!others.equals(other.getItems())) {
            other.getItems().setAll(others);
            other.setValue(others.contains(chosen) ? chosen : null);
        }
    }

    private void add() {
        if (door.isEmpty()) {
            return;
        }
        if (other.getValue() == null) {
            tell(TEXTS.say("neighbour-which"));
            return;
        }
        long takes;
        try {
            takes = Long.parseLong(seconds.getText().strip());
        } catch (NumberFormatException e) {
            takes = -1;
        }
        if (takes < 0 || takes > Walk.MOST.toSeconds()) {
            tell(TEXTS.say("neighbour-time", Walk.MOST.toMinutes()));
            return;
        }
        Walk walk = new Walk(door.get().id(), other.getValue().id(), Duration.ofSeconds(takes));
        model.neighbours(
                List.of(walk),
                () -> {
                    seconds.clear();
                    other.setValue(null);
                    done();
                },
                this::tell);
    }

    private void done() {
        tell("");
        fill();
    }

    private void tell(String words) {
        said.setText(words);
        said.setManaged(!words.isEmpty());
    }
}
