package org.custodia.desktop.message;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.function.Consumer;
import javafx.geometry.Pos;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.ListCell;
import javafx.scene.control.ListView;
import javafx.scene.input.KeyCode;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.event.EventKey;
import org.custodia.core.message.MessageDesk;
import org.custodia.core.message.Occasion;
import org.custodia.core.message.Outbox;
import org.custodia.core.workplace.PermittedMessages;
import org.custodia.desktop.control.Rows;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.rule.RuleWords;
import org.custodia.desktop.saying.SayingWords;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;
import org.custodia.desktop.words.SubjectWords;

/** Messages that wait, the oldest first, and those that were sent or given up of late. */
final class SentPart extends VBox {
    private static final Texts TEXTS = Texts.of(SentPart.class);
    private static final double WHEN = 110;
    private static final double STATE = 100;
    private static final double WHOM = 170;

    private final Desk desk;
    private final Theme theme;
    private final Runnable changed;
    private final Rows<MessageDesk.Sent> rows = new Rows<>();
    private final ListView<MessageDesk.Sent> list = new ListView<>();
    private final Label head = new Label(TEXTS.say("sent"));
    private final Label empty = new Label(TEXTS.say("reading"));
    private final Button now = new Button(TEXTS.say("try-now"));
    private final Button drop = new Button(TEXTS.say("drop"));
    private final Button show = new Button(TEXTS.say("show-alarm"));

    /**
     * @param changed told once something was done
     * @param chosen shows an alarm
     */
    SentPart(Desk desk, Theme theme, Runnable changed, Consumer<EventKey> chosen) {
        this.desk = desk;
        this.theme = theme;
        this.changed = changed;
        head.getStyleClass().add("strong");
        Region gap = new Region();
        HBox.setHgrow(gap, Priority.ALWAYS);
        for (Region button : List.of(now, drop, show)) {
            button.setMinWidth(Region.USE_PREF_SIZE);
        }
        HBox bar = new HBox(8, head, gap, show, drop, now);
        bar.setAlignment(Pos.CENTER_LEFT);
        bar.getStyleClass().add("alarm-counts");
        now.setOnAction(e -> act(() -> messages().tryNow()));
        drop.setOnAction(
                e -> chosen().ifPresent(s -> act(() -> messages().drop(s.entry().number()))));
        show.setOnAction(e -> showAlarm(chosen));
        list.setAccessibleText(TEXTS.say("sent"));
        list.setItems(rows.list());
        list.setCellFactory(v -> new Line());
        list.setOnKeyPressed(e -> {
            if (e.getCode() == KeyCode.ENTER) {
                showAlarm(chosen);
                e.consume();
            }
        });
        list.setOnMouseClicked(e -> {
            if (e.getClickCount() == 2) {
                showAlarm(chosen);
            }
        });
        empty.getStyleClass().add("empty");
        empty.setWrapText(true);
        list.setPlaceholder(empty);
        list.getSelectionModel().selectedItemProperty().addListener((o, a, b) -> may());
        VBox.setVgrow(list, Priority.ALWAYS);
        getStyleClass().add("sent");
        getChildren().setAll(bar, list);
        may();
    }

    private PermittedMessages messages() {
        return desk.services().workplace().messages();
    }

    private Optional<MessageDesk.Sent> chosen() {
        return Optional.ofNullable(list.getSelectionModel().getSelectedItem());
    }

    private void showAlarm(Consumer<EventKey> chosen) {
        chosen().flatMap(MessageDesk.Sent::alarm).map(Alarm::id).ifPresent(chosen);
    }

    private void act(Runnable what) {
        desk.work()
                .load(
                        () -> {
                            what.run();
                            return Boolean.TRUE;
                        },
                        done -> changed.run(),
                        desk.notices()::note);
    }

    private void may() {
        boolean waits =
                chosen().filter(s -> s.entry().state() == Outbox.State.WAITING).isPresent();
        drop.setDisable(!waits || !messages().mayChange());
        show.setDisable(chosen().flatMap(MessageDesk.Sent::alarm).isEmpty());
        now.setDisable(!messages().mayTry()
                || rows.list().stream().noneMatch(s -> s.entry().state() == Outbox.State.WAITING));
    }

