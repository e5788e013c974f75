package org.custodia.desktop.watch;

import java.time.Duration;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import javafx.animation.Animation;
import javafx.animation.KeyFrame;
import javafx.animation.Timeline;
import javafx.application.Platform;
import javafx.collections.ListChangeListener;
import javafx.geometry.Bounds;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.MenuButton;
import javafx.scene.control.MenuItem;
import javafx.scene.control.ScrollPane;
import javafx.scene.input.KeyCode;
import javafx.scene.input.KeyCodeCombination;
import javafx.scene.input.KeyCombination;
import javafx.scene.layout.BorderPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.event.Event;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.workplace.Sight;
import org.custodia.desktop.control.Pointing;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.desk.MainView;
import org.custodia.desktop.desk.Playing;
import org.custodia.desktop.desk.Shortcut;
import org.custodia.desktop.desk.ViewContext;
import org.custodia.desktop.doorstep.Doorstep;
import org.custodia.desktop.panel.Panels;
import org.custodia.desktop.play.Deck;
import org.custodia.desktop.strip.StripSize;
import org.custodia.desktop.strip.TimeAxis;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;

/** Watch, shown as strips. */
public final class WatchView extends BorderPane implements MainView {
    private static final Texts TEXTS = Texts.of(WatchView.class);

    /** How the shell knows it. */
    public static final MainView.Plug PLUG = new MainView.Plug(
            () -> TEXTS.say("watch"),
            () -> List.of(TEXTS.say("watch-words").split(", ")),
            "M1 9 C5 3 15 3 19 9 C15 15 5 15 1 9 Z M10 5.6 A3.4 3.4 0 1 0 10 12.4 A3.4 3.4 0 1 0 10 5.6 Z M10 7.6 A1.4 1.4 0 1 1 10 10.4 A1.4 1.4 0 1 1 10 7.6 Z",
            new KeyCodeCombination(KeyCode.DIGIT1, KeyCombination.CONTROL_DOWN),
            WatchView::keys,
            WatchView::new);

    private static List<Shortcut> keys() {
        String strip = TEXTS.say("on-a-strip");
        String playing = TEXTS.say("while-playing");
        return List.of(
                new Shortcut(TEXTS.say("enter-key"), TEXTS.say("key-play"), TEXTS.say("on-a-strip-or-arrival")),
                new Shortcut("← →", TEXTS.say("key-stills"), strip),
                new Shortcut(TEXTS.say("door-key", "L"), TEXTS.say("key-let-through"), strip),
                new Shortcut(TEXTS.say("door-key", "U"), TEXTS.say("key-unlock"), strip),
                new Shortcut(TEXTS.say("door-key", "K"), TEXTS.say("key-lock"), strip),
                new Shortcut(TEXTS.say("door-key", "B"), TEXTS.say("key-timetable"), strip),
                new Shortcut(TEXTS.say("space-key"), TEXTS.say("key-pause"), playing),
                new Shortcut(TEXTS.say("frame-keys"), TEXTS.say("key-frames"), playing),
                new Shortcut(TEXTS.say("minute-keys"), TEXTS.say("key-minutes"), playing),
                new Shortcut("← →", TEXTS.say("key-moment"), TEXTS.say("on-the-day-line")));
    }

    private static final javafx.util.Duration TICK = javafx.util.Duration.millis(250);
    private static final double SIDE = 316;
    private static final double WIDE_SIDE = 380;
    private static final double MOST_FOR_SIDE = 0.36;

    private final Desk desk;
    private final WatchModel watch;
    private final Theme theme;
    private final Ruler ruler;
    private final DayLine dayLine;
    private final Doorstep doorstep;
    private final ArrivalsView arrivals;
    private final Label count = new Label();
    private final MenuButton span = new MenuButton();
    private final MenuButton size = new MenuButton();
    private final Timeline ticker;
    /** Names the doors waiting to move to the top; pressing it moves them. */
    private final Button waiting = new Button();

    private final Label none = new Label();
    private final StripColumn column = new StripColumn(this::make, this::inView, none);
    private final ScrollPane scroll = new ScrollPane(column);
    private Optional<DoorId> top = Optional.empty();
    private List<DoorId> atTop = List.of();
    private boolean inSight;

