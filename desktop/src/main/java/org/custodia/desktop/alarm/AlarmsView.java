package org.custodia.desktop.alarm;

import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import javafx.animation.Animation;
import javafx.animation.KeyFrame;
import javafx.animation.Timeline;
import javafx.beans.binding.Bindings;
import javafx.beans.property.ObjectProperty;
import javafx.beans.property.SimpleObjectProperty;
import javafx.beans.value.ChangeListener;
import javafx.geometry.Pos;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.ListCell;
import javafx.scene.control.ListView;
import javafx.scene.control.SelectionMode;
import javafx.scene.input.KeyCode;
import javafx.scene.input.KeyCodeCombination;
import javafx.scene.input.KeyCombination;
import javafx.scene.input.KeyEvent;
import javafx.scene.layout.BorderPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import javafx.util.Duration;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.alarm.Figures;
import org.custodia.core.event.EventKey;
import org.custodia.core.moment.Moment;
import org.custodia.desktop.control.MovedRows;
import org.custodia.desktop.control.Pointing;
import org.custodia.desktop.control.Segments;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.desk.MainView;
import org.custodia.desktop.desk.Shortcut;
import org.custodia.desktop.desk.ViewContext;
import org.custodia.desktop.message.MessagesPage;
import org.custodia.desktop.procedure.ProceduresPage;
import org.custodia.desktop.rule.RulesPage;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.PriorityMark;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.DoorWords;

/** The queue of alarms, and the chosen one with all that is known of it. */
public final class AlarmsView extends BorderPane implements MainView {
    private static final Texts TEXTS = Texts.of(AlarmsView.class);
    private static final Duration TICK = Duration.millis(500);
    private static final double QUEUE = 300;
    /** The queue takes no more of the view than this, however large the text is. */
    private static final double QUEUE_SHARE = 0.34;

    /** How the shell knows it. */
    public static final MainView.Plug PLUG = new MainView.Plug(
            () -> TEXTS.say("alarms"),
            () -> List.of(TEXTS.say("alarms-words").split(", ")),
            "M10 1 C6.5 1 5 4 5 7 V11 L3 14 H17 L15 11 V7 C15 4 13.5 1 10 1 Z M8 15.5 A2 2 0 0 0 12 15.5 Z",
            new KeyCodeCombination(KeyCode.DIGIT2, KeyCombination.CONTROL_DOWN),
            AlarmsView::keys,
            AlarmsView::new);

    private static List<Shortcut> keys() {
        String here = TEXTS.say("in-the-queue");
        return List.of(
                new Shortcut("A", TEXTS.say("key-acknowledge"), here), new Shortcut("T", TEXTS.say("key-take"), here));
    }

    private final Desk desk;
    private final Theme theme;
    private final AlarmWords words;
    private final ListView<Alarm> queue = new ListView<>();
    private final Label head = new Label();
    private final Label others = new Label();
    private final Label empty = new Label();
    /** Sorts the queue; shown while sorting waits because the operator is pointing. */
    private final Button reorder = new Button();

    private final Label load = new Label();
    private final AlarmPart part;
    private final ChangeListener<List<Alarm>> changed = (o, a, b) -> show();
    private final ChangeListener<Moment> moved = (o, a, b) -> lookBack();
    private final Timeline ticker = new Timeline(new KeyFrame(TICK, e -> tick()));
    private final BorderPane queuePage = new BorderPane();
    private final RulesPage rules;
    private final PastPage past;
    private final ProceduresPage procedures;
    private final MessagesPage messages;
    /** The queue as it stood at the moment that is looked back at. */
    private Optional<Then> then = Optional.empty();

    private record Then(Instant at, List<Alarm> open) {}

    private final ObjectProperty<Page> page = new SimpleObjectProperty<>(Page.QUEUE);
    private boolean showing;
    /** Whether the operator pressed the button to sort. */
    private boolean inOrder;

    /** Whether the queue shown is that of now. */
    private boolean showsNow;

    private boolean seen;

    /** What the view shows. */
    private enum Page {
        QUEUE,
        PAST,
        RULES,
        PROCEDURES,
        MESSAGES
    }

