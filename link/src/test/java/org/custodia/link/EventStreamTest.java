package org.custodia.link;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import org.custodia.core.event.Event;
import org.custodia.core.site.SystemId;
import org.custodia.wire.Wire;
import org.custodia.wire.WireEvent;
import org.custodia.wire.WireException;
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
                        new EventStream.Message("event", "{\"a\":1}", false),
                        new EventStream.Message("heartbeat", "x\ny", false));
    }

    @Test
    void what_is_too_long_is_cut_and_marked_and_the_next_message_is_whole() throws IOException {
        String huge = "y".repeat(Wire.LONGEST_EVENT * 3);
        List<EventStream.Message> all = read("event: event\ndata: " + huge + "\n\nevent: event\ndata: ok\n\n");
        assertThat(all).hasSize(2);
        assertThat(all.get(0).oversized()).isTrue();
        assertThat(all.get(0).data().length()).isLessThanOrEqualTo(Wire.LONGEST_EVENT);
        assertThat(all.get(1)).isEqualTo(new EventStream.Message("event", "ok", false));
    }

    @Test
    void back_off_doubles_up_to_a_limit_and_starts_again() {
        BackOff backOff = new BackOff();
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
    void translation_keeps_what_it_does_not_know_and_refuses_what_cannot_be() {
        EventTranslation t = new EventTranslation(new SystemId("larkspur"));
        Instant time = Instant.parse("2026-11-24T14:20:00Z");
        WireEvent strange = Wire.read(
                "{\"epoch\":1,\"seq\":9,\"time\":\"2026-11-24T14:20:00Z\",\"kind\":\"valve.opened\",\"side\":\"above\","
                        + "\"door\":\"nowhere\",\"person\":\"nobody\",\"code\":\"L77\"}",
                WireEvent.class);
        Event event = t.event(strange, "raw", time.plusSeconds(2), Duration.ofMillis(-800));
        assertThat(event.kind().id()).isEqualTo("valve.opened");
        assertThat(event.side()).isEmpty();
        assertThat(event.door().orElseThrow().value()).isEqualTo("larkspur/nowhere");
        assertThat(event.time()).isEqualTo(time.plusMillis(800));
        for (String bad : List.of(
                "{\"epoch\":1,\"seq\":0,\"time\":\"2026-11-24T14:20:00Z\",\"kind\":\"x\"}",
                "{\"epoch\":-1,\"seq\":1,\"time\":\"2026-11-24T14:20:00Z\",\"kind\":\"x\"}",
                "{\"epoch\":1,\"seq\":1,\"kind\":\"x\"}",
                "{\"epoch\":1,\"seq\":1,\"time\":\"1830-11-24T14:20:00Z\",\"kind\":\"x\"}",
                "{\"epoch\":1,\"seq\":1,\"time\":\"2026-11-24T14:20:00Z\"}",
                "{\"epoch\":1,\"seq\":1,\"time\":\"2026-11-24T14:20:00Z\",\"kind\":\"No Such\"}",
                "{\"epoch\":1,\"seq\":1,\"time\":\"2026-11-24T14:20:00Z\",\"kind\":\"x\",\"door\":\" \"}",
                "{\"epoch\":1,\"seq\":1,\"time\":\"2026-11-24T14:20:00Z\",\"kind\":\"x\",\"reason\":\""
                        + "r".repeat(3000) + "\"}")) {
            WireEvent wire = Wire.read(bad, WireEvent.class);
            org.assertj.core.api.Assertions.assertThatThrownBy(() -> t.event(wire, bad, time, Duration.ZERO))
                    .as(bad.substring(0, Math.min(90, bad.length())))
                    .isInstanceOf(WireException.class);
        }
    }
}
