package org.custodia.link;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.custodia.core.event.Event;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.site.SystemId;
import org.custodia.wire.Wire;
import org.junit.jupiter.api.Test;

class EventStreamTest {
    private static List<EventStream.Message> read(String text) throws IOException {
        EventStream stream = new EventStream(new ByteArrayInputStream(text.getBytes(StandardCharsets.UTF_8)));
        List<EventStream.Message> all = new ArrayList<>();
        EventStream.Message message;
        while ((message = stream.next()) != null) {
            all.add(message);
        }
        return all;
    }

    @Test
    void messages_are_taken_apart_whatever_the_line_ends_and_comments() throws IOException {
        List<EventStream.Message> all = read(
                ": hello\r\n\r\nid: 1:2\r\nevent: event\r\ndata: {\"a\":1}\r\n\r\nevent: heartbeat\ndata:x\ndata: y\n\n\n\ndata: cut");
        assertThat(all)
                .containsExactly(
                        new EventStream.Message("event", "1:2", "{\"a\":1}", false),
                        new EventStream.Message("heartbeat", "", "x\ny", false));
    }

    @Test
    void what_is_too_long_is_cut_and_marked_and_the_next_message_is_whole() throws IOException {
        String huge = "y".repeat(Wire.LONGEST_EVENT * 3);
        List<EventStream.Message> all = read("event: event\ndata: " + huge + "\n\nevent: event\ndata: ok\n\n");
        assertThat(all).hasSize(2);
        assertThat(all.get(0).oversized()).isTrue();
        assertThat(all.get(0).data().length()).isLessThanOrEqualTo(Wire.LONGEST_EVENT);
        assertThat(all.get(1)).isEqualTo(new EventStream.Message("event", "", "ok", false));
    }

    @Test
    void back_off_doubles_up_to_a_limit_and_starts_again() {
        BackOff backOff = new BackOff(Pace.USUAL);
        List<Duration> waits = new ArrayList<>();
        for (int i = 0; i < 8; i++) {
            waits.add(backOff.next());
        }
        assertThat(waits.get(1)).isEqualTo(waits.get(0).multipliedBy(2));
        assertThat(waits.get(7)).isEqualTo(Duration.ofSeconds(15)).isEqualTo(waits.get(6));
        backOff.reset();
        assertThat(backOff.next()).isEqualTo(waits.get(0));
    }

    @Test
    void translation_keeps_what_it_does_not_know_and_refuses_only_what_has_no_number_or_kind() {
        SystemId system = new SystemId("larkspur");
        Instant time = Instant.parse("2026-11-24T14:20:00Z");
        ClockBook clocks = new ClockBook();
        clocks.add(new ClockBook.Reading(system, time, Duration.ofMillis(-800), Duration.ZERO));
        EventTranslation t = new EventTranslation(system, clocks);
        String strange = "{\"epoch\":1,\"seq\":9,\"time\":\"2026-11-24T14:20:00Z\",\"kind\":\"Valve Opened\","
                + "\"door\":\"nowhere\",\"person\":\"nobody\",\"code\":\"L77\",\"reason\":\"" + "r".repeat(9_000)
                + "\"}";
        Event event =
                t.read(strange, time.plusSeconds(2), Optional.empty()).event().orElseThrow();
        assertThat(event.kind().id()).isEqualTo("Valve Opened");
        assertThat(event.door().orElseThrow().value()).isEqualTo("larkspur/nowhere");
        assertThat(event.reason().orElseThrow()).hasSize(9_000);
        assertThat(event.time()).isEqualTo(time.plusMillis(800));
        for (String bad : List.of(
                "{\"epoch\":1,\"seq\":0,\"kind\":\"x\"}",
                "{\"epoch\":-1,\"seq\":1,\"kind\":\"x\"}",
                "{\"epoch\":1,\"seq\":1.5,\"kind\":\"x\"}",
                "{\"epoch\":4503599627370496,\"seq\":1,\"kind\":\"x\"}",
                "{\"epoch\":1,\"seq\":1}",
                "{\"epoch\":1,\"seq\":1,\"kind\":\"\"}",
                "{\"epoch\":1,\"seq\":1,\"kind\":\"OPERATOR.verdict\"}",
                "[1]",
                "")) {
            EventTranslation.Understood understood = t.read(bad, time, Optional.empty());
            assertThat(understood.event()).as(bad).isEmpty();
            assertThat(understood.unread().orElseThrow().why().code()).as(bad).startsWith("unread.");
        }
    }
}
