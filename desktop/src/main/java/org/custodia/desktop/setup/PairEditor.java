package org.custodia.desktop.setup;

import java.io.ByteArrayInputStream;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import javafx.beans.binding.BooleanBinding;
import javafx.geometry.Pos;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.ListCell;
import javafx.scene.control.ListView;
import javafx.scene.control.TextField;
import javafx.scene.image.Image;
import javafx.scene.image.ImageView;
import javafx.scene.input.ClipboardContent;
import javafx.scene.input.KeyCode;
import javafx.scene.input.TransferMode;
import javafx.scene.layout.FlowPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.evidence.KnownOpening;
import org.custodia.core.setup.Trial;
import org.custodia.core.site.Camera;
import org.custodia.core.site.Door;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Side;
import org.custodia.desktop.control.AskedButton;
import org.custodia.desktop.control.Segments;
import org.custodia.desktop.picture.PicturePane;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.trial.TrialModel;
import org.custodia.desktop.trial.TrialPart;
import org.custodia.desktop.words.ClockWords;
import org.custodia.desktop.words.Names;

/** The cameras of one door with their live pictures, and a search for another that may show it. */
final class PairEditor extends VBox {
    private static final Texts TEXTS = Texts.of(PairEditor.class);
    private static final double PICTURE = 208;
    /** How much larger the picture is that somebody judges by. */
    private static final double BIGGER = 1.6;

    private final PairsModel pairs;
    private final Door door;
    private final Theme theme;
    private final FlowPane there = new FlowPane();
    private final VBox tuner = new VBox();
    private final VBox doubts = new VBox(12);
    private final Label said = new Label();
    private final Label head = new Label();
    private final TextField search = new TextField();
    private final ListView<Camera> cameras = new ListView<>();
    private final PicturePane candidate;
    private final HBox views = new HBox(8);
    private final List<PicturePane> panes = new ArrayList<>();
    private final EvidencePart evidence;
    private final TrialPart trial;
    private List<Pairing> shown = List.of();

    PairEditor(PairsModel pairs, Door door, Theme theme) {
        this.pairs = pairs;
        this.door = door;
        this.theme = theme;
        this.candidate = new PicturePane(pairs.desk().services().pictures());
        getStyleClass().add("pair-editor");
        there.getStyleClass().add("pair-cameras");
        said.getStyleClass().add("caution");
        said.setWrapText(true);
        said.setManaged(false);
        trial = new TrialPart(new TrialModel(new TriedDoor(pairs, door), pairs.desk()), theme, false, this::again);
        evidence = new EvidencePart(pairs, door, theme, this::refresh);
        tuner.setManaged(false);
        getChildren().setAll(there, tuner, doubts, said);
        if (pairs.mayPair(door)) {
            Node byHand = another();
            Segments<PairsModel.How> how = new Segments<>(PairsModel.How.class, pairs.how());
            how.letter(h -> TEXTS.say(h == PairsModel.How.EVIDENCE ? "by-evidence" : "by-hand"));
            head.getStyleClass().add("strong");
            HBox choice = new HBox(12, head, how);
            choice.setAlignment(Pos.CENTER_LEFT);
            choice.getStyleClass().add("pair-how");
            show(evidence, pairs.how().isEqualTo(PairsModel.How.EVIDENCE));
            show(byHand, pairs.how().isEqualTo(PairsModel.How.HAND));
            getChildren().addAll(trial, choice, evidence, byHand);
        }
        // Pictures run only while somebody can see them.
        sceneProperty().addListener((o, a, b) -> seen(b != null));
        again();
    }

    private static void show(Node node, BooleanBinding so) {
        node.visibleProperty().bind(so);
        node.managedProperty().bind(so);
    }

    private Node another() {
        search.setPromptText(TEXTS.say("find-camera"));
        search.setAccessibleText(TEXTS.say("find-camera"));
        search.textProperty().addListener((o, a, b) -> find());
        search.setOnKeyPressed(e -> {
            if (e.getCode() == KeyCode.DOWN) {
                cameras.requestFocus();
                e.consume();
            }
        });
        cameras.setAccessibleText(TEXTS.say("cameras"));
        cameras.setPlaceholder(new Label(TEXTS.say("no-camera-fits")));
        cameras.setCellFactory(v -> new CameraCell());
        cameras.setOnKeyTyped(e -> {
            for (Pairing.View view : Pairing.View.values()) {
                if (e.getCharacter().equals(key(view))) {
                    pair(view);
                    e.consume();
                }
            }
        });
        cameras.getSelectionModel().selectedItemProperty().addListener((o, a, b) -> look());
        cameras.setPrefHeight(theme.px(PICTURE * BIGGER * 9 / 16 + 26));
        VBox find = new VBox(6, search, cameras);
        HBox.setHgrow(find, Priority.ALWAYS);
        for (Pairing.View view : Pairing.View.values()) {
            Button button = new Button(TEXTS.say("pair-by-key", TEXTS.say(words(view)), key(view)));
            button.setAccessibleText(TEXTS.say(words(view)));
            button.setMinWidth(Region.USE_PREF_SIZE);
            button.setOnAction(e -> pair(view));
            button.setOnDragOver(e -> {
                if (dragged(e.getGestureSource()).isPresent()) {
                    e.acceptTransferModes(TransferMode.LINK);
                    e.consume();
                }
            });
            button.setOnDragDropped(e -> dragged(e.getGestureSource()).ifPresent(camera -> {
                pair(camera, view);
                e.setDropCompleted(true);
                e.consume();
            }));
            views.getChildren().add(button);
        }
        size(candidate, BIGGER);
        Label what = new Label(TEXTS.say("which-side"));
        what.getStyleClass().add("secondary");
        what.setWrapText(true);
        what.setMinHeight(Region.USE_PREF_SIZE);
        what.setMaxWidth(theme.px(PICTURE) * BIGGER);
        VBox right = new VBox(8, candidate, what, views);
        HBox row = new HBox(16, find, right);
        row.getStyleClass().add("pair-another");
        find();
        return row;
    }