    private WatchView(ViewContext context) {
        this.desk = context.desk();
        this.theme = context.theme();
        this.watch = new WatchModel(desk, () -> !context.panels().isOpen() && !Pointing.at(scroll));
        // Until it is shown nobody looks.
        watch.inSight(false);
        Panels panels = context.panels();
        this.ruler = new Ruler(theme);
        this.dayLine = new DayLine(desk, theme);
        this.doorstep = new Doorstep(desk, theme);
        this.arrivals = new ArrivalsView(watch, theme, this::play);
        count.getStyleClass().add("muted");
        Label title = new Label(TEXTS.say("strips"));
        title.getStyleClass().add("large");
        Region gap = new Region();
        HBox.setHgrow(gap, Priority.ALWAYS);
        Button choose = new Button(TEXTS.say("choose-doors"));
        choose.setOnAction(e -> panels.open(new DoorChooser(watch, panels::close)));
        for (Duration d : TimeAxis.SPANS) {
            MenuItem item = new MenuItem(TimeAxis.words(d));
            item.setOnAction(e -> watch.span().set(d));
            span.getItems().add(item);
        }
        span.setAccessibleText(TEXTS.say("axis-length"));
        for (StripSize s : StripSize.values()) {
            MenuItem item = new MenuItem(s.words());
            item.setOnAction(e -> watch.size().set(s));
            size.getItems().add(item);
        }
        size.setAccessibleText(TEXTS.say("strip-room"));
        Runnable nameSize = () -> size.setText(watch.size().get().words());
        nameSize.run();
        // Where there is little room words give way, and what can be worked does not.
        for (Region fixed : List.of(choose, size, span)) {
            fixed.setMinWidth(Region.USE_PREF_SIZE);
        }
        title.setMinWidth(0);
        count.setMinWidth(0);
        waiting.getStyleClass().add("new-items");
        waiting.setMinWidth(0);
        waiting.managedProperty().bind(waiting.visibleProperty());
        waiting.setOnAction(e -> {
            watch.arrangeNow();
            scroll.setVvalue(0);
        });
        HBox bar = new HBox(title, count, waiting, gap, choose, size, span);
        bar.getStyleClass().add("view-bar");
        scroll.setFitToWidth(true);
        scroll.vvalueProperty().addListener((o, a, b) -> lookThrough());
        scroll.viewportBoundsProperty().addListener((o, a, b) -> lookThrough());
        column.heightProperty().addListener((o, a, b) -> lookThrough());
        scroll.setHbarPolicy(ScrollPane.ScrollBarPolicy.NEVER);
        scroll.getStyleClass().add("strips");
        scroll.setFocusTraversable(false);
        none.getStyleClass().add("empty");
        none.setMaxWidth(Double.MAX_VALUE);
        VBox.setVgrow(scroll, Priority.ALWAYS);
        VBox middle = new VBox(bar, ruler, scroll, dayLine);
        middle.setMinSize(0, 0);
        VBox side = new VBox(doorstep, arrivals);
        side.getStyleClass().add("side");
        VBox.setVgrow(arrivals, Priority.ALWAYS);
        side.setMinHeight(0);
        setCenter(middle);
        setRight(side);
        watch.strips().addListener((ListChangeListener<StripModel>) c -> arrangeStrips());
        watch.waiting().addListener((o, a, b) -> sayWaiting());
        sayWaiting();
        watch.span().addListener((o, a, b) -> tick());
        watch.size().addListener((o, a, b) -> {
            nameSize.run();
            tick();
        });
        desk.moment().addListener((o, a, b) -> {
            tick();
            sayWaiting();
        });
        desk.playing().addListener((o, before, now) -> played(before, now));
        theme.looks().addListener((o, a, b) -> tick());
        Runnable fit = () -> {
            double wide = sideWidth();
            side.setMinWidth(wide);
            side.setPrefWidth(wide);
            side.setMaxWidth(wide);
        };
        widthProperty().addListener((o, a, b) -> fit.run());
        theme.looks().addListener((o, a, b) -> fit.run());
        ticker = new Timeline(new KeyFrame(TICK, e -> tick()));
        ticker.setCycleCount(Animation.INDEFINITE);
        arrangeStrips();
        ticker.play();
    }

