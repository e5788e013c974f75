package org.custodia.desktop.watch;

import java.time.Duration;
import java.time.Instant;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.time.format.DateTimeParseException;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.BiConsumer;
import javafx.application.Platform;
import javafx.geometry.Pos;
import javafx.scene.control.Button;
import javafx.scene.control.ContextMenu;
import javafx.scene.control.CustomMenuItem;
import javafx.scene.control.Label;
import javafx.scene.control.Menu;
import javafx.scene.control.MenuButton;
import javafx.scene.control.MenuItem;
import javafx.scene.control.OverrunStyle;
import javafx.scene.control.TextField;
import javafx.scene.control.Tooltip;
import javafx.scene.input.KeyCode;
import javafx.scene.input.KeyEvent;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.command.CommandProgress;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.door.DoorState;
import org.custodia.core.door.LockMode;
import org.custodia.core.event.Event;
import org.custodia.core.operator.Permission;
import org.custodia.core.site.Camera;
import org.custodia.core.site.Crop;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Side;
import org.custodia.core.site.SiteModel;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.picture.PicturePane;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.DoorSign;
import org.custodia.desktop.theme.PriorityMark;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;
import org.custodia.desktop.words.DoorWords;
import org.custodia.desktop.words.Names;

/** One door as a strip: its state at the left, its recent past in the middle, its picture at the right. */
final class StripView extends VBox {
    private static final Texts TEXTS = Texts.of(StripView.class);

    private static final Duration PROGRESS_SHOWN = Duration.ofSeconds(8);
    private static final Duration FAILURE_SHOWN = Duration.ofSeconds(40);

    private final WatchModel watch;
    private final Desk desk;
    private final StripModel strip;
    private final Theme theme;
    private final ZoneId zone;
    private final DoorSign sign;
    private final PriorityMark mark;
    private final Label headline = new Label();
    private final Label second = new Label();
    private final Tooltip secondTip = new Tooltip();
    private final Label progress = new Label();
    private final Button first = new Button();
    private final MenuButton more = new MenuButton(TEXTS.say("more"));
    private final HBox buttons = new HBox(6);
    private final HBox row = new HBox();
    /** Who came last, where there is no room for a picture. */
    private final Label lastWho = new Label();

    private final Label lastWhat = new Label();
    private final VBox lastLine = new VBox(lastWho, lastWhat);
    private StripSize size = StripSize.MIDDLE;
    private final StripLane lane;
    private final PicturePane pane;
    private final BiConsumer<StripView, Optional<Event>> played;
    private Deck deck;
    private DoorCommand firstCommand;
    /** Which moment's still frame was asked for last; nothing while live. */
    private Optional<Instant> stillAsked = Optional.empty();
    /** When to ask again, where it was not there yet or something better comes. */
    private Instant stillAgain = Instant.MAX;
    /** The places by which the camera was chosen. */
    private SiteModel pairedBy;

    private boolean seen;
    private final Label name = new Label();
    private final VBox side = new VBox();

    /**
     * @param played told when something begins to be played here, or with nothing when it ends
     */
    StripView(WatchModel watch, StripModel strip, Theme theme, BiConsumer<StripView, Optional<Event>> played) {
        this.watch = watch;
        this.desk = watch.desk();
        this.strip = strip;
        this.theme = theme;
        this.played = played;
        this.zone = desk.zone();
        this.sign = new DoorSign(theme, 26);
        this.mark = new PriorityMark(theme, 16);
        this.lane = new StripLane(desk.services(), theme, item -> play(item.event()));
        this.pane = new PicturePane(desk.services().pictures());
        getStyleClass().add("strip");
        setFocusTraversable(true);
        setAccessibleText(strip.door().name());
        doorSide();
        HBox.setHgrow(lane, Priority.ALWAYS);
        lane.setMinWidth(0);
        getChildren().add(row);
        usePairing();
        pane.setOnMouseClicked(e -> {
            requestFocus();
            if (e.isStillSincePress()) {
                playMoment(desk.shown().minusSeconds(desk.moment().get().isLive() ? 10 : 0));
            }
        });
        setOnContextMenuRequested(e -> {
            ContextMenu menu = new ContextMenu();
            menu.getItems().setAll(commands());
            menu.show(this, e.getScreenX(), e.getScreenY());
            e.consume();
        });
        addEventHandler(KeyEvent.KEY_PRESSED, this::key);
        strip.data().addListener((o, a, b) -> refresh());
        strip.live().addListener((o, a, b) -> refresh());
        strip.progress().addListener((o, a, b) -> refresh());
        arrange(watch.size().get());
    }