    private static String words(Pairing.View view) {
        return switch (view) {
            case OUTSIDE -> "pair-outside";
            case INSIDE -> "pair-inside";
            case OVERVIEW -> "pair-overview";
        };
    }

    private void size(PicturePane pane, double times) {
        double wide = theme.px(PICTURE) * times;
        pane.setMinSize(wide, wide * 9 / 16);
        pane.setPrefSize(wide, wide * 9 / 16);
        pane.setMaxSize(wide, wide * 9 / 16);
    }

    private void find() {
        Camera before = cameras.getSelectionModel().getSelectedItem();
        cameras.getItems().setAll(pairs.cameras(door, search.getText()));
        if (before != null && cameras.getItems().contains(before)) {
            cameras.getSelectionModel().select(before);
        } else {
            cameras.getSelectionModel().selectFirst();
        }
    }

    private void look() {
        Camera camera = cameras.getSelectionModel().getSelectedItem();
        views.setDisable(camera == null);
        if (camera == null) {
            candidate.none(TEXTS.say("no-camera-fits"));
        } else {
            candidate.camera(camera, camera.name(), pairs.desk().zone());
            candidate.seen(getScene() != null);
        }
    }

    private void pair(Pairing.View view) {
        Camera camera = cameras.getSelectionModel().getSelectedItem();
        if (camera != null) {
            pair(camera, view);
        }
    }

    private void pair(Camera camera, Pairing.View view) {
        say("");
        pairs.pair(door, camera, view, this::refresh, this::say);
    }

    /** By which key a camera of the list is paired: a figure, since letters may be looked for. */
    private static String key(Pairing.View view) {
        return String.valueOf(view.ordinal() + 1);
    }

    /** The camera that is dragged, if one of this list is. */
    private Optional<Camera> dragged(Object source) {
        return source instanceof CameraCell cell && cell.getListView() == cameras
                ? Optional.ofNullable(cell.getItem())
                : Optional.empty();
    }

    /** A camera that may show the door, which can be dragged to the side from which it does. */
    private static final class CameraCell extends ListCell<Camera> {
        CameraCell() {
            setOnDragDetected(e -> {
                if (getItem() != null) {
                    ClipboardContent content = new ClipboardContent();
                    content.putString(getItem().name());
                    startDragAndDrop(TransferMode.LINK).setContent(content);
                    e.consume();
                }
            });
        }

        @Override
        protected void updateItem(Camera camera, boolean none) {
            super.updateItem(camera, none);
            setText(none || camera == null ? null : camera.name());
        }
    }

    private void say(String words) {
        said.setText(words);
        said.setManaged(!words.isEmpty());
    }

    /** Shows what is paired now. */
    void refresh() {
        List<Pairing> now = pairs.pairings(door);
        if (now.equals(shown)) {
            there.setManaged(!now.isEmpty());
            return;
        }
        show(now);
    }

    /** Shows it anew, since something else is known of it. */
    private void again() {
        show(pairs.pairings(door));
    }

    private void show(List<Pairing> now) {
        trial.setManaged(!now.isEmpty());
        trial.setVisible(!now.isEmpty());
        shown = now;
        head.setText(TEXTS.say(now.isEmpty() ? "its-camera" : "another-camera"));
        panes.forEach(PicturePane::close);
        panes.clear();
        there.getChildren().clear();
        there.setManaged(!now.isEmpty());
        now.forEach(p -> there.getChildren().add(card(p)));
        doubts.getChildren().clear();
        now.forEach(p -> doubt(p).ifPresent(doubts.getChildren()::add));
        doubts.setManaged(!doubts.getChildren().isEmpty());
        seen(getScene() != null);
    }

