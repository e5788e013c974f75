package org.custodia.desktop.shell;

import java.time.Instant;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import javafx.animation.Animation;
import javafx.animation.KeyFrame;
import javafx.animation.Timeline;
import javafx.geometry.Pos;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.ListView;
import javafx.scene.control.TextInputControl;
import javafx.scene.control.ToggleButton;
import javafx.scene.control.Tooltip;
import javafx.scene.input.KeyEvent;
import javafx.scene.input.MouseEvent;
import javafx.scene.layout.BorderPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.StackPane;
import javafx.scene.layout.VBox;
import javafx.scene.shape.SVGPath;
import javafx.stage.Stage;
import javafx.stage.Window;
import org.custodia.core.event.Event;
import org.custodia.core.moment.Moment;
import org.custodia.core.site.Door;
import org.custodia.desktop.Services;
import org.custodia.desktop.Work;
import org.custodia.desktop.settings.Settings;
import org.custodia.desktop.theme.PriorityMark;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.watch.WatchModel;
import org.custodia.desktop.watch.WatchView;
import org.custodia.desktop.words.ClockWords;

/** The console around its views. */
public final class Shell extends StackPane implements AutoCloseable {
    private static final DateTimeFormatter DATE = DateTimeFormatter.ofPattern("EEE d MMM", Locale.ENGLISH);
    /** Every part of the top bar is rounded up to whole pixels. */
    private static final double ROUNDING = 12;

    private static final long RESTING_NANOS = 3_000_000_000L;

    private final Services services;
    private final Settings settings;
    private final Theme theme;
    private final Work work;
    private final WatchModel watch;
    private final WatchView watchView;
    private final BorderPane frame = new BorderPane();
    private final StackPane veil = new StackPane();
    private final VBox bars = new VBox();
    private final LookBackBar lookBackBar;
    private final HBox troubleBar = new HBox();
    private final Label troubleWords = new Label();
    private final Label clock = new Label();
    private final Label date = new Label();
    private final PriorityMark linkMark;
    private final Label linkWords = new Label();
    private final Label clockWords = new Label();
    private final Tooltip linkTip = new Tooltip();
    private final Tooltip clockTip = new Tooltip();
    private final Timeline ticker;
    private final HBox topBar = new HBox();
    /** What the top bar does without where it is too narrow, in this order. */
    private final List<Node> dispensable = new ArrayList<>();

    private long pointerMoved;
    private long unread;
    private Instant unreadAsked = Instant.MIN;
    private String dismissed = "";
    private Optional<String> notice;

    public Shell(Services services, Settings settings, Theme theme, Work work) {
        this.services = services;
        this.settings = settings;
        this.theme = theme;
        this.work = work;
        this.notice = settings.takeNotice();
        this.linkMark = new PriorityMark(theme, 15);
        this.watch = new WatchModel(services, settings, work, this::nobodyPoints);
        this.watchView = new WatchView(watch, theme, work, this::overlay);
        this.lookBackBar = new LookBackBar(watch, theme);
        bars.getChildren().addAll(topBar(), troubleBar(), lookBackBar);
        frame.setMinSize(0, 0);
        frame.setTop(bars);
        frame.setLeft(spine());
        watchView.setMinSize(0, 0);
        frame.setCenter(watchView);
        veil.getStyleClass().add("veil");
        veil.setVisible(false);
        veil.setOnMousePressed(e -> {
            if (e.getTarget() == veil) {
                overlay(Optional.empty());
            }
        });
        getChildren().addAll(frame, veil);
        addEventFilter(MouseEvent.ANY, e -> {
            if (e.getEventType() == MouseEvent.MOUSE_MOVED || e.getEventType() == MouseEvent.MOUSE_DRAGGED) {
                pointerMoved = System.nanoTime();
            }
        });
        addEventFilter(KeyEvent.KEY_PRESSED, this::key);
        watch.moment().addListener((o, a, b) -> momentChanged(b));
        momentChanged(watch.moment().get());
        ticker = new Timeline(new KeyFrame(javafx.util.Duration.millis(250), e -> tick()));
        ticker.setCycleCount(Animation.INDEFINITE);
        ticker.play();
        tick();
    }

    private boolean nobodyPoints() {
        boolean rests = System.nanoTime() - pointerMoved > RESTING_NANOS;
        boolean menuOpen = Window.getWindows().stream()
                .anyMatch(w -> w instanceof javafx.stage.PopupWindow && !(w instanceof Tooltip) && w.isShowing());
        boolean editing = getScene() != null && getScene().getFocusOwner() instanceof TextInputControl;
        return rests && !menuOpen && !editing && !veil.isVisible();
    }

