package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.ByteArrayOutputStream;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.link.LinkStatus.State;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

class LinksOnTerminalTest {
    private final ByteArrayOutputStream out = new ByteArrayOutputStream();
    private long nanos;
    private final LinksOnTerminal sayings =
            new LinksOnTerminal(new PrintStream(out, true, StandardCharsets.UTF_8), () -> nanos);

    private void status(State state, String problem, long done, String... notices) {
        sayings.accept(new LinkStatus(
                new SystemId("tidewater"),
                "Tidewater",
                Optional.empty(),
                state,
                Instant.EPOCH,
                Optional.empty(),
                Optional.ofNullable(problem).map(Saying::of),
                Optional.empty(),
                done,
                9_000,
                Stream.of(notices).map(Saying::of).toList(),
                Optional.empty()));
    }

    private List<String> said() {
        List<String> lines = out.toString(StandardCharsets.UTF_8).lines().toList();
        out.reset();
        return lines;
    }

    @Test
    void each_change_is_said_once() {
        nanos = 100_000_000_000L;
        status(State.CONNECTING, null, 0);
        status(State.DOWN, "link.broke", 0);
        status(State.CONNECTING, null, 0);
        status(State.DOWN, "link.broke", 0);
        assertThat(said())
                .containsExactly(
                        "Tidewater: connecting",
                        "Tidewater: out of reach, the connection broke; tried again until it answers");
        status(State.DOWN, "link.token-refused", 0);
        status(State.READING_BACKLOG, null, 0);
        status(State.READING_BACKLOG, null, 4_000);
        nanos += 6_000_000_000L;
        status(State.READING_BACKLOG, null, 8_000);
        status(State.UP, null, 0, "link.other-epoch");
        status(State.UP, null, 0, "link.other-epoch");
        status(State.CLOSED, null, 0, "link.other-epoch");
        assertThat(said())
                .containsExactly(
                        "Tidewater: out of reach, the system refused the token; is it the one that was given out for Custodia?; tried again until it answers",
                        "Tidewater: reading history, 0 of 9,000",
                        "Tidewater: reading history, 8,000 of 9,000",
                        "Tidewater: up",
                        "Tidewater: the system counts in another epoch now",
                        "Tidewater: closed");
    }
}
