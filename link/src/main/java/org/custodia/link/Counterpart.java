package org.custodia.link;

import java.io.IOException;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Provenance;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.link.ClockSource;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.SystemId;
import org.custodia.wire.ClockMessage;
import org.custodia.wire.Fields;
import org.custodia.wire.Wire;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * What holds for a system of any kind at the other end of a link: who it says it is, what its clock shows, and whether the
 * log has it as lost.
 */
final class Counterpart {
    /** Stands in for the key that the log gives to what is Custodia's own. */
    static final EventKey OWN = new EventKey(SystemId.CUSTODIA, 1, 0);

    private static final Logger LOG = LoggerFactory.getLogger(Counterpart.class);
    private static final int PAGE = 500;
    private static final Duration SYNC_WITHIN = Duration.ofSeconds(15);

    private final SystemId system;
    private final Requests requests;
    private final Surroundings around;
    private final Clock clock;
    private final ClockBook clocks;
    private final EventIntake intake;
    /** Whether the log's last word is that the link is lost; nothing until the log was asked. */
    private Optional<Boolean> lost = Optional.empty();

    private volatile Optional<ClockSource> source = Optional.empty();

    /** The detail that says why a link was lost: a {@link Saying}. */
    static final String SAID = "said";

    Counterpart(SystemId system, Requests requests, Surroundings around) {
        this.system = system;
        this.requests = requests;
        this.around = around;
        this.clocks = around.clocks();
        this.clock = around.clock();
        this.intake = around.intake();
    }

    /**
     * Asks a system who it is, and checks that.
     *
     * @throws IOException if it does not answer, speaks another protocol or is another system
     */
    Fields hello() throws IOException {
        Fields hello = requests.fields("hello");
        long protocol = need(hello, "protocol", hello.number("protocol"));
        if (protocol != Wire.VERSION) {
            throw LinkException.of("link.other-protocol", protocol, Wire.VERSION);
        }
        String name = need(hello, "system", hello.text("system"));
        if (!system.value().equals(name)) {
            throw LinkException.of("link.other-system", name, system.value());
        }
        return hello;
    }

    /**
     * A field without which a greeting makes no sense.
     *
     * @throws LinkException if it is not there
     */
    static <T> T need(Fields hello, String name, Optional<T> value) throws LinkException {
        if (value.isEmpty()) {
            throw LinkException.of("link.answer-odd", "hello", name);
        }
        return value.get();
    }

    /**
     * Asks what its clock shows.
     *
     * @return when it was measured, by our clock
     */
    synchronized Instant measureClock() throws IOException {
        Instant asked = clock.instant();
        Fields answer = requests.fields("time");
        Instant returned = clock.instant();
        Optional<Instant> shown = answer.instant("time");
        if (shown.isEmpty()) {
            throw LinkException.of("link.answer-odd", "time", "time");
        }
        source = answer.word("source")
                .map(w -> new ClockSource(w, answer.flag("canSync").orElse(false)));
        ClockBook.Reading reading = ClockBook.measure(system, asked, shown.get(), returned);
        try {
            clocks.add(reading).ifPresent(around.keepReading());
        } catch (EventLogException e) {
            // It is in memory, and the next that differs is kept.
            LOG.debug("A measurement was not kept", e);
        }
        return reading.at();
    }

    /** Where its clock takes the time from, as it said last. */
    Optional<ClockSource> clockSource() {
        return source;
    }

    /**
     * Has it set its clock, and looks what it shows then.
     *
     * @throws IOException if it does not; it says why
     */
    void syncClock() throws IOException {
        if (source.filter(ClockSource::canSync).isEmpty()) {
            throw LinkException.of("link.clock-cannot");
        }
        requests.post("time/sync", Map.of(), ClockMessage.class, SYNC_WITHIN);
        measureClock();
    }

    /** An event about the link itself, or about something at its other end. */
    Event.Builder event(EventKind kind, Instant at) {
        return Event.of(OWN, kind, at).detail("system", system.value());
    }

    /** Whether the log's last word on this link is that it is lost, be it of an earlier run. */
    synchronized boolean lost() {
        if (lost.isEmpty()) {
            Event last = lastWords(
                            around.log(),
                            EventQuery.all().kinds(Kinds.LINK_LOST, Kinds.LINK_CLOSED, Kinds.LINK_BACK),
                            "system")
                    .get(system.value());
            lost = Optional.of(last != null && !last.kind().equals(Kinds.LINK_BACK));
        }
        return lost.get();
    }

    /**
     * The newest events that Custodia wrote of this system.
     *
     * @param by name of a detail; for each of its values there is one
     */
    Map<String, Event> lastWords(EventLog log, EventQuery query, String by) {
        Map<String, Event> result = new HashMap<>();
        EventQuery newest = query.newest(PAGE);
        List<Event> page = log.find(newest);
        while (!page.isEmpty()) {
            for (Event event : page) {
                boolean mine = Provenance.trusted(event)
                        && event.detail("system").filter(system.value()::equals).isPresent();
                if (mine) {
                    event.detail(by).ifPresent(value -> result.putIfAbsent(value, event));
                }
            }
            boolean enough = by.equals("system") && !result.isEmpty();
            if (enough || page.size() < PAGE) {
                break;
            }
            page = log.find(newest.before(page.get(page.size() - 1)));
        }
        return result;
    }

    /** Logs that the link is lost, unless that is the log's last word already. */
    synchronized void logLost(Instant since, Saying problem) {
        if (!lost()) {
            CompletableFuture<Event> stored = intake.recordInOrder(
                    event(Kinds.LINK_LOST, since).reason(problem.code()).detail(SAID, problem.text()));
            lost = Optional.of(true);
            stored.whenComplete((e, failure) -> {
                if (failure != null) {
                    forget();
                }
            });
        }
    }

    /** Logs that it is back, if it was lost; nothing to wait for if it was not. */
    synchronized Optional<CompletableFuture<Event>> logBack() {
        if (!lost()) {
            return Optional.empty();
        }
        lost = Optional.of(false);
        CompletableFuture<Event> stored = intake.recordInOrder(event(Kinds.LINK_BACK, clock.instant()));
        stored.whenComplete((e, failure) -> {
            if (failure != null) {
                forget();
            }
        });
        return Optional.of(stored);
    }

    /** What could not be written is not so: the log is asked again. */
    private synchronized void forget() {
        lost = Optional.empty();
    }
}
