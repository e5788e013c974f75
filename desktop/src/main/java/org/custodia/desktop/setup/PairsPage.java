package org.custodia.desktop.setup;

import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.stream.Collectors;
import javafx.application.Platform;
import javafx.geometry.Pos;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.ListCell;
import javafx.scene.control.ListView;
import javafx.scene.control.MenuButton;
import javafx.scene.control.MenuItem;
import javafx.scene.control.TextField;
import javafx.scene.control.Tooltip;
import javafx.scene.input.KeyCode;
import javafx.scene.layout.BorderPane;
import javafx.scene.layout.FlowPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.evidence.EvidenceSearch;
import org.custodia.core.setup.PairSheets;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.desktop.control.FileQuestion;
import org.custodia.desktop.control.Segments;
import org.custodia.desktop.notice.Notices;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.Names;

/** Which cameras show which doors: a line a door, which opens to its cameras and to a search for another. */
final class PairsPage extends BorderPane {
    private static final Texts TEXTS = Texts.of(PairsPage.class);
    private static final double LEAST_SEARCH = 150;
    private static final double WIDE_SEARCH = 320;

    private final PairsModel pairs;
    private final Theme theme;
    private final TextField search = new TextField();
    private final Segments<PairsModel.Show> shows;
    private final Button lookForAll = new Button(TEXTS.say("look-for-all"));
    private final Label progress = new Label();
    private final Button pause = new Button();
    private final Button stop = new Button(TEXTS.say("stop-looking"));
    private boolean wasRunning;
    private final HBox looking = new HBox(10, progress, pause, stop);
    private final Button takeSure = new Button();
    private final MenuButton sheet = new MenuButton(TEXTS.say("sheet"));
    private final ListView<Door> list;
    private final FlowPane first;
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
        shows = new Segments<>(PairsModel.Show.class, pairs.show());
        lookForAll.setMinWidth(Region.USE_PREF_SIZE);
        lookForAll.setTooltip(new Tooltip(TEXTS.say("look-for-all-tip")));
        lookForAll.setOnAction(e -> lookForAll());
        Button check = new Button(TEXTS.say("check-pairs"));
        check.setMinWidth(Region.USE_PREF_SIZE);
        check.setTooltip(new Tooltip(TEXTS.say("check-pairs-tip")));
        check.setOnAction(e -> pairs.check(this::tick, pairs.desk().notices()::note));
        takeSure.setMinWidth(Region.USE_PREF_SIZE);
        takeSure.setTooltip(new Tooltip(TEXTS.say("take-sure-tip")));
        takeSure.setOnAction(e -> takeSure());
        // Where the text is large it takes two lines.
        first = new FlowPane(10, 8, search, shows, lookForAll, takeSure, check);
        first.setAlignment(Pos.CENTER_LEFT);
        first.widthProperty().addListener((o, a, b) -> fitSearch());
        progress.setMinWidth(0);
        for (Button b : List.of(pause, stop)) {
            b.setMinWidth(Region.USE_PREF_SIZE);
        }
        pause.setOnAction(e -> {
            pairs.pauseLooking(!pairs.looking().paused());
            tick();
        });
        stop.setOnAction(e -> {
            pairs.stopLooking();
            tick();
        });
        looking.setAlignment(Pos.CENTER_LEFT);
        fillSheet();
        first.getStyleClass().add("pairs-search");
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
        setTop(first);
        setCenter(list);
        refresh();
        tick();
    }

    /** The field takes what room the others leave; where that is little, they go into a second line. */
    private void fitSearch() {
        double others = first.getChildren().stream()
                .filter(n -> n != search)
                .mapToDouble(n -> first.getHgap() + n.prefWidth(-1))
                .sum();
        // Widths are rounded one by one, so that a little is to be left.
        double room = first.getWidth()
                - first.getInsets().getLeft()
                - first.getInsets().getRight()
                - others
                - theme.px(8);
        search.setPrefWidth(
                room < theme.px(LEAST_SEARCH) ? theme.px(WIDE_SEARCH) : Math.min(room, theme.px(WIDE_SEARCH)));
    }

    /** How far looking for cameras has come, for where it moves nothing when it comes and goes. */
    Node looking() {
        return looking;
    }

    /** Where pairs go out and come in. */
    Node sheet() {
        return sheet;
    }

    private void fillSheet() {
        sheet.setMinWidth(Region.USE_PREF_SIZE);
        sheet.getItems()
                .setAll(
                        item("export-csv", () -> export(PairSheets.Form.CSV)),
                        item("export-json", () -> export(PairSheets.Form.JSON)),
                        item("import", this::chooseImport));
    }

    private static MenuItem item(String words, Runnable act) {
        MenuItem item = new MenuItem(TEXTS.say(words));
        item.setOnAction(e -> act.run());
        return item;
    }

    private void export(PairSheets.Form form) {
        Notices notices = pairs.desk().notices();
        FileQuestion.save(this, form == PairSheets.Form.CSV ? "pairs.csv" : "pairs.json")
                .ifPresent(file -> pairs.export(
                        file, form, () -> notices.note(TEXTS.say("exported", file.getFileName())), notices::note));
    }

    private void chooseImport() {
        FileQuestion.open(this).ifPresent(this::preview);
    }

    /** Shows what a sheet would change, in place of the list, until that is decided. */
    void preview(Path file) {
        pairs.plan(
                file,
                plan -> setCenter(new ImportPreview(pairs, file.getFileName().toString(), plan, () -> {
                    setCenter(list);
                    refresh();
                })),
                pairs.desk().notices()::note);
    }

    /** Looks for the cameras of all doors in the list that have none. */
    private void lookForAll() {
        List<Door> without = pairs.doors().stream()
                .filter(d -> pairs.pairings(d).isEmpty() && pairs.mayPair(d))
                .toList();
        if (without.isEmpty()) {
            pairs.desk().notices().note(TEXTS.say("none-without"));
            return;
        }
        pairs.look(without, this::tick, pairs.desk().notices()::note);
    }

    /** Says how far looking for cameras has come. */
    void tick() {
        fitSearch();
        EvidenceSearch.Progress now = pairs.looking();
        looking.setVisible(now.running());
        looking.setManaged(now.running());
        if (wasRunning && !now.running()) {
            refresh();
        }
        wasRunning = now.running();
        pairs.readProposed(this::refresh);
        if (now.running()) {
            progress.setText(far(now));
            pause.setText(TEXTS.say(now.paused() ? "go-on-looking" : "pause-looking"));
        }
        editor.ifPresent(PairEditor::tick);
    }

    /** Pairs all that is proposed and sure. */
    private void takeSure() {
        Notices notices = pairs.desk().notices();
        takeSure.setDisable(true);
        pairs.takeSure(
                made -> {
                    notices.note(TEXTS.say("took-sure", made));
                    pairs.readProposed(this::refresh);
                    refresh();
                },
                failed -> {
                    notices.note(failed);
                    refresh();
                });
    }

    private String far(EvidenceSearch.Progress now) {
        String left = now.paused() || now.left().isEmpty()
                ? ""
                : " · " + left(now.left().get());
        if (now.cameras() < now.ofCameras() && !now.paused()) {
            return TEXTS.say("looking-cameras", now.cameras(), now.ofCameras(), now.stills()) + left;
        }
        return TEXTS.say(
                        now.ofDoors() == 0 ? "checking" : now.paused() ? "looking-paused" : "looking",
                        now.doors(),
                        now.ofDoors(),
                        now.stills())
                + now.now()
                        .map(d -> " " + TEXTS.say("looking-at", pairs.doorName(d)))
                        .orElse("")
                + left;
    }

    private static String left(Duration left) {
        return left.toSeconds() < 60
                ? TEXTS.say("looking-left-seconds")
                : TEXTS.say("looking-left", (left.toSeconds() + 30) / 60);
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
                    .distinct()
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
        takeSure.setText(TEXTS.say("take-sure", pairs.sure()));
        takeSure.setDisable(pairs.sure() == 0);
        shows.letter(which -> TEXTS.say("show." + which.name().toLowerCase(Locale.ROOT), pairs.count(which)));
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