    private void doorSide() {
        name.setText(strip.door().name());
        name.getStyleClass().add("door-name");
        name.setTooltip(new Tooltip(strip.door().name()));
        headline.getStyleClass().add("headline");
        second.getStyleClass().add("secondary");
        second.setMinHeight(Region.USE_PREF_SIZE);
        second.setTooltip(secondTip);
        progress.getStyleClass().add("progress");
        progress.setWrapText(true);
        lastWho.getStyleClass().add("who");
        lastWhat.getStyleClass().add("secondary");
        lastLine.getStyleClass().add("strip-last");
        first.setOnAction(e -> {
            if (firstCommand != null) {
                desk.commands().act(strip.door(), firstCommand);
            }
        });
        more.setAccessibleText(TEXTS.say("more-commands", strip.door().name()));
        more.setOnShowing(e -> more.getItems().setAll(commands()));
        more.getItems().setAll(commands());
        side.getStyleClass().add("strip-door");
        side.setOnMouseClicked(e -> requestFocus());
    }

    /** Puts the parts where they are at a size. */
    private void arrange(StripSize to) {
        size = to;
        Region gap = new Region();
        HBox.setHgrow(gap, Priority.ALWAYS);
        buttons.getChildren().clear();
        name.setWrapText(to.roomy());
        headline.setWrapText(to.roomy());
        headline.setMinHeight(to.roomy() ? Region.USE_PREF_SIZE : 0);
        headline.setTextOverrun(OverrunStyle.ELLIPSIS);
        more.setText(to.roomy() ? TEXTS.say("more") : "…");
        if (to.roomy()) {
            HBox top = new HBox(8, sign, name, gap, mark);
            top.setAlignment(Pos.CENTER_LEFT);
            top.setMinHeight(0);
            HBox.setHgrow(name, Priority.SOMETIMES);
            Region room = new Region();
            VBox.setVgrow(room, Priority.ALWAYS);
            buttons.getChildren().setAll(first, more);
            buttons.setAlignment(Pos.TOP_LEFT);
            side.getChildren().setAll(top, headline, second, progress, room, buttons);
            row.getChildren().setAll(side, lane, pane);
        } else {
            VBox words = new VBox(name, headline, progress);
            words.setAlignment(Pos.CENTER_LEFT);
            words.setMinWidth(0);
            HBox.setHgrow(words, Priority.ALWAYS);
            buttons.getChildren().setAll(more);
            buttons.setAlignment(Pos.CENTER);
            HBox one = new HBox(8, sign, words, mark, buttons);
            one.setAlignment(Pos.CENTER_LEFT);
            VBox.setVgrow(one, Priority.ALWAYS);
            side.getChildren().setAll(one);
            row.getChildren().setAll(side, lane, lastLine);
        }
        side.getStyleClass().remove("tight");
        if (!to.roomy()) {
            side.getStyleClass().add("tight");
        }
        // A picture that is not there costs nothing.
        seen(seen);
        refresh();
    }

    /** Takes the camera that is paired with the door now; recorders may name theirs later than doors come. */
    private void usePairing() {
        SiteModel sites = desk.services().sites().get();
        if (sites == pairedBy) {
            return;
        }
        pairedBy = sites;
        DoorId door = strip.door().id();
        Optional<Pairing> pairing = sites.pairing(door, Side.ENTRY);
        Optional<Camera> camera = pairing.flatMap(p -> sites.camera(p.camera()));
        if (camera.isPresent()) {
            pane.camera(camera.get(), Deck.viewWord(pairing.get()), zone);
        } else {
            pane.none(WantedStill.whyNoCamera(sites, door));
        }
        stillAsked = Optional.empty();
        seen(seen);
    }

    /**
     * Takes the sizes of the theme's scale.
     *
     * @param width of the strip; its picture never takes more than a quarter of it
     */
    void fit(double width) {
        if (size != watch.size().get()) {
            arrange(watch.size().get());
        }
        double high = theme.px(size.height());
        double picture = Math.min(theme.px(size.pictureWidth()), Math.rint(width / 4));
        double door = theme.px(size.doorWidth());
        Region right = size.roomy() ? pane : lastLine;
        if (right.getMinWidth() == picture && side.getMinHeight() == high && side.getMinWidth() == door) {
            return;
        }
        right.setMinSize(picture, high);
        right.setPrefSize(picture, high);
        right.setMaxSize(picture, high);
        // Names of any length leave the state and the buttons in their places.
        name.setMaxHeight(theme.px(size.roomy() ? 40 : 20));
        headline.setMaxHeight(theme.px(size.roomy() ? 40 : 19));
        side.setMinSize(door, high);
        side.setPrefSize(door, high);
        side.setMaxSize(door, high);
        lane.requestLayout();
    }

