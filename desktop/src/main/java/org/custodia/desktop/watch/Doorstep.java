package org.custodia.desktop.watch;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.Optional;
import javafx.application.Platform;
import javafx.geometry.Pos;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.TextField;
import javafx.scene.control.ToggleButton;
import javafx.scene.control.ToggleGroup;
import javafx.scene.image.ImageView;
import javafx.scene.layout.FlowPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.StackPane;
import javafx.scene.layout.VBox;
import org.custodia.core.access.OnFile;
import org.custodia.core.access.Person;
import org.custodia.core.access.Verdict;
import org.custodia.core.command.CommandProgress;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Kinds;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.site.Door;
import org.custodia.core.site.Side;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.picture.PicturePane;
import org.custodia.desktop.picture.Pixels;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.PriorityMark;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;
import org.custodia.desktop.words.EventWords;
import org.custodia.desktop.words.Names;
import org.custodia.video.Picture;
import org.custodia.video.Stills;

/** Who stands, or just stood, at a door: the enrolled photo and the picture from the door side by side. */
final class Doorstep extends VBox {
    private static final Texts TEXTS = Texts.of(Doorstep.class);

    /** A face's height for its width. */
    private static final double FACE_SHAPE = 1.15;

    private static final double MOST_FACE_WIDTH = 190;
    private static final int FETCHED_HEIGHT = 300;
    private static final Duration ASK_AGAIN = Duration.ofSeconds(3);

    private final Desk desk;
    private final PriorityMark mark;
    private final Label title = new Label(TEXTS.say("doorstep"));
    private final Label when = new Label();
    private final Label place = new Label();
    private final Face enrolled = new Face();
    private final Face atDoor = new Face();
    private final Label enrolledWords = new Label();
    private final Label doorWords = new Label();
    private final Label name = new Label();
    private final Label about = new Label();
    private final Label result = new Label();
    private final ToggleGroup verdicts = new ToggleGroup();
    private final FlowPane verdictRow = new FlowPane(6, 6);
    private final Button follow = new Button(TEXTS.say("follow"));
    private final VBox card = new VBox(6);
    private final Label empty = new Label(TEXTS.say("nobody-yet"));
    private final NoteCard note;
    private EventKey shown;
    /** Whose photo is not there; it may come yet, since photos are fetched last. */
    private Optional<Person> missingPhoto = Optional.empty();

    private Instant photoAskedAt = Instant.EPOCH;
    /** When to ask for the door's picture again, where it was not there yet or something better comes. */
    private Instant doorAgain = Instant.MAX;

    private Runnable fetchDoor = () -> {};

    /** A picture of one height, or words. */
    private static final class Face extends StackPane {
        private final ImageView view = new ImageView();
        private final Label words = new Label();

        Face() {
            getStyleClass().add("face");
            words.getStyleClass().add("muted");
            words.setWrapText(true);
            words.setTextAlignment(javafx.scene.text.TextAlignment.CENTER);
            words.setAlignment(Pos.CENTER);
            view.setPreserveRatio(true);
            getChildren().addAll(words, view);
        }

        void fit(double width) {
            double height = Math.rint(width * FACE_SHAPE);
            setMinSize(width, height);
            setMaxSize(width, height);
            words.setMaxWidth(width - 12);
            view.setFitWidth(width);
            view.setFitHeight(height);
        }

        void show(Picture picture) {
            view.setImage(Pixels.image(picture));
            words.setText("");
        }

        void say(String text) {
            view.setImage(null);
            words.setText(text);
        }

        boolean hasPicture() {
            return view.getImage() != null;
        }
    }

