package org.custodia.link;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Clock;
import java.time.Instant;
import java.time.InstantSource;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.link.LinkStatus.State;
import org.custodia.core.link.LinkStatus.Trouble;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

class StatusBoxTest {
    private static final Instant T = Instant.parse("2026-11-24T14:00:00Z");

    private Instant now = T;
    private final List<LinkStatus> told = new ArrayList<>();
    private final StatusBox box = new StatusBox(new SystemId("tidewater"), "Tidewater", clock(() -> now), told::add);

    private static Clock clock(InstantSource source) {
        return source.withZone(ZoneOffset.UTC);
    }

    @Test
    void what_went_wrong_stays_known_with_when_it_began_and_was_over() {
        Saying refused = Saying.of("link.refused");
        Saying silent = Saying.of("link.no-answer");
        box.state(State.UP);
        assertThat(box.get().lastTrouble()).isEmpty();
        now = T.plusSeconds(10);
        box.down(refused, now.plusSeconds(5));
        now = T.plusSeconds(20);
        box.state(State.CONNECTING);
        now = T.plusSeconds(25);
        box.down(silent, now.plusSeconds(5));
        assertThat(box.get().lastTrouble()).contains(new Trouble(T.plusSeconds(10), Optional.empty(), silent));
        now = T.plusSeconds(30);
        box.backlog(0, 9);
        assertThat(box.get().lastTrouble().orElseThrow().until()).isEmpty();
        now = T.plusSeconds(40);
        box.state(State.UP);
        box.heard();
        Trouble over = new Trouble(T.plusSeconds(10), Optional.of(T.plusSeconds(40)), silent);
        assertThat(box.get().lastTrouble()).contains(over);
        now = T.plusSeconds(50);
        box.state(State.UP);
        box.notice("clock", Saying.of("link.odd"));
        box.settled("clock");
        assertThat(box.get().lastTrouble()).contains(over);
        assertThat(box.get().since()).isEqualTo(T.plusSeconds(40));
        now = T.plusSeconds(60);
        box.down(refused, now);
        assertThat(box.get().lastTrouble()).contains(new Trouble(now, Optional.empty(), refused));
    }

    @Test
    void what_the_other_end_says_it_is_is_kept_short_and_told_once() {
        box.make("\u0000Tide\nwater " + "4".repeat(500));
        assertThat(box.get().make().orElseThrow()).startsWith("Tidewater 4").hasSize(60);
        box.make(box.get().make().orElseThrow());
        box.make(" \t");
        assertThat(told).hasSize(1);
        assertThat(box.get().closed().make()).isPresent();
    }
}
