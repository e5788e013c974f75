package org.custodia.core.saying;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import net.jqwik.api.Arbitraries;
import net.jqwik.api.Arbitrary;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.Provide;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** What the log holds of what is to be said can be read back, and nothing else is taken for it. */
class SayingTest {
    @Provide
    Arbitrary<Saying> sayings() {
        return depth(3);
    }

    private static Arbitrary<Saying> depth(int left) {
        Arbitrary<Object> plain = Arbitraries.oneOf(
                Arbitraries.strings().ofMaxLength(20).map(s -> s),
                Arbitraries.of("a \"b\" \\ (c) n1 \n", "", "\\", "\"").map(s -> s),
                Arbitraries.longs().map(n -> n),
                Arbitraries.longs().between(-1L << 40, 1L << 40).map(Instant::ofEpochMilli),
                Arbitraries.longs().map(Duration::ofMillis));
        Arbitrary<Object> value =
                left == 0 ? plain : Arbitraries.oneOf(plain, depth(left - 1).map(s -> s));
        return value.list().ofMaxSize(4).flatMap(values -> Arbitraries.of("link.broke", "a", "x-1.y")
                .map(code -> new Saying(code, values)));
    }

    @Property(tries = 500)
    void what_is_written_is_read(@ForAll("sayings") Saying saying) {
        assertThat(Saying.parse(saying.text())).contains(saying);
    }

    @Property(tries = 500)
    void whatever_else_is_read_does_no_harm(@ForAll String text) {
        Saying.parse(text).ifPresent(s -> assertThat(Saying.parse(s.text())).contains(s));
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "",
                " ",
                "The disk is full.",
                "link.broke ",
                "link.broke nx",
                "link.broke \"",
                "link.broke (a",
                "link.broke (a))",
                "link.broke tnow",
                "link.broke n99999999999999999999",
                "link.broke dP99999999999999999999D",
                "link.broke \"a\"\"b\""
            })
    void what_is_no_saying_is_none(String text) {
        assertThat(Saying.parse(text)).isEmpty();
    }

    @Test
    void nobody_speaks_deeper_than_can_be_read_without_harm() {
        assertThat(Saying.parse("a (".repeat(100_000) + "a" + ")".repeat(100_000)))
                .isEmpty();
    }

    @Test
    void what_others_say_is_told_from_what_we_say() {
        assertThat(Saying.quoted("door jammed").quotation()).contains("door jammed");
        assertThat(Saying.of("link.broke", "door jammed").quotation()).isEmpty();
    }

    @Test
    void a_saying_is_of_what_words_can_be_made_of() {
        assertThatThrownBy(() -> new Saying("a", List.of(new Object()))).isInstanceOf(IllegalArgumentException.class);
        assertThatThrownBy(() -> Saying.of("Two words")).isInstanceOf(IllegalArgumentException.class);
    }
}
