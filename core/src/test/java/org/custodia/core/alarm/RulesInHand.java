package org.custodia.core.alarm;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.event.EventLogException;
import org.custodia.core.operator.Actor;
import org.custodia.core.saying.Saying;

/** Versions of rules in memory, and a file of rules that is a number of what was written last. */
public final class RulesInHand implements RuleVersions, RuleSheets {
    private final Map<String, List<Said>> all = new LinkedHashMap<>();
    private List<Rule> written = List.of();

    /** Only rules that ship. */
    public RulesInHand() {}

    /** Only these. */
    public RulesInHand(List<Rule> rules) {
        Instant then = Instant.EPOCH;
        Rule.shipped().forEach(r -> add(r.id(), new Said(Optional.empty(), 1, then, Optional.empty())));
        rules.forEach(r -> add(r.id(), new Said(Optional.of(r.version(1)), 1, then, Optional.empty())));
    }

    private void add(String id, Said said) {
        all.computeIfAbsent(id, i -> new ArrayList<>()).add(0, said);
    }

    @Override
    public synchronized Map<String, Said> newest() {
        Map<String, Said> newest = new LinkedHashMap<>();
        all.forEach((id, versions) -> newest.put(id, versions.get(0)));
        return newest;
    }

    @Override
    public synchronized List<Said> versions(String id) {
        return List.copyOf(all.getOrDefault(id, List.of()));
    }

    @Override
    public synchronized void keep(List<Edit> edits, Actor by) {
        for (Edit edit : edits) {
            long version = versions(edit.id()).isEmpty()
                    ? 0
                    : versions(edit.id()).get(0).version();
            if (version != edit.basedOn()) {
                throw new EventLogException(
                        Saying.of("store.changed-meanwhile", "alarm-rule", edit.id(), version, edit.basedOn()), null);
            }
        }
        for (Edit edit : edits) {
            long version = edit.basedOn() + 1;
            add(
                    edit.id(),
                    new Said(
                            edit.rule().map(r -> r.version(version)),
                            version,
                            Instant.EPOCH,
                            Optional.of(by.operator())));
        }
    }

    @Override
    public synchronized byte[] write(List<Rule> rules) {
        written = List.copyOf(rules);
        return "rules".getBytes(StandardCharsets.UTF_8);
    }

    @Override
    public synchronized List<Rule> read(byte[] file) {
        if (!new String(file, StandardCharsets.UTF_8).equals("rules")) {
            throw new AlarmException(Saying.of("rule.file-odd", "it is none"));
        }
        return written;
    }
}
