package org.custodia.desktop.watch;

import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Consumer;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import javafx.application.Platform;
import javafx.collections.FXCollections;
import javafx.collections.ObservableList;
import javafx.geometry.Orientation;
import javafx.geometry.Pos;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.ContentDisplay;
import javafx.scene.control.Label;
import javafx.scene.control.ListCell;
import javafx.scene.control.ListView;
import javafx.scene.control.ScrollBar;
import javafx.scene.control.ToggleButton;
import javafx.scene.control.Tooltip;
import javafx.scene.input.KeyCode;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.DoorId;
import org.custodia.desktop.Work;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.PriorityMark;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;
import org.custodia.desktop.words.EventWords;
import org.custodia.desktop.words.Names;

/**
 * What happened, newest at the top, and back through the days by scrolling. While somebody reads further down, what arrives
 * waits and says how many it is.
 */
final class ArrivalsView extends VBox {
    private static final Texts TEXTS = Texts.of(ArrivalsView.class);

    private static final Set<EventKind> SHOWN = Set.of(
            Kinds.GRANTED,
            Kinds.REFUSED,
            Kinds.FORCED,
            Kinds.HELD,
            Kinds.CALL_STARTED,
            Kinds.INPUT_ON,
            Kinds.PANEL_ALARM,
            Kinds.COMMAND_SENT,
            Kinds.COMMAND_FAILED,
            Kinds.COMMAND_UNKNOWN,
            Kinds.CONTROLLER_LOST,
            Kinds.CONTROLLER_BACK,
            Kinds.CAMERA_LOST,
            Kinds.CAMERA_BACK,
            Kinds.LINK_LOST,
            Kinds.LINK_BACK,
            Kinds.GAP,
            Kinds.GAP_CLOSED,
            Kinds.COUNTS_AGAIN,
            Kinds.CONFLICT);
    private static final int PAGE = 80;
    private static final double ROW = 46;

    private final WatchModel watch;
    private final Desk desk;
    private final Theme theme;
    private final Consumer<Event> play;
    private final ObservableList<Event> rows = FXCollections.observableArrayList();
    private final ListView<Event> list = new ListView<>(rows);
    private final Label empty = new Label(TEXTS.say("loading"));
    private final Button waiting = new Button();
    private final ToggleButton onlyWatched = new ToggleButton(TEXTS.say("arrivals-watched"));
    private final List<Event> held = new ArrayList<>();
    private final java.util.Queue<Event> incoming = new java.util.concurrent.ConcurrentLinkedQueue<>();
    private final Runnable takeIncoming = Work.conflated(this::takeIncoming);
    private final EventIntake.Subscription subscription;
    private boolean loadingMore;
    private boolean atEnd;
    private int generation;
    /** Whether the log was read at all, so that an empty list means that there is nothing. */
    private boolean read;
    /** The day that rows need not name. */
    private LocalDate today;

    ArrivalsView(WatchModel watch, Theme theme, Consumer<Event> play) {
        this.watch = watch;
        this.desk = watch.desk();
        this.theme = theme;
        this.play = play;
        getStyleClass().add("arrivals");
        Label title = new Label(TEXTS.say("arrivals"));
        title.getStyleClass().add("strong");
        Region gap = new Region();
        HBox.setHgrow(gap, Priority.ALWAYS);
        onlyWatched.getStyleClass().add("quiet");
        onlyWatched.setOnAction(e -> {
            onlyWatched.setText(onlyWatched.isSelected() ? TEXTS.say("arrivals-watched") : TEXTS.say("arrivals-all"));
            reload();
        });
        onlyWatched.setText(TEXTS.say("arrivals-all"));
        onlyWatched.setAccessibleText(TEXTS.say("arrivals-which"));
        waiting.getStyleClass().add("new-items");
        waiting.setVisible(false);
        waiting.setOnAction(e -> showHeld());
        HBox head = new HBox(title, waiting, gap, onlyWatched);
        head.getStyleClass().add("arrivals-head");
        empty.getStyleClass().add("empty");
        list.setPlaceholder(empty);
        list.setFixedCellSize(theme.px(ROW));
        theme.looks().addListener((o, a, b) -> list.setFixedCellSize(theme.px(ROW)));
        list.setCellFactory(v -> new Row());
        list.setAccessibleText(TEXTS.say("arrivals"));
        list.setOnMouseClicked(e -> {
            if (e.getButton() == javafx.scene.input.MouseButton.PRIMARY && e.getTarget() instanceof Node) {
                chosen();
            }
        });
        list.setOnKeyPressed(e -> {
            if (e.getCode() == KeyCode.ENTER) {
                chosen();
                e.consume();
            }
        });
        VBox.setVgrow(list, Priority.ALWAYS);
        getChildren().addAll(head, list);
        subscription = desk.services().log().subscribe(events -> {
            boolean any = false;
            for (Event event : events) {
                if (SHOWN.contains(event.kind())) {
                    incoming.add(event);
                    any = true;
                }
            }
            if (any) {
                takeIncoming.run();
            }
        });
        desk.moment().addListener((o, a, b) -> reload());
        list.skinProperty().addListener((o, a, b) -> Platform.runLater(this::watchScrolling));
        reload();
    }

