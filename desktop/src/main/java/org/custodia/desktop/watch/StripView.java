package org.custodia.desktop.watch;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;
import java.util.function.BooleanSupplier;
import javafx.beans.value.ChangeListener;
import javafx.css.PseudoClass;
import javafx.geometry.Pos;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.MenuButton;
import javafx.scene.control.OverrunStyle;
import javafx.scene.control.Tooltip;
import javafx.scene.input.KeyCode;
import javafx.scene.input.KeyEvent;
import javafx.scene.input.MouseEvent;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.command.CommandProgress;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.door.DoorState;
import org.custodia.core.event.Event;
import org.custodia.core.site.Camera;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Side;
import org.custodia.core.site.SiteModel;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.desk.Playing;
import org.custodia.desktop.door.DoorCommandMenu;
import org.custodia.desktop.picture.PicturePane;
import org.custodia.desktop.picture.WantedStill;
import org.custodia.desktop.play.Deck;
import org.custodia.desktop.strip.CardView;
import org.custodia.desktop.strip.StripData;
import org.custodia.desktop.strip.StripItem;
import org.custodia.desktop.strip.StripLane;
import org.custodia.desktop.strip.StripSize;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.DoorSign;
import org.custodia.desktop.theme.PriorityMark;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;
import org.custodia.desktop.words.DoorWords;
import org.custodia.desktop.words.Names;

/** One door as a strip: its state at the left, its recent past in the middle, its picture at the right. */
final class StripView extends VBox {
    private static final PseudoClass MOVED = PseudoClass.getPseudoClass("moved");
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
    private final DoorCommandMenu menu;
    private final EarlierItems earlier;
    private Deck deck;
    private Optional<DoorCommand> firstCommand = Optional.empty();
    /** The places by which the camera was chosen. */
    private SiteModel pairedBy;

    private String pairedAs = "";

    /** Taken away again at the end, since the model outlives its views. */
    private final ChangeListener<Object> changed = (o, a, b) -> refresh();

    private final BooleanSupplier justMoved;
    private boolean seen;
    private final Label name = new Label();
    private final VBox side = new VBox();

