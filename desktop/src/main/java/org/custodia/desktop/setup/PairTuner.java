package org.custodia.desktop.setup;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import javafx.geometry.Pos;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.TextField;
import javafx.scene.control.ToggleButton;
import javafx.scene.control.ToggleGroup;
import javafx.scene.image.ImageView;
import javafx.scene.input.KeyCode;
import javafx.scene.input.KeyEvent;
import javafx.scene.layout.FlowPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.StackPane;
import javafx.scene.layout.VBox;
import javafx.scene.shape.Rectangle;
import org.custodia.core.event.Event;
import org.custodia.core.setup.PairBook;
import org.custodia.core.site.Crop;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Side;
import org.custodia.desktop.picture.Pixels;
import org.custodia.desktop.picture.WantedStill;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;
import org.custodia.desktop.words.Names;

/** Changes a pair: whom its camera sees, from when it is played, and where a head is, drawn on a picture of somebody there. */
final class PairTuner extends HBox {
    private static final Texts TEXTS = Texts.of(PairTuner.class);
    private static final double WIDTH = 480;

    /** By how much a key moves an edge, as a share of the picture. */
    private static final double STEP = 0.01;
    /** A face is no smaller, or nobody could be told from another. */
    private static final double LEAST = 0.04;

    private final PairsModel pairs;
    private final Pairing before;
    private final Runnable close;
    private final double width;
    private final double height;
    private final ImageView picture = new ImageView();
    private final Label caption = new Label();
    private final Rectangle face = new Rectangle();
    private final StackPane board = new StackPane();
    private final TextField leadIn = new TextField();
    private final TextField after = new TextField();
    private final ToggleButton entering = new ToggleButton(TEXTS.say("shows-entering"));
    private final ToggleButton leaving = new ToggleButton(TEXTS.say("shows-leaving"));
    private final Label said = new Label();
    private Optional<Long> version = Optional.empty();
    private List<Event> events = List.of();
    private int at;
    private Crop crop;
    private double pressedX;
    private double pressedY;

    /**
     * @param close told when it is done with, or given up
     */
    PairTuner(PairsModel pairs, Pairing before, Theme theme, Runnable close) {
        this.pairs = pairs;
        this.before = before;
        this.close = close;
        this.crop = before.face();
        this.width = theme.px(WIDTH);
        this.height = width * 9 / 16;
        getStyleClass().add("pair-tuner");
        getChildren().setAll(board(), fields());
        draw();
        pairs.kept(before, this::take, said::setText);
        pairs.passages(before, this::take, said::setText);
    }

    private VBox board() {
        picture.setFitWidth(width);
        picture.setFitHeight(height);
        face.getStyleClass().add("face-rectangle");
        face.setManaged(false);
        board.getChildren().setAll(picture, face);
        board.getStyleClass().add("film-still");
        board.setMinSize(width, height);
        board.setMaxSize(width, height);
        board.setFocusTraversable(true);
        board.setAccessibleText(TEXTS.say("face-board"));
        board.setOnMousePressed(e -> {
            board.requestFocus();
            pressedX = share(e.getX(), width);
            pressedY = share(e.getY(), height);
        });
        board.setOnMouseDragged(e -> dragged(share(e.getX(), width), share(e.getY(), height)));
        board.setOnKeyPressed(this::key);
        Button earlier = new Button(TEXTS.say("earlier-passage"));
        earlier.setOnAction(e -> show(at + 1));
        Button later = new Button(TEXTS.say("later-passage"));
        later.setOnAction(e -> show(at - 1));
        Button whole = new Button(TEXTS.say("whole-picture"));
        whole.setOnAction(e -> set(Crop.WHOLE));
        FlowPane acts = new FlowPane(8, 6, earlier, later, whole);
        caption.setWrapText(true);
        caption.getStyleClass().add("secondary");
        caption.setMaxWidth(width);
        Label whose = new Label(TEXTS.say("shown-by", pairs.cameraName(before.camera()), Names.view(before.view())));
        whose.getStyleClass().add("strong");
        whose.setWrapText(true);
        whose.setMaxWidth(width);
        return new VBox(6, whose, board, caption, acts);
    }

    private VBox fields() {
        ToggleGroup group = new ToggleGroup();
        for (ToggleButton button : List.of(entering, leaving)) {
            button.setToggleGroup(group);
            button.setMinWidth(Region.USE_PREF_SIZE);
            button.setOnAction(e -> {
                button.setSelected(true);
                pairs.passages(sided(), this::take, said::setText);
            });
        }
        (before.side() == Side.ENTRY ? entering : leaving).setSelected(true);
        leadIn.setText(seconds(before.leadIn()));
        after.setText(seconds(before.faceAfter()));
        after.textProperty().addListener((o, a, b) -> show(at));
        Button save = new Button(TEXTS.say("save"));
        save.getStyleClass().add("main");
        save.setOnAction(e -> save());
        Button cancel = new Button(TEXTS.say("cancel"));
        cancel.setOnAction(e -> close.run());
        Label how = new Label(TEXTS.say("face-how"));
        how.setWrapText(true);
        how.getStyleClass().add("muted");
        how.setMinHeight(Region.USE_PREF_SIZE);
        said.setWrapText(true);
        said.getStyleClass().add("caution");
        VBox all = new VBox(
                8,
                how,
                field("whom", new FlowPane(8, 6, entering, leaving)),
                field("lead-in", leadIn),
                field("face-after", after),
                new HBox(8, save, cancel),
                said);
        HBox.setHgrow(all, Priority.ALWAYS);
        all.setMinWidth(0);
        return all;
    }

