package org.custodia.link;

import java.io.IOException;
import java.io.InputStream;
import java.net.URI;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.function.Consumer;
import org.custodia.core.door.CommandAnswer;
import org.custodia.core.door.CommandAnswer.Result;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.Kinds;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.link.AccessLink;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.link.LinkStatus.State;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SystemId;
import org.custodia.wire.AccessMessages;
import org.custodia.wire.AccessMessages.CommandReply;
import org.custodia.wire.AccessMessages.DoorReport;
import org.custodia.wire.AccessMessages.Heartbeat;
import org.custodia.wire.AccessMessages.Hello;
import org.custodia.wire.AccessMessages.Snapshot;
import org.custodia.wire.Wire;
import org.custodia.wire.WireEvent;
import org.custodia.wire.WireException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * A session with an access system: it reads the inventory, catches up with what happened since the last stored event, and
 * then follows live; when it is cut it tries again and resumes where the log stands.
 */
public final class HttpAccessLink implements AccessLink {
    private static final Logger LOG = LoggerFactory.getLogger(HttpAccessLink.class);
    private static final int PAGE = 4_000;
    private static final Duration COMMAND_WITHIN = Duration.ofSeconds(5);
    private static final Duration SILENT_TOO_LONG = Duration.ofSeconds(10);
    private static final Duration MEASURE_EVERY = Duration.ofSeconds(20);

    private final SystemId system;
    private final Requests requests;
    private final EventIntake intake;
    private final EventLog log;
    private final ClockBook clocks;
    private final Counterpart counterpart;
    private final InventoryReader inventory;
    private final Clock clock;
    private final EventTranslation translation;
    private final StatusBox status;
    private final ExecutorService executor;
    private final Thread thread;
    private final Thread watchdog;
    private volatile InputStream open;
    private volatile long heardNanos;
    private volatile boolean closed;
    private boolean lostLogged;
    private volatile Instant measured = Instant.MIN;

    /** What a link needs around it. */
    public record Surroundings(
            EventIntake intake,
            EventLog log,
            ClockBook clocks,
            Consumer<ClockBook.Reading> keepReading,
            Inventory inventory,
            Clock clock,
            Consumer<LinkStatus> statusListener) {}

    /** Starts connecting at once, in the background. */
    public HttpAccessLink(SystemId system, String name, URI address, String token, Surroundings around) {
        this.system = system;
        this.intake = around.intake();
        this.log = around.log();
        this.clocks = around.clocks();
        this.clock = around.clock();
        this.translation = new EventTranslation(system);
        this.executor = Executors.newCachedThreadPool(r -> daemon(r, "link " + system + " worker"));
        this.requests = new Requests(address, token, executor);
        this.counterpart = new Counterpart(system, requests, around);
        this.inventory = new InventoryReader(system, requests, around.inventory());
        this.status = new StatusBox(system, name, clock, around.statusListener());
        this.thread = daemon(this::run, "link " + system);
        this.watchdog = daemon(this::watch, "link " + system + " watch");
        thread.start();
        watchdog.start();
    }

    static Thread daemon(Runnable work, String name) {
        Thread t = new Thread(work, name);
        t.setDaemon(true);
        return t;
    }

    @Override
    public SystemId system() {
        return system;
    }

    @Override
    public LinkStatus status() {
        return status.get();
    }

    private void run() {
        BackOff backOff = new BackOff();
        while (!closed) {
            try {
                status.state(State.CONNECTING);
                session(backOff);
                throw new LinkException(0, "the system ended the connection");
            } catch (IOException | RuntimeException e) {
                if (closed) {
                    break;
                }
                String problem = problem(e);
                Duration wait = backOff.next();
                logLost(problem);
                status.down(problem, clock.instant().plus(wait));
                pause(wait);
            } catch (InterruptedException e) {
                break;
            }
        }
        status.state(State.CLOSED);
    }

    private static String problem(Exception e) {
        if (e instanceof LinkException || e.getMessage() != null && e.getCause() == null) {
            return e instanceof LinkException ? e.getMessage() : "the connection broke (" + e.getMessage() + ")";
        }
        return "the connection broke";
    }

