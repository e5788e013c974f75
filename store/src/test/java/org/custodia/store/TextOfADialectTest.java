package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.HashMap;
import java.util.Map;
import net.jqwik.api.Arbitraries;
import net.jqwik.api.Arbitrary;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.Provide;
import org.junit.jupiter.api.Test;

/** Every text can be stored and comes back as it was; no two become one. */
class TextOfADialectTest {
    @Provide
    Arbitrary<String> texts() {
        return Arbitraries.strings()
                .withChars((char) 0, (char) 1, (char) 0x1a, (char) 0x1b, '@', 'Z', '[', 'a', '\u00e9')
                .ofMaxLength(8);
    }

    @Property
    void a_text_comes_back_as_it_was(@ForAll("texts") String text) {
        for (Dialect dialect : Dialect.values()) {
            assertThat(dialect.read(dialect.stored(text))).isEqualTo(text);
        }
        assertThat(Dialect.POSTGRESQL.stored(text)).doesNotContain("\0");
        assertThat(Dialect.SQLITE.stored(text)).isSameAs(text);
        assertThat(Dialect.SQLITE.read(text)).isSameAs(text);
    }

    @Test
    void what_needs_no_change_is_not_changed_and_no_two_become_one() {
        Map<String, String> stored = new HashMap<>();
        char[] letters = {0, 'A', '@', '\u001b', 'Z', '\u001a'};
        for (char a : letters) {
            for (char b : letters) {
                for (char c : letters) {
                    String text = "" + a + b + c;
                    assertThat(stored.put(Dialect.POSTGRESQL.stored(text), text))
                            .isNull();
                }
            }
        }
        String plain = "G\u00f6ta, gate 2";
        assertThat(Dialect.POSTGRESQL.stored(plain)).isSameAs(plain);
        assertThat(Dialect.POSTGRESQL.read(plain)).isSameAs(plain);
        assertThat(Dialect.POSTGRESQL.stored(null)).isNull();
        assertThat(Dialect.POSTGRESQL.read(null)).isNull();
    }

    @Test
    void several_texts_become_one_that_no_others_become() {
        String[] parts = {
            null,
            "",
            "+",
            "\u001e",
            "\u001f",
            "\u0000",
            "a",
            "a\u001e",
            "\u001ea",
            "^",
            "_",
            "a\u001f+",
            "\u001b",
            "[",
            "\u001b_",
            "\u001b["
        };
        Map<String, String> seen = new HashMap<>();
        for (String a : parts) {
            for (String b : parts) {
                for (String c : parts) {
                    String content = Numbered.content(a, b, c);
                    assertThat(seen.put(content, a + "|" + b + "|" + c))
                            .as("%s %s %s", a, b, c)
                            .isNull();
                }
            }
        }
    }
}
