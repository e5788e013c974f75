package org.custodia.desktop.shell;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.door.DoorState;
import org.custodia.core.event.Priority;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.link.LinkStatus.State;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

class HealthTest {
    private static final Instant NOW = Instant.parse("2026-11-24T14:20:00Z");
    private static final DoorId ROOF = new DoorId("tidewater/roof-store");
    private static final SiteModel SITES = new SiteModel(
            List.of(),
            List.of(new Door(
                    ROOF,
                    new SystemId("tidewater"),
                    new ControllerId("tidewater/c6"),
                    "Roof store",
                    new SiteId("harbour"),
                    "2",
                    "a",
                    "b",
                    Duration.ofSeconds(30),
                    java.util.Set.of())),
            List.of(),
            List.of());

    private static LinkStatus link(String id, State state, String problem) {
        return new LinkStatus(
                new SystemId(id),
                id,
                Optional.empty(),
                state,
                NOW.minusSeconds(65),
                Optional.of(NOW.minusSeconds(2)),
                Optional.ofNullable(problem).map(Saying::quoted),
                Optional.of(NOW.plusSeconds(4)),
                43_000,
                198_000,
                List.of(),
                Optional.empty());
    }

    private static Health.Line say(LinkStatus... links) {
        return Health.links(List.of(links), Map.of(), SITES, NOW, 0);
    }

    @Test
    void the_worst_is_said_first() {
        assertThat(say(link("a", State.UP, null), link("b", State.UP, null)).words())
                .isEqualTo("2 links up");
        assertThat(say(link("a", State.UP, null), link("b", State.CONNECTING, null))
                        .words())
                .isEqualTo("connecting");
        assertThat(say(link("a", State.READING_BACKLOG, null), link("b", State.CONNECTING, null))
                        .words())
                .isEqualTo("reading history, 43,000 of 198,000");
        Health.Line down = say(
                link("a", State.DOWN, "nothing answers"),
                link("b", State.READING_BACKLOG, null),
                link("c", State.DOWN, "x"));
        assertThat(down.words()).isEqualTo("a and 1 more out of reach");
        assertThat(down.priority()).isEqualTo(Priority.CAUTION);
        assertThat(down.details()).contains("a: out of reach for 1 min 5\u00a0s, “nothing answers”, next try in 4 s");
    }

    @Test
    void a_controller_out_of_reach_matters_when_all_links_are_up() {
        DoorState lost = new DoorState(
                DoorState.Position.UNKNOWN,
                Optional.empty(),
                org.custodia.core.door.LockMode.LOCKED,
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.of(NOW),
                false);
        Health.Line line = Health.links(List.of(link("a", State.UP, null)), Map.of(ROOF, lost), SITES, NOW, 3);
        assertThat(line.words()).isEqualTo("1 controller out of reach");
        assertThat(line.details())
                .contains("controller tidewater/c6")
                .contains("3 messages and records could not be understood");
    }

    @Test
    void what_is_odd_about_a_link_that_works_is_said_last_and_told_in_full() {
        LinkStatus odd = new LinkStatus(
                new SystemId("a"),
                "Tidewater",
                Optional.empty(),
                State.UP,
                NOW,
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                0,
                0,
                List.of(Saying.of("link.cameras-left-out", 2)),
                Optional.empty());
        Health.Line line = say(odd, link("b", State.UP, null));
        assertThat(line.words()).isEqualTo("Tidewater: something is odd");
        assertThat(line.priority()).isEqualTo(Priority.LOW);
        assertThat(line.details()).contains("2 of its cameras cannot be read and are left out");
        assertThat(say(odd, link("b", State.DOWN, "x")).words()).isEqualTo("b out of reach");
    }

    @Test
    void clocks_say_the_worst_and_which() {
        ClockBook book = new ClockBook();
        // Before any was asked there is nothing to say.
        assertThat(Health.clocks(book).words()).isEmpty();
        book.add(ClockBook.measure(new SystemId("quayside"), NOW, NOW.plusMillis(1_800), NOW));
        book.add(ClockBook.measure(new SystemId("larkspur"), NOW, NOW.minusMillis(800), NOW));
        Health.Line line = Health.clocks(book);
        assertThat(line.words()).isEqualTo("clocks up to 1.8 s apart");
        assertThat(line.priority()).isEqualTo(Priority.LOW);
        assertThat(line.details())
                .contains("larkspur: 0.8 s behind ± 1 ms, corrected", "quayside: 1.8 s ahead ± 1 ms, corrected");
    }
}