    StripModel strip() {
        return strip;
    }

    Optional<Deck> deck() {
        return Optional.ofNullable(deck);
    }

    StripLane lane() {
        return lane;
    }

    /** Whether a picture is there to be seen. */
    boolean showsPicture() {
        return size.roomy() && pane.hasPicture();
    }

    /** Draws again what moves with time. */
    void tick() {
        refresh();
    }

    private boolean looksBack() {
        return !desk.moment().get().isLive();
    }

    private void refresh() {
        usePairing();
        Instant shown = desk.shown();
        DoorState state =
                looksBack() ? strip.data().get().state() : strip.live().get();
        sign.show(state);
        sign.setAccessibleText(state.position().name() + " " + DoorWords.lock(state.lock()));
        mark.show(state.priority());
        Optional<String> notYet =
                state.equals(DoorState.UNKNOWN) ? desk.live().notKnownYet(strip.door()) : Optional.empty();
        headline.getStyleClass().removeAll("urgent", "caution");
        if (state.forcedSince().isPresent()) {
            headline.getStyleClass().add("urgent");
        } else if (state.heldSince().isPresent()) {
            headline.getStyleClass().add("caution");
        }
        String why = strip.shownFor().get();
        String next = notYet.or(() -> DoorWords.second(state, strip.door(), shown, zone))
                .orElse("");
        if (looksBack()) {
            String now = DoorWords.headline(strip.live().get(), desk.now(), zone);
            boolean same = now.equals(DoorWords.headline(state, shown, zone));
            // Where there is one line only, what has not changed since need not be said.
            next = same && !size.roomy() ? "" : TEXTS.say("now-is", now);
        }
        String there = there(shown);
        // Where there is one line only, how it stands comes first and the time there last.
        String line = (why.isEmpty() ? next : why) + (size.roomy() ? there : "");
        if (!line.equals(second.getText())) {
            second.setText(line);
            headline.setTooltip(size.roomy() ? null : secondTip);
            secondTip.setText(next + (why.isEmpty() ? "" : ", " + why) + there);
        }
        String head = DoorWords.headline(state, shown, zone) + (size.roomy() || line.isEmpty() ? "" : " · " + line);
        if (!head.equals(headline.getText())) {
            headline.setText(head);
        }
        showProgress();
        showButtons();
        lane.show(
                strip.data().get(),
                shown,
                watch.span().get(),
                desk.zone(),
                desk.live().notKnownYet(strip.door()),
                Optional.ofNullable(deck).flatMap(Deck::position),
                size);
        if (!size.roomy()) {
            showLast();
        } else if (looksBack()) {
            showStill(shown);
        }
    }

    private void showLast() {
        List<StripItem> items = strip.data().get().items();
        Optional<StripItem> last = items.isEmpty() ? Optional.empty() : Optional.of(items.get(items.size() - 1));
        lastWho.setText(last.map(StripItem::who).orElse(""));
        lastWhat.setText(
                last.map(i -> ClockWords.clock(i.at(), zone) + " " + i.result()).orElse(""));
    }

    /** The time at the door itself, where that is not the desk's. */
    private String there(Instant shown) {
        ZoneId door = desk.services().sites().get().zoneOf(strip.door().id());
        boolean same = door.getRules().getOffset(shown).equals(zone.getRules().getOffset(shown));
        return same ? "" : " " + TEXTS.say("there", DoorWords.clock(shown, shown, door));
    }

    private void showProgress() {
        Optional<CommandProgress> p = strip.progress().get().filter(c -> {
            Duration age = Duration.between(c.since(), desk.now());
            return switch (c.stage()) {
                case SENT -> true;
                case CONFIRMED -> age.compareTo(PROGRESS_SHOWN) < 0;
                case FAILED, NOT_KNOWN -> age.compareTo(FAILURE_SHOWN) < 0;
            };
        });
        progress.setWrapText(size.roomy());
        progress.setText(p.map(c -> DoorWords.progress(c, desk.now(), zone)).orElse(""));
        progress.setVisible(p.isPresent());
        progress.setManaged(p.isPresent());
        second.setVisible(p.isEmpty());
        second.setManaged(p.isEmpty());
        // Where there is one line only it says how the command goes.
        boolean stateToo = p.isEmpty() || size.roomy();
        headline.setVisible(stateToo);
        headline.setManaged(stateToo);
        progress.getStyleClass().removeAll("caution", "accented");
        p.ifPresent(c -> progress.getStyleClass()
                .add(
                        c.stage() == CommandProgress.Stage.FAILED || c.stage() == CommandProgress.Stage.NOT_KNOWN
                                ? "caution"
                                : "accented"));
    }