    private AlarmsView(ViewContext context) {
        this.desk = context.desk();
        this.theme = context.theme();
        this.words = new AlarmWords(desk);
        this.part = new AlarmPart(desk, theme);
        getStyleClass().add("alarms");
        head.getStyleClass().add("strong");
        others.getStyleClass().add("muted");
        Region gap = new Region();
        HBox.setHgrow(gap, Priority.ALWAYS);
        reorder.getStyleClass().add("new-items");
        reorder.setMinWidth(0);
        reorder.setOnAction(e -> {
            inOrder = true;
            show();
            queue.scrollTo(0);
        });
        reorder.managedProperty().bind(reorder.visibleProperty());
        // Where there is no room for both, what is to be pressed comes before the counts.
        others.visibleProperty().bind(reorder.visibleProperty().not());
        others.managedProperty().bind(others.visibleProperty());
        head.setMinWidth(Region.USE_PREF_SIZE);
        HBox bar = new HBox(8, head, reorder, gap, others);
        bar.setAlignment(Pos.CENTER_LEFT);
        bar.getStyleClass().add("alarm-counts");
        queue.setAccessibleText(TEXTS.say("queue"));
        queue.getSelectionModel().setSelectionMode(SelectionMode.MULTIPLE);
        queue.setCellFactory(v -> new Line());
        empty.getStyleClass().add("empty");
        empty.setWrapText(true);
        queue.setPlaceholder(empty);
        MovedRows.guard(queue, Alarm::id);
        queue.getSelectionModel().selectedItemProperty().addListener((o, a, b) -> {
            if (!showing) {
                part.show(Optional.ofNullable(b));
            }
        });
        queue.addEventHandler(KeyEvent.KEY_PRESSED, this::key);
        VBox.setVgrow(queue, Priority.ALWAYS);
        load.setWrapText(true);
        load.setMinHeight(Region.USE_PREF_SIZE);
        load.getStyleClass().addAll("secondary", "alarm-load");
        VBox left = new VBox(bar, queue, load);
        left.getStyleClass().add("alarm-queue");
        left.minWidthProperty()
                .bind(Bindings.createDoubleBinding(
                        () -> Math.min(theme.px(QUEUE), getWidth() * QUEUE_SHARE), widthProperty(), theme.looks()));
        left.prefWidthProperty().bind(left.minWidthProperty());
        queuePage.setLeft(left);
        queuePage.setCenter(part);
        rules = new RulesPage(desk, theme);
        past = new PastPage(desk, theme);
        procedures = new ProceduresPage(desk, theme);
        messages = new MessagesPage(desk, theme, this::choose);
        Segments<Page> pages = new Segments<>(Page.class, page);
        pages.letter(p -> TEXTS.say("page." + p.name().toLowerCase(Locale.ROOT)));
        Region wide = new Region();
        HBox.setHgrow(wide, Priority.ALWAYS);
        HBox top = new HBox(pages, wide, new SoundMenu(desk));
        top.getStyleClass().add("view-bar");
        setTop(top);
        page.addListener((o, a, b) -> turn());
        turn();
        desk.alarms().open().addListener(changed);
        desk.moment().addListener(moved);
        ticker.setCycleCount(Animation.INDEFINITE);
        show();
    }

    private void turn() {
        setCenter(
                switch (page.get()) {
                    case QUEUE -> queuePage;
                    case PAST -> past;
                    case RULES -> rules;
                    case PROCEDURES -> procedures;
                    case MESSAGES -> messages;
                });
        past.inSight(seen && page.get() == Page.PAST);
        procedures.inSight(seen && page.get() == Page.PROCEDURES);
        messages.inSight(seen && page.get() == Page.MESSAGES);
        part.seen(seen && page.get() == Page.QUEUE);
        rules.inSight(seen && page.get() == Page.RULES);
    }

    private void key(KeyEvent e) {
        if (e.isControlDown() || e.isAltDown() || e.isMetaDown()) {
            return;
        }
        if (e.getCode() == KeyCode.A) {
            desk.alarms()
                    .acknowledge(
                            queue.getSelectionModel().getSelectedItems().stream()
                                    .map(Alarm::seen)
                                    .toList(),
                            desk.notices()::note);
            e.consume();
        } else if (e.getCode() == KeyCode.T) {
            part.take();
            e.consume();
        }
    }

