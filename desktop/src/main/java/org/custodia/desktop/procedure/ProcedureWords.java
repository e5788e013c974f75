package org.custodia.desktop.procedure;

import java.util.List;
import java.util.Optional;
import org.custodia.core.alarm.Procedure;
import org.custodia.desktop.text.Texts;

/** What procedures and steps are called: those that ship in the language, the site's own as they were written. */
public final class ProcedureWords {
    private static final Texts TEXTS = Texts.of(ProcedureWords.class);

    private ProcedureWords() {}

    private static Optional<Procedure> shipped(Procedure procedure) {
        return Procedure.shipped().stream()
                .filter(p -> p.id().equals(procedure.id()))
                .findFirst();
    }

    /** What a procedure is called. */
    public static String name(Procedure procedure) {
        return shipped(procedure)
                .filter(p -> p.name().equals(procedure.name()))
                .flatMap(p -> TEXTS.known("name." + p.id()))
                .orElse(procedure.name());
    }

    /** What is to be done in a step of it. */
    public static String step(Procedure procedure, Procedure.Step step) {
        List<String> known = shipped(procedure).stream()
                .flatMap(p -> p.steps().stream())
                .map(Procedure.Step::text)
                .toList();
        int at = known.indexOf(step.text());
        return at < 0
                ? step.text()
                : TEXTS.known("step." + procedure.id() + "." + (at + 1)).orElse(step.text());
    }
}
