package org.custodia.desktop.inventory;

import java.util.List;
import java.util.Locale;
import java.util.Set;
import java.util.stream.Collectors;
import javafx.collections.ListChangeListener;
import javafx.geometry.Pos;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.ListCell;
import javafx.scene.control.ListView;
import javafx.scene.control.ScrollPane;
import javafx.scene.control.SelectionMode;
import javafx.scene.control.TextField;
import javafx.scene.control.Tooltip;
import javafx.scene.layout.BorderPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.setup.Found;
import org.custodia.core.setup.Neighbours;
import org.custodia.core.site.Device;
import org.custodia.core.site.Door;
import org.custodia.core.site.Thing;
import org.custodia.desktop.control.Segments;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;

/** What all systems have: a line each, and beside it what can be said of those that are chosen. */
public final class InventoryPage extends BorderPane {
    private static final Texts TEXTS = Texts.of(InventoryPage.class);

    private final InventoryModel model;
    private final TextField search = new TextField();
    private final Segments<InventoryModel.Show> shows;
    private final ListView<Found> list;
    private final Label none = new Label();
    private final Button allSeen = new Button();
    private final PlacingPart placing;
    private final ScrollPane side;
    private final BorderPane body = new BorderPane();
    private boolean refilling;

    public InventoryPage(Desk desk, Theme theme) {
        this.model = new InventoryModel(desk);
        this.placing = new PlacingPart(model, theme);
        this.shows = new Segments<>(InventoryModel.Show.class, model.show());
        this.list = new ListView<>(model.rows().list());
        search.setPromptText(TEXTS.say("find"));
        search.setAccessibleText(TEXTS.say("find"));
        search.textProperty().bindBidirectional(model.search());
        search.setOnAction(e -> {
            if (!model.rows().list().isEmpty()) {
                list.getSelectionModel().clearAndSelect(0);
                list.requestFocus();
            }
        });
        search.setMinWidth(theme.px(120));
        HBox.setHgrow(search, Priority.ALWAYS);
        allSeen.setMinWidth(Region.USE_PREF_SIZE);
        allSeen.setTooltip(new Tooltip(TEXTS.say("all-seen-tip")));
        allSeen.setOnAction(
                e -> model.seen(List.copyOf(model.rows().list()), model.desk().notices()::note));
        Button neighbours = new Button(TEXTS.say("propose-neighbours"));
        neighbours.setMinWidth(Region.USE_PREF_SIZE);
        neighbours.setTooltip(new Tooltip(TEXTS.say("propose-neighbours-tip")));
        neighbours.setOnAction(e -> model.proposeNeighbours(this::show));
        HBox first = new HBox(10, search, shows, allSeen, neighbours);
        first.setAlignment(Pos.CENTER_LEFT);
        first.getStyleClass().add("pairs-search");
        list.setCellFactory(v -> new Line());
        list.getSelectionModel().setSelectionMode(SelectionMode.MULTIPLE);
        list.getStyleClass().add("pairs");
        list.setAccessibleText(TEXTS.say("things"));
        none.getStyleClass().add("empty");
        none.setWrapText(true);
        list.setPlaceholder(none);
        list.getSelectionModel().getSelectedItems().addListener((ListChangeListener<Found>) c -> chosen());
        side = new ScrollPane(placing);
        side.setFitToWidth(true);
        side.setFocusTraversable(false);
        side.setHbarPolicy(ScrollPane.ScrollBarPolicy.NEVER);
        side.getStyleClass().add("placing-side");
        setTop(first);
        body.setCenter(list);
        body.setRight(side);
        setCenter(body);
        model.state().addListener((o, a, b) -> told());
        model.rows().filled().addListener((o, a, b) -> told());
        told();
    }

    /** Says how things stand, in place of the list where there is nothing to list. */
    private void told() {
        shows.letter(which -> TEXTS.say("show." + which.name().toLowerCase(Locale.ROOT), model.count(which)));
        if (!model.mayLook()) {
            none.setText(TEXTS.say("may-not"));
        } else if (model.state().get() instanceof InventoryModel.State.Failed failed) {
            none.setText(TEXTS.say("failed", failed.why()));
        } else if (model.state().get() instanceof InventoryModel.State.Loading) {
            none.setText(TEXTS.say("loading"));
        } else if (model.count(InventoryModel.Show.ALL) == 0) {
            none.setText(TEXTS.say("nothing-yet"));
        } else {
            none.setText(TEXTS.say("nothing-fits"));
        }
        long news = model.rows().list().stream()
                .filter(f -> f.news() != Found.News.NONE && model.may(f))
                .count();
        allSeen.setText(TEXTS.say("all-seen", news));
        allSeen.setDisable(news == 0);
        choose(placing.things().stream().map(Found::thing).collect(Collectors.toSet()));
    }

