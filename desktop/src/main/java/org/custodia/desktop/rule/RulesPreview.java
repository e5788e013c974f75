package org.custodia.desktop.rule;

import java.util.List;
import org.custodia.core.alarm.RuleDesk;
import org.custodia.desktop.control.PlanPreview;
import org.custodia.desktop.saying.SayingWords;
import org.custodia.desktop.text.Texts;

/** What a file of rules would change, before it does. */
final class RulesPreview extends PlanPreview {
    private static final Texts TEXTS = Texts.of(RulesPreview.class);

    private final RuleModel model;
    private final List<RuleDesk.Change> changes;
    private final Runnable close;

    /**
     * @param close told when it is done, or given up
     */
    RulesPreview(RuleModel model, String file, List<RuleDesk.Change> changes, Runnable close) {
        super(TEXTS.say("file-would", file, changes.size()), 0, close);
        this.model = model;
        this.changes = changes;
        this.close = close;
        RuleWords words = new RuleWords(model.desk());
        lines(changes.stream()
                .map(c -> TEXTS.say(
                        "file-line",
                        c.standing().isPresent() ? "other" : "new",
                        RuleWords.name(c.rule()),
                        words.sentence(c.rule()),
                        c.problems().stream()
                                .map(SayingWords::of)
                                .reduce((a, b) -> a + " " + b)
                                .orElse("")))
                .toList());
        may(!changes.isEmpty() && model.mayChange());
    }

    @Override
    protected void act() {
        model.take(
                changes,
                () -> {
                    model.desk().notices().note(TEXTS.say("file-done", changes.size()));
                    close.run();
                },
                failed());
    }
}