    /** Shows them as they stand. */
    void show(List<MessageDesk.Sent> some) {
        Optional<Long> before = chosen().map(s -> s.entry().number());
        rows.fill(some);
        for (int i = 0; i < some.size(); i++) {
            if (before.equals(Optional.of(some.get(i).entry().number()))) {
                list.getSelectionModel().select(i);
            }
        }
        long waiting = some.stream()
                .filter(s -> s.entry().state() == Outbox.State.WAITING)
                .count();
        head.setText(waiting == 0 ? TEXTS.say("sent") : TEXTS.say("sent-waiting", waiting));
        empty.setText(TEXTS.say("sent-none"));
        list.refresh();
        may();
    }

    /** They cannot be read. */
    void failed(String why) {
        empty.setText(why);
    }

    /** One message. */
    private final class Line extends ListCell<MessageDesk.Sent> {
        private final Label when = new Label();
        private final Label state = new Label();
        private final Label whom = new Label();
        private final Label what = new Label();
        private final Label why = new Label();
        private final HBox line;

        Line() {
            when.getStyleClass().add("muted");
            why.getStyleClass().add("secondary");
            why.setWrapText(true);
            why.setMinHeight(Region.USE_PREF_SIZE);
            why.managedProperty().bind(why.textProperty().isNotEmpty());
            fixed(when, WHEN);
            fixed(state, STATE);
            fixed(whom, WHOM);
            VBox rest = new VBox(2, what, why);
            rest.setMinWidth(0);
            HBox.setHgrow(rest, Priority.ALWAYS);
            line = new HBox(10, when, state, whom, rest);
            setPrefWidth(0);
            getStyleClass().add("alarm-row");
        }

        private void fixed(Label label, double wide) {
            label.setMinWidth(theme.px(wide));
            label.setPrefWidth(theme.px(wide));
            label.setMaxWidth(theme.px(wide));
        }

        @Override
        protected void updateItem(MessageDesk.Sent sent, boolean none) {
            super.updateItem(sent, none);
            if (none || sent == null) {
                setGraphic(null);
                setAccessibleText(null);
                return;
            }
            Outbox.Entry entry = sent.entry();
            Instant reference = desk.now();
            when.setText(ClockWords.dated(entry.made(), reference, desk.zone()));
            state.getStyleClass().setAll("label");
            state.setText(
                    switch (entry.state()) {
                        case WAITING -> {
                            if (sent.late()) {
                                state.getStyleClass().add("caution");
                            }
                            yield TEXTS.say(sent.late() ? "state-late" : "state-waits");
                        }
                        case SENT -> TEXTS.say("state-sent");
                        case GIVEN_UP -> {
                            state.getStyleClass().add("caution");
                            yield TEXTS.say("state-given-up");
                        }
                    });
            whom.setText(sent.receiver());
            what.setText(what(sent));
            why.setText(why(entry, reference));
            setAccessibleText(String.join(", ", state.getText(), whom.getText(), what.getText(), why.getText()));
            setGraphic(line);
        }

        private String what(MessageDesk.Sent sent) {
            boolean over = sent.entry().slip().occasion() == Occasion.ENDED;
            return sent.alarm()
                    .map(a -> TEXTS.say(
                            over ? "subject-over" : "subject",
                            RuleWords.name(a.origin().rule(), a.origin().name()),
                            SubjectWords.where(
                                    a.calling().subject(),
                                    desk.services().sites().get(),
                                    desk.services().links().get())))
                    .orElse(TEXTS.say("alarm-of-old"));
        }

        private String why(Outbox.Entry entry, Instant reference) {
            String words = entry.said().map(SayingWords::of).orElse("");
            if (entry.state() != Outbox.State.WAITING || entry.attempts() == 0) {
                return words;
            }
            return TEXTS.say("tried", words, entry.attempts(), ClockWords.dated(entry.next(), reference, desk.zone()));
        }
    }
}
