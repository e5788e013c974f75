package org.custodia.desktop.changes;

import java.util.List;
import java.util.Map;
import java.util.function.Function;
import java.util.stream.Collectors;
import javafx.geometry.Pos;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.ListCell;
import javafx.scene.control.ListView;
import javafx.scene.layout.BorderPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.setup.ChangeBook.Change;
import org.custodia.core.setup.Found;
import org.custodia.core.setup.LinkSetup;
import org.custodia.core.site.Thing;
import org.custodia.desktop.control.MovedRows;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.words.ClockWords;

/** What was set up otherwise, newest first: a line each, with who did it, and a way back. */
public final class ChangesPage extends BorderPane {
    private static final Texts TEXTS = Texts.of(ChangesPage.class);
    /** What lies farther back is in the log. */
    private static final int MOST = 300;

    private final Desk desk;
    private final ListView<Change> list = new ListView<>();
    private Map<Thing, String> names = Map.of();
    private final Label none = new Label(TEXTS.say("loading"));

    public ChangesPage(Desk desk) {
        this.desk = desk;
        Label what = new Label(TEXTS.say("what"));
        what.setWrapText(true);
        what.setMinHeight(Region.USE_PREF_SIZE);
        HBox top = new HBox(what);
        top.getStyleClass().add("pairs-search");
        list.setCellFactory(v -> new Line());
        MovedRows.guard(list, Function.identity());
        list.getStyleClass().add("pairs");
        list.setAccessibleText(TEXTS.say("list"));
        none.getStyleClass().add("empty");
        none.setWrapText(true);
        list.setPlaceholder(none);
        setTop(top);
        setCenter(list);
    }

    /** Reads again what was changed. */
    public void refresh() {
        if (!desk.services().workplace().setup().mayLook()) {
            none.setText(TEXTS.say("may-not"));
            return;
        }
        desk.work()
                .latest(
                        this,
                        () -> new Known(
                                desk.services().workplace().devices().changes(MOST),
                                desk.services().workplace().devices().found().stream()
                                        .collect(Collectors.toMap(Found::thing, Found::name, (a, b) -> a))),
                        this::show,
                        why -> none.setText(TEXTS.say("failed", why)));
    }

    /** What was changed, and what the things are called that it is about. */
    private record Known(List<Change> changes, Map<Thing, String> names) {}

    private ChangeWords words() {
        return new ChangeWords(desk.services().sites().get(), names);
    }

    private void show(Known known) {
        names = known.names();
        List<Change> changes = known.changes();
        none.setText(TEXTS.say("none-yet"));
        if (!changes.equals(list.getItems())) {
            list.getItems().setAll(changes);
        }
    }

    private void takeBack(Change change) {
        String head = words().head(change);
        desk.work()
                .load(
                        () -> {
                            desk.services().workplace().devices().takeBack(change);
                            return Boolean.TRUE;
                        },
                        well -> {
                            desk.notices().note(TEXTS.say("taken-back", head));
                            refresh();
                        },
                        why -> {
                            desk.notices().note(why);
                            refresh();
                        });
    }

    /** One change. */
    private final class Line extends ListCell<Change> {
        private final Label when = new Label();
        private final Label by = new Label();
        private final Label head = new Label();
        private final Label detail = new Label();
        private final Label since = new Label(TEXTS.say("since"));
        private final Button back = new Button(TEXTS.say("take-back"));
        private final Button yes = new Button(TEXTS.say("remove-yes"));
        private final Button no = new Button(TEXTS.say("remove-no"));
        private final HBox line = new HBox(14);

        Line() {
            by.getStyleClass().add("secondary");
            head.getStyleClass().add("strong");
            detail.getStyleClass().add("secondary");
            since.getStyleClass().add("muted");
            for (Label label : List.of(head, detail)) {
                label.setWrapText(true);
                label.setMinHeight(Region.USE_PREF_SIZE);
            }
            VBox first = new VBox(when, by);
            first.getStyleClass().add("change-when");
            first.setAlignment(Pos.CENTER_LEFT);
            VBox second = new VBox(head, detail);
            second.setAlignment(Pos.CENTER_LEFT);
            second.setMinWidth(0);
            HBox.setHgrow(second, Priority.ALWAYS);
            since.setMinWidth(Region.USE_PREF_SIZE);
            back.setMinWidth(Region.USE_PREF_SIZE);
            back.setOnAction(e -> {
                if (removesConnection(getItem())) {
                    ask(true);
                } else {
                    back.setDisable(true);
                    takeBack(getItem());
                }
            });
            yes.setMinWidth(Region.USE_PREF_SIZE);
            yes.setOnAction(e -> {
                ask(false);
                back.setDisable(true);
                takeBack(getItem());
            });
            no.setMinWidth(Region.USE_PREF_SIZE);
            no.setOnAction(e -> ask(false));
            line.setAlignment(Pos.CENTER_LEFT);
            line.getChildren().setAll(first, second, since, back, no, yes);
            line.getStyleClass().add("thing-line");
            setPrefWidth(0);
        }

        /** Whether doors, cameras and the token go with it. */
        private static boolean removesConnection(Change change) {
            return change.parts().stream()
                    .anyMatch(p -> p.before().isEmpty()
                            && p.after().filter(LinkSetup.class::isInstance).isPresent());
        }

        /** Asks whether it is meant, or shows the change as it is. */
        private void ask(boolean asks) {
            Change change = getItem();
            if (change == null) {
                return;
            }
            detail.setText(asks ? TEXTS.say("remove-sure") : words().detail(change));
            detail.setManaged(!detail.getText().isEmpty());
            for (Button button : List.of(yes, no)) {
                button.setVisible(asks);
                button.setManaged(asks);
            }
            back.setVisible(!asks && offersBack(change));
            back.setManaged(back.isVisible());
            if (asks) {
                no.requestFocus();
            }
        }

        private boolean offersBack(Change change) {
            return desk.services().workplace().setup().may() && change.stands();
        }

        @Override
        protected void updateItem(Change change, boolean nothing) {
            super.updateItem(change, nothing);
            if (nothing || change == null) {
                setGraphic(null);
                return;
            }
            ChangeWords words = words();
            when.setText(ClockWords.dated(change.when(), desk.now(), desk.zone()));
            by.setText(change.by());
            head.setText(words.head(change));
            ask(false);
            back.setDisable(false);
            back.setAccessibleText(TEXTS.say("take-back-spoken", head.getText()));
            since.setVisible(!change.stands());
            since.setManaged(!change.stands());
            setGraphic(line);
        }
    }
}
