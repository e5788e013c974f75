package org.custodia.desktop.alarm;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import javafx.beans.property.ObjectProperty;
import javafx.beans.property.SimpleObjectProperty;
import javafx.geometry.Pos;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.ListCell;
import javafx.scene.control.ListView;
import javafx.scene.control.ScrollPane;
import javafx.scene.layout.BorderPane;
import javafx.scene.layout.FlowPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.alarm.Figures;
import org.custodia.core.alarm.Outcome;
import org.custodia.core.alarm.Subject;
import org.custodia.desktop.control.Pointing;
import org.custodia.desktop.control.Segments;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.PriorityMark;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;
import org.custodia.desktop.words.DoorWords;
import org.custodia.desktop.words.SubjectWords;

/** Alarms of a period, finished or not, and what they come to: how many, how soon somebody came, where, and what it was. */
final class PastPage extends BorderPane {
    private static final Texts TEXTS = Texts.of(PastPage.class);
    private static final double LIST = 300;
    private static final int MOST_PLACES = 6;
    /** Read anew so often while it is shown. */
    private static final Duration EVERY = Duration.ofSeconds(30);

    private final Desk desk;
    private final Theme theme;
    private final AlarmWords words;
    private final ObjectProperty<Period> period = new SimpleObjectProperty<>(Period.DAY);
    private final ListView<Alarm> list = new ListView<>();
    private final Label head = new Label();
    private final Label empty = new Label();
    private final Button figuresAgain = new Button(TEXTS.say("figures"));
    private final Button all = new Button(TEXTS.say("whole-period"));
    private final FlowPane tiles = new FlowPane(10, 10);
    private final LoadPlot load;
    private final AnswerPlot answers;
    private final Label places = line();
    private final Label outcomes = line();
    private final Label chattering = line();
    private final Label floods = line();
    private final ScrollPane scroll;
    private final AlarmPart part;
    private List<Alarm> alarms = List.of();
    private boolean seen;
    private boolean filling;
    private Instant readAt = Instant.EPOCH;

    /** How far back. */
    private enum Period {
        DAY(Duration.ofDays(1), Duration.ofMinutes(10)),
        WEEK(Duration.ofDays(7), Duration.ofHours(1)),
        WEEKS(Duration.ofDays(28), Duration.ofHours(6));

        private final Duration length;
        private final Duration slice;

        Period(Duration length, Duration slice) {
            this.length = length;
            this.slice = slice;
        }
    }

    PastPage(Desk desk, Theme theme) {
        this.desk = desk;
        this.theme = theme;
        this.words = new AlarmWords(desk);
        this.load = new LoadPlot(desk, theme, this::only);
        this.answers = new AnswerPlot(theme, a -> list.getSelectionModel().select(a));
        this.part = new AlarmPart(desk, theme);
        head.getStyleClass().add("strong");
        Segments<Period> periods = new Segments<>(Period.class, period);
        periods.letter(p -> TEXTS.say("period." + p.name().toLowerCase(Locale.ROOT)));
        HBox bar = new HBox(8, periods);
        bar.setAlignment(Pos.CENTER_LEFT);
        bar.getStyleClass().add("alarm-counts");
        for (Region button : List.of(figuresAgain, all)) {
            button.setMinWidth(Region.USE_PREF_SIZE);
            button.managedProperty().bind(button.visibleProperty());
        }
        figuresAgain.setOnAction(e -> back());
        all.setOnAction(e -> fill(alarms));
        Region gap = new Region();
        HBox.setHgrow(gap, Priority.ALWAYS);
        HBox second = new HBox(8, head, gap, all, figuresAgain);
        second.setAlignment(Pos.CENTER_LEFT);
        second.getStyleClass().add("alarm-counts");
        list.setAccessibleText(TEXTS.say("past-alarms"));
        list.setCellFactory(v -> new Line());
        empty.getStyleClass().add("empty");
        list.setPlaceholder(empty);
        list.getSelectionModel().selectedItemProperty().addListener((o, a, b) -> {
            if (!filling && b != null) {
                open(b);
            }
        });
        VBox.setVgrow(list, Priority.ALWAYS);
        VBox left = new VBox(bar, second, list);
        left.getStyleClass().add("alarm-queue");
        left.setMinWidth(theme.px(LIST));
        left.setPrefWidth(theme.px(LIST));
        setLeft(left);
        VBox content = new VBox(
                12,
                tiles,
                strong("load-head"),
                load,
                strong("answer-head"),
                answers,
                places,
                outcomes,
                chattering,
                floods);
        content.getStyleClass().add("alarm-all");
        scroll = new ScrollPane(content);
        scroll.setFitToWidth(true);
        scroll.setHbarPolicy(ScrollPane.ScrollBarPolicy.NEVER);
        setCenter(scroll);
        figuresAgain.setVisible(false);
        all.setVisible(false);
        period.addListener((o, a, b) -> read());
        empty.setText(TEXTS.say("reading-alarms"));
    }