    /** @param justMoved whether the strip has just changed its place, so that a press was meant for another */
    StripView(WatchModel watch, StripModel strip, Theme theme, BooleanSupplier justMoved) {
        this.watch = watch;
        this.desk = watch.desk();
        this.justMoved = justMoved;
        this.strip = strip;
        this.theme = theme;
        this.menu = new DoorCommandMenu(desk, strip.door());
        this.earlier = new EarlierItems(desk, strip.door().id());
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
                int back = desk.moment().get().isLive() ? 10 : 0;
                desk.playMoment(strip.door().id(), desk.shown().minusSeconds(back));
            }
        });
        addEventFilter(MouseEvent.MOUSE_PRESSED, e -> {
            if (justMoved.getAsBoolean()) {
                e.consume();
            }
        });
        setOnContextMenuRequested(e -> {
            menu.showAt(this, e.getScreenX(), e.getScreenY());
            e.consume();
        });
        addEventHandler(KeyEvent.KEY_PRESSED, this::key);
        strip.data().addListener(changed);
        strip.live().addListener(changed);
        strip.progress().addListener(changed);
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
        first.setOnAction(e -> firstCommand.ifPresent(menu::act));
        more.setAccessibleText(TEXTS.say("more-commands", strip.door().name()));
        more.setOnShowing(e -> more.getItems().setAll(menu.items()));
        more.getItems().setAll(menu.items());
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
        DoorId door = strip.door().id();
        Optional<Pairing> pairing = sites.pairing(door, Side.ENTRY);
        String called = pairing.map(desk::called).orElse("");
        if (sites == pairedBy && called.equals(pairedAs)) {
            return;
        }
        pairedBy = sites;
        pairedAs = called;
        Optional<Camera> camera = pairing.flatMap(p -> sites.camera(p.camera()));
        if (camera.isPresent()) {
            pane.camera(camera.get(), called, zone);
        } else {
            pane.none(WantedStill.whyNoCamera(sites, door));
        }
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
        pseudoClassStateChanged(MOVED, justMoved.getAsBoolean());
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
        String head = size.roomy()
                ? DoorWords.headline(state, shown, zone)
                : DoorWords.shortHeadline(state, shown, zone) + (line.isEmpty() ? "" : " · " + line);
        if (!head.equals(headline.getText())) {
            headline.setText(head);
        }
        showProgress();
        showButtons();
        StripData data = strip.data().get();
        boolean empty = data.isEmpty() && !data.loading() && data.failure().isEmpty() && strip.isRead();
        earlier.tick(seen && empty, watch.span().get());
        lane.show(
                strip.data().get(),
                shown,
                watch.span().get(),
                desk.zone(),
                desk.live().notKnownYet(strip.door()),
                Optional.ofNullable(deck).flatMap(Deck::position),
                earlier.items().get(),
                size);
        if (!size.roomy()) {
            showLast(shown);
        } else if (looksBack()) {
            pane.stillOf(shown, (int) theme.px(size.height()));
        }
    }

    private void showLast(Instant shown) {
        List<StripItem> items = strip.data().get().items();
        Optional<StripItem> last =
                items.isEmpty() ? earlier.items().get().stream().findFirst() : Optional.of(items.get(items.size() - 1));
        lastWho.setText(last.map(StripItem::who).orElse(""));
        boolean soFar = desk.readsHistory();
        String key = soFar ? "last-what-so-far" : "last-what";
        // Of what is long past the minute will do, so that the result fits beside it.
        lastWhat.setText(last.map(i -> TEXTS.say(
                        key,
                        items.isEmpty()
                                ? ClockWords.datedMinute(i.at(), shown, zone)
                                : ClockWords.dated(i.at(), shown, zone),
                        i.result()))
                .orElse(""));
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
                case ACCEPTED, SENT -> true;
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
        progress.getStyleClass().remove("caution");
        if (p.filter(c -> c.stage() == CommandProgress.Stage.FAILED || c.stage() == CommandProgress.Stage.NOT_KNOWN)
                .isPresent()) {
            progress.getStyleClass().add("caution");
        }
    }

    /** The command that fits best stands alone; the others are under More. */
    private void showButtons() {
        firstCommand = menu.fitting(strip.live().get());
        buttons.setVisible(firstCommand.isPresent());
        firstCommand.map(Names::command).filter(t -> !t.equals(first.getText())).ifPresent(t -> {
            first.setText(t);
            first.setAccessibleText(t + ", " + strip.door().name());
        });
    }

    private void key(KeyEvent e) {
        if (menu.key(e)) {
            e.consume();
            return;
        }
        if (e.isControlDown() || e.isAltDown() || e.isMetaDown()) {
            return;
        }
        if (deck != null && deck.key(e)) {
            e.consume();
            return;
        }
        switch (e.getCode()) {
            case LEFT, RIGHT -> moveAlong(e.getCode() == KeyCode.LEFT ? -1 : 1);
            case ENTER -> newestCard().ifPresent(c -> play(c.card().face().event()));
            default -> {
                return;
            }
        }
        e.consume();
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

    /** Plays an event of this door. */
    private void play(Event event) {
        desk.play(strip.door().id(), event);
    }

    /** Opens the deck in which something is played. */
    void openDeck(Playing playing) {
        closeDeck();
        deck = new Deck(desk, theme, strip.door(), playing);
        getChildren().add(deck);
    }

    /** Back to live. */
    void closeDeck() {
        if (deck != null) {
            deck.close();
            getChildren().remove(deck);
            deck = null;
        }
    }

    /** Whether the strip is in view; its live picture runs only while it is. */
    void seen(boolean visible) {
        seen = visible;
        if (!looksBack()) {
            pane.live();
        }
        pane.seen(visible && size.roomy());
    }

    void close() {
        strip.data().removeListener(changed);
        strip.live().removeListener(changed);
        strip.progress().removeListener(changed);
        closeDeck();
        pane.close();
    }
}