    private static VBox field(String words, Region input) {
        Label label = new Label(TEXTS.say(words));
        label.getStyleClass().add("secondary");
        label.setWrapText(true);
        label.setMinHeight(Region.USE_PREF_SIZE);
        label.setLabelFor(input);
        if (input instanceof TextField field) {
            field.setPrefColumnCount(6);
            field.setMaxWidth(Region.USE_PREF_SIZE);
            field.setAccessibleText(TEXTS.say(words));
        }
        VBox box = new VBox(2, label, input);
        box.setAlignment(Pos.TOP_LEFT);
        return box;
    }

    private static String seconds(Duration d) {
        return TEXTS.say("number", d.toMillis() / 1_000.0);
    }

    private static double share(double value, double of) {
        return Math.max(0, Math.min(1, value / of));
    }

    private void dragged(double x, double y) {
        double left = Math.min(x, pressedX);
        double top = Math.min(y, pressedY);
        double wide = Math.abs(x - pressedX);
        double high = Math.abs(y - pressedY);
        if (wide >= LEAST && high >= LEAST) {
            set(new Crop(left, top, wide, high));
        }
    }

    /** Arrows move it, with Shift its lower right corner. */
    private void key(KeyEvent e) {
        double dx = e.getCode() == KeyCode.LEFT ? -STEP : e.getCode() == KeyCode.RIGHT ? STEP : 0;
        double dy = e.getCode() == KeyCode.UP ? -STEP : e.getCode() == KeyCode.DOWN ? STEP : 0;
        if (dx == 0 && dy == 0) {
            return;
        }
        if (e.isShiftDown()) {
            double wide = Math.max(LEAST, Math.min(1 - crop.x(), crop.width() + dx));
            double high = Math.max(LEAST, Math.min(1 - crop.y(), crop.height() + dy));
            set(new Crop(crop.x(), crop.y(), wide, high));
        } else {
            double x = Math.max(0, Math.min(1 - crop.width(), crop.x() + dx));
            double y = Math.max(0, Math.min(1 - crop.height(), crop.y() + dy));
            set(new Crop(x, y, crop.width(), crop.height()));
        }
        e.consume();
    }

    private void set(Crop now) {
        crop = now;
        draw();
    }

    private void draw() {
        face.setX(crop.x() * width);
        face.setY(crop.y() * height);
        face.setWidth(crop.width() * width);
        face.setHeight(crop.height() * height);
    }

    private void take(PairBook.Kept kept) {
        version = Optional.of(kept.version());
        if (!kept.pairing().equals(before)) {
            said.setText(TEXTS.say("pair-changed-meanwhile"));
        }
    }

    private void take(List<Event> passages) {
        events = passages;
        show(0);
    }

    /** Shows somebody who passed, where a head is then. */
    private void show(int index) {
        if (events.isEmpty()) {
            caption.setText(TEXTS.say("no-passage"));
            picture.setImage(null);
            return;
        }
        at = Math.max(0, Math.min(events.size() - 1, index));
        Event event = events.get(at);
        Instant instant = event.time()
                .plus(ClocksPage.parse(after.getText())
                        .filter(d -> !d.isNegative())
                        .orElse(Duration.ZERO));
        caption.setText(TEXTS.say(
                "passage",
                pairs.desk().words().subject(event),
                ClockWords.dated(event.time(), pairs.desk().now(), pairs.desk().zone())));
        pairs.camera(before.camera()).ifPresent(camera -> new WantedStill(camera, Crop.WHOLE, instant)
                .fetch(pairs.desk().services().pictures(), (int) Math.round(height), got -> {
                    if (at < events.size() && events.get(at).equals(event)) {
                        got.still().ifPresent(s -> picture.setImage(Pixels.image(s.picture())));
                        if (got.still().isEmpty()) {
                            picture.setImage(null);
                            caption.setText(got.problem());
                        }
                    }
                }));
    }

    private Pairing sided() {
        return new Pairing(
                before.id(),
                before.door(),
                before.camera(),
                leaving.isSelected() ? Side.EXIT : Side.ENTRY,
                before.view(),
                before.leadIn(),
                crop,
                before.faceAfter());
    }

    private void save() {
        Optional<Duration> lead = ClocksPage.parse(leadIn.getText()).filter(PairsModel::mayLead);
        Optional<Duration> head = ClocksPage.parse(after.getText()).filter(PairsModel::mayLead);
        if (lead.isEmpty() || head.isEmpty()) {
            said.setText(TEXTS.say(
                    "lead-odd", PairsModel.MOST_LEAD.toSeconds(), lead.isEmpty() ? leadIn.getText() : after.getText()));
            return;
        }
        if (version.isEmpty()) {
            return;
        }
        Pairing s = sided();
        Pairing changed = new Pairing(s.id(), s.door(), s.camera(), s.side(), s.view(), lead.get(), crop, head.get());
        pairs.change(changed, version.get(), close, said::setText);
    }
}
