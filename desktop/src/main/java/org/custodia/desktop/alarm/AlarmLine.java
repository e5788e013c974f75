package org.custodia.desktop.alarm;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.function.Consumer;
import javafx.geometry.Pos;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.event.EventKey;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.PriorityMark;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.DoorWords;

/** The worst alarm that nobody has seen, under the top bar of every view; nothing while there is none. */
public final class AlarmLine extends HBox {
    private static final Texts TEXTS = Texts.of(AlarmLine.class);

    private final Desk desk;
    private final Theme theme;
    private final AlarmWords words;
    private final PriorityMark mark;
    private final Label what = new Label();
    private final Label where = new Label();
    private final Label how = new Label();
    private final Label others = new Label();
    private final Button show = new Button();
    private final Button acknowledge = new Button();
    private final Consumer<EventKey> answer;
    private List<Alarm> unseen = List.of();

    /**
     * @param answer shows an alarm
     * @param cards what is shown of alarms beside this line
     */
    public AlarmLine(Desk desk, Theme theme, Consumer<EventKey> answer, AlarmCards cards) {
        this.desk = desk;
        this.answer = answer;
        this.theme = theme;
        this.words = new AlarmWords(desk);
        this.mark = new PriorityMark(theme, 17);
        getStyleClass().add("alarm-line");
        setAlignment(Pos.CENTER_LEFT);
        what.getStyleClass().add("strong");
        how.getStyleClass().add("secondary");
        others.getStyleClass().add("muted");
        for (Label label : List.of(where, how, others)) {
            label.setMinWidth(0);
        }
        Region gap = new Region();
        HBox.setHgrow(gap, Priority.ALWAYS);
        show.setOnAction(e -> answer());
        acknowledge.setOnAction(e -> acknowledge());
        crowded(false);
        Button putAway = new Button(TEXTS.say("put-away"));
        putAway.setOnAction(e -> cards.putAway());
        putAway.visibleProperty().bind(cards.visibleProperty());
        putAway.managedProperty().bind(cards.visibleProperty());
        for (Button button : List.of(putAway, show, acknowledge)) {
            button.setMinWidth(Region.USE_PREF_SIZE);
        }
        getChildren().setAll(mark, what, where, how, gap, others, putAway, show, acknowledge);
        setVisible(false);
        setManaged(false);
        desk.alarms().open().addListener((o, a, b) -> tick());
        tick();
    }

    /** Whether there is little room: the buttons leave out their keys, so that what calls can be read. */
    public void crowded(boolean now) {
        show.setText(now ? TEXTS.say("answer-short") : TEXTS.say("answer"));
        acknowledge.setText(now ? TEXTS.say("acknowledge-short") : TEXTS.say("acknowledge"));
    }

    private void worst(Consumer<Alarm> use) {
        if (!unseen.isEmpty()) {
            use.accept(unseen.get(0));
        }
    }

    /** Shows the one that is shown in full. */
    public void answer() {
        worst(a -> answer.accept(a.id()));
    }

    /** Keeps that the operator has seen the one that is shown. */
    public void acknowledge() {
        worst(a -> desk.alarms().acknowledge(List.of(a.seen()), desk.notices()::note));
    }

    /** Says how long it waits now; called several times a second. */
    public void tick() {
        unseen = desk.alarms().unseen();
        setVisible(!unseen.isEmpty());
        setManaged(!unseen.isEmpty());
        Instant now = desk.now();
        worst(a -> {
            mark.show(a.origin().priority());
            what.setText(words.what(a));
            where.setText(words.where(a));
            String waits = TEXTS.say("waits", words.standing(a, now), words.waiting(a, now));
            String goesOn = desk.alarms()
                    .escalates(a)
                    .map(t -> TEXTS.say(
                            desk.alarms().escalatesToOthers(a) ? "escalates" : "louder",
                            waits,
                            DoorWords.span(Duration.between(now, t.isAfter(now) ? t : now))))
                    .orElse(waits);
            how.setText(
                    a.call().steps() > 0
                            ? TEXTS.say("escalated", goesOn, a.call().steps())
                            : goesOn);
            // What it is and where stay readable; what else is said gives way.
            for (Label label : List.of(what, where)) {
                label.setMinWidth(Math.min(label.prefWidth(-1), theme.px(150)));
            }
            others.setText(unseen.size() > 1 ? TEXTS.say("others", unseen.size() - 1) : "");
        });
    }
}
