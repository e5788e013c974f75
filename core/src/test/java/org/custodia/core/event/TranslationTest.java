package org.custodia.core.event;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.Instant;
import java.util.Collections;
import java.util.List;
import java.util.Optional;
import org.custodia.core.event.Translation.Rule;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

class TranslationTest {
    private static final SystemId SYSTEM = new SystemId("tidewater");

    private static Rule rule(String sentKind, String code, String kind, String reason) {
        return new Rule(
                Optional.ofNullable(sentKind), Optional.ofNullable(code), Kinds.of(kind), Optional.ofNullable(reason));
    }

    private static Event sent(String kind, String code, String reason) {
        return Event.of(new EventKey(SYSTEM, 1, 1), Kinds.of(kind), Instant.EPOCH)
                .code(code)
                .reason(reason)
                .build();
    }

    @Test
    void the_first_rule_that_applies_holds_and_what_was_sent_is_marked() {
        Translation t = new Translation(
                SYSTEM,
                3,
                List.of(
                        rule("vendor.x", "T7", "access.refused", "wrong PIN"),
                        rule("vendor.x", null, "access.refused", null),
                        rule(null, "T9", "door.forced", null)));
        Event first = t.translate(sent("vendor.x", "T7", "17"));
        assertThat(first.kind()).isEqualTo(Kinds.REFUSED);
        assertThat(first.reason()).contains("wrong PIN");
        assertThat(Translation.sentKind(first)).isEqualTo("vendor.x");
        assertThat(Translation.sentReason(first)).contains("17");
        Event second = t.translate(sent("vendor.x", "T8", "17"));
        assertThat(second.reason()).contains("17");
        assertThat(second.details()).containsOnlyKeys(Translation.SENT_KIND);
        assertThat(t.translate(sent("anything", "T9", null)).kind()).isEqualTo(Kinds.FORCED);
        Event other = sent("door.opened", null, null);
        assertThat(t.translate(other)).isSameAs(other);
        assertThat(Translation.none(SYSTEM).translate(other)).isSameAs(other);
        assertThat(Translation.sentKind(other)).isEqualTo("door.opened");
        assertThat(Translation.sentReason(other)).isEmpty();
        Event without = t.translate(sent("vendor.x", "T7", null));
        assertThat(Translation.sentReason(without)).isEmpty();
        assertThat(without.reason()).contains("wrong PIN");
    }

    @Test
    void two_events_say_the_same_if_the_same_was_sent() {
        Translation t = new Translation(
                SYSTEM, 1, List.of(rule("a.x", null, "door.held", null), rule("a.y", null, "door.held", null)));
        assertThat(t.translate(sent("a.x", "T", null)).saysTheSameAs(t.translate(sent("a.x", "T", null))))
                .isTrue();
        assertThat(t.translate(sent("a.x", "T", null)).saysTheSameAs(t.translate(sent("a.y", "T", null))))
                .isFalse();
        assertThat(t.translate(sent("a.x", "T", null)).saysTheSameAs(sent("a.x", "T", null)))
                .isTrue();
    }

    @Test
    void nothing_becomes_what_only_custodia_writes() {
        assertThatThrownBy(() -> rule("a", null, "operator.verdict", null))
                .isInstanceOf(IllegalArgumentException.class);
        assertThatThrownBy(() -> rule(null, null, "door.held", null)).isInstanceOf(IllegalArgumentException.class);
        assertThatThrownBy(() -> new Translation(SystemId.CUSTODIA, 1, List.of()))
                .isInstanceOf(IllegalArgumentException.class);
        List<Rule> many = Collections.nCopies(Translation.MOST_RULES + 1, rule("a", null, "b", null));
        assertThatThrownBy(() -> new Translation(SYSTEM, 1, many)).isInstanceOf(IllegalArgumentException.class);
    }
}