    /** The command that fits best stands alone; the others are under More. */
    private void showButtons() {
        DoorState now = strip.live().get();
        boolean needsLock = now.lock() == LockMode.UNLOCKED
                || now.heldSince().isPresent()
                || now.forcedSince().isPresent();
        DoorCommand wanted = needsLock ? new DoorCommand.LockNow() : new DoorCommand.LetThrough();
        List<DoorCommand> offered = desk.commands().offered(strip.door());
        firstCommand = offered.stream()
                .filter(c -> c.getClass().equals(wanted.getClass()))
                .findFirst()
                .or(() -> offered.stream().findFirst())
                .orElse(null);
        boolean any = firstCommand != null;
        buttons.setVisible(any);
        if (any) {
            String text = Names.command(firstCommand);
            if (!text.equals(first.getText())) {
                first.setText(text);
                first.setAccessibleText(text + ", " + strip.door().name());
            }
        }
    }

    private List<MenuItem> commands() {
        List<MenuItem> items = new ArrayList<>();
        Door door = strip.door();
        for (DoorCommand command : desk.commands().offered(strip.door())) {
            if (command instanceof DoorCommand.LeaveUnlocked && door.can(DoorCapability.UNTIL)) {
                Menu menu = new Menu(TEXTS.say("leave-unlocked"));
                menu.getItems().add(item(TEXTS.say("until-told"), command));
                for (int minutes : new int[] {5, 15, 30, 60, 120}) {
                    Instant until = desk.now().plus(Duration.ofMinutes(minutes));
                    menu.getItems()
                            .add(item(
                                    TEXTS.say(
                                            "until",
                                            DoorWords.clock(until, desk.now(), zone),
                                            DoorWords.span(Duration.ofMinutes(minutes))),
                                    new DoorCommand.LeaveUnlocked(Optional.of(until))));
                }
                menu.getItems().add(untilTyped(door));
                items.add(menu);
            } else {
                items.add(item(Names.command(command) + key(command), command));
            }
        }
        if (items.isEmpty()) {
            MenuItem none = new MenuItem(whyNone(door));
            none.setDisable(true);
            items.add(none);
        }
        return items;
    }

    private String whyNone(Door door) {
        boolean may = desk.services().actor().may(Permission.ACT_ON_DOORS, door.site());
        return may
                ? TEXTS.say("no-commands")
                : TEXTS.say("may-not-act", desk.services().actor().name());
    }

    /** A time of one's own: the next time the clock shows it. */
    private CustomMenuItem untilTyped(Door door) {
        TextField time = new TextField();
        time.setPromptText(TEXTS.say("until-typed"));
        time.setAccessibleText(TEXTS.say("until-typed-spoken"));
        CustomMenuItem item = new CustomMenuItem(time, false);
        time.setOnAction(e -> {
            Optional<Instant> until = nextTime(time.getText().trim(), desk.now(), zone);
            if (until.isEmpty()) {
                time.clear();
                time.setPromptText(TEXTS.say("a-time"));
                return;
            }
            more.hide();
            if (item.getParentPopup() != null) {
                item.getParentPopup().hide();
            }
            desk.commands().act(door, new DoorCommand.LeaveUnlocked(until));
        });
        return item;
    }

    /** When the clock next shows a time such as "16:45"; nothing if the words are no time. */
    static Optional<Instant> nextTime(String words, Instant now, ZoneId zone) {
        try {
            LocalTime time = LocalTime.parse(words.length() == 4 ? "0" + words : words);
            ZonedDateTime local = now.atZone(zone);
            ZonedDateTime at = local.with(time);
            return Optional.of((at.isAfter(local) ? at : at.plusDays(1)).toInstant());
        } catch (DateTimeParseException e) {
            return Optional.empty();
        }
    }

    private static String key(DoorCommand command) {
        return switch (command.word()) {
            case "let-through" -> "   L";
            case "leave-unlocked" -> "   U";
            case "lock" -> "   K";
            default -> "   B";
        };
    }

    private MenuItem item(String text, DoorCommand command) {
        MenuItem item = new MenuItem(text);
        item.setOnAction(e -> desk.commands().act(strip.door(), command));
        return item;
    }

