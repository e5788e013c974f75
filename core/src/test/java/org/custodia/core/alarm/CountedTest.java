package org.custodia.core.alarm;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.core.alarm.Happening.at;

import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

/** The edges of the window in which something is counted. */
class CountedTest {
    private static final Rule.Often TWICE = new Rule.Often(
            Set.of(Kinds.REFUSED), Set.of(), Set.of(Kinds.GRANTED), 2, Duration.ofSeconds(60), Rule.Per.PLACE, false);

    private final Counted<String> counted = new Counted<>(TWICE);
    private final List<Counted.Occurrence> found = new ArrayList<>();

    private void refused(int second) {
        EventKey key = new EventKey(new SystemId("tidewater"), 1, second);
        found.addAll(counted.count(
                "gate", new Counted.Entry(key, at(second), Optional.empty()), (from, to) -> Counted.Stored.NOTHING));
    }

    @Test
    void the_window_includes_both_its_ends() {
        refused(10);
        refused(71);
        assertThat(found).isEmpty();
        refused(131);
        assertThat(found).singleElement().satisfies(o -> {
            assertThat(o.since()).isEqualTo(at(71));
            assertThat(o.at()).isEqualTo(at(131));
        });
    }

    @Test
    void what_happens_in_the_same_instant_as_a_new_beginning_is_not_counted() {
        refused(10);
        counted.begin("gate", at(10));
        refused(20);
        assertThat(found).isEmpty();
        refused(30);
        assertThat(found).hasSize(1);
    }
}