    private void pause(Duration wait) {
        try {
            Thread.sleep(wait.toMillis());
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    private void session(BackOff backOff) throws IOException, InterruptedException {
        Hello hello = requests.get("hello", Hello.class);
        counterpart.check(hello.protocol(), hello.system());
        counterpart.measureClock();
        counterpart.measureClock();
        measured = counterpart.measureClock();
        inventory.read(hello.inventory());
        backlog(hello);
        inventory.fetchPhotos();
        Resume resume = resumeFrom(hello.epoch());
        Snapshot snapshot = requests.get("snapshot", Snapshot.class);
        keep(snapshot);
        backOff.reset();
        follow(resume);
    }

    private record Resume(long epoch, long sequence) {}

    private Resume resumeFrom(long epoch) {
        return log.lastOf(system)
                .filter(r -> r.epoch() == epoch)
                .map(r -> new Resume(epoch, r.sequence()))
                .orElse(new Resume(epoch, 0));
    }

    /** Reads in bulk what happened since the last stored event. */
    private void backlog(Hello hello) throws IOException, InterruptedException {
        Resume at = resumeFrom(hello.epoch());
        long first = at.sequence();
        CompletableFuture<Void> stored = CompletableFuture.completedFuture(null);
        long last = first;
        while (last < hello.lastSeq()) {
            status.backlog(last - first, hello.lastSeq() - first);
            String page = requests.text("events?after=" + last + "&limit=" + PAGE);
            List<String> lines = page.lines().filter(line -> !line.isBlank()).toList();
            if (lines.isEmpty()) {
                throw new LinkException(0, "the system did not deliver what happened after event " + last);
            }
            List<Event> events = new ArrayList<>(lines.size());
            Instant now = clock.instant();
            Duration ahead = clocks.ahead(system, now);
            lines.forEach(line -> understand(line, now, ahead).ifPresent(events::add));
            // Numbers have no holes, so a line that cannot be understood still counts.
            long counted = last + lines.size();
            last = Math.max(
                    counted,
                    events.stream().mapToLong(e -> e.key().sequence()).max().orElse(counted));
            await(stored);
            stored = intake.accept(events, true);
            status.heard();
        }
        await(stored);
    }

    private static void await(CompletableFuture<?> stored) throws LinkException, InterruptedException {
        try {
            stored.get(60, TimeUnit.SECONDS);
        } catch (ExecutionException e) {
            throw new LinkException(0, String.valueOf(e.getCause().getMessage()));
        } catch (TimeoutException e) {
            throw new LinkException(0, "the log does not take what arrives");
        }
    }

    private Optional<Event> understand(String raw) {
        Instant now = clock.instant();
        return understand(raw, now, clocks.ahead(system, now));
    }

    private Optional<Event> understand(String raw, Instant now, Duration ahead) {
        try {
            WireEvent wire = Wire.read(raw, WireEvent.class);
            return Optional.of(translation.event(wire, raw, now, ahead));
        } catch (WireException e) {
            intake.keepUnread(system, now, raw, e.getMessage());
            LOG.warn("A message of {} could not be understood and is kept as it came: {}", system, e.getMessage());
            return Optional.empty();
        }
    }

    private void keep(Snapshot snapshot) throws LinkException, InterruptedException {
        Duration ahead = clocks.ahead(system, clock.instant());
        // A first connection is no return; the reports that follow put the doors right in any case.
        if (lostLogged) {
            await(intake.record(counterpart.event(Kinds.LINK_BACK, clock.instant())));
            lostLogged = false;
        }
        CompletableFuture<Event> last = null;
        for (DoorReport report : snapshot.doors()) {
            last = intake.record(translation.report(report, snapshot.time(), ahead, Kinds.REPORT, Counterpart.OWN));
        }
        if (last != null) {
            await(last);
        }
    }

    private void logLost(String problem) {
        if (!lostLogged) {
            lostLogged = true;
            Instant since = status.get().lastHeard().orElse(clock.instant());
            intake.record(counterpart.lost(since, problem));
        }
    }

    private void follow(Resume resume) throws IOException, InterruptedException {
        Requests.Answer response = requests.open("stream", "Last-Event-ID", resume.epoch() + ":" + resume.sequence());
        try (InputStream in = response.body()) {
            open = in;
            heardNanos = System.nanoTime();
            status.state(State.UP);
            EventStream stream = new EventStream(in);
            EventStream.Message message;
            while ((message = stream.next()) != null) {
                heardNanos = System.nanoTime();
                status.heard();
                take(message);
            }
        } finally {
            open = null;
        }
    }

    private void take(EventStream.Message message) throws IOException, InterruptedException {
        if (message.oversized()) {
            intake.keepUnread(system, clock.instant(), message.data(), "longer than a message may be");
        } else if (message.event().equals("event")) {
            Optional<Event> event = understand(message.data());
            if (event.isPresent()) {
                boolean backlog = event.get().time().isBefore(clock.instant().minusSeconds(30));
                CompletableFuture<Void> stored = intake.accept(List.of(event.get()), false);
                // A failure to store ends the session, so that the event comes again.
                if (backlog || stored.isDone()) {
                    await(stored);
                } else {
                    stored.whenComplete((v, failure) -> {
                        if (failure != null) {
                            closeQuietly(open);
                        }
                    });
                }
            }
        } else if (message.event().equals("heartbeat")) {
            heartbeat(message.data());
        } else {
            intake.keepUnread(system, clock.instant(), message.data(), "a message of kind " + message.event());
        }
    }

    private void heartbeat(String data) throws IOException {
        try {
            Wire.read(data, Heartbeat.class);
        } catch (WireException e) {
            intake.keepUnread(system, clock.instant(), data, e.getMessage());
        }
        if (Duration.between(measured, clock.instant()).compareTo(MEASURE_EVERY) > 0) {
            try {
                executor.execute(() -> {
                    try {
                        measured = counterpart.measureClock();
                    } catch (IOException e) {
                        LOG.debug("The clock of {} could not be measured: {}", system, e.getMessage());
                    }
                });
            } catch (RejectedExecutionException e) {
                LOG.debug("closing");
            }
        }
    }

    /** Ends a session in which nothing is heard any more. */
    private void watch() {
        while (!closed) {
            InputStream current = open;
            if (current != null && System.nanoTime() - heardNanos > SILENT_TOO_LONG.toNanos()) {
                closeQuietly(current);
            }
            try {
                Thread.sleep(1_000);
            } catch (InterruptedException e) {
                return;
            }
        }
    }

    private static void closeQuietly(InputStream in) {
        try {
            if (in != null) {
                in.close();
            }
        } catch (IOException e) {
            LOG.debug("A stream did not close well: {}", e.getMessage());
        }
    }

    @Override
    public CompletableFuture<CommandAnswer> command(DoorId door, DoorCommand command, String key) {
        if (status.get().state() != State.UP) {
            return CompletableFuture.completedFuture(new CommandAnswer(
                    Result.NOT_REACHED, "not sent: the link to " + status.get().name() + " is down"));
        }
        Instant until = command instanceof DoorCommand.LeaveUnlocked leave
                ? leave.until()
                        .map(t -> t.plus(clocks.ahead(system, clock.instant())))
                        .orElse(null)
                : null;
        String local = door.value().substring(system.value().length() + 1);
        AccessMessages.Command body = new AccessMessages.Command(key, local, command.word(), until);
        return CompletableFuture.supplyAsync(() -> answer(body), executor);
    }

    private CommandAnswer answer(AccessMessages.Command body) {
        try {
            CommandReply reply = requests.post("commands", body, CommandReply.class, COMMAND_WITHIN);
            return switch (String.valueOf(reply.result())) {
                case "done" -> new CommandAnswer(Result.DONE, "done");
                case "refused" -> new CommandAnswer(Result.REFUSED, "the system refused: " + reply.words());
                case "not-reached" -> new CommandAnswer(Result.NOT_REACHED, "did not reach the door: " + reply.words());
                default -> new CommandAnswer(Result.NOT_KNOWN, "the system's answer cannot be understood");
            };
        } catch (LinkException e) {
            boolean neverThere = e.status() >= 400 || e.getMessage().startsWith("nothing answers");
            return neverThere
                    ? new CommandAnswer(Result.NOT_REACHED, "did not reach the door: " + e.getMessage())
                    : new CommandAnswer(Result.NOT_KNOWN, "not known whether it arrived: " + e.getMessage());
        } catch (IOException e) {
            return new CommandAnswer(Result.NOT_KNOWN, "not known whether it arrived: the connection broke");
        }
    }

    @Override
    public void close() {
        closed = true;
        closeQuietly(open);
        thread.interrupt();
        watchdog.interrupt();
        requests.close();
        inventory.close();
        executor.shutdownNow();
        try {
            thread.join(3_000);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
