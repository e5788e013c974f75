package org.custodia.wire;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.Instant;
import java.util.Map;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.StringLength;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

class WireTest {
    @Test
    void an_event_survives_the_way_there_and_back_and_leaves_out_what_is_absent() {
        WireEvent event = new WireEvent(
                1,
                7,
                Instant.parse("2026-11-24T14:20:00.123Z"),
                "access.granted",
                "T100",
                "vault",
                "c5",
                "vault.in",
                "entry",
                "p1",
                "20266",
                "card",
                null,
                null,
                Map.of("explanation", "„Größe“ ok"),
                null);
        String json = Wire.write(event);
        assertThat(json).doesNotContain("reason").doesNotContain("null");
        assertThat(Wire.read(json, WireEvent.class)).isEqualTo(event);
    }

    @Test
    void names_nobody_knows_yet_are_passed_over() {
        assertThat(Wire.read("{\"epoch\":1,\"seq\":2,\"kind\":\"x\",\"later\":{\"a\":[1]}}", WireEvent.class)
                        .seq())
                .isEqualTo(2);
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "",
                "null",
                "[]",
                "7",
                "{\"seq\":",
                "{\"epoch\":1,\"seq\":\"7\"}",
                "{\"epoch\":1,\"seq\":null}",
                "{\"epoch\":1,\"seq\":1.5}",
                "{\"epoch\":1,\"seq\":1,\"kind\":12}",
                "{\"epoch\":1,\"seq\":1,\"time\":\"yesterday\"}",
                "{\"epoch\":1,\"seq\":1} trailing",
                "{\"epoch\":1,\"seq\":1,\"details\":[1]}"
            })
    void what_is_no_event_is_said_so(String json) {
        assertThatThrownBy(() -> Wire.read(json, WireEvent.class))
                .isInstanceOf(WireException.class)
                .message()
                .isNotBlank();
    }

    @Test
    void depth_and_length_are_bounded() {
        String deep = "{\"epoch\":1,\"seq\":1,\"more\":" + "[".repeat(500) + "]".repeat(500) + "}";
        assertThatThrownBy(() -> Wire.read(deep, WireEvent.class)).isInstanceOf(WireException.class);
        String longWord = "{\"epoch\":1,\"seq\":1,\"kind\":\"" + "x".repeat(Wire.LONGEST_EVENT + 10) + "\"}";
        assertThatThrownBy(() -> Wire.read(longWord, WireEvent.class)).isInstanceOf(WireException.class);
    }

    @Test
    void a_token_is_not_printed() {
        LinksFile.Link link = new LinksFile.Link(
                "access", null, "tidewater", "Tidewater", java.net.URI.create("http://127.0.0.1:1/"), "secret-token");
        assertThat(link.toString()).doesNotContain("secret");
    }

    @Property(tries = 500)
    void whatever_arrives_is_read_or_refused_but_nothing_else(@ForAll @StringLength(max = 200) String anything) {
        try {
            Wire.read(anything, WireEvent.class);
        } catch (WireException expected) {
            assertThat(expected.getMessage()).isNotNull();
        }
    }
}