    private void chosen() {
        Event event = list.getSelectionModel().getSelectedItem();
        if (event != null) {
            desk.doorstep().pin(event);
            play.accept(event);
        }
    }

    private void watchScrolling() {
        for (Node node : list.lookupAll(".scroll-bar")) {
            if (node instanceof ScrollBar bar && bar.getOrientation() == Orientation.VERTICAL) {
                bar.valueProperty().addListener((o, a, b) -> scrolled(bar));
            }
        }
    }

    private void scrolled(ScrollBar bar) {
        if (bar.getValue() >= bar.getMax() * 0.93) {
            more();
        }
        if (atTop() && !held.isEmpty()) {
            showHeld();
        }
    }

    private boolean atTop() {
        for (Node node : list.lookupAll(".scroll-bar")) {
            if (node instanceof ScrollBar bar && bar.getOrientation() == Orientation.VERTICAL && bar.isVisible()) {
                return bar.getValue() <= 0.001;
            }
        }
        return true;
    }

    private boolean wanted(Event event) {
        if (!onlyWatched.isSelected()) {
            return true;
        }
        Set<DoorId> doors = watch.strips().stream().map(s -> s.door().id()).collect(Collectors.toSet());
        return event.door().filter(doors::contains).isPresent();
    }

    private EventQuery query() {
        EventQuery q = EventQuery.all().kinds(SHOWN);
        if (onlyWatched.isSelected()) {
            q = q.doors(watch.strips().stream().map(s -> s.door().id()).collect(Collectors.toSet()));
        }
        return q;
    }

    /** Reads again from the moment. */
    private void reload() {
        int mine = ++generation;
        held.clear();
        showWaiting();
        Instant end = desk.shown().plusSeconds(desk.moment().get().isLive() ? 60 : 0);
        EventQuery first = query().until(end).newest(PAGE);
        desk.work()
                .latest(
                        this,
                        () -> desk.services().log().find(first),
                        found -> {
                            if (mine == generation) {
                                rows.setAll(found);
                                atEnd = found.size() < PAGE;
                                loadingMore = false;
                                read = true;
                                sayEmpty();
                            }
                        },
                        why -> {
                            read = false;
                            empty.setText(why);
                        });
    }

    /** Reads further back. */
    private void more() {
        if (loadingMore || atEnd || rows.isEmpty()) {
            return;
        }
        loadingMore = true;
        int mine = generation;
        EventQuery next = query().before(rows.get(rows.size() - 1)).newest(PAGE);
        desk.work()
                .load(
                        () -> desk.services().log().find(next),
                        found -> {
                            if (mine == generation) {
                                rows.addAll(found);
                                atEnd = found.isEmpty();
                                loadingMore = false;
                            }
                        },
                        why -> loadingMore = false);
    }

    private void takeIncoming() {
        List<Event> fresh = new ArrayList<>();
        Event event;
        while ((event = incoming.poll()) != null) {
            if (wanted(event)) {
                fresh.add(event);
            }
        }
        if (fresh.isEmpty() || !desk.moment().get().isLive()) {
            return;
        }
        if (fresh.size() > PAGE) {
            reload();
            return;
        }
        held.addAll(fresh);
        if (atTop()) {
            showHeld();
        } else {
            showWaiting();
        }
    }

