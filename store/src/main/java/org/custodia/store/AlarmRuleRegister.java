package org.custodia.store;

import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.custodia.core.alarm.Rule;
import org.custodia.core.alarm.RuleVersions;
import org.custodia.core.operator.Actor;

/** The site's own rules of alarms, as a register. Safe for use by several threads. */
public final class AlarmRuleRegister implements RuleVersions {
    private final Registers registers;
    private final Clock clock;

    public AlarmRuleRegister(Registers registers, Clock clock) {
        this.registers = registers;
        this.clock = clock;
    }

    private static Said said(Registers.Version<Rule> v) {
        return new Said(v.value().map(r -> r.version(v.version())), v.version(), v.recorded(), v.madeBy());
    }

    @Override
    public Map<String, Said> newest() {
        Map<String, Said> all = new LinkedHashMap<>();
        registers.timeline(RegisterForm.ALARM_RULE).newestVersions().forEach(v -> all.put(v.id(), said(v)));
        return all;
    }

    @Override
    public List<Said> versions(String id) {
        List<Said> all = new ArrayList<>(registers.timeline(RegisterForm.ALARM_RULE).versions(id).stream()
                .map(AlarmRuleRegister::said)
                .toList());
        Collections.reverse(all);
        return all;
    }

    @Override
    public void keep(List<Edit> edits, Actor by) {
        Instant now = clock.instant();
        registers.editAll(
                RegisterForm.ALARM_RULE,
                edits.stream()
                        .map(e -> new Registers.Edit<>(e.id(), e.basedOn(), e.rule()))
                        .toList(),
                by,
                now);
    }
}
