package org.custodia.desktop.setup;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import org.custodia.core.setup.ChangeBook;
import org.custodia.core.setup.SetupPlan;
import org.custodia.core.site.Thing;
import org.custodia.desktop.changes.ChangeWords;
import org.custodia.desktop.control.PlanPreview;
import org.custodia.desktop.saying.SayingWords;
import org.custodia.desktop.text.Texts;

/** What a whole setup from a links file would change, before it does. */
final class SetupPreview extends PlanPreview {
    private static final Texts TEXTS = Texts.of(SetupPreview.class);

    private final LinksModel links;
    private final SetupPlan plan;
    private final Runnable close;

    /**
     * @param file as people know it
     * @param names of what systems have, also where it was left out
     * @param close told when it is done, or given up
     */
    SetupPreview(LinksModel links, String file, SetupPlan plan, Map<Thing, String> names, Runnable close) {
        super(
                plan.changes() == 0
                        ? TEXTS.say("setup-same", file, plan.same())
                        : TEXTS.say("setup-would", file, plan.changes(), plan.same()),
                plan.problems().size(),
                close);
        this.links = links;
        this.plan = plan;
        this.close = close;
        lines(lines(new ChangeWords(links.desk().services().sites().get(), names)));
        may(plan.changes() > 0 && links.may());
    }

    private List<String> lines(ChangeWords words) {
        List<String> all = new ArrayList<>();
        plan.problems().forEach(p -> all.add(TEXTS.say("setup-problem", p.what(), SayingWords.of(p.why()))));
        Set<String> ask = plan.links().stream()
                .filter(SetupPlan.LinkEdit::asksForToken)
                .map(l -> l.link().id())
                .collect(Collectors.toSet());
        for (ChangeBook.Change change : plan.shown()) {
            String detail = words.detail(change);
            String line = detail.isEmpty() ? words.head(change) : TEXTS.say("setup-line", words.head(change), detail);
            boolean asks = change.about() == ChangeBook.About.LINK
                    && ask.contains(change.parts().get(0).id());
            all.add(asks ? TEXTS.say("setup-line", line, TEXTS.say("setup-token")) : line);
        }
        plan.meanings()
                .forEach(m -> all.add(TEXTS.say(
                        "setup-meanings", m.system().value(), m.rules().size())));
        return all;
    }

    @Override
    protected void act() {
        links.carryOut(
                plan,
                () -> {
                    links.desk().notices().note(TEXTS.say("setup-done", plan.changes()));
                    close.run();
                },
                failed());
    }
}