    private Node topBar() {
        SVGPath sign = new SVGPath();
        sign.setContent("M1 1 H13 V17 H11 V3 H3 V17 H1 Z M3 3 L9 6 V19 L3 16 Z");
        sign.setStyle("-fx-fill: -t-accent;");
        Label product = new Label("Custodia", sign);
        product.getStyleClass().add("product");
        product.setMinWidth(Region.USE_PREF_SIZE);
        Label site = new Label(services.siteName());
        site.setMinWidth(Region.USE_PREF_SIZE);
        Label key = new Label("Ctrl K");
        key.getStyleClass().add("key");
        Button find = new Button("Find a person, door, badge or time", key);
        find.setContentDisplay(javafx.scene.control.ContentDisplay.RIGHT);
        find.getStyleClass().add("find-button");
        find.setOnAction(e -> find());
        Region gap = new Region();
        HBox.setHgrow(gap, Priority.ALWAYS);
        linkWords.setMinWidth(Region.USE_PREF_SIZE);
        linkWords.setTooltip(linkTip);
        clockWords.setMinWidth(Region.USE_PREF_SIZE);
        clockWords.getStyleClass().add("muted");
        clockWords.setTooltip(clockTip);
        HBox link = new HBox(6, linkMark, linkWords);
        link.setAlignment(Pos.CENTER);
        clock.getStyleClass().add("clock");
        clock.setMinWidth(Region.USE_PREF_SIZE);
        date.getStyleClass().add("muted");
        date.setMinWidth(Region.USE_PREF_SIZE);
        Label operator = new Label(services.actor().name());
        operator.setMinWidth(Region.USE_PREF_SIZE);
        operator.setTooltip(new Tooltip("Signed in at " + services.actor().desk()));
        topBar.getChildren().addAll(product, site, find, gap, link, clockWords, clock, date, operator);
        topBar.getStyleClass().add("top-bar");
        // It fits itself into the window, and must not widen it.
        topBar.setMinWidth(0);
        dispensable.addAll(List.of(clockWords, operator, site, date));
        topBar.widthProperty().addListener((o, a, b) -> fitTopBar());
        return topBar;
    }

    private void fitTopBar() {
        double room = topBar.getWidth()
                - topBar.getInsets().getLeft()
                - topBar.getInsets().getRight()
                + topBar.getSpacing()
                - ROUNDING;
        double needed = topBar.getChildren().stream()
                .mapToDouble(n -> n.minWidth(-1) + topBar.getSpacing())
                .sum();
        for (Node node : dispensable) {
            boolean fits = needed <= room;
            node.setVisible(fits);
            node.setManaged(fits);
            needed -= fits ? 0 : node.minWidth(-1) + topBar.getSpacing();
        }
    }

    private Node spine() {
        Region icon = new Region();
        icon.getStyleClass().add("icon");
        icon.setStyle(
                "-fx-shape: 'M1 9 C5 3 15 3 19 9 C15 15 5 15 1 9 Z M10 5.6 A3.4 3.4 0 1 0 10 12.4 A3.4 3.4 0 1 0 10 5.6 Z M10 7.6 A1.4 1.4 0 1 1 10 10.4 A1.4 1.4 0 1 1 10 7.6 Z';");
        icon.setMinSize(22, 15);
        icon.setMaxSize(22, 15);
        ToggleButton item = new ToggleButton("Watch", icon);
        item.getStyleClass().add("spine-item");
        item.setSelected(true);
        item.setOnAction(e -> item.setSelected(true));
        Region gap = new Region();
        VBox.setVgrow(gap, Priority.ALWAYS);
        Button keys = new Button("Keys");
        keys.getStyleClass().add("spine-item");
        keys.setOnAction(e -> overlay(Optional.of(new ShortcutSheet(() -> overlay(Optional.empty())))));
        Button day = new Button();
        day.getStyleClass().add("spine-item");
        Runnable name = () -> day.setText(theme.now().dark() ? "Day theme" : "Night theme");
        theme.looks().addListener((o, a, b) -> name.run());
        name.run();
        day.setWrapText(true);
        day.setTextAlignment(javafx.scene.text.TextAlignment.CENTER);
        day.setOnAction(e -> turnTheme());
        VBox spine = new VBox(item, gap, day, keys);
        spine.getStyleClass().add("spine");
        return spine;
    }

    private Node troubleBar() {
        troubleBar.getStyleClass().add("trouble-bar");
        troubleWords.setWrapText(true);
        HBox.setHgrow(troubleWords, Priority.ALWAYS);
        troubleWords.setMaxWidth(Double.MAX_VALUE);
        Button seen = new Button("Seen");
        seen.setMinWidth(Region.USE_PREF_SIZE);
        seen.setOnAction(e -> {
            dismissed = troubleWords.getText();
            notice = Optional.empty();
            tick();
        });
        troubleBar.getChildren().addAll(troubleWords, seen);
        return troubleBar;
    }

    private void momentChanged(Moment moment) {
        boolean back = !moment.isLive();
        frame.getStyleClass().remove("looking-back");
        if (back) {
            frame.getStyleClass().add("looking-back");
        }
        tick();
    }

