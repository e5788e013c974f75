package org.custodia.desktop.setup;

import java.util.Optional;
import java.util.stream.Collectors;
import javafx.application.Platform;
import javafx.geometry.Pos;
import javafx.scene.control.CheckBox;
import javafx.scene.control.Label;
import javafx.scene.control.ListCell;
import javafx.scene.control.ListView;
import javafx.scene.control.TextField;
import javafx.scene.input.KeyCode;
import javafx.scene.layout.BorderPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.Names;

/** Which cameras show which doors: a line a door, which opens to its cameras and to a search for another. */
final class PairsPage extends BorderPane {
    private static final Texts TEXTS = Texts.of(PairsPage.class);

    private final PairsModel pairs;
    private final Theme theme;
    private final TextField search = new TextField();
    private final CheckBox without = new CheckBox();
    private final ListView<Door> list;
    private Optional<DoorId> open = Optional.empty();
    private Optional<PairEditor> editor = Optional.empty();

    PairsPage(PairsModel pairs, Theme theme) {
        this.pairs = pairs;
        this.theme = theme;
        this.list = new ListView<>(pairs.doors());
        search.setPromptText(TEXTS.say("find-door"));
        search.setAccessibleText(TEXTS.say("find-door"));
        search.textProperty().bindBidirectional(pairs.search());
        search.setOnAction(e -> pairs.doors().stream().findFirst().ifPresent(this::turn));
        HBox.setHgrow(search, Priority.ALWAYS);
        without.selectedProperty().bindBidirectional(pairs.onlyWithout());
        without.setMinWidth(Region.USE_PREF_SIZE);
        HBox top = new HBox(14, search, without);
        top.getStyleClass().add("pairs-search");
        top.setAlignment(Pos.CENTER_LEFT);
        list.setCellFactory(v -> new DoorCell());
        list.getStyleClass().add("pairs");
        list.setAccessibleText(TEXTS.say("doors"));
        Label none = new Label(TEXTS.say("no-door-fits"));
        none.getStyleClass().add("empty");
        list.setPlaceholder(none);
        list.setOnKeyPressed(e -> {
            Door at = list.getSelectionModel().getSelectedItem();
            if (e.getCode() == KeyCode.ENTER && at != null && e.getTarget() == list) {
                turn(at);
                e.consume();
            }
        });
        setTop(top);
        setCenter(list);
        refresh();
    }

    private final class DoorCell extends ListCell<Door> {
        private final Label name = new Label();
        private final Label site = new Label();
        private final Label cameras = new Label();
        private final HBox line = new HBox(14);
        private final VBox whole = new VBox();

        DoorCell() {
            name.getStyleClass().add("strong");
            site.getStyleClass().add("secondary");
            VBox first = new VBox(name, site);
            first.getStyleClass().add("link-name");
            cameras.setMinWidth(0);
            HBox.setHgrow(cameras, Priority.ALWAYS);
            line.setAlignment(Pos.CENTER_LEFT);
            line.getChildren().setAll(first, cameras);
            line.getStyleClass().add("link-line");
            line.setOnMouseClicked(e -> turn(getItem()));
            setPrefWidth(0);
        }

        @Override
        protected void updateItem(Door door, boolean nothing) {
            super.updateItem(door, nothing);
            if (nothing || door == null) {
                setGraphic(null);
                return;
            }
            name.setText(door.name());
            site.setText(pairs.siteName(door));
            String shown = pairs.pairings(door).stream()
                    .map(p -> TEXTS.say("shown-by", pairs.cameraName(p.camera()), view(p)))
                    .collect(Collectors.joining(" · "));
            cameras.setText(shown.isEmpty() ? TEXTS.say("none-yet") : shown);
            cameras.getStyleClass().remove("muted");
            if (shown.isEmpty()) {
                cameras.getStyleClass().add("muted");
            }
            whole.getChildren().setAll(line);
            if (open.equals(Optional.of(door.id()))) {
                editor.ifPresent(whole.getChildren()::add);
            }
            setGraphic(whole);
        }
    }

    private static String view(Pairing pairing) {
        return Names.view(pairing.view());
    }

    /** Opens a door, or closes it. */
    private void turn(Door door) {
        if (door == null) {
            return;
        }
        boolean closes = open.equals(Optional.of(door.id()));
        closeEditor();
        if (!closes) {
            open = Optional.of(door.id());
            editor = Optional.of(new PairEditor(pairs, door, theme));
        }
        list.refresh();
        // It is in the window once the list has laid out its lines.
        Platform.runLater(() -> editor.ifPresentOrElse(PairEditor::begin, list::requestFocus));
    }

    private void closeEditor() {
        editor.ifPresent(PairEditor::close);
        editor = Optional.empty();
        open = Optional.empty();
    }

    /** One step back; false if nothing was open. */
    boolean back() {
        boolean was = open.isPresent();
        closeEditor();
        list.refresh();
        return was;
    }

    /** Takes notice that places or pairs changed. */
    void refresh() {
        pairs.refresh();
        without.setText(TEXTS.say("only-without", pairs.without()));
        boolean gone = open.filter(d -> pairs.doors().stream().noneMatch(x -> x.id().equals(d)))
                .isPresent();
        // A door that was just paired stays in sight, also where only those without were wanted.
        if (gone && pairs.desk().services().sites().get().door(open.get()).isEmpty()) {
            closeEditor();
        }
        editor.ifPresent(PairEditor::refresh);
        list.refresh();
    }

    void close() {
        closeEditor();
    }
}
