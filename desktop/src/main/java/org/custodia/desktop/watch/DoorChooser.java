package org.custodia.desktop.watch;

import java.time.Duration;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.stream.Collectors;
import javafx.collections.FXCollections;
import javafx.collections.ObservableList;
import javafx.geometry.Pos;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.ListCell;
import javafx.scene.control.ListView;
import javafx.scene.control.MenuButton;
import javafx.scene.control.MenuItem;
import javafx.scene.control.SelectionMode;
import javafx.scene.control.SeparatorMenuItem;
import javafx.scene.control.TextField;
import javafx.scene.control.Tooltip;
import javafx.scene.control.TreeCell;
import javafx.scene.control.TreeItem;
import javafx.scene.control.TreeView;
import javafx.scene.input.ClipboardContent;
import javafx.scene.input.Dragboard;
import javafx.scene.input.KeyCode;
import javafx.scene.input.TransferMode;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.EventField;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteModel;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.settings.Settings;
import org.custodia.desktop.text.Texts;

/**
 * Chooses the doors on watch and their order: door by door, several at once, a level or a site, the doors of a site that
 * matter, or a set that was kept under a name.
 */
final class DoorChooser extends VBox {
    private static final Texts TEXTS = Texts.of(DoorChooser.class);

    private static final Duration LATELY = Duration.ofDays(7);
    private static final int LONGEST_NAME = 60;

    private final Desk desk;
    private final SiteModel sites;
    private final Settings settings;
    private final ObservableList<Door> chosen = FXCollections.observableArrayList();
    private final ListView<Door> chosenList = new ListView<>(chosen);
    private final TreeView<Entry> others = new TreeView<>(new TreeItem<>());
    private final TextField search = new TextField();
    private final TextField setName = new TextField();
    private final MenuButton sets = new MenuButton(TEXTS.say("sets"));
    private final Label said = new Label();
    private final Label noDoor = new Label();

    /** A line of what can be chosen: a site, a level, a door, and the doors that it stands for. */
    private record Entry(String words, List<Door> doors, boolean group) {}

    DoorChooser(WatchModel watch, Runnable close) {
        this.desk = watch.desk();
        this.sites = desk.services().sites().get();
        this.settings = desk.settings();
        watch.onWatch().forEach(id -> sites.door(id).ifPresent(chosen::add));
        getStyleClass().addAll("panel", "door-chooser");
        Label title = new Label(TEXTS.say("doors-on-watch"));
        title.getStyleClass().add("title");
        search.setPromptText(TEXTS.say("find-door"));
        search.setAccessibleText(TEXTS.say("find-door"));
        search.textProperty().addListener((o, a, b) -> refresh());
        search.setOnAction(e -> others.requestFocus());
        noDoor.getStyleClass().add("empty");
        noDoor.setWrapText(true);
        said.getStyleClass().add("secondary");
        said.setWrapText(true);
        Button keep = button(TEXTS.say("watch-these"), () -> {
            watch.watch(chosen.stream().map(Door::id).toList());
            close.run();
        });
        keep.getStyleClass().add("main");
        HBox end = new HBox(8, grows(said), button(TEXTS.say("cancel"), close), keep);
        end.setAlignment(Pos.CENTER_RIGHT);
        HBox lists = new HBox(16, left(), right());
        VBox.setVgrow(lists, Priority.ALWAYS);
        getChildren().addAll(title, lists, end);
        refresh();
        nameSets();
    }

    private static Region grows(Region region) {
        region.setMaxWidth(Double.MAX_VALUE);
        HBox.setHgrow(region, Priority.ALWAYS);
        return region;
    }

