package org.custodia.wire;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.Instant;
import java.util.List;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.StringLength;
import org.junit.jupiter.api.Test;

class FieldsTest {
    @Test
    void each_field_is_read_by_itself_and_an_odd_one_costs_itself() {
        Fields f = Fields.of(
                "{\"a\":\"x\",\"n\":12,\"big\":92233720368547758080,\"f\":1.50,\"yes\":true,\"none\":null,\"empty\":\"\","
                        + "\"t\":\"2026-11-24T14:20:00Z\",\"far\":\"+1000000000-12-31T23:59:59Z\",\"l\":[{\"i\":1},2,{\"i\":3}],"
                        + "\"words\":[\"p\",4,null,[]],\"m\":{\"k\":\"v\",\"z\":null,\"o\":{\"q\":[1]}}}");
        assertThat(f.text("a")).contains("x");
        assertThat(f.text("n")).contains("12");
        assertThat(f.text("f")).contains("1.50");
        assertThat(f.text("none")).isEmpty();
        assertThat(f.text("absent")).isEmpty();
        assertThat(f.text("empty")).contains("");
        assertThat(f.word("empty")).isEmpty();
        assertThat(f.number("n")).contains(12L);
        assertThat(f.flag("yes")).contains(true);
        assertThat(f.instant("t")).contains(Instant.parse("2026-11-24T14:20:00Z"));
        assertThat(f.instant("far")).isPresent();
        assertThat(f.hasList("l")).isTrue();
        assertThat(f.hasList("m")).isFalse();
        assertThat(f.odd()).isEmpty();
        assertThat(f.list("l")).extracting(o -> o.number("i").orElseThrow()).containsExactly(1L, 3L);
        assertThat(f.texts("words")).containsExactly("p", "4");
        assertThat(f.map("m"))
                .containsEntry("k", "v")
                .containsEntry("z", "null")
                .containsEntry("o", "{\"q\":[1]}");
        assertThat(f.odd()).containsExactly("l", "words");
        assertThat(f.number("big")).isEmpty();
        assertThat(f.number("f")).isEmpty();
        assertThat(f.flag("n")).isEmpty();
        assertThat(f.instant("a")).isEmpty();
        assertThat(f.text("m")).isEmpty();
        assertThat(f.list("a")).isEmpty();
        assertThat(f.texts("n")).isEmpty();
        assertThat(f.map("a")).isEmpty();
        f.markOdd("kept");
        assertThat(f.odd()).contains("big", "f", "n", "a", "m", "kept");
        assertThat(f.names()).hasSize(12);
        assertThat(f.json()).contains("\"f\":1.50");
    }

    @Test
    void what_is_wrong_is_said_without_the_parsers_words_and_without_the_content() {
        for (String bad : List.of(
                "", "null", "[1]", "7", "{", "{\"secret\":", "{\"a\":1}x", "<html>", "{\"a\":" + "[".repeat(90))) {
            assertThatThrownBy(() -> Fields.of(bad))
                    .as(bad)
                    .isInstanceOf(WireException.class)
                    .message()
                    .isNotBlank()
                    .doesNotContainPattern("(?i)secret|token|jackson|com\\.|java|exception|deserial|parser");
        }
        assertThatThrownBy(() -> Wire.read(
                        "{\"sites\":[],\"doors\":[{\"id\":\"a\",\"heldLimitSeconds\":\"x\"}]}",
                        AccessMessages.Places.class))
                .hasMessage("its field \"doors[0].heldLimitSeconds\" is missing or not what it should be");
    }

    @Property(tries = 500)
    void whatever_arrives_is_read_or_refused_but_nothing_else(@ForAll @StringLength(max = 200) String anything) {
        try {
            Fields f = Fields.of(anything);
            f.names().forEach(n -> {
                f.text(n);
                f.instant(n);
                f.list(n);
                f.map(n);
            });
        } catch (WireException expected) {
            assertThat(expected.getMessage()).isNotBlank();
        }
    }
}