    private Node card(Pairing pairing) {
        PicturePane pane = new PicturePane(pairs.desk().services().pictures());
        size(pane, 1);
        pairs.desk()
                .services()
                .sites()
                .get()
                .camera(pairing.camera())
                .ifPresent(c ->
                        pane.camera(c, Names.view(pairing.view()), pairs.desk().zone()));
        panes.add(pane);
        Label name = new Label(pairs.cameraName(pairing.camera()));
        name.setMinWidth(0);
        name.setWrapText(true);
        AskedButton off = new AskedButton(TEXTS.say("take-off"), TEXTS.say("take-off-sure"), () -> {
            say("");
            pairs.unpair(pairing, this::refresh, this::say);
        });
        off.spoken(TEXTS.say("take-off-spoken", pairs.cameraName(pairing.camera())));
        off.setDisable(!pairs.mayPair(door));
        Button change = new Button(TEXTS.say("change-pair"));
        change.setAccessibleText(TEXTS.say("change-pair-spoken", pairs.cameraName(pairing.camera())));
        change.setMinWidth(Region.USE_PREF_SIZE);
        change.setDisable(!pairs.mayPair(door));
        change.setOnAction(e -> tune(pairing));
        HBox line = new HBox(8, change, off);
        if (pairs.pairings(door).indexOf(pairing) > 0) {
            Button first = new Button(TEXTS.say("first-pair"));
            first.setAccessibleText(TEXTS.say("first-pair-spoken", pairs.cameraName(pairing.camera())));
            first.setMinWidth(Region.USE_PREF_SIZE);
            first.setDisable(!pairs.mayPair(door));
            first.setOnAction(e -> {
                say("");
                pairs.first(pairing, this::refresh, this::say);
            });
            line.getChildren().add(first);
        }
        line.setAlignment(Pos.CENTER_LEFT);
        Label side = new Label(TEXTS.say(pairing.side() == Side.ENTRY ? "shows-entering" : "shows-leaving"));
        side.getStyleClass().add("muted");
        Label tried = new Label(tried(pairing));
        tried.setWrapText(true);
        tried.getStyleClass().add(pairs.standing(pairing) == PairsModel.Standing.RIGHT ? "muted" : "caution");
        VBox card = new VBox(4, pane, name, side, line, tried);
        // What was judged then, small, so that somebody sees whether it is the same still.
        pairs.trial(pairing)
                .flatMap(Trial::picture)
                .map(jpeg -> new Image(new ByteArrayInputStream(jpeg)))
                .filter(i -> !i.isError())
                .ifPresent(image -> {
                    ImageView still = new ImageView(image);
                    still.setPreserveRatio(true);
                    still.setFitHeight(theme.px(66));
                    still.setAccessibleText(TEXTS.say("tried-still"));
                    card.getChildren().add(still);
                });
        card.setMaxWidth(theme.px(PICTURE));
        card.setPrefWidth(theme.px(PICTURE));
        return card;
    }

    /** Opens what changes a pair, in place of what was open. */
    private void tune(Pairing pairing) {
        tuner.setManaged(true);
        tuner.getChildren().setAll(new PairTuner(pairs, pairing, theme, () -> {
            tuner.getChildren().clear();
            tuner.setManaged(false);
            refresh();
        }));
    }

    /** What was seen of a pair lately beside what was seen before, where it is in doubt. */
    private Optional<Node> doubt(Pairing pairing) {
        Optional<Camera> camera = pairs.camera(pairing.camera());
        if (camera.isEmpty() || !pairs.doubted(pairing)) {
            return Optional.empty();
        }
        Label words = new Label(TEXTS.say("in-doubt", camera.get().name()));
        words.getStyleClass().add("caution");
        words.setWrapText(true);
        words.setMinHeight(Region.USE_PREF_SIZE);
        VBox all = new VBox(8, words);
        pairs.checked(pairing).ifPresent(check -> {
            HBox films = new HBox(24);
            if (!check.before().isEmpty()) {
                films.getChildren().add(film("film-then", camera.get(), check.before()));
            }
            films.getChildren()
                    .add(film(
                            "film-now",
                            camera.get(),
                            check.openings().stream().limit(2).toList()));
            all.getChildren().add(films);
        });
        return Optional.of(all);
    }

    private Node film(String head, Camera camera, List<KnownOpening> openings) {
        Label label = new Label(TEXTS.say(head));
        label.getStyleClass().add("strong");
        return new VBox(4, label, new FilmPane(pairs.desk(), theme, camera, openings));
    }

    private String tried(Pairing pairing) {
        String when = pairs.trial(pairing)
                .map(t -> ClockWords.dated(
                        t.when(), pairs.desk().now(), pairs.desk().zone()))
                .orElse("");
        return TEXTS.say("tried." + pairs.standing(pairing).name().toLowerCase(Locale.ROOT), when);
    }

    /** Looks again what is going on. */
    void tick() {
        evidence.tick();
        trial.tick();
    }

    private void seen(boolean visible) {
        panes.forEach(p -> p.seen(visible));
        candidate.seen(visible);
    }

    /** Where somebody begins. */
    void begin() {
        search.requestFocus();
    }

    void close() {
        trial.close();
        panes.forEach(PicturePane::close);
        candidate.close();
    }
}