    Doorstep(Desk desk, Theme theme) {
        this.desk = desk;
        this.mark = new PriorityMark(theme, 16);
        mark.setManaged(false);
        this.note = new NoteCard();
        getStyleClass().add("doorstep");
        title.getStyleClass().add("large");
        title.setWrapText(true);
        when.getStyleClass().addAll("figures", "muted");
        when.setMinWidth(Region.USE_PREF_SIZE);
        name.getStyleClass().add("name");
        about.getStyleClass().add("muted");
        about.setWrapText(true);
        result.setWrapText(true);
        enrolledWords.getStyleClass().add("secondary");
        doorWords.getStyleClass().add("secondary");
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
        HBox faces = new HBox(8, new VBox(2, enrolled, enrolledWords), new VBox(2, atDoor, doorWords));
        card.getChildren().addAll(place, faces, name, about, result, verdictRow, follow);
        empty.getStyleClass().add("empty");
        place.getStyleClass().add("strong");
        setMinHeight(Region.USE_PREF_SIZE);
        setMinWidth(0);
        Runnable fit = () -> {
            double inside = getWidth() - getInsets().getLeft() - getInsets().getRight();
            double face = Math.max(60, Math.min(MOST_FACE_WIDTH, Math.floor((inside - faces.getSpacing()) / 2)));
            enrolled.fit(face);
            atDoor.fit(face);
        };
        widthProperty().addListener((o, a, b) -> fit.run());
        insetsProperty().addListener((o, a, b) -> fit.run());
        getChildren().addAll(note, head, empty, card);
        desk.doorstep().event().addListener((o, a, b) -> refresh());
        desk.commands().newest().addListener((o, a, b) -> b.ifPresent(note::progressed));
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
        shown = event.key();
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
        photo(person);
        doorPicture(event, zone);
        verdictRow.setDisable(person.isEmpty());
    }

    private static String nobody(OnFile.Standing standing) {
        return standing == OnFile.Standing.NOT_KNOWN_YET
                ? TEXTS.say("badge-not-known-yet")
                : TEXTS.say("badge-of-nobody");
    }

    private void photo(Optional<Person> person) {
        enrolledWords.setText(person.isPresent() ? TEXTS.say("enrolled") + "\n" : "\n");
        missingPhoto = Optional.empty();
        if (person.isEmpty()) {
            enrolled.say(TEXTS.say("nobody-enrolled"));
            return;
        }
        enrolled.say(TEXTS.say("loading-here"));
        fetchPhoto(person.get());
    }

    private void fetchPhoto(Person person) {
        EventKey asked = shown;
        missingPhoto = Optional.empty();
        desk.work()
                .load(
                        () -> desk.services()
                                .people()
                                .photo(person.id())
                                .map(jpeg -> Stills.picture(jpeg, FETCHED_HEIGHT)),
                        picture -> {
                            if (asked.equals(shown)) {
                                picture.ifPresentOrElse(enrolled::show, () -> {
                                    enrolled.say(TEXTS.say("no-photo"));
                                    missingPhoto = Optional.of(person);
                                    photoAskedAt = desk.now();
                                });
                            }
                        },
                        why -> enrolled.say(TEXTS.say("photo-unreadable")));
    }

    private void doorPicture(Event event, ZoneId zone) {
        doorWords.setText("\n");
        doorAgain = Instant.MAX;
        Optional<WantedStill> wanted = WantedStill.of(desk.services().sites().get(), event);
        if (wanted.isEmpty()) {
            atDoor.say(TEXTS.say(
                    "no-camera-why",
                    event.door()
                            .map(d -> WantedStill.whyNoCamera(
                                    desk.services().sites().get(), d))
                            .orElse(TEXTS.say("no-door"))));
            fetchDoor = () -> doorPicture(event, zone);
            doorAgain = desk.now().plus(ASK_AGAIN);
            return;
        }
        atDoor.say(TEXTS.say("loading-here"));
        fetchDoor = () -> wanted.get().fetch(desk.services(), FETCHED_HEIGHT, got -> {
            if (event.key().equals(shown)) {
                takeDoorPicture(event, wanted.get(), got, zone);
            }
        });
        fetchDoor.run();
    }