    /** Shows an alarm. */
    public void choose(EventKey id) {
        page.set(Page.QUEUE);
        desk.alarms().alarm(id).ifPresent(a -> {
            queue.getSelectionModel().clearSelection();
            queue.getSelectionModel().select(a);
            queue.scrollTo(a);
            queue.requestFocus();
        });
    }

    private void show() {
        boolean live = desk.moment().get().isLive();
        List<Alarm> all =
                live ? desk.alarms().open().get() : then.map(Then::open).orElse(List.of());
        boolean held = live && showsNow && !inOrder && Pointing.at(queue);
        inOrder = false;
        showsNow = live;
        List<Alarm> now = held ? inThePlacesTheyHad(all) : all;
        reorder.setVisible(!now.equals(all));
        long below = unseenBelowSeen(now);
        reorder.setText(below == 0 ? TEXTS.say("reorder") : TEXTS.say("reorder-new", below));
        List<EventKey> selected = new ArrayList<>(queue.getSelectionModel().getSelectedItems().stream()
                .filter(a -> a != null)
                .map(Alarm::id)
                .toList());
        Optional<EventKey> shown = part.shown();
        showing = true;
        queue.getItems().setAll(now);
        queue.getSelectionModel().clearSelection();
        for (int i = 0; i < now.size(); i++) {
            if (selected.contains(now.get(i).id())) {
                queue.getSelectionModel().select(i);
            }
        }
        showing = false;
        // What is looked at stays in sight until somebody turns to another, also once it is finished.
        Optional<Alarm> same =
                shown.flatMap(s -> now.stream().filter(a -> a.id().equals(s)).findFirst());
        if (shown.isEmpty() && !now.isEmpty()) {
            queue.getSelectionModel().select(0);
        } else if (same.isPresent()) {
            part.show(same);
        } else if (shown.isPresent() && !live) {
            // An alarm of now is not shown beside what was open then.
            part.show(Optional.empty());
            if (!now.isEmpty()) {
                queue.getSelectionModel().select(0);
            }
        } else if (shown.isPresent()) {
            part.gone();
            if (!now.isEmpty() && selected.isEmpty()) {
                queue.getSelectionModel().select(0);
            }
        }
        Instant at = desk.shown();
        long unseen = count(now, at, Alarm.State.NEW);
        head.setText(TEXTS.say("new", unseen));
        others.setText(TEXTS.say(
                "in-hand-shelved",
                count(now, at, Alarm.State.IN_HAND) + count(now, at, Alarm.State.ACKNOWLEDGED),
                count(now, at, Alarm.State.SHELVED)));
        empty.setText(
                !desk.alarms().mayLook()
                        ? TEXTS.say("may-not")
                        : live ? TEXTS.say("none") : TEXTS.say(then.isPresent() ? "none-then" : "reading-alarms"));
    }

    /** The alarms with those that are shown already in the order in which they stand, and the others behind them. */
    private List<Alarm> inThePlacesTheyHad(List<Alarm> all) {
        Map<EventKey, Alarm> byId = new LinkedHashMap<>();
        all.forEach(a -> byId.put(a.id(), a));
        List<Alarm> inPlace = new ArrayList<>();
        queue.getItems().forEach(a -> {
            Alarm now = byId.remove(a.id());
            if (now != null) {
                inPlace.add(now);
            }
        });
        inPlace.addAll(byId.values());
        return inPlace;
    }

    /** Selects the first unacknowledged alarm, unless the operator was already handling one. */
    private void toTheFirst() {
        Instant at = desk.shown();
        boolean inWork =
                part.shown().flatMap(desk.alarms()::alarm).stream().anyMatch(a -> a.state(at) != Alarm.State.NEW);
        if (!queue.getItems().isEmpty() && !inWork) {
            queue.getSelectionModel().clearAndSelect(0);
        }
    }

    /** How many unacknowledged alarms are below an acknowledged one. */
    private long unseenBelowSeen(List<Alarm> all) {
        Instant at = desk.shown();
        return all.stream()
                .dropWhile(a -> a.state(at) == Alarm.State.NEW)
                .filter(a -> a.state(at) == Alarm.State.NEW)
                .count();
    }

