package org.custodia.desktop.doorstep;

import java.time.ZoneId;
import java.util.Optional;
import javafx.application.Platform;
import javafx.geometry.Pos;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.ToggleButton;
import javafx.scene.control.ToggleGroup;
import javafx.scene.image.ImageView;
import javafx.scene.layout.FlowPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.StackPane;
import javafx.scene.layout.VBox;
import javafx.scene.text.TextAlignment;
import org.custodia.core.access.OnFile;
import org.custodia.core.access.Person;
import org.custodia.core.access.Verdict;
import org.custodia.core.event.Event;
import org.custodia.core.event.Kinds;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.site.Side;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.picture.Pixels;
import org.custodia.desktop.saying.SayingWords;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.PriorityMark;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;
import org.custodia.desktop.words.EventWords;
import org.custodia.desktop.words.Names;

/** Who stands, or just stood, at a door: the enrolled photo and the picture from the door side by side. */
public final class Doorstep extends VBox {
    private static final Texts TEXTS = Texts.of(Doorstep.class);

    /** A face's height for its width. */
    private static final double FACE_SHAPE = 1.15;

    private static final double MOST_FACE_WIDTH = 190;

    private final Desk desk;
    private final PriorityMark mark;
    private final Label title = new Label(TEXTS.say("doorstep"));
    private final Label when = new Label();
    private final Label place = new Label();
    private final EnrolledFace enrolled;
    private final DoorFace atDoor;
    private final Label name = new Label();
    private final Label about = new Label();
    private final Label result = new Label();
    private final ToggleGroup verdicts = new ToggleGroup();
    private final FlowPane verdictRow = new FlowPane(6, 6);
    private final Button follow = new Button(TEXTS.say("follow"));
    private final VBox card = new VBox(6);
    private final Label empty = new Label(TEXTS.say("nobody-yet"));
    private final NoteCard note;

    /** A face as it is seen: the picture or words in one height, and what is said under it. */
    private static final class Face extends VBox {
        private final StackPane frame = new StackPane();
        private final ImageView view = new ImageView();
        private final Label words = new Label();
        private final Label below = new Label();

        Face(FaceModel model) {
            super(2);
            frame.getStyleClass().add("face");
            words.getStyleClass().add("muted");
            words.setWrapText(true);
            words.setTextAlignment(TextAlignment.CENTER);
            words.setAlignment(Pos.CENTER);
            below.getStyleClass().add("secondary");
            view.setPreserveRatio(true);
            frame.getChildren().addAll(words, view);
            getChildren().addAll(frame, below);
            model.shown().addListener((o, a, now) -> show(now));
            show(model.shown().get());
        }

        void fit(double width) {
            double height = Math.rint(width * FACE_SHAPE);
            frame.setMinSize(width, height);
            frame.setMaxSize(width, height);
            words.setMaxWidth(width - 12);
            view.setFitWidth(width);
            view.setFitHeight(height);
        }

        private void show(FaceModel.Shown now) {
            view.setImage(now.picture().map(Pixels::image).orElse(null));
            words.setText(now.words());
            below.setText(now.below());
        }
    }

    public Doorstep(Desk desk, Theme theme) {
        this.desk = desk;
        this.mark = new PriorityMark(theme, 16);
        mark.setManaged(false);
        this.enrolled = new EnrolledFace(desk);
        this.atDoor = new DoorFace(desk);
        this.note = new NoteCard(desk);
        getStyleClass().add("doorstep");
        title.getStyleClass().add("large");
        title.setWrapText(true);
        when.getStyleClass().addAll("figures", "muted");
        when.setMinWidth(Region.USE_PREF_SIZE);
        name.getStyleClass().add("name");
        about.getStyleClass().add("muted");
        about.setWrapText(true);
        result.setWrapText(true);
        Region gap = new Region();
        HBox.setHgrow(gap, Priority.ALWAYS);
        HBox head = new HBox(8, mark, title, gap, when);
        head.setAlignment(Pos.CENTER_LEFT);
        for (Verdict v : Verdict.values()) {
            ToggleButton b = new ToggleButton(Names.verdict(v));
            b.getStyleClass().add("verdict");
            b.setToggleGroup(verdicts);
            b.setUserData(v);
            b.setOnAction(e -> give(v));
            verdictRow.getChildren().add(b);
        }
        follow.getStyleClass().add("quiet");
        follow.setOnAction(e -> {
            desk.doorstep().unpin();
            follow.setVisible(false);
        });
        follow.setAccessibleText(TEXTS.say("follow"));
        Face left = new Face(enrolled);
        Face right = new Face(atDoor);
        HBox faces = new HBox(8, left, right);
        card.getChildren().addAll(place, faces, name, about, result, verdictRow, follow);
        empty.getStyleClass().add("empty");
        place.getStyleClass().add("strong");
        setMinHeight(Region.USE_PREF_SIZE);
        setMinWidth(0);
        Runnable fit = () -> {
            double inside = getWidth() - getInsets().getLeft() - getInsets().getRight();
            double face = Math.max(60, Math.min(MOST_FACE_WIDTH, Math.floor((inside - faces.getSpacing()) / 2)));
            left.fit(face);
            right.fit(face);
        };
        widthProperty().addListener((o, a, b) -> fit.run());
        insetsProperty().addListener((o, a, b) -> fit.run());
        getChildren().addAll(note, head, empty, card);
        desk.doorstep().event().addListener((o, a, b) -> refresh());
        refresh();
    }

