package org.custodia.desktop.trial;

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
import org.custodia.core.site.Camera;
import org.custodia.core.site.Pairing;
import org.custodia.desktop.play.Replay;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.trial.TrialModel.State;
import org.custodia.desktop.words.ClockWords;
import org.custodia.desktop.words.EventWords;

/** Where cameras are tried: something is presented or tripped, each picture of it is played, and somebody says yes or no. */
public final class TrialPart extends VBox {
    private static final Texts TEXTS = Texts.of(TrialPart.class);
    /** Of a picture, in pixels at normal size; where there is little room, the other. */
    private static final double PICTURE = 340;

    private static final double NARROW = 290;

    private final TrialModel model;
    private final Theme theme;
    private final Runnable kept;
    private final boolean door;
    private final double picture;
    private final Label words = new Label();
    private final Button act = new Button();
    private final VBox below = new VBox(8);
    private final List<Replay> replays = new ArrayList<>();

    /**
     * @param narrow whether there is no more room than for one picture
     * @param kept told when an answer was kept
     */
    public TrialPart(TrialModel model, Theme theme, boolean narrow, Runnable kept) {
        this.picture = narrow ? NARROW : PICTURE;
        this.model = model;
        this.theme = theme;
        this.kept = kept;
        this.door = model.tried().isDoor();
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
        Region gap = new Region();
        HBox.setHgrow(gap, Priority.ALWAYS);
        HBox line = narrow ? new HBox(12, head, gap, act) : new HBox(12, head, words, act);
        line.setAlignment(Pos.CENTER_LEFT);
        getChildren().setAll(line);
        if (narrow) {
            getChildren().add(words);
        }
        getChildren().add(below);
        model.state().addListener((o, a, b) -> show(b));
        show(model.state().get());
    }

    private void show(State state) {
        replays.forEach(Replay::close);
        replays.clear();
        below.getChildren().clear();
        words.getStyleClass().setAll("label", state instanceof State.Idle ? "muted" : "large");
        if (state instanceof State.Idle) {
            words.setText(TEXTS.say(door ? "trial-what-for" : "trip-what-for"));
            act.setText(TEXTS.say("try-pair"));
        } else if (state instanceof State.Waiting) {
            act.setText(TEXTS.say("stop-waiting"));
            tick();
        } else if (state instanceof State.NothingCame nothing) {
            words.getStyleClass().setAll("label", "caution");
            words.setText(TEXTS.say(door ? "nothing-came" : "nothing-tripped", TrialModel.PATIENCE.toSeconds()));
            act.setText(TEXTS.say("try-pair-again"));
            explain(nothing.elsewhere());
        } else if (state instanceof State.Judging judging) {
            Event event = judging.event();
            EventWords say = model.desk().words();
            words.setText(TEXTS.say(
                    door ? "judge" : "judge-tripped",
                    EventWords.capital(say.subject(event)),
                    door ? say.result(event, null) : say.place(event),
                    ClockWords.clock(event.time(), model.desk().zone())));
            act.setText(TEXTS.say("try-pair-again"));
            judge(event);
        }
    }

    private void explain(List<Event> elsewhere) {
        below.getChildren().add(line(door ? "nothing-reader" : "nothing-input"));
        if (!elsewhere.isEmpty()) {
            EventWords say = model.desk().words();
            below.getChildren().add(line("nothing-elsewhere"));
            for (Event event : elsewhere) {
                Label label = new Label(TEXTS.say(
                        "came-elsewhere",
                        ClockWords.clock(event.time(), model.desk().zone()),
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
        for (Pairing pairing : model.tried().pairs()) {
            cards.getChildren().add(card(event, pairing));
        }
        below.getChildren().add(cards);
    }

    private String cameraName(Pairing pairing) {
        return model.desk()
                .services()
                .sites()
                .get()
                .camera(pairing.camera())
                .map(Camera::name)
                .orElse(pairing.camera().value());
    }

    private Node card(Event event, Pairing pairing) {
        Replay replay = new Replay(model.desk(), event, pairing, theme.px(picture));
        replays.add(replay);
        Label name = new Label(cameraName(pairing));
        name.getStyleClass().add("strong");
        name.setWrapText(true);
        CheckBox isDoor = new CheckBox(TEXTS.say(door ? "right-door" : "right-place"));
        CheckBox isPerson = new CheckBox(TEXTS.say("right-person"));
        CheckBox isMoment = new CheckBox(TEXTS.say("right-moment"));
        FlowPane ticks = door ? new FlowPane(12, 4, isDoor, isPerson, isMoment) : new FlowPane(12, 4, isDoor, isMoment);
        Label said = new Label();
        said.setWrapText(true);
        Button all = new Button(TEXTS.say(door ? "all-right" : "both-right"));
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
        // At an input there need be nobody to see.
        some.setOnAction(e -> model.keep(
                pairing,
                isDoor.isSelected(),
                !door || isPerson.isSelected(),
                isMoment.isSelected(),
                done,
                said::setText));
        HBox acts = new HBox(8, all, some);
        List.of(all, some).forEach(b -> b.setMinWidth(Region.USE_PREF_SIZE));
        VBox card = new VBox(6, name, replay, ticks, acts, said);
        card.setMaxWidth(theme.px(picture));
        card.setPrefWidth(theme.px(picture));
        return card;
    }

    /** Looks whether it has waited long enough, and says how long it will. */
    public void tick() {
        model.tick();
        model.left()
                .ifPresent(left -> words.setText(TEXTS.say(
                        door ? "present-now" : "trip-now", model.tried().name(), Math.max(0, left.toSeconds()))));
    }

    public void close() {
        replays.forEach(Replay::close);
        model.close();
    }
}