    private double sideWidth() {
        return Math.min(theme.px(getWidth() > 1600 ? WIDE_SIDE : SIDE), Math.rint(getWidth() * MOST_FOR_SIDE));
    }

    private StripView make(StripModel strip) {
        return new StripView(watch, strip, theme, () -> column.justMoved(strip));
    }

    private void inView(Set<StripModel> now) {
        watch.inView(now);
    }

    private void lookThrough() {
        double height = scroll.getViewportBounds().getHeight();
        column.inView(scroll.getVvalue() * Math.max(0, column.getHeight() - height), height);
        sayWaiting();
    }

    /** Names the doors that need attention and are not in view: they wait to move to the top, or are there already. */
    private void sayWaiting() {
        SiteModel sites = desk.services().sites().get();
        // Looking back, the bar that says so names the doors that need attention now.
        List<DoorId> needing = desk.moment().get().isLive() ? watch.needing() : List.of();
        Set<DoorId> above = column.above();
        List<Door> doors = Stream.concat(
                        needing.stream().filter(above::contains).flatMap(d -> sites.door(d).stream()),
                        watch.waiting().get().stream())
                .distinct()
                .toList();
        waiting.setVisible(!doors.isEmpty());
        waiting.setText(
                doors.isEmpty()
                        ? ""
                        : doors.size() == 1
                                ? TEXTS.say("waits-one", doors.get(0).name())
                                : TEXTS.say("waits-more", doors.size()));
    }

    private void arrangeStrips() {
        Optional<DoorId> before = top;
        top = watch.strips().stream().findFirst().map(s -> s.door().id());
        boolean moreNeed = !atTop.containsAll(watch.needing());
        atTop = watch.needing();
        column.strips(watch.strips());
        // Scroll to the door that moved to the top; the operator is not pointing at the list.
        if (before.isPresent()
                && (moreNeed || !before.equals(top))
                && desk.playing().get().isEmpty()) {
            scroll.setVvalue(0);
        }
        sayWaiting();
        // A door that is gone cannot be played.
        desk.playing()
                .get()
                .filter(p -> desk.services().sites().get().door(p.door()).isEmpty())
                .ifPresent(p -> Platform.runLater(desk::stopPlaying));
        if (watch.strips().isEmpty()) {
            boolean known = !desk.services().sites().get().doors().isEmpty();
            boolean permitted = desk.services().workplace().permit().seesSomewhere(Sight.PLACES);
            none.setText(
                    known
                            ? TEXTS.say("none-on-watch")
                            : !permitted
                                    ? TEXTS.say(
                                            "may-see-nothing",
                                            desk.services().actor().name())
                                    : TEXTS.say("no-doors-yet"));
        }
        tick();
    }

    /** Opens the deck of what is played now, where this view is the one to show it, and closes the one before. */
    private void played(Optional<Playing> before, Optional<Playing> now) {
        before.ifPresent(p -> {
            Optional<StripView> strip = column.of(p.door());
            strip.ifPresent(StripView::closeDeck);
            watch.playedAt(p.door());
            if (now.isEmpty()) {
                Platform.runLater(() -> strip.ifPresent(Node::requestFocus));
            }
        });
        if (inSight) {
            now.ifPresent(p -> bringIn(p.door()).ifPresent(v -> {
                v.openDeck(p);
                Platform.runLater(() -> reveal(v));
            }));
        }
    }

    private void reveal(StripView view) {
        // What was just opened has no height before it is laid out.
        scroll.applyCss();
        scroll.layout();
        double height = column.getHeight() - scroll.getViewportBounds().getHeight();
        if (height > 0) {
            double top = view.getBoundsInParent().getMinY();
            double bottom = view.getBoundsInParent().getMaxY();
            double from = scroll.getVvalue() * height;
            double to = from + scroll.getViewportBounds().getHeight();
            if (top < from || bottom > to) {
                scroll.setVvalue(Math.min(1, top / height));
            }
        }
    }