    private void tick() {
        ZoneId zone = watch.zone();
        Instant now = watch.now();
        set(clock, ClockWords.clock(now, zone));
        set(date, DATE.format(now.atZone(zone)) + (services.practiceTime() ? " · practice time" : ""));
        lookBackBar.show();
        Health.Line links = Health.links(
                services.links().get(), watch.liveStates(), services.sites().get(), now, unread);
        linkMark.show(links.priority());
        linkMark.setManaged(links.priority() != org.custodia.core.event.Priority.NONE);
        set(linkWords, links.words());
        linkWords.getStyleClass().removeAll("caution", "muted");
        linkWords
                .getStyleClass()
                .add(links.priority() == org.custodia.core.event.Priority.CAUTION ? "caution" : "muted");
        List<String> mishaps = services.mishaps().get();
        linkTip.setText((links.details() + String.join("\n", mishaps)).strip());
        Health.Line clocks = Health.clocks(services.clocks());
        set(clockWords, clocks.words());
        clockTip.setText(clocks.details().strip());
        fitTopBar();
        Optional<String> trouble = services.trouble().get().or(() -> notice).filter(t -> !t.equals(dismissed));
        trouble.ifPresent(t -> set(troubleWords, t));
        troubleBar.setVisible(trouble.isPresent());
        troubleBar.setManaged(trouble.isPresent());
        if (java.time.Duration.between(unreadAsked, now).toSeconds() > 15 || unreadAsked.equals(Instant.MIN)) {
            unreadAsked = now;
            work.load(() -> services.log().unreadCount(), n -> unread = n, why -> {});
        }
    }

    private static void set(Label label, String text) {
        if (!text.equals(label.getText())) {
            label.setText(text);
        }
    }

    private void key(KeyEvent e) {
        boolean inList = focused() instanceof ListView || focused() instanceof TextInputControl;
        switch (Shortcuts.of(e)) {
            case FIND -> find();
            case VIEW_WATCH -> overlay(Optional.empty());
            case NOW -> {
                if (inList && !e.isControlDown()) {
                    return;
                }
                watch.returnToNow();
            }
            case HELP -> overlay(Optional.of(new ShortcutSheet(() -> overlay(Optional.empty()))));
            case BACK -> {
                if (veil.isVisible()) {
                    overlay(Optional.empty());
                } else if (!watchView.back()) {
                    return;
                }
            }
            case THEME -> turnTheme();
            case LARGER -> scale(1);
            case SMALLER -> scale(-1);
            case FULL_SCREEN -> {
                if (getScene().getWindow() instanceof Stage stage) {
                    stage.setFullScreen(!stage.isFullScreen());
                }
            }
            case LOCAL -> {
                return;
            }
        }
        e.consume();
    }

    private Node focused() {
        return getScene() == null ? null : getScene().getFocusOwner();
    }

    private void turnTheme() {
        theme.dark(!theme.now().dark());
        settings.look(theme.now().dark(), theme.scale());
    }

    private void scale(int by) {
        int at = Theme.SCALES.indexOf(theme.scale()) + by;
        if (at >= 0 && at < Theme.SCALES.size()) {
            theme.scale(Theme.SCALES.get(at));
            settings.look(theme.now().dark(), theme.scale());
        }
    }

    private void find() {
        overlay(Optional.of(new Finder(watch, work, theme, new Finder.Actions() {
            @Override
            public void play(Event event) {
                watchView.play(event);
            }

            @Override
            public void show(Door door) {
                watchView.show(door.id());
            }

            @Override
            public void view(String name) {
                frame.setCenter(watchView);
            }

            @Override
            public void lookBack(Instant at) {
                watch.lookBack(at);
            }

            @Override
            public void close() {
                overlay(Optional.empty());
            }
        })));
    }

    private Node before;

    /** Shows a panel over everything, or takes it away. */
    private void overlay(Optional<Node> panel) {
        if (panel.isPresent() && !veil.isVisible()) {
            before = focused();
        }
        veil.getChildren().setAll(panel.map(java.util.List::of).orElse(java.util.List.of()));
        veil.setVisible(panel.isPresent());
        if (panel.isEmpty() && before != null && before.getScene() != null) {
            before.requestFocus();
            before = null;
        }
    }

    /** The model of Watch. */
    public WatchModel watch() {
        return watch;
    }

    public WatchView watchView() {
        return watchView;
    }

    /** Opens the finder with words typed in, for pictures and tests. */
    public void find(String words) {
        find();
        for (Node n : veil.lookupAll(".text-field")) {
            if (n instanceof TextInputControl field) {
                field.setText(words);
            }
        }
    }

    /** Takes away a panel that is shown over everything. */
    public void closePanel() {
        overlay(Optional.empty());
    }

    @Override
    public void close() {
        ticker.stop();
        watchView.close();
        watch.close();
    }
}
