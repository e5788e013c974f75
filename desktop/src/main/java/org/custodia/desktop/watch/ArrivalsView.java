package org.custodia.desktop.watch;

import java.time.LocalDate;
import java.time.ZoneId;
import java.util.Optional;
import java.util.Set;
import java.util.function.Consumer;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import javafx.application.Platform;
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
import org.custodia.core.event.EventField;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Filter;
import org.custodia.core.event.Kinds;
import org.custodia.core.footage.Footage;
import org.custodia.core.site.DoorId;
import org.custodia.desktop.control.Pointing;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.feed.EventFeed;
import org.custodia.desktop.picture.WantedStill;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.PriorityMark;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;
import org.custodia.desktop.words.EventWords;
import org.custodia.desktop.words.Names;

/**
 * What happened, newest at the top, and back through the days by scrolling. While the operator reads further down or aims at a
 * row, what arrives waits and says how many it is.
 */
final class ArrivalsView extends VBox {
    private static final Texts TEXTS = Texts.of(ArrivalsView.class);

    private static final Set<EventKind> SHOWN = Set.of(
            Kinds.GRANTED,
            Kinds.REFUSED,
            Kinds.DURESS,
            Kinds.FORCED,
            Kinds.HELD,
            Kinds.CALL_STARTED,
            Kinds.INPUT_ON,
            Kinds.PANEL_ALARM,
            Kinds.COMMAND_DONE,
            Kinds.COMMAND_FAILED,
            Kinds.COMMAND_UNKNOWN,
            Kinds.CONTROLLER_LOST,
            Kinds.CONTROLLER_BACK,
            Kinds.CAMERA_LOST,
            Kinds.CAMERA_BACK,
            Kinds.LINK_LOST,
            Kinds.LINK_CLOSED,
            Kinds.LINK_BACK,
            Kinds.GAP,
            Kinds.GAP_CLOSED,
            Kinds.COUNTS_AGAIN,
            Kinds.CONFLICT);
    private static final double ROW = 46;

    private final WatchModel watch;
    private final Desk desk;
    private final Theme theme;
    private final Consumer<Event> play;
    /** More than these are not worth asking the log for. */
    private static final int MOST_LEFT_OUT = 5_000;

    private Set<DoorId> leftOut = Set.of();
    private final EventFeed feed;
    private final ListView<Event> list = new ListView<>();
    private final Label empty = new Label(TEXTS.say("loading"));
    private final Button waiting = new Button();
    private final ToggleButton onlyWatched = new ToggleButton(TEXTS.say("arrivals-watched"));
    /** The day that rows need not name. */
    private LocalDate today;

    ArrivalsView(WatchModel watch, Theme theme, Consumer<Event> play) {
        this.watch = watch;
        this.desk = watch.desk();
        this.theme = theme;
        this.play = play;
        this.feed = new EventFeed(desk, this::query, e -> SHOWN.contains(e.kind()), this::wanted);
        list.setItems(feed.rows());
        getStyleClass().add("arrivals");
        Label title = new Label(TEXTS.say("arrivals"));
        title.getStyleClass().add("strong");
        Region gap = new Region();
        HBox.setHgrow(gap, Priority.ALWAYS);
        onlyWatched.getStyleClass().add("quiet");
        onlyWatched.setOnAction(e -> {
            onlyWatched.setText(onlyWatched.isSelected() ? TEXTS.say("arrivals-watched") : TEXTS.say("arrivals-all"));
            feed.reload();
        });
        onlyWatched.setText(TEXTS.say("arrivals-all"));
        onlyWatched.setAccessibleText(TEXTS.say("arrivals-which"));
        waiting.getStyleClass().add("new-items");
        waiting.setVisible(false);
        waiting.setOnAction(e -> showWaiting());
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
        feed.waiting().addListener((o, a, b) -> arrived());
        feed.state().addListener((o, a, b) -> sayEmpty());
        list.skinProperty().addListener((o, a, b) -> Platform.runLater(this::watchScrolling));
        feed.reload();
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
            feed.more();
        }
        if (atTop() && feed.waiting().get() > 0 && !Pointing.at(list)) {
            showWaiting();
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

    private Set<DoorId> watched() {
        return watch.strips().stream().map(s -> s.door().id()).collect(Collectors.toSet());
    }

    private boolean wanted(Event event) {
        return event.door().filter(leftOut()::contains).isEmpty()
                && (!onlyWatched.isSelected()
                        || event.door().filter(watched()::contains).isPresent());
    }

    private Set<DoorId> leftOut() {
        return desk.services().sites().get().leftOut();
    }

    /** Takes notice that the places changed: what happens at doors that were left out does not belong here. */
    void placesChanged() {
        if (!leftOut().equals(leftOut)) {
            feed.reload();
        }
    }

    private EventQuery query() {
        leftOut = leftOut();
        EventQuery all = EventQuery.all().kinds(SHOWN);
        if (!leftOut.isEmpty() && leftOut.size() <= MOST_LEFT_OUT) {
            all = all.where(Filter.not(Filter.isOneOf(EventField.DOOR, leftOut)));
        }
        return onlyWatched.isSelected() ? all.doors(watched()) : all;
    }

    /** What arrives is shown where the reader is at the top, and waits otherwise. */
    private void arrived() {
        int many = feed.waiting().get();
        if (many > 0 && atTop() && !Pointing.at(list)) {
            showWaiting();
            return;
        }
        waiting.setVisible(many > 0);
        waiting.setText(TEXTS.say("arrivals-new", many));
    }

    private void showWaiting() {
        boolean top = atTop() || waiting.isFocused();
        feed.showWaiting();
        if (top) {
            list.scrollTo(0);
        }
    }

    private void sayEmpty() {
        EventFeed.State state = feed.state().get();
        if (state instanceof EventFeed.State.Failed failed) {
            empty.setText(failed.why());
        } else if (state instanceof EventFeed.State.Read) {
            empty.setText(desk.readsHistory() ? TEXTS.say("arrivals-history") : TEXTS.say("arrivals-empty"));
        }
    }

    /** Rows of what was today are dated once the day is over. */
    void tick() {
        sayEmpty();
        if (feed.waiting().get() > 0) {
            arrived();
        }
        LocalDate day = desk.now().atZone(desk.zone()).toLocalDate();
        if (!day.equals(today)) {
            today = day;
            list.refresh();
        }
    }

    /** Where there is no footage to be played any more, or never was: as panes say. */
    private String footage(Event event) {
        Optional<Footage.At> there = WantedStill.of(desk.services().sites().get(), event)
                .flatMap(w -> w.footage(desk.services().pictures()));
        if (there.orElse(null) instanceof Footage.At.Overwritten) {
            return TEXTS.say("footage-gone");
        }
        return there.orElse(null) instanceof Footage.At.NoPicture ? TEXTS.say("not-recorded") : "";
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
                    event.late() ? TEXTS.say("arrived-late") : "",
                    footage(event));
            where.setText(rest.filter(s -> !s.isEmpty()).collect(Collectors.joining(" · ")));
            setAccessibleText((today ? "" : day.getText() + ", ") + time.getText() + ", " + who.getText() + ", "
                    + where.getText());
            whole.setText(getAccessibleText());
            setTooltip(whole);
            setGraphic(box);
        }
    }

    void close() {
        feed.close();
    }
}
