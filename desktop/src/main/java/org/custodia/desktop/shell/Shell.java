package org.custodia.desktop.shell;

import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import java.util.function.BooleanSupplier;
import java.util.function.Consumer;
import java.util.stream.Stream;
import javafx.animation.Animation;
import javafx.animation.KeyFrame;
import javafx.animation.Timeline;
import javafx.geometry.Pos;
import javafx.scene.Node;
import javafx.scene.control.Label;
import javafx.scene.control.ListView;
import javafx.scene.control.TextInputControl;
import javafx.scene.input.KeyEvent;
import javafx.scene.input.MouseEvent;
import javafx.scene.layout.BorderPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.StackPane;
import javafx.scene.layout.VBox;
import javafx.stage.Stage;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.moment.Moment;
import org.custodia.core.site.Door;
import org.custodia.desktop.Services;
import org.custodia.desktop.Work;
import org.custodia.desktop.alarm.AlarmCards;
import org.custodia.desktop.alarm.AlarmLine;
import org.custodia.desktop.alarm.AlarmsView;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.desk.MainView;
import org.custodia.desktop.desk.ViewContext;
import org.custodia.desktop.notice.Notice;
import org.custodia.desktop.panel.Panels;
import org.custodia.desktop.saying.SayingWords;
import org.custodia.desktop.settings.Settings;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;

/** The console around its views: it knows them by {@link Views} only. */
public final class Shell extends StackPane implements AutoCloseable {
    private static final javafx.util.Duration TICK = javafx.util.Duration.millis(250);
    private static final Texts TEXTS = Texts.of(Shell.class);
    /** In a window that is less wide an alarm leaves no room for the words of notices. */
    private static final double NARROW = 1_100;
    /** Events of a backlog that take long enough to be read to be worth a notice. */
    private static final long WORTH_SAYING = 2_000;

    private final Settings settings;
    private final Theme theme;
    private final Desk desk;
    private final BorderPane frame = new BorderPane();
    private final Panels panels = new Panels(frame);
    private final Map<MainView.Plug, MainView> views = new LinkedHashMap<>();
    private final Spine spine;
    private final TopBar topBar;
    private final NoticeLine noticeLine;
    private final AlarmLine alarmLine;
    private final AlarmCards cards;
    private Optional<Attention> attention = Optional.empty();
    private final LookBackBar lookBackBar;
    private final Timeline ticker;
    private MainView shown;

    public Shell(Services services, Settings settings, Theme theme, Work work) {
        this.settings = settings;
        this.theme = theme;
        this.desk = new Desk(services, settings, work);
        ViewContext context = new ViewContext(desk, theme, panels);
        for (MainView.Plug plug : Views.ALL) {
            views.put(plug, plug.make().apply(context));
        }
        this.spine = new Spine(theme, this::show, this::turnTheme, this::keys);
        this.topBar = new TopBar(desk, theme, this::find, this::health);
        this.noticeLine = new NoticeLine(desk.notices(), this::notices);
        this.cards = new AlarmCards(desk, theme);
        this.alarmLine = new AlarmLine(desk, theme, this::answer, cards);
        settings.takeNotice().map(SayingWords::of).ifPresent(desk.notices()::note);
        this.lookBackBar = new LookBackBar(desk, theme, () -> shown.whileLookingBack());
        show(Views.ALL.stream()
                .filter(plug -> views.get(plug).comesFirst())
                .findFirst()
                .orElse(Views.ALL.get(0)));
        frame.setMinSize(0, 0);
        VBox top = new VBox(topBar, waiting(), lookBackBar);
        frame.setTop(top);
        frame.setLeft(spine);
        // Where they cover what happened, not who stands at a door.
        StackPane.setAlignment(cards, Pos.BOTTOM_RIGHT);
        getChildren().addAll(panels, cards);
        addEventFilter(MouseEvent.ANY, cards::pointer);
        addEventFilter(KeyEvent.KEY_PRESSED, this::key);
        desk.moment().addListener((o, a, b) -> momentChanged(b));
        momentChanged(desk.moment().get());
        ticker = new Timeline(new KeyFrame(TICK, e -> tick()));
        ticker.setCycleCount(Animation.INDEFINITE);
        ticker.play();
    }

    /** The place of the worst alarm and of trouble, which is there always, so that what comes and goes moves nothing below it. */
    private Node waiting() {
        Label none = new Label(TEXTS.say("no-alarm-waits"));
        none.getStyleClass().add("muted");
        none.visibleProperty()
                .bind(alarmLine
                        .visibleProperty()
                        .or(noticeLine.visibleProperty())
                        .not());
        none.managedProperty().bind(none.visibleProperty());
        HBox.setHgrow(alarmLine, Priority.ALWAYS);
        HBox.setHgrow(noticeLine, Priority.ALWAYS);
        HBox place = new HBox(none, alarmLine, noticeLine);
        place.setAlignment(Pos.CENTER_LEFT);
        place.setFillHeight(true);
        place.getStyleClass().add("waiting-line");
        return place;
    }