    private static Label line() {
        Label label = new Label();
        label.setWrapText(true);
        label.setMinHeight(Region.USE_PREF_SIZE);
        return label;
    }

    private static Label strong(String key) {
        Label label = line();
        label.setText(TEXTS.say(key));
        label.getStyleClass().add("strong");
        return label;
    }

    private Instant from(Instant to) {
        return to.minus(period.get().length);
    }

    private void read() {
        Period wanted = period.get();
        Instant to = desk.now();
        readAt = to;
        Instant from = from(to);
        if (!desk.alarms().mayLook()) {
            empty.setText(TEXTS.say("may-not"));
            return;
        }
        desk.work()
                .latest(
                        this,
                        () -> desk.services().workplace().alarms().raised(from, to),
                        found -> {
                            if (wanted == period.get()) {
                                took(found, from, to);
                            }
                        },
                        empty::setText);
    }

    private void took(List<Alarm> found, Instant from, Instant to) {
        alarms = found;
        empty.setText(TEXTS.say("none-in-period"));
        fill(found);
        Figures figures = Figures.of(found, from, to);
        load.show(figures, from, to, period.get().slice);
        answers.show(found, figures, from, to);
        tiles.getChildren()
                .setAll(
                        tile(
                                TEXTS.say("tile-raised", figures.raised(), figures.calls()),
                                TEXTS.say("tile-per-ten", figures.perTen(), load(figures))),
                        tile(TEXTS.say("tile-worst", figures.worstTen()), TEXTS.say("tile-worst-target")),
                        tile(
                                span(figures.seen()),
                                TEXTS.say(
                                        "tile-seen",
                                        span(figures.seenMost()),
                                        figures.seen().isPresent() ? 1 : 0)),
                        tile(
                                span(figures.finished()),
                                TEXTS.say(
                                        "tile-finished",
                                        span(figures.finishedMost()),
                                        figures.finished().isPresent() ? 1 : 0)));
        places.setText(TEXTS.say("most-at", counts(figures.places())));
        show(places, !figures.places().isEmpty());
        outcomes.setText(TEXTS.say(
                "turned-out",
                figures.outcomes().entrySet().stream()
                        .map(e -> TEXTS.say(
                                "outcome-share",
                                AlarmWords.outcome(e.getKey()),
                                e.getValue(),
                                share(e.getValue(), figures.outcomes())))
                        .collect(Collectors.joining(" · "))));
        show(outcomes, !figures.outcomes().isEmpty());
        chattering.setText(TEXTS.say("chattering", counts(figures.chattering())));
        show(chattering, !figures.chattering().isEmpty());
        floods.setText(
                figures.floods().isEmpty()
                        ? TEXTS.say("no-flood")
                        : TEXTS.say(
                                "floods",
                                figures.floods().size(),
                                figures.floods().stream()
                                        .map(f -> TEXTS.say(
                                                "flood-one",
                                                ClockWords.dated(f.from(), desk.now(), desk.zone()),
                                                DoorWords.span(Duration.between(f.from(), f.to())),
                                                f.alarms()))
                                        .collect(Collectors.joining(" · "))));
    }

    private static double share(int some, Map<Outcome, Integer> all) {
        return some
                / (double) Math.max(
                        1, all.values().stream().mapToInt(Integer::intValue).sum());
    }