    private VBox left() {
        others.setShowRoot(false);
        others.getSelectionModel().setSelectionMode(SelectionMode.MULTIPLE);
        others.setCellFactory(v -> new TreeCell<>() {
            @Override
            protected void updateItem(Entry entry, boolean none) {
                super.updateItem(entry, none);
                setText(none || entry == null ? null : entry.words());
                getStyleClass().remove("strong");
                if (entry != null && entry.group()) {
                    getStyleClass().add("strong");
                }
            }
        });
        others.setAccessibleText(TEXTS.say("other-doors"));
        others.setOnMouseClicked(e -> {
            TreeItem<Entry> at = others.getSelectionModel().getSelectedItem();
            if (e.getClickCount() == 2 && at != null && at.isLeaf()) {
                addSelected();
            }
        });
        others.setOnKeyPressed(e -> {
            if (e.getCode() == KeyCode.ENTER) {
                addSelected();
                e.consume();
            }
        });
        VBox.setVgrow(others, Priority.ALWAYS);
        MenuButton matter = new MenuButton(TEXTS.say("add-matter"));
        matter.setTooltip(new Tooltip(TEXTS.say("add-matter-tip")));
        for (DoorGroups.OfSite site : DoorGroups.of(sites, d -> true)) {
            MenuItem item = new MenuItem(TEXTS.say("of-site", site.name()));
            item.setOnAction(e -> addThatMatter(site));
            matter.getItems().add(item);
        }
        VBox left =
                new VBox(6, search, others, noDoor, new HBox(8, button(TEXTS.say("add"), this::addSelected), matter));
        HBox.setHgrow(left, Priority.ALWAYS);
        return left;
    }

    private VBox right() {
        Label none = new Label(TEXTS.say("none-chosen"));
        none.getStyleClass().add("empty");
        none.setWrapText(true);
        chosenList.setPlaceholder(none);
        chosenList.getSelectionModel().setSelectionMode(SelectionMode.MULTIPLE);
        chosenList.setCellFactory(v -> new ChosenCell());
        chosenList.setAccessibleText(TEXTS.say("chosen-order"));
        chosenList.setOnKeyPressed(e -> {
            if (e.getCode() == KeyCode.DELETE) {
                takeOff();
                e.consume();
            } else if (e.isAltDown() && (e.getCode() == KeyCode.UP || e.getCode() == KeyCode.DOWN)) {
                shift(e.getCode() == KeyCode.UP ? -1 : 1);
                e.consume();
            }
        });
        VBox.setVgrow(chosenList, Priority.ALWAYS);
        setName.setPromptText(TEXTS.say("set-name"));
        setName.setAccessibleText(TEXTS.say("set-name-spoken"));
        setName.setOnAction(e -> keepSet());
        sets.setAccessibleText(TEXTS.say("sets-spoken"));
        HBox kept = new HBox(8, sets, grows(setName), button(TEXTS.say("keep-set"), this::keepSet));
        HBox moves = new HBox(
                8,
                button(TEXTS.say("take-off"), this::takeOff),
                button(TEXTS.say("up"), () -> shift(-1)),
                button(TEXTS.say("down"), () -> shift(1)));
        VBox right = new VBox(6, new Label(TEXTS.say("chosen-title")), chosenList, moves, kept);
        HBox.setHgrow(right, Priority.ALWAYS);
        return right;
    }

    private static Button button(String text, Runnable action) {
        Button b = new Button(text);
        b.setOnAction(e -> action.run());
        b.setMinWidth(Region.USE_PREF_SIZE);
        return b;
    }

    // ---- what can be chosen

    private void refresh() {
        String words = search.getText().trim().toLowerCase(Locale.ROOT);
        Set<Door> there = Set.copyOf(chosen);
        TreeItem<Entry> root = new TreeItem<>();
        for (DoorGroups.OfSite site : DoorGroups.of(sites, d -> !there.contains(d) && matches(d, words))) {
            TreeItem<Entry> ofSite = new TreeItem<>(
                    new Entry(site.name() + ", " + counted(site.doors().size()), site.doors(), true));
            for (DoorGroups.OfLevel level : site.levels()) {
                TreeItem<Entry> ofLevel = new TreeItem<>(new Entry(level.name(), level.doors(), true));
                for (Door door : level.doors()) {
                    ofLevel.getChildren().add(new TreeItem<>(new Entry(door.name(), List.of(door), false)));
                }
                ofLevel.setExpanded(true);
                ofSite.getChildren().add(ofLevel);
            }
            ofSite.setExpanded(true);
            root.getChildren().add(ofSite);
        }
        others.setRoot(root);
        boolean empty = root.getChildren().isEmpty();
        noDoor.setText(TEXTS.say(words.isEmpty() ? "all-on-watch" : "no-such-door"));
        others.setVisible(!empty);
        others.setManaged(!empty);
        noDoor.setVisible(empty);
        noDoor.setManaged(empty);
        noDoor.setMaxHeight(Double.MAX_VALUE);
        VBox.setVgrow(noDoor, Priority.ALWAYS);
    }

