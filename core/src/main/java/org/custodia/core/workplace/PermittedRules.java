package org.custodia.core.workplace;

import java.time.Duration;
import java.util.List;
import java.util.function.DoubleConsumer;
import org.custodia.core.access.Timetable;
import org.custodia.core.alarm.Rule;
import org.custodia.core.alarm.RuleDesk;
import org.custodia.core.alarm.RuleTrial;
import org.custodia.core.alarm.Versions;
import org.custodia.core.event.Cancellation;
import org.custodia.core.operator.Permission;
import org.custodia.core.saying.Saying;

/** Rules of alarms, as far as an operator may see and change them. What is thrown is as {@link RuleDesk} says. */
public final class PermittedRules {
    private final Permit permit;
    private final RuleDesk desk;

    PermittedRules(Permit permit, RuleDesk desk) {
        this.permit = permit;
        this.desk = desk;
    }

    /** Whether the operator may see rules. */
    public boolean mayLook() {
        return permit.actor().mayLookSomewhere(Permission.HANDLE_ALARMS)
                || permit.actor().mayLookEverywhere(Permission.EDIT_RULES);
    }

    /** Whether the operator may change them. */
    public boolean mayChange() {
        return permit.actor().mayEverywhere(Permission.EDIT_RULES);
    }

    /** Whether the operator may try them on what is past. */
    public boolean mayTry() {
        return permit.actor().mayLookEverywhere(Permission.EDIT_RULES)
                && permit.actor().mayLookEverywhere(Permission.LOOK_BACK);
    }

    public List<RuleDesk.Standing> rules() {
        return desk.rules(permit.actor());
    }

    public List<Versions.Said<Rule>> versions(String id) {
        return desk.versions(id, permit.actor());
    }

    /** The timetables that rules can be bound to; none for who may not see rules. */
    public List<Timetable> timetables() {
        return mayLook() ? desk.timetables() : List.of();
    }

    public List<Saying> problems(Rule rule) {
        return desk.problems(rule);
    }

    public RuleTrial tryOut(List<Rule> rules, Duration of, DoubleConsumer told, Cancellation cancellation) {
        return desk.tryOut(rules, of, told, cancellation, permit.actor());
    }

    public void keep(Rule rule, long basedOn) {
        desk.keep(rule, basedOn, permit.actor());
    }

    public void takeOff(String id, long basedOn) {
        desk.takeOff(id, basedOn, permit.actor());
    }

    public byte[] write() {
        return desk.write(permit.actor());
    }

    public List<RuleDesk.Change> plan(byte[] file) {
        return desk.plan(file, permit.actor());
    }

    public void take(List<RuleDesk.Change> changes) {
        desk.take(changes, permit.actor());
    }
}
