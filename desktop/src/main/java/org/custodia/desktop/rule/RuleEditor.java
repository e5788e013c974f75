package org.custodia.desktop.rule;

import java.util.EnumMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import javafx.geometry.Pos;
import javafx.scene.control.Button;
import javafx.scene.control.CheckBox;
import javafx.scene.control.Label;
import javafx.scene.control.TextField;
import javafx.scene.control.ToggleButton;
import javafx.scene.control.ToggleGroup;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.alarm.Rule;
import org.custodia.desktop.control.AskedButton;
import org.custodia.desktop.saying.SayingWords;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.PriorityMark;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;

/** One rule as a sentence, each clause of which opens to be edited where it stands. */
final class RuleEditor extends VBox {
    private static final Texts TEXTS = Texts.of(RuleEditor.class);

    private final RuleModel model;
    private final RuleWords words;
    private final ClauseParts parts;
    private final TextField name = new TextField();
    private final CheckBox on = new CheckBox(TEXTS.say("watched"));
    private final Map<Clause, Button> tokens = new EnumMap<>(Clause.class);
    private final Map<Clause, VBox> rows = new EnumMap<>(Clause.class);
    private final Map<org.custodia.core.event.Priority, ToggleButton> priorities =
            new EnumMap<>(org.custodia.core.event.Priority.class);
    private final VBox odd = new VBox(4);
    private final Button keep = new Button(TEXTS.say("keep"));
    private final Button putBack = new Button(TEXTS.say("put-back"));
    private final AskedButton takeOff;
    private final Label said = new Label();
    private final Label history = new Label();
    private final RuleTrialPart trial;
    private Optional<Clause> open = Optional.empty();
    private Optional<String> shown = Optional.empty();
    private boolean showing;

    RuleEditor(RuleModel model, Theme theme) {
        super(6);
        this.model = model;
        this.words = new RuleWords(model.desk());
        this.parts = new ClauseParts(model, words);
        this.trial = new RuleTrialPart(model, theme);
        getStyleClass().add("rule-editor");
        name.setAccessibleText(TEXTS.say("name"));
        name.getStyleClass().add("rule-name");
        name.textProperty().addListener((o, a, b) -> rename(b));
        HBox.setHgrow(name, Priority.ALWAYS);
        on.setMinWidth(Region.USE_PREF_SIZE);
        on.setOnAction(e -> model.rule().ifPresent(r -> model.edit(r.on(on.isSelected()))));
        HBox head = new HBox(12, name, on);
        head.setAlignment(Pos.CENTER_LEFT);
        getChildren().add(head);
        for (Clause clause : Clause.values()) {
            getChildren().add(row(clause, theme));
            if (clause == Clause.HOLDING) {
                getChildren().add(priority(theme));
            }
        }
        keep.getStyleClass().add("main");
        keep.setOnAction(e -> model.keep());
        putBack.setOnAction(e -> {
            open(Optional.empty());
            model.putBack();
        });
        takeOff = new AskedButton(TEXTS.say("take-off"), TEXTS.say("take-off-sure"), model::takeOff);
        for (Button button : List.of(keep, putBack)) {
            button.setMinWidth(Region.USE_PREF_SIZE);
        }
        Region gap = new Region();
        HBox.setHgrow(gap, Priority.ALWAYS);
        HBox acts = new HBox(8, keep, putBack, gap, takeOff);
        for (Label label : List.of(said, history)) {
            label.setWrapText(true);
            label.setMinHeight(Region.USE_PREF_SIZE);
        }
        said.getStyleClass().add("caution");
        history.getStyleClass().add("secondary");
        getChildren().addAll(odd, acts, said, history, trial);
        show();
    }

    private VBox row(Clause clause, Theme theme) {
        Label word = word(TEXTS.say("clause." + clause.name().toLowerCase(Locale.ROOT)), theme);
        Button token = new Button();
        token.getStyleClass().add("token");
        token.setWrapText(true);
        token.setMaxWidth(Double.MAX_VALUE);
        token.setMinHeight(Region.USE_PREF_SIZE);
        HBox.setHgrow(token, Priority.ALWAYS);
        token.setOnAction(e -> open(open.equals(Optional.of(clause)) ? Optional.empty() : Optional.of(clause)));
        tokens.put(clause, token);
        HBox line = new HBox(8, word, token);
        line.setAlignment(Pos.CENTER_LEFT);
        VBox row = new VBox(8, line);
        rows.put(clause, row);
        return row;
    }

    private static Label word(String text, Theme theme) {
        Label word = new Label(text);
        word.getStyleClass().add("muted");
        word.setMinWidth(theme.px(78));
        word.setAlignment(Pos.CENTER_RIGHT);
        return word;
    }

