package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.custodia.core.access.DecisionExplainer;
import org.custodia.core.access.Explanation;
import org.custodia.core.access.Explanation.Lack;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/**
 * The console knows of the controllers what crosses the link, and says the same as they decided, for every badge of a day; or
 * it says what it would have to know.
 */
class DecisionsAreExplainedTest {
    @Test
    void every_decision_of_a_day_is_among_those_that_may_follow(@TempDir Path directory) {
        try (Rig rig = Rig.prepared(directory).withHub().connected()) {
            Rig.await().until(() -> rig.hub.people().size() > 200);
            DecisionExplainer explainer = rig.hub.explainer();
            List<Event> decisions = rig.hub
                    .log()
                    .find(EventQuery.all().kinds(Kinds.GRANTED, Kinds.REFUSED).newest(20_000));
            assertThat(decisions).hasSizeGreaterThan(1_500);
            int single = 0;
            Map<Lack, Integer> lacks = new EnumMap<>(Lack.class);
            for (Event event : decisions) {
                Explanation explanation = explainer.explain(
                        event,
                        rig.hub
                                .board()
                                .at(event.door().orElseThrow(), event.time().minusNanos(1_000)));
                if (explanation.lacks().contains(Lack.NUMBER)) {
                    // A door code belongs to nobody.
                    assertThat(event.credential()).isEmpty();
                    continue;
                }
                assertThat(explanation.lacks())
                        .as("%s", event)
                        .doesNotContain(Lack.DOOR, Lack.RULES, Lack.ASKS, Lack.FORMATS);
                assertThat(explanation.possible())
                        .as("%s %s", event, explanation)
                        .contains(explanation.theirs());
                explanation.lacks().forEach(l -> lacks.merge(l, 1, Integer::sum));
                single += explanation.possible().size() == 1 ? 1 : 0;
                if (explanation.possible().size() > 1) {
                    assertThat(explanation.lacks())
                            .as("%s %s", event, explanation)
                            .containsAnyElementsOf(Set.of(
                                    Lack.PIN, Lack.INSIDE, Lack.SECOND_PERSON, Lack.SIDE, Lack.STATE, Lack.KIND));
                }
            }
            assertThat(single).isGreaterThan(decisions.size() / 2);
            System.out.println("Decisions: " + decisions.size() + ", of which only one thing follows for " + single
                    + "; " + lacks);
        }
    }
}