    /**
     * Reaches somebody who works in another program.
     *
     * @param looking whether the window is the one that somebody works in
     * @param title sets what the window is called
     */
    void attend(BooleanSupplier looking, Consumer<String> title) {
        attention = Optional.of(new Attention(desk, looking, title));
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
        desk.tick();
        topBar.tick();
        cards.wanted(!(shown instanceof AlarmsView));
        alarmLine.tick();
        boolean narrow = alarmLine.isVisible() && getWidth() < theme.px(NARROW);
        noticeLine.crowded(narrow);
        alarmLine.crowded(narrow);
        attention.ifPresent(Attention::tick);
        spine.count(AlarmsView.PLUG, desk.alarms().unseen().size());
        sayHowItStands();
        lookBackBar.show();
    }

    /** Says what stands in the way of work, and what is still being read. */
    private void sayHowItStands() {
        desk.notices()
                .stands(
                        "trouble",
                        desk.services()
                                .trouble()
                                .get()
                                .map(t -> Notice.of("trouble", Notice.Kind.TROUBLE, SayingWords.of(t))));
        for (LinkStatus link : desk.services().links().get()) {
            String key = "history " + link.system();
            boolean takesLong = link.state() == LinkStatus.State.READING_BACKLOG && link.of() >= WORTH_SAYING;
            desk.notices().stands(key, Optional.of(link).filter(l -> takesLong).map(l -> Notice.of(
                            key, Notice.Kind.WORK, TEXTS.say("reads-history", l.name()))
                    .done((double) l.done() / l.of())));
        }
    }

    private void show(MainView.Plug plug) {
        MainView next = views.get(plug);
        spine.mark(plug);
        panels.close();
        if (next != shown) {
            if (shown != null) {
                shown.inSight(false);
            }
            shown = next;
            frame.setCenter(next.node());
            next.inSight(true);
        }
    }

    private void answer(EventKey alarm) {
        show(AlarmsView.PLUG);
        view(AlarmsView.class).choose(alarm);
    }

    /** The views, the one that is shown first: whichever can do something does it. */
    private Stream<Map.Entry<MainView.Plug, MainView>> byNearness() {
        return Stream.concat(
                views.entrySet().stream().filter(v -> v.getValue() == shown),
                views.entrySet().stream().filter(v -> v.getValue() != shown));
    }

    /** Plays an event in the view that can. */
    public void play(Event event) {
        byNearness().filter(v -> v.getValue().play(event)).findFirst().ifPresent(v -> show(v.getKey()));
    }

    private void key(KeyEvent e) {
        boolean inList = focused() instanceof ListView || focused() instanceof TextInputControl;
        switch (Shortcuts.of(e)) {
            case FIND -> find();
            case VIEW -> Shortcuts.view(e).ifPresent(this::show);
            case NOW -> {
                // Under a panel time stands as it is.
                if (panels.isOpen() || inList && !e.isControlDown()) {
                    return;
                }
                desk.returnToNow();
            }
            case HELP -> keys();
            case BACK -> {
                if (panels.isOpen()) {
                    panels.close();
                } else if (!back()) {
                    return;
                }
            }
            case ACKNOWLEDGE -> {
                // Under a panel it is not looked at.
                if (panels.isOpen()) {
                    return;
                }
                alarmLine.acknowledge();
            }
            case ANSWER -> {
                panels.close();
                alarmLine.answer();
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

    private boolean back() {
        if (shown.back()) {
            return true;
        }
        boolean looksBack = !desk.moment().get().isLive();
        desk.returnToNow();
        return looksBack;
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

    private void keys() {
        panels.open(new ShortcutSheet(settings, panels::close));
    }

    private void health() {
        Services services = desk.services();
        Health.Line links = Health.links(
                services.links().get(),
                desk.live().states().get(),
                services.sites().get(),
                desk.now(),
                topBar.unread());
        panels.open(new HealthSheet(desk, links, Health.clocks(services.clocks()), panels::close));
    }

    private void notices() {
        panels.open(new NoticeSheet(desk.notices(), panels::close));
    }

    private void find() {
        panels.open(new Finder(desk, theme, new Finder.Actions() {
            @Override
            public void play(Event event) {
                Shell.this.play(event);
            }

            @Override
            public void show(Door door) {
                byNearness()
                        .filter(v -> v.getValue().show(door.id()))
                        .findFirst()
                        .ifPresent(v -> Shell.this.show(v.getKey()));
            }

            @Override
            public void view(MainView.Plug view) {
                Shell.this.show(view);
            }

            @Override
            public void lookBack(Instant at) {
                desk.lookBack(at);
            }

            @Override
            public void close() {
                panels.close();
            }
        }));
    }

    /** Takes notice that the places changed. */
    void placesChanged() {
        desk.placesChanged();
        views.values().forEach(MainView::placesChanged);
    }

    public Desk desk() {
        return desk;
    }

    /** The view of a kind, whether it is shown or not. */
    public <V extends MainView> V view(Class<V> kind) {
        return views.values().stream()
                .filter(kind::isInstance)
                .map(kind::cast)
                .findFirst()
                .orElseThrow();
    }

    /** Opens the finder with words typed in, for pictures and tests. */
    public void find(String words) {
        find();
        for (Node n : panels.veil().lookupAll(".text-field")) {
            if (n instanceof TextInputControl field) {
                field.setText(words);
            }
        }
    }

    /** The panel that is open, if one is. */
    public Optional<Node> panel() {
        return panels.veil().getChildrenUnmodifiable().stream().findFirst();
    }

    /** Takes away a panel that is shown over everything. */
    public void closePanel() {
        panels.close();
    }

    @Override
    public void close() {
        ticker.stop();
        cards.close();
        views.values().forEach(MainView::close);
        desk.close();
    }
}
