package org.custodia.desktop.setup;

import java.util.ArrayList;
import java.util.List;
import javafx.geometry.Pos;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.CheckBox;
import javafx.scene.control.Label;
import javafx.scene.layout.FlowPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.event.Event;
import org.custodia.core.site.Pairing;
import org.custodia.desktop.play.Replay;
import org.custodia.desktop.setup.TrialModel.State;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;
import org.custodia.desktop.words.EventWords;

/** Where a door's pairs are tried: something is presented, each camera's picture of it is played, and somebody says yes or no. */
final class TrialPart extends VBox {
    private static final Texts TEXTS = Texts.of(TrialPart.class);
    private static final double PICTURE = 340;

    private final TrialModel model;
    private final Theme theme;
    private final Runnable kept;
    private final Label words = new Label();
    private final Button act = new Button();
    private final VBox below = new VBox(8);
    private final List<Replay> replays = new ArrayList<>();

    /**
     * @param kept told when an answer was kept
     */
    TrialPart(TrialModel model, Theme theme, Runnable kept) {
        this.model = model;
        this.theme = theme;
        this.kept = kept;
        getStyleClass().add("trial");
        Label head = new Label(TEXTS.say("trial"));
        head.getStyleClass().add("strong");
        head.setMinWidth(Region.USE_PREF_SIZE);
        words.setWrapText(true);
        words.setMinHeight(Region.USE_PREF_SIZE);
        words.setMaxWidth(Double.MAX_VALUE);
        HBox.setHgrow(words, Priority.ALWAYS);
        act.setMinWidth(Region.USE_PREF_SIZE);
        act.setOnAction(e -> {
            if (model.state().get() instanceof State.Waiting) {
                model.abandon();
            } else {
                model.begin();
            }
        });
        HBox line = new HBox(12, head, words, act);
        line.setAlignment(Pos.CENTER_LEFT);
        getChildren().setAll(line, below);
        model.state().addListener((o, a, b) -> show(b));
        show(model.state().get());
    }

    private void show(State state) {
        replays.forEach(Replay::close);
        replays.clear();
        below.getChildren().clear();
        words.getStyleClass().setAll("label", state instanceof State.Idle ? "muted" : "large");
        if (state instanceof State.Idle) {
            words.setText(TEXTS.say("trial-what-for"));
            act.setText(TEXTS.say("try-pair"));
        } else if (state instanceof State.Waiting) {
            act.setText(TEXTS.say("stop-waiting"));
            tick();
        } else if (state instanceof State.NothingCame nothing) {
            words.getStyleClass().setAll("label", "caution");
            words.setText(TEXTS.say("nothing-came", TrialModel.PATIENCE.toSeconds()));
            act.setText(TEXTS.say("try-pair-again"));
            explain(nothing.elsewhere());
        } else if (state instanceof State.Judging judging) {
            Event event = judging.event();
            EventWords say = model.pairs().desk().words();
            words.setText(TEXTS.say(
                    "judge",
                    EventWords.capital(say.subject(event)),
                    say.result(event, null),
                    ClockWords.clock(event.time(), model.pairs().desk().zone())));
            act.setText(TEXTS.say("try-pair-again"));
            judge(event);
        }
    }

    private void explain(List<Event> elsewhere) {
        below.getChildren().add(line("nothing-reader"));
        if (!elsewhere.isEmpty()) {
            EventWords say = model.pairs().desk().words();
            below.getChildren().add(line("nothing-elsewhere"));
            for (Event event : elsewhere) {
                Label label = new Label(TEXTS.say(
                        "came-elsewhere",
                        ClockWords.clock(event.time(), model.pairs().desk().zone()),
                        say.place(event),
                        say.subject(event),
                        say.result(event, null)));
                label.setWrapText(true);
                below.getChildren().add(label);
            }
        }
    }

    private static Label line(String key) {
        Label label = new Label(TEXTS.say(key));
        label.setWrapText(true);
        return label;
    }

    private void judge(Event event) {
        FlowPane cards = new FlowPane(16, 12);
        for (Pairing pairing : model.pairs().pairings(model.door())) {
            cards.getChildren().add(card(event, pairing));
        }
        below.getChildren().add(cards);
    }

    private Node card(Event event, Pairing pairing) {
        Replay replay = new Replay(model.pairs().desk(), event, pairing, theme.px(PICTURE));
        replays.add(replay);
        Label name = new Label(model.pairs().cameraName(pairing.camera()));
        name.getStyleClass().add("strong");
        name.setWrapText(true);
        CheckBox isDoor = new CheckBox(TEXTS.say("right-door"));
        CheckBox isPerson = new CheckBox(TEXTS.say("right-person"));
        CheckBox isMoment = new CheckBox(TEXTS.say("right-moment"));
        FlowPane ticks = new FlowPane(12, 4, isDoor, isPerson, isMoment);
        Label said = new Label();
        said.setWrapText(true);
        Button all = new Button(TEXTS.say("all-right"));
        all.getStyleClass().add("main");
        Button some = new Button(TEXTS.say("as-ticked"));
        Runnable done = () -> {
            said.setText(TEXTS.say("answer-kept"));
            kept.run();
        };
        all.setOnAction(e -> {
            List.of(isDoor, isPerson, isMoment).forEach(t -> t.setSelected(true));
            model.keep(pairing, true, true, true, done, said::setText);
        });
        some.setOnAction(e -> model.keep(
                pairing, isDoor.isSelected(), isPerson.isSelected(), isMoment.isSelected(), done, said::setText));
        HBox acts = new HBox(8, all, some);
        List.of(all, some).forEach(b -> b.setMinWidth(Region.USE_PREF_SIZE));
        VBox card = new VBox(6, name, replay, ticks, acts, said);
        card.setMaxWidth(theme.px(PICTURE));
        card.setPrefWidth(theme.px(PICTURE));
        return card;
    }

    /** Looks whether it has waited long enough, and says how long it will. */
    void tick() {
        model.tick();
        model.left()
                .ifPresent(left ->
                        words.setText(TEXTS.say("present-now", model.door().name(), Math.max(0, left.toSeconds()))));
    }

    void close() {
        replays.forEach(Replay::close);
        model.close();
    }
}
