package org.custodia.practice.timeline;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.time.Instant;
import java.time.LocalDate;
import java.util.List;
import java.util.Optional;
import org.custodia.practice.place.Installation;
import org.custodia.wire.WireEvent;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class TimelineTest {
    private static final LocalDate FIRST = LocalDate.of(2026, 10, 27);
    private static final Instant NOW = Instant.parse("2026-11-24T14:20:00Z");

    @TempDir
    Path directory;

    private Timeline timeline(String journal) {
        return new Timeline(
                42,
                FIRST,
                NOW,
                Installation.sternwick(),
                Incidents.sternwick(),
                new Journal(directory.resolve(journal)));
    }

    private static List<WireEvent> events(Timeline t, String system) {
        return t.system(system).orElseThrow().after(0, 1_000_000);
    }

    @Test
    void the_same_seed_gives_the_same_course_and_a_journal_is_done_again() {
        List<WireEvent> first;
        Instant acted = Instant.parse("2026-10-27T11:00:00Z");
        Instant end = Instant.parse("2026-10-27T18:00:00Z");
        try (Timeline t = timeline("j")) {
            t.advanceTo(acted.minusSeconds(5));
            assertThat(t.act(Act.of("command").door("print-room-north").command("leave-unlocked", "k1"), acted))
                    .isEmpty();
            assertThat(t.act(
                            Act.of("present").door("vault-ante").badge("20266", null, null, false),
                            acted.plusSeconds(9)))
                    .isEmpty();
            for (Instant i = acted; i.isBefore(end); i = i.plusSeconds(61)) {
                t.advanceTo(i);
            }
            t.advanceTo(end);
            first = events(t, "tidewater");
        }
        try (Timeline again = timeline("j")) {
            again.advanceTo(end);
            assertThat(events(again, "tidewater")).isEqualTo(first);
        }
        try (Timeline other = timeline("other")) {
            other.advanceTo(end);
            assertThat(events(other, "tidewater")).isNotEqualTo(first);
        }
    }

    @Test
    void the_same_command_key_acts_once() {
        try (Timeline t = timeline("j")) {
            Act act = Act.of("command").door("vault").command("let-through", "once");
            t.act(act, NOW.minusSeconds(86_400L * 27));
            t.act(act, NOW.minusSeconds(86_400L * 27).plusSeconds(1));
            assertThat(events(t, "tidewater").stream().filter(e -> "once".equals(e.cause())))
                    .hasSize(1);
        }
    }

    @Test
    void a_controller_out_of_reach_delivers_later_what_it_kept_and_takes_no_command() {
        try (Timeline t = timeline("j")) {
            Instant noon = Instant.parse("2026-10-27T12:00:00Z");
            t.act(Act.of("controller-lost").target("c3"), noon);
            assertThat(t.act(Act.of("command").door("map-store").command("lock", "k"), noon.plusSeconds(1)))
                    .isEqualTo(Optional.of("the controller is out of reach"));
            t.act(Act.of("present").door("map-store").badge("20171", null, null, false), noon.plusSeconds(10));
            t.advanceTo(noon.plusSeconds(100));
            long before = t.system("tidewater").orElseThrow().lastSeq();
            t.act(Act.of("controller-back").target("c3"), noon.plusSeconds(200));
            List<WireEvent> late = t.system("tidewater").orElseThrow().after(before, 1000);
            assertThat(late.stream().map(WireEvent::door)).contains("map-store");
            assertThat(late.get(0).time()).isBefore(noon.plusSeconds(190));
            assertThat(late.get(late.size() - 1).kind()).isEqualTo("controller.back");
        }
    }
}
