package org.custodia.link;

import java.io.IOException;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.function.Consumer;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.site.SystemId;
import org.custodia.wire.ClockMessage;
import org.custodia.wire.Wire;

/** What holds for a system of any kind at the other end of a link: who it says it is, and what its clock shows. */
final class Counterpart {
    private static final Duration KEEP_EVERY = Duration.ofMinutes(1);
    /** Stands in for the key that the log gives to what is Custodia's own. */
    static final EventKey OWN = new EventKey(new SystemId("custodia"), 1, 0);

    private final SystemId system;
    private final Requests requests;
    private final ClockBook clocks;
    private final Consumer<ClockBook.Reading> keepReading;
    private final Clock clock;
    private Instant kept = Instant.MIN;

    Counterpart(SystemId system, Requests requests, HttpAccessLink.Surroundings around) {
        this.system = system;
        this.requests = requests;
        this.clocks = around.clocks();
        this.keepReading = around.keepReading();
        this.clock = around.clock();
    }

    /**
     * Checks what a system says of itself.
     *
     * @throws LinkException if it speaks another protocol or is another system
     */
    void check(int protocol, String name) throws LinkException {
        if (protocol != Wire.VERSION) {
            throw new LinkException(
                    0, "it speaks version " + protocol + " of the protocol, this is version " + Wire.VERSION);
        }
        if (!system.value().equals(name)) {
            throw new LinkException(0, "at this address answers \"" + name + "\", not " + system);
        }
    }

    /**
     * Asks what its clock shows. One measurement a minute is kept for later days, too.
     *
     * @return when it was measured, by our clock
     */
    synchronized Instant measureClock() throws IOException {
        Instant asked = clock.instant();
        ClockMessage answer = requests.get("time", ClockMessage.class);
        ClockBook.Reading reading = ClockBook.measure(system, asked, answer.time(), clock.instant());
        clocks.add(reading);
        if (kept.equals(Instant.MIN) || Duration.between(kept, reading.at()).compareTo(KEEP_EVERY) >= 0) {
            kept = reading.at();
            keepReading.accept(reading);
        }
        return reading.at();
    }

    /** An event about the link itself. */
    Event.Builder event(EventKind kind, Instant at) {
        return Event.of(OWN, kind, at).detail("system", system.value());
    }

    /** The link was lost. */
    Event.Builder lost(Instant since, String problem) {
        return event(Kinds.LINK_LOST, since).reason(problem);
    }
}