    private static String counted(int doors) {
        return TEXTS.say("doors", doors);
    }

    private boolean matches(Door door, String words) {
        String site = sites.siteOf(door.id()).map(s -> s.name()).orElse("");
        String all = (door.name() + " " + site + " " + door.outside() + " " + door.inside()).toLowerCase(Locale.ROOT);
        return List.of(words.split("\\s+")).stream().allMatch(all::contains);
    }

    private void addSelected() {
        int at = others.getSelectionModel().getSelectedIndex();
        Set<Door> doors = new LinkedHashSet<>();
        others.getSelectionModel().getSelectedItems().stream()
                .filter(Objects::nonNull)
                .forEach(i -> doors.addAll(i.getValue().doors()));
        add(doors);
        others.getSelectionModel().select(Math.min(at, others.getExpandedItemCount() - 1));
    }

    private void add(Collection<Door> doors) {
        List<Door> fresh = doors.stream().filter(d -> !chosen.contains(d)).toList();
        chosen.addAll(fresh);
        chosenList.getSelectionModel().clearSelection();
        fresh.forEach(chosenList.getSelectionModel()::select);
        if (!fresh.isEmpty()) {
            chosenList.scrollTo(chosen.size() - 1);
        }
        refresh();
    }

    /** What a camera looks at matters, and what somebody had to look after lately. */
    private void addThatMatter(DoorGroups.OfSite site) {
        said.setText(TEXTS.say("looking-at", site.name()));
        EventQuery lately = EventQuery.all()
                .between(desk.now().minus(LATELY), desk.now())
                .doors(site.doors().stream().map(Door::id).collect(Collectors.toSet()))
                .kinds(Kinds.FORCED, Kinds.HELD, Kinds.REFUSED);
        desk.work()
                .latest(
                        this,
                        () -> desk.services()
                                .log()
                                .facets(EventField.DOOR, lately, site.doors().size(), new Cancellation()),
                        found -> {
                            Set<DoorId> troubled =
                                    found.stream().map(EventLog.Facet::value).collect(Collectors.toSet());
                            List<Door> matter = site.doors().stream()
                                    .filter(d -> troubled.contains(d.id())
                                            || !sites.pairings(d.id()).isEmpty())
                                    .toList();
                            int before = chosen.size();
                            add(matter);
                            said.setText(TEXTS.say("added", counted(chosen.size() - before), site.name()));
                        },
                        said::setText);
    }

    // ---- what is chosen

    private void takeOff() {
        chosen.removeAll(List.copyOf(chosenList.getSelectionModel().getSelectedItems()));
        refresh();
    }

    private void shift(int by) {
        List<Integer> at = List.copyOf(chosenList.getSelectionModel().getSelectedIndices());
        boolean room = at.stream().allMatch(i -> i + by >= 0 && i + by < chosen.size());
        if (at.isEmpty() || !room) {
            return;
        }
        List<Door> moved = at.stream().sorted().map(chosen::get).toList();
        int first = at.stream().mapToInt(i -> i).min().orElseThrow() + by;
        moveTo(moved, first);
    }

