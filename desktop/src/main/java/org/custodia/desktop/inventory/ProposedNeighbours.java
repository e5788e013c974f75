package org.custodia.desktop.inventory;

import java.util.HashSet;
import java.util.List;
import java.util.Set;
import javafx.scene.control.Button;
import javafx.scene.control.CheckBox;
import javafx.scene.control.Label;
import javafx.scene.control.ListCell;
import javafx.scene.control.ListView;
import javafx.scene.input.KeyCode;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.setup.Neighbours;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Walk;
import org.custodia.desktop.text.Texts;

/** Which doors history tells to be neighbours, before it is said that they are. */
final class ProposedNeighbours extends VBox {
    private static final Texts TEXTS = Texts.of(ProposedNeighbours.class);

    private final InventoryModel model;
    private final Set<String> wanted = new HashSet<>();
    private final Button keep = new Button();

    /**
     * @param close told when it is done, or given up
     */
    ProposedNeighbours(InventoryModel model, List<Neighbours.Proposal> proposals, Runnable close) {
        this.model = model;
        getStyleClass().add("import-preview");
        Label head = new Label(TEXTS.say("proposals", proposals.size()));
        head.getStyleClass().add("large");
        Label what = new Label(TEXTS.say("proposals-what", Neighbours.LONGEST.toMinutes()));
        what.getStyleClass().add("secondary");
        for (Label label : List.of(head, what)) {
            label.setWrapText(true);
            label.setMinHeight(Region.USE_PREF_SIZE);
        }
        // Those that share a zone are next to each other for sure; of the others somebody who knows the place decides.
        proposals.stream()
                .filter(p -> p.shared().isPresent())
                .forEach(p -> wanted.add(p.walk().key()));
        ListView<Neighbours.Proposal> list = new ListView<>();
        list.getItems().setAll(proposals);
        list.setCellFactory(v -> new Line());
        list.setAccessibleText(TEXTS.say("proposals-list"));
        list.setOnKeyPressed(e -> {
            Neighbours.Proposal at = list.getSelectionModel().getSelectedItem();
            if (e.getCode() == KeyCode.SPACE && at != null) {
                turn(at, !wanted.contains(at.walk().key()));
                list.refresh();
                e.consume();
            }
        });
        VBox.setVgrow(list, Priority.ALWAYS);
        Label said = new Label();
        said.getStyleClass().add("caution");
        said.setWrapText(true);
        keep.getStyleClass().add("main");
        keep.setOnAction(e -> {
            List<Walk> chosen = proposals.stream()
                    .map(Neighbours.Proposal::walk)
                    .filter(w -> wanted.contains(w.key()))
                    .toList();
            keep.setDisable(true);
            model.neighbours(
                    chosen,
                    () -> {
                        model.desk().notices().note(TEXTS.say("proposals-kept", chosen.size()));
                        close.run();
                    },
                    why -> {
                        said.setText(why);
                        keep.setDisable(false);
                    });
        });
        Button leave = new Button(TEXTS.say("proposals-leave"));
        leave.setOnAction(e -> close.run());
        for (Button button : List.of(keep, leave)) {
            button.setMinWidth(Region.USE_PREF_SIZE);
        }
        count();
        getChildren().setAll(head, what, list, new HBox(8, keep, leave), said);
    }

    private void turn(Neighbours.Proposal proposal, boolean now) {
        if (now) {
            wanted.add(proposal.walk().key());
        } else {
            wanted.remove(proposal.walk().key());
        }
        count();
    }

    private void count() {
        keep.setText(TEXTS.say("proposals-keep", wanted.size()));
        keep.setDisable(wanted.isEmpty());
    }

    private String name(DoorId door) {
        return model.sites().door(door).map(Door::name).orElse(door.value());
    }

    private final class Line extends ListCell<Neighbours.Proposal> {
        private final CheckBox box = new CheckBox();

        Line() {
            box.setFocusTraversable(false);
            box.setOnAction(e -> turn(getItem(), box.isSelected()));
            setPrefWidth(0);
        }

        @Override
        protected void updateItem(Neighbours.Proposal p, boolean nothing) {
            super.updateItem(p, nothing);
            if (nothing || p == null) {
                setGraphic(null);
                return;
            }
            box.setText(TEXTS.say(
                    p.shared().isPresent() ? "proposal-shared" : "proposal",
                    name(p.walk().first()),
                    name(p.walk().second()),
                    p.walk().takes().toSeconds(),
                    p.quick().toSeconds(),
                    p.walks(),
                    p.shared().orElse("")));
            box.setSelected(wanted.contains(p.walk().key()));
            setGraphic(box);
        }
    }
}