    private void showHeld() {
        boolean top = atTop();
        for (Event event : held) {
            int place = 0;
            while (place < rows.size() && rows.get(place).compareTo(event) > 0) {
                place++;
            }
            if (place < rows.size() || atEnd || rows.isEmpty()) {
                boolean there = place < rows.size() && rows.get(place).key().equals(event.key());
                if (!there) {
                    rows.add(place, event);
                }
            }
        }
        held.clear();
        showWaiting();
        if (top || waiting.isFocused()) {
            list.scrollTo(0);
        }
    }

    private void sayEmpty() {
        if (read) {
            empty.setText(desk.readsHistory() ? TEXTS.say("arrivals-history") : TEXTS.say("arrivals-empty"));
        }
    }

    /** Rows of what was today are dated once the day is over. */
    void tick() {
        sayEmpty();
        LocalDate day = desk.now().atZone(desk.zone()).toLocalDate();
        if (!day.equals(today)) {
            today = day;
            list.refresh();
        }
    }

    private void showWaiting() {
        waiting.setVisible(!held.isEmpty());
        waiting.setText(TEXTS.say("arrivals-new", held.size()));
    }

    /** One event: time, mark, who, where, what became of it. */
    private final class Row extends ListCell<Event> {
        private final Label time = new Label();
        /** Of which day, where that is not today. */
        private final Label day = new Label();

        private final PriorityMark mark = new PriorityMark(theme, 14);
        private final Label who = new Label();
        private final Label where = new Label();
        private final HBox box;
        /** All the words, since a narrow list cuts long reasons off. */
        private final Tooltip whole = new Tooltip();

        Row() {
            time.getStyleClass().addAll("figures", "muted");
            time.setMinWidth(Region.USE_PREF_SIZE);
            where.getStyleClass().add("secondary");
            day.getStyleClass().add("secondary");
            day.setMinWidth(Region.USE_PREF_SIZE);
            VBox when = new VBox(time, day);
            when.setAlignment(Pos.CENTER_LEFT);
            when.setMinWidth(Region.USE_PREF_SIZE);
            VBox words = new VBox(who, where);
            words.setMinWidth(0);
            HBox.setHgrow(words, Priority.ALWAYS);
            words.setAlignment(Pos.CENTER_LEFT);
            box = new HBox(6, when, mark, words);
            box.setAlignment(Pos.CENTER_LEFT);
            box.setMinWidth(0);
            box.setPrefWidth(1);
            setContentDisplay(ContentDisplay.GRAPHIC_ONLY);
        }

        @Override
        protected void updateItem(Event event, boolean none) {
            super.updateItem(event, none);
            if (none || event == null) {
                setGraphic(null);
                setTooltip(null);
                setAccessibleText("");
                return;
            }
            EventWords words = desk.words();
            ZoneId zone = desk.zone();
            time.setText(ClockWords.clock(event.time(), zone));
            boolean today = ClockWords.sameDay(event.time(), desk.now(), zone);
            day.setText(today ? "" : ClockWords.day(event.time(), zone));
            day.setManaged(!today);
            day.setVisible(!today);
            mark.show(Kinds.entry(event.kind()).priority());
            // The mark says refused already; the reason needs the room.
            String outcome = event.kind().equals(Kinds.REFUSED)
                    ? event.reason().map(Names::reason).orElse(TEXTS.say("refused"))
                    : words.result(event, null);
            String place = words.place(event);
            Optional<String> subject = Optional.of(words.subject(event)).filter(s -> !s.equals(place));
            who.setText(subject.orElse(place));
            Stream<String> rest = Stream.of(
                    subject.isPresent() ? place : "",
                    outcome.equalsIgnoreCase(who.getText()) ? "" : outcome,
                    event.late() ? TEXTS.say("arrived-late") : "");
            where.setText(rest.filter(s -> !s.isEmpty()).collect(Collectors.joining(" · ")));
            setAccessibleText((today ? "" : day.getText() + ", ") + time.getText() + ", " + who.getText() + ", "
                    + where.getText());
            whole.setText(getAccessibleText());
            setTooltip(whole);
            setGraphic(box);
        }
    }

    void close() {
        subscription.close();
    }
}