    /** Plays an event in its door's strip, which is brought in if it is not there. */
    @Override
    public boolean play(Event event) {
        Optional<DoorId> door = event.door().filter(d -> bringIn(d).isPresent());
        // It comes into sight for that.
        if (door.isPresent() && !inSight) {
            inSight = true;
            watch.inSight(true);
        }
        door.ifPresent(d -> desk.play(d, event));
        return door.isPresent();
    }

    private Optional<StripView> bringIn(DoorId door) {
        return column.of(door).or(() -> {
            watch.showToPlay(door);
            return column.of(door);
        });
    }

    /** Brings a door's strip in and points at it. */
    @Override
    public boolean show(DoorId door) {
        Optional<StripView> strip = bringIn(door);
        strip.ifPresent(v -> {
            v.requestFocus();
            reveal(v);
        });
        return strip.isPresent();
    }

    @Override
    public Node node() {
        return this;
    }

    @Override
    public void inSight(boolean now) {
        inSight = now;
        watch.inSight(now);
        tick();
    }

    @Override
    public String whileLookingBack() {
        return TEXTS.say("commands-act-now");
    }

    @Override
    public void placesChanged() {
        watch.placesChanged();
        arrivals.placesChanged();
    }

    /** One step back: playing ends. */
    @Override
    public boolean back() {
        if (deck().isEmpty()) {
            return false;
        }
        desk.stopPlaying();
        desk.doorstep().unpin();
        return true;
    }

    /** What it shows. */
    public WatchModel model() {
        return watch;
    }

    private void tick() {
        watch.tick();
        if (!inSight) {
            column.made().forEach(v -> v.seen(false));
            return;
        }
        // A line lies under each strip.
        column.row(theme.px(watch.size().get().height()) + 1);
        // A strip that was just made takes all the width until it is fitted.
        double lane = column.made().stream()
                .mapToDouble(v -> v.lane().getWidth())
                .filter(w -> w > 0)
                .min()
                .orElse(400);
        ruler.show(
                desk.shown(),
                watch.span().get(),
                desk.zone(),
                theme.px(watch.size().get().doorWidth()),
                lane,
                desk.moment().get().isLive());
        dayLine.tick();
        doorstep.tick();
        arrivals.tick();
        String words = TimeAxis.words(watch.span().get());
        if (!words.equals(span.getText())) {
            span.setText(words);
        }
        int all = desk.services().sites().get().doors().size();
        long pulled = watch.strips().stream()
                .filter(s -> !s.shownFor().get().isEmpty())
                .count();
        String how = TEXTS.say(
                pulled > 0 ? "on-watch-more" : "on-watch", watch.onWatch().size(), all, pulled);
        if (!how.equals(count.getText())) {
            count.setText(how);
        }
        boolean windowSeen = getScene() != null
                && getScene().getWindow() != null
                && getScene().getWindow().isShowing()
                && !(getScene().getWindow() instanceof javafx.stage.Stage s && s.isIconified());
        Bounds viewport = scroll.localToScene(scroll.getBoundsInLocal());
        double width = scroll.getViewportBounds().getWidth();
        column.made().forEach(v -> {
            v.fit(width);
            Bounds b = v.localToScene(v.getBoundsInLocal());
            v.seen(windowSeen && b != null && viewport != null && b.intersects(viewport));
            v.tick();
        });
    }

    /** How many strips show a live picture. */
    public long livePictures() {
        return column.made().stream().filter(StripView::showsPicture).count();
    }

    private Optional<Deck> deck() {
        return desk.playing().get().flatMap(p -> column.of(p.door())).flatMap(StripView::deck);
    }

    /** Whether something is played and its picture is there. */
    public boolean playingShowsPicture() {
        return deck().filter(Deck::hasPicture).isPresent();
    }

    /** Whether the doorstep shows both faces. */
    public boolean doorstepComplete() {
        return doorstep.bothFaces();
    }

    @Override
    public void close() {
        ticker.stop();
        column.close();
        arrivals.close();
        watch.close();
    }
}
