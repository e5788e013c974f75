package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.alarm.Hours;
import org.custodia.core.alarm.Rule;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Priority;
import org.custodia.core.site.DoorId;
import org.custodia.core.workplace.PermittedRules;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What a rule tells doors is done, at the beginning and at the end, and confirmed by the door. */
class RulesActTest {
    @Test
    void a_display_shows_what_a_rule_says_and_says_so(@TempDir Path directory) throws Exception {
        try (Rig rig = Rig.prepared(directory).withHub().connected()) {
            DoorId lobby = new DoorId("tidewater/staff-lobby");
            PermittedRules rules = rig.hub.workplace(Rig.OPERATOR).rules();
            Rule rule = new Rule(
                    "lobby-held",
                    0,
                    "Lobby held open",
                    true,
                    new Rule.Once(Set.of(Kinds.FORCED), Set.of(), Set.of(Kinds.CLOSED)),
                    Rule.Where.at(Set.of(lobby)),
                    Rule.Who.ANYBODY,
                    Hours.ALWAYS,
                    Priority.LOW,
                    Rule.Then.QUIET.orders(List.of(
                            new Rule.Order(
                                    Rule.At.START, Optional.empty(), new DoorCommand.ShowText("Please close the door")),
                            new Rule.Order(Rule.At.END, Optional.of(lobby), new DoorCommand.ShowText("Thank you")))));
            assertThat(rules.problems(rule)).isEmpty();
            rules.keep(rule, 0);
            rig.happen("{'act':'force','door':'staff-lobby','seconds':3}");
            Rig.await().until(() -> shown(rig).equals(List.of("Please close the door", "Thank you")));
            Rig.await()
                    .until(() -> rig.hub
                                    .log()
                                    .find(EventQuery.all().kinds(Kinds.COMMAND_DONE))
                                    .size()
                            == 2);
            // At a door without a display that is said before.
            Rule elsewhere = new Rule(
                    rule.id(),
                    0,
                    rule.name(),
                    true,
                    rule.when(),
                    rule.where(),
                    rule.who(),
                    rule.during(),
                    rule.priority(),
                    Rule.Then.QUIET.orders(List.of(new Rule.Order(
                            Rule.At.START,
                            Optional.of(new DoorId("tidewater/vault")),
                            new DoorCommand.ShowText("Please close the door")))));
            assertThat(rules.problems(elsewhere)).extracting(s -> s.code()).containsExactly("rule.door-cannot");
        }
    }

    private static List<String> shown(Rig rig) {
        return rig.hub.log().find(EventQuery.all().kinds(Kinds.DISPLAY_TEXT).oldest(10)).stream()
                .map((Event e) -> e.detail("text").orElse(""))
                .toList();
    }
}
