package org.custodia.core.alarm;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.core.alarm.Happening.at;

import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Priority;
import org.junit.jupiter.api.Test;

/** Which version of a rule judges an event. */
class RuleTimelineTest {
    private static Optional<Rule> named(String name) {
        return Optional.of(new Rule(
                "r",
                1,
                name,
                true,
                new Rule.Once(Set.of(Kinds.FORCED), Set.of(), Set.of()),
                Rule.Where.ANYWHERE,
                Rule.Who.ANYBODY,
                Hours.ALWAYS,
                Priority.CAUTION,
                Rule.Then.CALLS));
    }

    @Test
    void a_version_is_in_force_from_its_instant_until_that_of_the_next() {
        RuleTimeline rule = new RuleTimeline(
                "r",
                List.of(
                        new RuleTimeline.Version(at(10), named("first")),
                        new RuleTimeline.Version(at(20), Optional.empty()),
                        new RuleTimeline.Version(at(30), named("last"))));
        assertThat(rule.at(at(10))).isEqualTo(named("first"));
        assertThat(rule.at(at(20).minusNanos(1))).isEqualTo(named("first"));
        assertThat(rule.at(at(20))).as("deleted").isEmpty();
        assertThat(rule.at(at(30))).isEqualTo(named("last"));
        assertThat(rule.at(at(10).minusNanos(1))).as("before there was any").isEqualTo(named("last"));
    }
}