    /** Reads the queue of the moment that is shown. */
    private void lookBack() {
        if (desk.moment().get().isLive()) {
            then = Optional.empty();
            show();
            return;
        }
        Instant at = desk.shown();
        if (seen && then.filter(t -> t.at().equals(at)).isEmpty()) {
            desk.work()
                    .latest(
                            queue,
                            () -> desk.services().workplace().alarms().openAt(at),
                            found -> {
                                if (!desk.moment().get().isLive()) {
                                    then = Optional.of(new Then(at, found));
                                    show();
                                }
                            },
                            empty::setText);
        }
    }

    private static long count(List<Alarm> all, Instant now, Alarm.State state) {
        return all.stream().filter(a -> a.state(now) == state).count();
    }

    /** How much there was in the last hour, and whether a person can bear that. */
    private String load() {
        Figures hour = desk.alarms().hour();
        String seen = hour.seen()
                .map(d -> TEXTS.say("load-seen", hour.raised(), DoorWords.span(d)))
                .orElse(TEXTS.say("load-raised", hour.raised()));
        String words = hour.worstTen() > Figures.MOST_IN_TEN
                ? "load-flood"
                : hour.perTen() <= Figures.BEARABLE
                        ? "load-bearable"
                        : hour.perTen() <= Figures.MANAGEABLE ? "load-manageable" : "load-too-much";
        return seen + "\n" + TEXTS.say(words, hour.perTen(), hour.worstTen());
    }

    private void tick() {
        if (reorder.isVisible() && !Pointing.at(queue)) {
            show();
        }
        load.setText(load());
        queue.refresh();
        part.tick();
        rules.tick();
        past.tick();
        messages.tick();
    }

    /** One alarm of the queue. */
    private final class Line extends ListCell<Alarm> {
        private final PriorityMark mark = new PriorityMark(theme, 16);
        private final Label what = new Label();
        private final Label where = new Label();
        private final Label how = new Label();
        private final Label age = new Label();
        private final HBox line;

        Line() {
            what.getStyleClass().add("strong");
            how.getStyleClass().add("secondary");
            age.getStyleClass().add("muted");
            age.setMinWidth(Region.USE_PREF_SIZE);
            for (Label label : List.of(what, where, how)) {
                label.setMinWidth(0);
            }
            VBox middle = new VBox(2, what, where, how);
            middle.setMinWidth(0);
            HBox.setHgrow(middle, Priority.ALWAYS);
            line = new HBox(10, mark, middle, age);
            // As wide as the list, so that long names are cut and nothing scrolls sideways.
            setPrefWidth(0);
            getStyleClass().add("alarm-row");
        }

        @Override
        protected void updateItem(Alarm alarm, boolean none) {
            super.updateItem(alarm, none);
            if (none || alarm == null) {
                setGraphic(null);
                setAccessibleText(null);
                return;
            }
            Instant now = desk.shown();
            mark.show(alarm.origin().priority());
            what.setText(words.what(alarm));
            where.setText(words.where(alarm));
            how.setText(words.standing(alarm, now));
            age.setText(words.age(alarm, now));
            setAccessibleText(String.join(", ", what.getText(), where.getText(), how.getText()));
            setGraphic(line);
        }
    }

    @Override
    public Node node() {
        return this;
    }

    @Override
    public void inSight(boolean inSight) {
        seen = inSight;
        turn();
        if (inSight) {
            ticker.play();
            lookBack();
            show();
            toTheFirst();
            tick();
        } else {
            ticker.stop();
        }
    }

    @Override
    public boolean back() {
        return page.get() == Page.RULES && rules.back() || page.get() == Page.PAST && past.back();
    }

    @Override
    public String whileLookingBack() {
        return TEXTS.say("looks-back");
    }

    @Override
    public void placesChanged() {
        queue.refresh();
    }

    @Override
    public void close() {
        ticker.stop();
        desk.alarms().open().removeListener(changed);
        desk.moment().removeListener(moved);
        part.close();
        rules.close();
        past.close();
        procedures.close();
        messages.close();
    }
}