    private void refresh() {
        Optional<Event> event = desk.doorstep().event().get();
        card.setVisible(event.isPresent());
        card.setManaged(event.isPresent());
        empty.setVisible(event.isEmpty());
        empty.setManaged(event.isEmpty());
        if (event.isEmpty()) {
            return;
        }
        show(event.get());
    }

    private void show(Event event) {
        EventWords words = desk.words();
        boolean refused = event.kind().equals(Kinds.REFUSED);
        mark.show(Kinds.entry(event.kind()).priority());
        mark.setManaged(Kinds.entry(event.kind()).priority() != org.custodia.core.event.Priority.NONE);
        ZoneId zone =
                event.door().map(d -> desk.services().sites().get().zoneOf(d)).orElse(desk.zone());
        title.setText(TEXTS.say(refused ? "title-refused" : "title-granted"));
        place.setText(words.place(event));
        when.setText(ClockWords.dated(event.time(), desk.now(), zone));
        Optional<Person> person = words.person(event);
        name.setText(person.map(Person::name).orElse(words.subject(event)));
        String badge = event.credential().map(c -> TEXTS.say("badge", c)).orElse("");
        about.setText(person.map(p -> p.company() + " · " + p.kind() + (badge.isEmpty() ? "" : " · " + badge))
                .orElse(
                        event.credential().isPresent()
                                ? nobody(words.onFile(event).standing())
                                : ""));
        String way = event.side()
                .map(s -> TEXTS.say(s == Side.ENTRY ? "going-in" : "going-out"))
                .orElse("");
        result.setText(refused ? words.why(event).orElse(TEXTS.say("title-refused")) : way);
        result.setVisible(!result.getText().isEmpty());
        result.setManaged(!result.getText().isEmpty());
        follow.setVisible(desk.doorstep().pinned());
        follow.setManaged(desk.doorstep().pinned());
        verdicts.selectToggle(null);
        desk.services().verdicts().of(event).ifPresent(v -> verdicts.getToggles().stream()
                .filter(t -> t.getUserData() == v)
                .findFirst()
                .ifPresent(verdicts::selectToggle));
        enrolled.of(person);
        atDoor.of(event, zone);
        verdictRow.setDisable(person.isEmpty());
    }

    private static String nobody(OnFile.Standing standing) {
        return standing == OnFile.Standing.NOT_KNOWN_YET
                ? TEXTS.say("badge-not-known-yet")
                : TEXTS.say("badge-of-nobody");
    }

    private void give(Verdict verdict) {
        Optional<Event> event = desk.doorstep().event().get();
        if (event.isEmpty()) {
            return;
        }
        desk.doorstep().pin(event.get());
        follow.setVisible(true);
        follow.setManaged(true);
        try {
            desk.services()
                    .verdicts()
                    .give(event.get(), verdict)
                    .whenComplete((stored, failure) -> Platform.runLater(() -> {
                        if (failure != null) {
                            notKept(SayingWords.of(failure));
                        } else if (verdicts.getSelectedToggle() == null) {
                            refresh();
                        }
                    }));
        } catch (NotPermittedException e) {
            notKept(SayingWords.of(e));
        }
    }

    private void notKept(String why) {
        verdicts.selectToggle(null);
        result.setText(TEXTS.say("verdict-lost", why));
        result.setVisible(true);
        result.setManaged(true);
    }

    /** Whether both faces are shown. */
    public boolean bothFaces() {
        return enrolled.hasPicture() && atDoor.hasPicture();
    }

    /** Called several times a second. */
    public void tick() {
        note.tick();
        empty.setText(desk.readsHistory() ? TEXTS.say("nobody-yet-history") : TEXTS.say("nobody-yet"));
        enrolled.tick();
        atDoor.tick();
        boolean pinned = desk.doorstep().pinned() && card.isVisible();
        if (pinned) {
            String words = TEXTS.say("follow-since", desk.doorstep().since());
            if (!words.equals(follow.getText())) {
                follow.setText(words);
            }
        }
        follow.setVisible(pinned);
        follow.setManaged(pinned);
    }
}