    private void takeDoorPicture(Event event, WantedStill wanted, WantedStill.Got got, ZoneId zone) {
        doorAgain = got.again().orElse(Instant.MAX);
        if (got.still().isPresent()) {
            Stills.Still still = got.still().get();
            atDoor.show(still.picture());
            boolean face = wanted.at().equals(event.time());
            String how = TEXTS.say(still.betterAt().isPresent() ? "live-picture" : face ? "at-the-door" : "coming-out")
                    + "\n";
            doorWords.setText(how + ClockWords.exact(still.picture().at(), zone));
        } else {
            atDoor.say(got.readyAt()
                    .map(t -> TEXTS.say("being-written", ClockWords.clock(t, zone)))
                    .orElseGet(
                            () -> PicturePane.why(wanted.footage(desk.services()), got.problem(), zone, desk.now())));
        }
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
                            notKept(failure.getMessage());
                        } else if (verdicts.getSelectedToggle() == null) {
                            refresh();
                        }
                    }));
        } catch (NotPermittedException e) {
            notKept(e.getMessage());
        }
    }

    private void notKept(String why) {
        verdicts.selectToggle(null);
        result.setText(TEXTS.say("verdict-lost", why));
        result.setVisible(true);
        result.setManaged(true);
    }

    boolean bothFaces() {
        return enrolled.hasPicture() && atDoor.hasPicture();
    }

    /** After somebody was let through: who it was and why, if the operator wishes. */
    private final class NoteCard extends VBox {
        private static final Duration OPEN_FOR = Duration.ofSeconds(60);
        private final Label head = new Label();
        private final TextField who = new TextField();
        private final TextField why = new TextField();
        private CommandProgress about;
        private Instant since = Instant.MIN;

        NoteCard() {
            getStyleClass().add("note-card");
            head.getStyleClass().add("strong");
            head.setWrapText(true);
            who.setPromptText(TEXTS.say("who-was-it"));
            who.setAccessibleText(TEXTS.say("who-let-through"));
            why.setPromptText(TEXTS.say("why-note"));
            why.setAccessibleText(TEXTS.say("why-let-through"));
            Button keep = new Button(TEXTS.say("keep-note"));
            keep.getStyleClass().add("main");
            keep.setOnAction(e -> keep());
            why.setOnAction(e -> keep());
            who.setOnAction(e -> why.requestFocus());
            Button no = new Button(TEXTS.say("not-needed"));
            no.setOnAction(e -> hideCard());
            getChildren().addAll(head, who, why, new HBox(8, keep, no));
            hideCard();
        }

        private void hideCard() {
            setVisible(false);
            setManaged(false);
            who.clear();
            why.clear();
            about = null;
        }

        void progressed(CommandProgress progress) {
            boolean writing = isVisible() && !(who.getText() + why.getText()).isEmpty();
            if (progress.stage() == CommandProgress.Stage.CONFIRMED
                    && progress.command() instanceof DoorCommand.LetThrough
                    && !writing) {
                about = progress;
                since = desk.now();
                String door = desk.services()
                        .sites()
                        .get()
                        .door(progress.door())
                        .map(Door::name)
                        .orElse("");
                head.setText(TEXTS.say("let-through-at", door));
                setVisible(true);
                setManaged(true);
            }
        }

        void tick() {
            boolean untouched = (who.getText() + why.getText()).isEmpty() && !who.isFocused() && !why.isFocused();
            if (isVisible() && untouched && Duration.between(since, desk.now()).compareTo(OPEN_FOR) > 0) {
                hideCard();
            }
        }

        private void keep() {
            if (about == null || who.getText().isBlank() && why.getText().isBlank()) {
                hideCard();
                return;
            }
            CommandProgress progress = about;
            String person = who.getText().trim();
            String reason = why.getText().trim();
            desk.work()
                    .load(
                            () -> desk.services().doors().note(progress, person, reason),
                            kept -> kept.whenComplete((stored, failure) -> Platform.runLater(() -> {
                                if (failure == null) {
                                    hideCard();
                                } else {
                                    head.setText(TEXTS.say("note-lost", failure.getMessage()));
                                }
                            })),
                            w -> head.setText(TEXTS.say("note-lost", w)));
        }
    }

    void tick() {
        note.tick();
        empty.setText(desk.readsHistory() ? TEXTS.say("nobody-yet-history") : TEXTS.say("nobody-yet"));
        missingPhoto
                .filter(p -> Duration.between(photoAskedAt, desk.now()).compareTo(ASK_AGAIN) > 0)
                .ifPresent(this::fetchPhoto);
        if (!desk.now().isBefore(doorAgain)) {
            doorAgain = Instant.MAX;
            fetchDoor.run();
        }
        boolean pinned = desk.doorstep().pinned() && card.isVisible();
        follow.setVisible(pinned);
        follow.setManaged(pinned);
    }
}