    private HBox priority(Theme theme) {
        ToggleGroup group = new ToggleGroup();
        HBox buttons = new HBox();
        for (org.custodia.core.event.Priority priority : Rule.PRIORITIES) {
            PriorityMark mark = new PriorityMark(theme, 14);
            mark.show(priority);
            ToggleButton button = new ToggleButton(RuleWords.priority(priority), mark);
            button.getStyleClass().add("segment");
            button.setMinWidth(Region.USE_PREF_SIZE);
            button.setToggleGroup(group);
            button.setOnAction(e -> {
                button.setSelected(true);
                model.rule().ifPresent(r -> model.edit(r.priority(priority)));
            });
            priorities.put(priority, button);
            buttons.getChildren().add(button);
        }
        HBox line = new HBox(8, word(TEXTS.say("clause.priority"), theme), buttons);
        line.setAlignment(Pos.CENTER_LEFT);
        return line;
    }

    private void rename(String text) {
        if (showing || model.rule().isEmpty()) {
            return;
        }
        name.getStyleClass().remove("odd");
        try {
            Rule r = model.rule().get();
            // A rule that ships is called by its name in the language until somebody calls it otherwise.
            model.edit(r.name(text.strip()));
        } catch (IllegalArgumentException e) {
            name.getStyleClass().add("odd");
        }
    }

    private void open(Optional<Clause> clause) {
        open.ifPresent(c -> {
            rows.get(c).getChildren().remove(1);
            tokens.get(c).getStyleClass().remove("chosen");
        });
        open = clause;
        clause.ifPresent(c -> {
            VBox part = new VBox(parts.of(c));
            part.getStyleClass().add("clause-part");
            part.setDisable(!model.mayChange());
            rows.get(c).getChildren().add(part);
            tokens.get(c).getStyleClass().add("chosen");
        });
    }

    /** Closes what is open; false if nothing was. */
    boolean back() {
        boolean was = open.isPresent();
        open(Optional.empty());
        return was;
    }

    /** Shows what is edited as it stands. */
    void show() {
        Optional<Rule> rule = model.rule();
        setVisible(rule.isPresent());
        if (rule.isEmpty()) {
            shown = Optional.empty();
            open(Optional.empty());
            return;
        }
        Rule r = rule.get();
        showing = true;
        if (!shown.equals(Optional.of(r.id()))) {
            open(Optional.empty());
            shown = Optional.of(r.id());
            name.setText(RuleWords.name(r));
        } else if (!name.isFocused()) {
            name.setText(RuleWords.name(r));
        }
        on.setSelected(r.on());
        tokens.get(Clause.WHAT).setText(words.what(r.when()));
        tokens.get(Clause.WHERE).setText(words.where(r.where()));
        tokens.get(Clause.WHO).setText(words.who(r.who()));
        tokens.get(Clause.DURING).setText(words.during(r.during()));
        tokens.get(Clause.HOLDING).setText(words.holding(r.holding()));
        tokens.get(Clause.OVER).setText(words.over(r.when() instanceof Rule.Once once ? once.endedBy() : Set.of()));
        tokens.get(Clause.THEN).setText(words.then(r.then()));
        priorities.get(r.priority()).setSelected(true);
        showing = false;
        boolean may = model.mayChange();
        name.setDisable(!may);
        on.setDisable(!may);
        priorities.values().forEach(b -> b.setDisable(!may));
        odd.getChildren().clear();
        model.problems().forEach(p -> odd(SayingWords.of(p)));
        if (model.callsTooOften()) {
            odd(TEXTS.say("calls-too-often"));
        }
        keep.setText(TEXTS.say(r.on() ? "keep" : "keep-off"));
        keep.setDisable(!may || !model.edited() || model.callsTooOften() && r.on());
        putBack.setDisable(!model.edited());
        takeOff.setDisable(!may || model.standing().isEmpty());
        said.setText(model.said());
        said.setVisible(!model.said().isEmpty());
        said.setManaged(!model.said().isEmpty());
        history.setText(history());
        trial.show();
    }

    private void odd(String text) {
        Label label = new Label(text);
        label.getStyleClass().add("caution");
        label.setWrapText(true);
        label.setMinHeight(Region.USE_PREF_SIZE);
        odd.getChildren().add(label);
    }

    private String history() {
        return model.standing()
                .map(s -> s.version() == 0
                        ? TEXTS.say("history-shipped")
                        : TEXTS.say(
                                "history",
                                s.version(),
                                s.by().orElse(""),
                                s.since()
                                        .map(t -> ClockWords.dated(
                                                t,
                                                model.desk().now(),
                                                model.desk().zone()))
                                        .orElse("")))
                .orElseGet(() -> TEXTS.say("history-new"));
    }

    /** Whether somebody can see it. */
    void seen(boolean visible) {
        trial.seen(visible);
    }

    void tick() {
        trial.tick();
    }

    void close() {
        trial.close();
    }
}