    private void key(KeyEvent e) {
        if (e.isControlDown() || e.isAltDown() || e.isMetaDown()) {
            return;
        }
        switch (e.getCode()) {
            case L -> act(new DoorCommand.LetThrough());
            case U -> act(new DoorCommand.LeaveUnlocked(Optional.empty()));
            case K -> act(new DoorCommand.LockNow());
            case B -> act(new DoorCommand.BackToTimetable());
            case LEFT, RIGHT -> moveAlong(e.getCode() == KeyCode.LEFT ? -1 : 1);
            case ENTER -> newestCard().ifPresent(c -> play(c.card().face().event()));
            case SPACE -> deck().ifPresent(Deck::togglePlay);
            case COMMA -> deck().ifPresent(d -> d.step(-1));
            case PERIOD -> deck().ifPresent(d -> d.step(1));
            case OPEN_BRACKET -> deck().ifPresent(d -> d.jump(Duration.ofMinutes(-1)));
            case CLOSE_BRACKET -> deck().ifPresent(d -> d.jump(Duration.ofMinutes(1)));
            default -> {
                return;
            }
        }
        e.consume();
    }

    private void act(DoorCommand command) {
        if (desk.commands().offered(strip.door()).stream()
                .anyMatch(c -> c.getClass().equals(command.getClass()))) {
            desk.commands().act(strip.door(), command);
        }
    }

    private Optional<CardView> newestCard() {
        List<CardView> all = lane.cards();
        return all.isEmpty() ? Optional.empty() : Optional.of(all.get(all.size() - 1));
    }

    private void moveAlong(int by) {
        List<CardView> all = lane.cards();
        if (all.isEmpty()) {
            return;
        }
        int at = -1;
        for (int i = 0; i < all.size(); i++) {
            if (all.get(i).isFocused()) {
                at = i;
            }
        }
        int next = at < 0 ? all.size() - 1 : Math.max(0, Math.min(all.size() - 1, at + by));
        all.get(next).requestFocus();
    }

    /** Plays an event of this door in this strip. */
    void play(Event event) {
        openDeck(Optional.of(event), event.time());
        played.accept(this, Optional.of(event));
    }

    /** Shows a moment of this door in this strip, to be played from there. */
    void playMoment(Instant at) {
        openDeck(Optional.empty(), at);
        played.accept(this, Optional.empty());
    }

    private void openDeck(Optional<Event> event, Instant at) {
        dropDeck();
        deck = new Deck(desk.services(), theme, desk.words(), strip.door(), event, at, zone, this::stopPlaying);
        getChildren().add(deck);
    }

    private void dropDeck() {
        if (deck != null) {
            deck.close();
            getChildren().remove(deck);
            deck = null;
        }
    }

    /** Back to live. */
    void stopPlaying() {
        if (deck != null) {
            dropDeck();
            watch.playedAt(strip.door().id());
            Platform.runLater(this::requestFocus);
        }
    }

    /** Whether the strip is in view; its live picture runs only while it is. */
    void seen(boolean visible) {
        seen = visible;
        if (!looksBack()) {
            stillAsked = Optional.empty();
            pane.live();
        }
        pane.seen(visible && size.roomy() && !looksBack());
    }

    /** While looking back the picture is a still frame of that instant. */
    private void showStill(Instant shown) {
        if (!pane.isRecorded()) {
            pane.recorded();
        }
        boolean asked = stillAsked.equals(Optional.of(shown)) && desk.now().isBefore(stillAgain);
        if (!seen || asked) {
            return;
        }
        stillAsked = Optional.of(shown);
        stillAgain = Instant.MAX;
        PicturePane.Source screen = pane.recorded();
        Optional<Pairing> pairing =
                desk.services().sites().get().pairing(strip.door().id(), Side.ENTRY);
        pairing.flatMap(p -> desk.services().sites().get().camera(p.camera()))
                .map(camera -> new WantedStill(camera, Crop.WHOLE, shown))
                .ifPresent(w -> w.fetch(desk.services(), (int) theme.px(size.height()), got -> {
                    if (stillAsked.equals(Optional.of(shown))) {
                        takeStill(w, screen, got);
                    }
                }));
    }

    private void takeStill(WantedStill w, PicturePane.Source screen, WantedStill.Got got) {
        got.again().ifPresent(t -> stillAgain = t);
        got.still()
                .ifPresentOrElse(
                        still -> screen.frame(still.picture()),
                        () -> screen.explain(
                                TEXTS.say("no-picture"),
                                PicturePane.why(
                                        w.footage(desk.services()),
                                        TEXTS.say("none-of-that-moment"),
                                        zone,
                                        desk.now())));
    }

    void close() {
        dropDeck();
        pane.close();
    }
}
