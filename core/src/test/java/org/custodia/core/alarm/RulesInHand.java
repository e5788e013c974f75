package org.custodia.core.alarm;

import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Optional;
import org.custodia.core.saying.Saying;

/** Versions of rules in memory, and a file of rules that is what was written last. */
public final class RulesInHand extends VersionsInHand<Rule> implements RuleSheets {
    private List<Rule> written = List.of();

    /** Only rules that ship. */
    public RulesInHand() {
        super(Rule::version);
    }

    /** Only these. */
    public RulesInHand(List<Rule> rules) {
        this();
        Rule.shipped().stream()
                .filter(r -> rules.stream().noneMatch(x -> x.id().equals(r.id())))
                .forEach(r -> begin(r.id(), Optional.empty()));
        rules.forEach(r -> begin(r.id(), Optional.of(r)));
    }

    @Override
    public byte[] write(List<Rule> rules) {
        written = List.copyOf(rules);
        return "rules".getBytes(StandardCharsets.UTF_8);
    }

    @Override
    public List<Rule> read(byte[] file) {
        if (!new String(file, StandardCharsets.UTF_8).equals("rules")) {
            throw new AlarmException(Saying.of("rule.file-odd", "it is none"));
        }
        return written;
    }
}
