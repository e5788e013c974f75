package org.custodia.desktop.procedure;

import java.util.Optional;
import java.util.function.Consumer;
import javafx.scene.control.CheckBox;
import javafx.scene.control.Label;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.alarm.Procedure;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.words.ClockWords;

/** What is to be done about an alarm, ticked as it is done, with who did it and when. */
public final class StepsPart extends VBox {
    private static final Texts TEXTS = Texts.of(StepsPart.class);

    private final Desk desk;
    private final Consumer<String> said;
    private Optional<Alarm> shown = Optional.empty();
    private Optional<Procedure> procedure = Optional.empty();

    /**
     * @param said told what cannot be done, and why
     */
    public StepsPart(Desk desk, Consumer<String> said) {
        super(6);
        this.desk = desk;
        this.said = said;
        managedProperty().bind(visibleProperty());
    }

    /** Shows what is to be done about an alarm, as it stands. */
    public void show(Alarm alarm) {
        Optional<Procedure> now = desk.services().workplace().alarms().procedure(alarm);
        boolean same = now.equals(procedure)
                && shown.map(Alarm::ticks).equals(Optional.of(alarm.ticks()))
                && shown.map(Alarm::id).equals(Optional.of(alarm.id()))
                && shown.map(Alarm::open).equals(Optional.of(alarm.open()))
                && shown.map(Alarm::condition).equals(Optional.of(alarm.condition()));
        shown = Optional.of(alarm);
        procedure = now;
        setVisible(now.isPresent());
        if (same) {
            return;
        }
        getChildren().clear();
        now.ifPresent(p -> {
            Label head = line(TEXTS.say("what-to-do", ProcedureWords.name(p)));
            head.getStyleClass().add("strong");
            getChildren().add(head);
            p.steps().forEach(s -> step(alarm, p, s));
        });
    }

    private void step(Alarm alarm, Procedure of, Procedure.Step step) {
        Optional<Alarm.Tick> done =
                alarm.ticks().stream().filter(t -> t.step().equals(step.text())).findFirst();
        String words = ProcedureWords.step(of, step);
        boolean waits = step.onceOver() && alarm.condition() == Alarm.Condition.ON && done.isEmpty();
        String asked = step.required() ? TEXTS.say("required", words) : words;
        CheckBox box = new CheckBox(waits ? TEXTS.say("once-over-step", asked) : asked);
        box.setWrapText(true);
        box.setMinHeight(Region.USE_PREF_SIZE);
        box.setSelected(done.isPresent());
        box.setDisable(!alarm.open() || waits);
        box.setOnAction(e -> {
            boolean now = box.isSelected();
            // It is ticked once it is stored.
            box.setSelected(!now);
            desk.alarms()
                    .act(
                            () -> desk.services()
                                    .workplace()
                                    .alarms()
                                    .tick(alarm.id(), step.text(), now)
                                    .join(),
                            said);
        });
        getChildren().add(box);
        done.ifPresent(t -> {
            Label by = line(TEXTS.say("done-by", ClockWords.clock(t.by().when(), desk.zone()), t.by().name()));
            by.getStyleClass().addAll("secondary", "step-done");
            getChildren().add(by);
        });
    }

    private static Label line(String text) {
        Label label = new Label(text);
        label.setWrapText(true);
        label.setMinHeight(Region.USE_PREF_SIZE);
        return label;
    }
}