    /** Puts doors together at a place, as counted without them. */
    private void moveTo(List<Door> moved, int place) {
        List<Door> order = new ArrayList<>(chosen);
        order.removeAll(moved);
        order.addAll(Math.max(0, Math.min(place, order.size())), moved);
        chosen.setAll(order);
        chosenList.getSelectionModel().clearSelection();
        moved.forEach(chosenList.getSelectionModel()::select);
    }

    /** A door on watch, which can be dragged to another place together with what is selected. */
    private final class ChosenCell extends ListCell<Door> {
        ChosenCell() {
            setOnDragDetected(e -> {
                if (getItem() != null) {
                    Dragboard board = startDragAndDrop(TransferMode.MOVE);
                    ClipboardContent content = new ClipboardContent();
                    content.putString(getItem().name());
                    board.setContent(content);
                    e.consume();
                }
            });
            setOnDragOver(e -> {
                if (ofThisList(e.getGestureSource())) {
                    e.acceptTransferModes(TransferMode.MOVE);
                    e.consume();
                }
            });
            setOnDragDropped(e -> {
                if (ofThisList(e.getGestureSource())
                        && !chosenList.getSelectionModel().getSelectedItems().contains(getItem())) {
                    List<Door> moved = chosen.stream()
                            .filter(chosenList.getSelectionModel().getSelectedItems()::contains)
                            .toList();
                    long before = moved.stream()
                            .filter(d -> chosen.indexOf(d) < getIndex())
                            .count();
                    moveTo(
                            moved,
                            getItem() == null ? chosen.size() : (int) (getIndex() - before + (before > 0 ? 1 : 0)));
                    e.setDropCompleted(true);
                    e.consume();
                }
            });
        }

        private boolean ofThisList(Object source) {
            return source instanceof ListCell<?> cell && cell.getListView() == chosenList;
        }

        @Override
        protected void updateItem(Door door, boolean none) {
            super.updateItem(door, none);
            String site = door == null
                    ? ""
                    : sites.siteOf(door.id()).map(s -> s.name()).orElse("");
            setText(none || door == null ? null : door.name() + "  ·  " + site);
        }
    }

    // ---- sets

    private void nameSets() {
        sets.getItems().clear();
        settings.doorSets().forEach((name, doors) -> {
            MenuItem item = new MenuItem(name + ", " + counted(doors.size()));
            item.setOnAction(e -> takeSet(name, doors));
            sets.getItems().add(item);
        });
        if (sets.getItems().isEmpty()) {
            MenuItem none = new MenuItem(TEXTS.say("no-set"));
            none.setDisable(true);
            sets.getItems().add(none);
            return;
        }
        sets.getItems().add(new SeparatorMenuItem());
        settings.doorSets().keySet().forEach(name -> {
            MenuItem forget = new MenuItem(TEXTS.say("forget-set", name));
            forget.setOnAction(e -> {
                settings.doorSet(name, List.of());
                said.setText(TEXTS.say("forgotten-set", name));
                nameSets();
            });
            sets.getItems().add(forget);
        });
    }

    private void takeSet(String name, List<String> doors) {
        Map<String, Door> known = sites.doors().stream().collect(Collectors.toMap(d -> d.id().value(), d -> d));
        List<Door> there = doors.stream()
                .map(known::get)
                .filter(Objects::nonNull)
                .distinct()
                .toList();
        chosen.setAll(there);
        int gone = doors.size() - there.size();
        said.setText(gone == 0 ? "" : TEXTS.say("set-gone", counted(gone), name));
        setName.setText(name);
        refresh();
    }

    private void keepSet() {
        String name = setName.getText().strip();
        if (name.isEmpty() || name.length() > LONGEST_NAME) {
            said.setText(TEXTS.say("set-needs-name", LONGEST_NAME));
            setName.requestFocus();
        } else if (chosen.isEmpty()) {
            said.setText(TEXTS.say("set-empty"));
        } else {
            settings.doorSet(name, chosen.stream().map(d -> d.id().value()).toList());
            said.setText(TEXTS.say("set-kept", name, counted(chosen.size())));
            nameSets();
        }
    }
}
