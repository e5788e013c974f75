package org.custodia.desktop.setup;

import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Collectors;
import javafx.scene.control.CheckBox;
import org.custodia.core.setup.PairPlan;
import org.custodia.core.site.Pairing;
import org.custodia.desktop.control.PlanPreview;
import org.custodia.desktop.saying.SayingWords;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.words.Names;

/** What a sheet of pairs would change, before it does. */
final class ImportPreview extends PlanPreview {
    private static final Texts TEXTS = Texts.of(ImportPreview.class);

    private final PairsModel pairs;
    private final PairPlan plan;
    private final CheckBox absent;
    private final Runnable close;

    /**
     * @param file as people know it
     * @param close told when it is done, or given up
     */
    ImportPreview(PairsModel pairs, String file, PairPlan plan, Runnable close) {
        super(
                TEXTS.say(
                        "import-would",
                        file,
                        plan.added().size(),
                        plan.changed().size(),
                        plan.same()),
                plan.problems().size(),
                close);
        this.pairs = pairs;
        this.plan = plan;
        this.close = close;
        absent = new CheckBox(TEXTS.say("import-absent", plan.absent().size()));
        absent.setVisible(!plan.absent().isEmpty());
        absent.setManaged(!plan.absent().isEmpty());
        absent.selectedProperty().addListener((o, a, b) -> show());
        choice(absent);
        show();
    }

    private void show() {
        lines(lines(plan, absent.isSelected()));
        may(!plan.added().isEmpty() || !plan.changed().isEmpty() || absent.isSelected());
    }

    @Override
    protected void act() {
        pairs.carryOut(
                plan,
                absent.isSelected(),
                count -> {
                    pairs.desk().notices().note(TEXTS.say("import-done", count));
                    close.run();
                },
                failed());
    }

    private List<String> lines(PairPlan plan, boolean alsoAbsent) {
        List<String> all = plan.problems().stream()
                .map(p -> TEXTS.say("import-problem", p.line(), SayingWords.of(p.saying())))
                .collect(Collectors.toList());
        plan.added().forEach(p -> all.add(TEXTS.say("import-added", words(p))));
        plan.changed().forEach(p -> all.add(TEXTS.say("import-changed", words(p), changes(p))));
        if (alsoAbsent) {
            plan.absent().forEach(p -> all.add(TEXTS.say("import-removed", words(p))));
        }
        return all;
    }

    /** What of a pair would be otherwise. */
    private String changes(Pairing p) {
        List<String> all = new ArrayList<>();
        pairs.pairingsOf(p.door()).stream()
                .filter(b -> b.id().equals(p.id()))
                .findFirst()
                .ifPresent(b -> {
                    if (!b.leadIn().equals(p.leadIn())) {
                        all.add(TEXTS.say("import-lead-in", seconds(b.leadIn()), seconds(p.leadIn())));
                    }
                    if (!b.faceAfter().equals(p.faceAfter())) {
                        all.add(TEXTS.say("import-face-after", seconds(b.faceAfter()), seconds(p.faceAfter())));
                    }
                    if (!b.face().equals(p.face())) {
                        all.add(TEXTS.say("import-face"));
                    }
                });
        return String.join(", ", all);
    }

    private static double seconds(Duration d) {
        return d.toMillis() / 1_000.0;
    }

    private String words(Pairing p) {
        return TEXTS.say("import-pair", pairs.doorName(p.door()), pairs.cameraName(p.camera()), Names.view(p.view()));
    }
}
