package org.custodia.desktop.message;

import java.time.Duration;
import java.util.ArrayList;
import java.util.EnumMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import javafx.geometry.Insets;
import javafx.geometry.Pos;
import javafx.scene.control.CheckMenuItem;
import javafx.scene.control.Label;
import javafx.scene.control.MenuButton;
import javafx.scene.control.TextField;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.alarm.Escalation;
import org.custodia.core.alarm.Rule;
import org.custodia.core.event.Priority;
import org.custodia.core.workplace.PermittedMessages;
import org.custodia.desktop.Work;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.rule.RuleWords;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.words.DoorWords;

/** After how long an alarm that nobody has seen calls louder, and who else is told then. */
final class CallingPart extends EditedPart {
    private static final Texts TEXTS = Texts.of(CallingPart.class);

    /** What belongs together stands closer. */
    private static final double CLOSER = -5;

    private final Map<Priority, List<StepRow>> rows = new EnumMap<>(Priority.class);
    private long basedOn;

    CallingPart(Desk desk, Escalation escalation, Work lane, Runnable changed) {
        super(desk, lane, changed);
        this.basedOn = escalation.version();
        getChildren().setAll(head(TEXTS.say("calling")), hint(TEXTS.say("calling-hint")));
        Map<String, String> names = new LinkedHashMap<>(messages().names());
        for (Priority priority : Rule.PRIORITIES) {
            List<StepRow> some = new ArrayList<>();
            for (int i = 0; i < Escalation.MOST_STEPS; i++) {
                List<Escalation.Step> steps = escalation.of(priority);
                StepRow row = new StepRow(
                        TEXTS.say("step-of", RuleWords.priority(priority), i + 1),
                        i < steps.size() ? Optional.of(steps.get(i)) : Optional.empty(),
                        names);
                some.add(row);
                HBox line = named(i == 0 ? RuleWords.priority(priority) : "", row.line);
                VBox.setMargin(line, new Insets(i == 0 ? 0 : CLOSER, 0, 0, 0));
                getChildren().add(line);
            }
            rows.put(priority, some);
        }
        keep.setOnAction(e -> keepIt());
        keep.setDisable(!messages().mayChange());
        getChildren().addAll(said, new HBox(8, keep));
    }

    private PermittedMessages messages() {
        return desk.services().workplace().messages();
    }

    /** In few words. */
    static String summary(Escalation escalation) {
        List<String> parts = new ArrayList<>();
        for (Priority priority : Rule.PRIORITIES) {
            List<Escalation.Step> steps = escalation.of(priority);
            if (!steps.isEmpty()) {
                parts.add(TEXTS.say(
                        "calling-detail",
                        RuleWords.priority(priority),
                        DoorWords.span(steps.get(0).after())));
            }
        }
        return parts.isEmpty() ? TEXTS.say("calling-none") : String.join(" · ", parts);
    }

    /** Takes note of how it stands by now. */
    void took(Escalation now) {
        basedOn = now.version();
    }

    private void keepIt() {
        Map<Priority, List<Escalation.Step>> steps = new EnumMap<>(Priority.class);
        Escalation made;
        try {
            rows.forEach((priority, some) -> {
                List<Escalation.Step> all =
                        some.stream().flatMap(r -> r.step().stream()).toList();
                if (!all.isEmpty()) {
                    steps.put(priority, all);
                }
            });
            made = new Escalation(0, steps);
        } catch (IllegalArgumentException e) {
            wrong(TEXTS.say("calling-odd"));
            return;
        }
        long on = basedOn;
        keep(() -> {
            messages().keep(made, on);
            return TEXTS.say("calling-kept");
        });
    }

    /** One step of one priority. */
    private static final class StepRow {
        private final TextField minutes = new TextField();
        private final MenuButton whom = new MenuButton();
        private final Set<String> told = new LinkedHashSet<>();
        private final Map<String, String> names;
        final HBox line;

        /**
         * @param called which step of what it is, for those who hear it
         */
        StepRow(String called, Optional<Escalation.Step> step, Map<String, String> names) {
            this.names = names;
            step.ifPresent(s -> {
                minutes.setText(minutes(s.after()));
                told.addAll(s.tells());
            });
            minutes.setPrefColumnCount(4);
            minutes.setAccessibleText(TEXTS.say("after-minutes", called));
            whom.setAccessibleText(TEXTS.say("who-is-told", called));
            Set<String> ids = new LinkedHashSet<>(names.keySet());
            ids.addAll(told);
            for (String id : ids) {
                CheckMenuItem item = new CheckMenuItem(name(id));
                item.setSelected(told.contains(id));
                item.setOnAction(e -> {
                    if (item.isSelected()) {
                        told.add(id);
                    } else {
                        told.remove(id);
                    }
                    label();
                });
                whom.getItems().add(item);
            }
            whom.setDisable(ids.isEmpty());
            whom.setMinWidth(0);
            label();
            Label after = new Label(TEXTS.say("after"));
            Label unit = new Label(TEXTS.say("minutes-louder"));
            for (Region part : List.of(after, unit, minutes)) {
                part.setMinWidth(Region.USE_PREF_SIZE);
            }
            line = new HBox(8, after, minutes, unit, whom);
            line.setAlignment(Pos.CENTER_LEFT);
        }

        private static String minutes(Duration after) {
            return after.toSeconds() % 60 == 0
                    ? String.valueOf(after.toMinutes())
                    : String.valueOf(after.toMillis() / 60_000.0);
        }

        private String name(String id) {
            return names.getOrDefault(id, TEXTS.say("gone-receiver", id));
        }

        private void label() {
            whom.setText(
                    told.isEmpty()
                            ? TEXTS.say("nobody-else")
                            : TEXTS.say(
                                    "and-tells",
                                    String.join(
                                            ", ", told.stream().map(this::name).toList())));
        }

        /**
         * What it says; nothing where it is empty.
         *
         * @throws IllegalArgumentException if it is no step
         */
        Optional<Escalation.Step> step() {
            String text = minutes.getText().strip().replace(',', '.');
            if (text.isEmpty()) {
                return Optional.empty();
            }
            return Optional.of(new Escalation.Step(
                    Duration.ofSeconds(Math.round(Double.parseDouble(text) * 60)), List.copyOf(told)));
        }
    }
}