    /** Chooses again what was chosen before the list was filled anew. */
    private void choose(Set<Thing> wanted) {
        refilling = true;
        try {
            list.getSelectionModel().clearSelection();
            for (int i = 0; i < model.rows().list().size() && !wanted.isEmpty(); i++) {
                if (wanted.contains(model.rows().list().get(i).thing())) {
                    list.getSelectionModel().select(i);
                }
            }
        } finally {
            refilling = false;
        }
        int at = list.getSelectionModel().getSelectedIndex();
        if (wanted.size() == 1 && at >= 0) {
            // One that is called otherwise now has another place.
            list.scrollTo(Math.max(0, at - 3));
        }
        chosen();
    }

    private void chosen() {
        if (!refilling && !model.rows().filling()) {
            placing.show(List.copyOf(list.getSelectionModel().getSelectedItems()));
        }
    }

    /** Shows which doors may be neighbours in place of the list, until that is decided. */
    void show(List<Neighbours.Proposal> proposals) {
        setCenter(new ProposedNeighbours(model, proposals, this::backToList));
    }

    private void backToList() {
        setCenter(body);
        refresh();
        list.requestFocus();
    }

    /** One thing. */
    private final class Line extends ListCell<Found> {
        private final Label name = new Label();
        private final Label what = new Label();
        private final Label place = new Label();
        private final Label zones = new Label();
        private final Label news = new Label();
        private final HBox line = new HBox(14);

        Line() {
            name.getStyleClass().add("strong");
            what.getStyleClass().add("secondary");
            VBox first = new VBox(name, what);
            first.getStyleClass().add("thing-name");
            HBox.setHgrow(first, Priority.ALWAYS);
            zones.getStyleClass().add("secondary");
            VBox second = new VBox(place, zones);
            second.setAlignment(Pos.CENTER_LEFT);
            second.getStyleClass().add("thing-place");
            line.setAlignment(Pos.CENTER_LEFT);
            HBox last = new HBox(news);
            last.getStyleClass().add("thing-last");
            last.setAlignment(Pos.CENTER_RIGHT);
            line.getChildren().setAll(first, second, last);
            line.getStyleClass().add("thing-line");
            setPrefWidth(0);
        }

        @Override
        protected void updateItem(Found found, boolean nothing) {
            super.updateItem(found, nothing);
            if (nothing || found == null) {
                setGraphic(null);
                return;
            }
            name.setText(found.name());
            String there = found.placing()
                    .name()
                    .filter(n -> !n.equals(found.said().name()))
                    .map(n -> TEXTS.say("called-there", found.said().name()))
                    .orElse(found.ownId());
            what.setText(TEXTS.say(
                    "what",
                    InventoryModel.sort(found),
                    there,
                    model.systemName(found.thing().system())));
            place.setText(where(found));
            zones.setText(within(found));
            zones.setManaged(!zones.getText().isEmpty());
            boolean out = found.placing().leftOut();
            news.setText(
                    out && found.there()
                            ? TEXTS.say("left-out")
                            : found.news() == Found.News.NONE
                                    ? ""
                                    : TEXTS.say("news." + found.news().name().toLowerCase(Locale.ROOT)));
            news.getStyleClass()
                    .setAll("label", found.news() == Found.News.GONE ? "caution" : out ? "muted" : "thing-news");
            line.setOpacity(out ? 0.6 : 1);
            setGraphic(line);
        }
    }

    private String where(Found found) {
        String site = model.siteName(found.site());
        return found.door()
                .map(Door::level)
                .filter(l -> !l.isBlank())
                .map(l -> site + " · " + TEXTS.say("on-level", l))
                .orElse(site);
    }

    /** Between which zones a door is, or at which door a device. */
    private String within(Found found) {
        return found.door()
                .map(InventoryPage::zones)
                .or(() -> found.device()
                        .flatMap(Device::door)
                        .flatMap(d -> model.sites().door(d))
                        .map(d -> TEXTS.say("at-door", d.name())))
                .orElse("");
    }

    private static String zones(Door door) {
        return door.outside().isBlank() && door.inside().isBlank()
                ? ""
                : TEXTS.say(
                        "zones",
                        door.outside().isBlank() ? "?" : door.outside(),
                        door.inside().isBlank() ? "?" : door.inside());
    }

    /** Reads again what there is. */
    public void refresh() {
        model.refresh();
    }

    /** Called when somebody comes to look, or looks elsewhere: a picture nobody sees costs nothing. */
    public void inSight(boolean inSight) {
        placing.inSight(inSight);
    }

    /** Called several times a second while it is in sight. */
    public void tick() {
        placing.tick();
    }

    public void close() {
        placing.close();
    }

    /** One step back; false if nothing was open. */
    public boolean back() {
        if (getCenter() != body) {
            backToList();
            return true;
        }
        if (!list.getSelectionModel().isEmpty()) {
            list.getSelectionModel().clearSelection();
            return true;
        }
        return false;
    }
}