    private static void show(Label label, boolean now) {
        label.setVisible(now);
        label.setManaged(now);
    }

    private static String load(Figures figures) {
        return figures.perTen() <= Figures.BEARABLE
                ? "bearable"
                : figures.perTen() <= Figures.MANAGEABLE ? "manageable" : "too-much";
    }

    private static String span(Optional<Duration> d) {
        return d.map(DoorWords::span).orElse(TEXTS.say("no-span"));
    }

    private String counts(Map<Subject, Integer> some) {
        return some.entrySet().stream()
                .limit(MOST_PLACES)
                .map(e -> TEXTS.say(
                        "place-count",
                        SubjectWords.where(
                                e.getKey(),
                                desk.services().sites().get(),
                                desk.services().links().get()),
                        e.getValue()))
                .collect(Collectors.joining(" · "));
    }

    private VBox tile(String large, String small) {
        Label top = new Label(large);
        top.getStyleClass().add("large");
        Label below = line();
        below.setText(small);
        below.getStyleClass().add("secondary");
        VBox tile = new VBox(2, top, below);
        tile.getStyleClass().add("figure-tile");
        tile.setPrefWidth(theme.px(210));
        return tile;
    }

    private void fill(List<Alarm> some) {
        filling = true;
        Alarm selected = list.getSelectionModel().getSelectedItem();
        list.getItems().setAll(some);
        if (selected != null && some.contains(selected)) {
            list.getSelectionModel().select(selected);
        }
        filling = false;
        head.setText(TEXTS.say("of-period", some.size()));
        all.setVisible(some.size() < alarms.size());
    }

    /** Shows those of a slice only. */
    private void only(Instant begin, Instant end) {
        List<Alarm> some = new ArrayList<>(alarms);
        some.removeIf(
                a -> a.origin().raised().isBefore(begin) || !a.origin().raised().isBefore(end));
        if (!some.isEmpty()) {
            fill(some);
        }
    }

    private void open(Alarm alarm) {
        part.show(Optional.of(alarm));
        part.seen(seen);
        setCenter(part);
        figuresAgain.setVisible(true);
    }

    /** Back to the figures; false if they are what is shown. */
    boolean back() {
        boolean was = getCenter() == part;
        list.getSelectionModel().clearSelection();
        part.seen(false);
        setCenter(scroll);
        figuresAgain.setVisible(false);
        return was;
    }

    void inSight(boolean inSight) {
        seen = inSight;
        part.seen(inSight && getCenter() == part);
        if (inSight) {
            read();
        }
    }

    void tick() {
        part.tick();
        // Not while one alarm is opened, a part is selected or the pointer is at the list.
        boolean settled = getCenter() == scroll && !all.isVisible() && !Pointing.at(list);
        if (seen && settled && !desk.now().isBefore(readAt.plus(EVERY))) {
            read();
        }
    }

    void close() {
        part.close();
    }

    /** One alarm of the period. */
    private final class Line extends ListCell<Alarm> {
        private final PriorityMark mark = new PriorityMark(theme, 16);
        private final Label what = new Label();
        private final Label where = new Label();
        private final Label how = new Label();
        private final HBox row;

        Line() {
            what.getStyleClass().add("strong");
            how.getStyleClass().add("secondary");
            for (Label label : List.of(what, where, how)) {
                label.setMinWidth(0);
            }
            VBox middle = new VBox(2, what, where, how);
            middle.setMinWidth(0);
            HBox.setHgrow(middle, Priority.ALWAYS);
            row = new HBox(10, mark, middle);
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
            mark.show(alarm.origin().priority());
            what.setText(words.what(alarm));
            where.setText(words.where(alarm));
            String when = ClockWords.dated(alarm.origin().since(), desk.now(), desk.zone());
            how.setText(alarm.finished()
                    .map(f -> TEXTS.say("past-finished", when, AlarmWords.outcome(f.outcome())))
                    .orElseGet(() -> TEXTS.say("past-open", when, words.standing(alarm, desk.now()))));
            setAccessibleText(String.join(", ", what.getText(), where.getText(), how.getText()));
            setGraphic(row);
        }
    }
}
