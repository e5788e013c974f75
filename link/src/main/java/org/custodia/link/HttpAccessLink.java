package org.custodia.link;

import java.io.IOException;
import java.io.InputStream;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.atomic.AtomicBoolean;
import org.custodia.core.door.CommandAnswer;
import org.custodia.core.door.CommandAnswer.Result;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.event.Coverage;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventIntake.Batch;
import org.custodia.core.event.EventIntake.Unread;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventLogException;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.link.AccessLink;
import org.custodia.core.link.ClockSource;
import org.custodia.core.link.Handled;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.link.LinkStatus.State;
import org.custodia.core.mishap.Threads;
import org.custodia.core.saying.Saying;
import org.custodia.core.saying.Says;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SystemId;
import org.custodia.wire.AccessMessages;
import org.custodia.wire.AccessMessages.CommandReply;
import org.custodia.wire.Fields;
import org.custodia.wire.WireException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * A session with an access system: it catches up from the last number below which everything is stored, and then follows
 * live; when it is cut it tries again from where the log stands by then. Nothing that is odd about the system keeps its
 * events out: what fails besides them is said, tried again, and not waited for.
 */
public final class HttpAccessLink implements AccessLink {
    private static final Logger LOG = LoggerFactory.getLogger(HttpAccessLink.class);
    private static final Duration COMMAND_WITHIN = Duration.ofSeconds(5);
    private static final Duration SILENT_TOO_LONG = Duration.ofSeconds(10);
    private static final Duration LOOK_EVERY = Duration.ofSeconds(1);
    private static final Duration MEASURE_EVERY = Duration.ofSeconds(20);
    /** A session that lasted so long was one; after a shorter one the next is waited for longer. */
    private static final Duration HELD = Duration.ofSeconds(10);
    /** Numbers may come out of order for so long before what is missing among them is asked for again. */
    private static final Duration OUT_OF_ORDER = Duration.ofSeconds(2);
    /** A system that does not deliver what it says it has is asked again so often. */
    private static final Duration ASK_AGAIN = Duration.ofSeconds(30);

    private final SystemId system;
    private final Requests requests;
    private final EventIntake intake;
    private final EventLog log;
    private final ClockBook clocks;
    private final Surroundings around;
    private final Counterpart counterpart;
    private final InventoryReader inventory;
    private final Clock clock;
    private final EventTranslation translation;
    private final StatusBox status;
    private final ExecutorService executor;
    private final Thread thread;
    private final Thread watchdog;
    private volatile Session session;
    private volatile boolean closed;
    private volatile Optional<Boolean> keepsAlarms = Optional.empty();
    private int fellAtOnce;

    /** Starts connecting at once, in the background. */
    public HttpAccessLink(LinkFactory.Destination to, Surroundings around) {
        this.system = to.system();
        this.around = around;
        this.intake = around.intake();
        this.log = around.log();
        this.clocks = around.clocks();
        this.clock = around.clock();
        this.translation = new EventTranslation(system, clocks);
        this.executor = Executors.newCachedThreadPool(Threads.factory("link " + system + " worker"));
        this.requests = new Requests(to, executor);
        this.counterpart = new Counterpart(system, requests, around);
        this.status = new StatusBox(system, to.name(), clock, around.statusListener());
        this.inventory = new InventoryReader(system, requests, around, status);
        this.thread = Threads.daemon("link " + system, this::run);
        this.watchdog = Threads.daemon("link " + system + " watch", this::watch);
        thread.start();
        watchdog.start();
    }

    @Override
    public SystemId system() {
        return system;
    }

    @Override
    public Optional<ClockSource> clockSource() {
        return counterpart.clockSource();
    }

    @Override
    public void syncClock() throws IOException {
        counterpart.syncClock();
    }

    @Override
    public LinkStatus status() {
        return status.get();
    }

    @Override
    public boolean current() {
        Session now = session;
        return now != null && now.current;
    }

    private void run() {
        BackOff backOff = new BackOff(around.pace());
        while (!closed) {
            status.state(State.CONNECTING);
            Session mine = new Session();
            session = mine;
            Optional<Saying> problem = end(mine);
            if (closed || problem.isEmpty()) {
                break;
            }
            if (mine.held()) {
                backOff.reset();
                fellAtOnce = 0;
            } else {
                fellAtOnce++;
            }
            Duration wait = backOff.next();
            logLost(problem.get());
            status.down(problem.get(), clock.instant().plus(wait));
            try {
                Thread.sleep(wait.toMillis());
            } catch (InterruptedException e) {
                break;
            }
        }
        status.state(State.CLOSED);
    }

    /** Holds a session until it ends; why it did, or nothing if this link is to end. */
    private Optional<Saying> end(Session mine) {
        try {
            mine.hold();
            return Optional.of(Saying.of("link.ended"));
        } catch (LinkException | EventLogException e) {
            return Optional.of(Says.of(e, Saying.of("link.broke")));
        } catch (IOException e) {
            return Optional.of(Saying.of("link.broke"));
        } catch (InterruptedException e) {
            return Optional.empty();
        } catch (RuntimeException | Error e) {
            Threads.stumbled(e);
            return Optional.of(Saying.of("link.stumbled"));
        } finally {
            session = null;
            mine.close();
        }
    }

    private void logLost(Saying problem) {
        try {
            counterpart.logLost(status.get().lastHeard().orElse(clock.instant()), problem);
        } catch (EventLogException e) {
            LOG.debug("The log could not be asked; it is asked again");
        }
    }

    /** One connection, from the greeting to its end. */
    private final class Session implements AutoCloseable {
        private final EventIntake.Feed feed = intake.feed(system);
        private final AtomicBoolean repairing = new AtomicBoolean();
        private volatile boolean established;
        private volatile boolean current;
        private volatile InputStream open;
        private volatile long heardNanos = System.nanoTime();
        private volatile long openedNanos;
        private volatile boolean waitsForMessage;
        private volatile Instant measured = Instant.MIN;
        private volatile long epoch;
        private volatile long keptFrom = 1;
        /** The number that the system says it has reached. */
        private volatile long claimed;

        private volatile Instant suspiciousSince = Instant.MAX;
        private volatile Instant askedAgain = Instant.MIN;
        private Optional<Instant> behindSince = Optional.empty();
        private long askedAgainFor = -1;
        private long claimedBefore;
        private int fellBack;
        private boolean greeted;
        private volatile List<Event.Builder> reports = List.of();

        void hold() throws IOException, InterruptedException {
            Fields hello = counterpart.hello();
            epoch = hello.number("epoch")
                    .filter(e -> e >= 0 && e <= EventKey.HIGHEST_EPOCH)
                    .orElseThrow(() -> LinkException.of("link.answer-odd", "hello", "epoch"));
            keptFrom = Math.max(1, hello.number("firstSeq").orElse(1L));
            claimed = Math.max(0, hello.number("lastSeq").orElse(0L));
            hello.word("make").ifPresent(status::make);
            keepsAlarms = Optional.of(hello.flag("alarms").orElse(false));
            status.heard();
            established = true;
            for (int i = 0; i < 3; i++) {
                measure();
            }
            inventory.wanted(hello.text("inventory").orElse(""));
            earlierEpoch();
            sameAsBefore();
            catchUp();
            long reached = snapshot();
            if (reached > claimed) {
                claimed = reached;
                catchUp();
            }
            follow();
        }

        private void measure() {
            try {
                measured = counterpart.measureClock();
                status.settled("clock");
            } catch (IOException e) {
                measured = clock.instant();
                status.notice("clock", Saying.of("link.clock-not-measured", LinkException.saying(e)));
            }
        }

        /**
         * Compares the last stored event with what the system has under its number: a system that was restored from a backup,
         * or another one under the same id, may have counted further than that.
         *
         * @throws LinkException if it is another system
         */
        private void sameAsBefore() throws IOException, InterruptedException {
            Coverage coverage = intake.coverage(system, epoch);
            long settled = coverage.settled();
            if (settled < keptFrom || claimed < settled) {
                // There is nothing to compare with, or it has come less far, which is found out elsewhere.
                return;
            }
            if (agrees(coverage, settled)) {
                status.settled("other-events");
                return;
            }
            long last = lastThatAgrees(coverage, Math.max(1, keptFrom), settled);
            if (last == 0 && keptFrom <= 1) {
                throw LinkException.of("link.other-system");
            }
            // If all events that the system still has differ, both are possible; it is treated as restored,
            // with a notice.
            EventFetcher.await(intake.countsAgainFrom(system, epoch, Math.max(last, keptFrom - 1)));
            status.notice("other-events", Saying.of("link.counts-again", last, settled));
        }

        /** Whether the system's event with this number equals the stored one; true if one of them is missing. */
        private boolean agrees(Coverage coverage, long number) throws IOException, InterruptedException {
            Optional<Event> stored = log.byKey(new EventKey(system, coverage.logsEpoch(), number));
            if (stored.isEmpty()) {
                return true;
            }
            try {
                return fetcher(0)
                        .peek(number - 1)
                        .filter(e -> e.key().sequence() == number)
                        .map(e -> e.saysTheSameAs(stored.get()))
                        .orElse(true);
            } catch (LinkException e) {
                if (!e.answered()) {
                    throw e;
                }
                return true;
            }
        }

        /** The last number up to which the system has what is stored, by halving; 0 if it has none of it. */
        private long lastThatAgrees(Coverage coverage, long from, long to) throws IOException, InterruptedException {
            long agreed = from - 1;
            long other = to;
            while (other - agreed > 1) {
                long middle = agreed + (other - agreed) / 2;
                if (agrees(coverage, middle)) {
                    agreed = middle;
                } else {
                    other = middle;
                }
            }
            return agreed >= from ? agreed : 0;
        }

        /** Says so where a system counts in an epoch that was over. */
        private void earlierEpoch() {
            Optional<Long> newest = intake.newestEpoch(system).filter(e -> e > epoch);
            if (newest.isPresent()) {
                status.notice("epoch", Saying.of("link.earlier-epoch", epoch, newest.get()));
            } else {
                status.settled("epoch");
            }
        }

        private EventFetcher fetcher(long from) {
            return new EventFetcher(system, requests, intake, feed, translation, clock, this::heard, number -> {
                if (!current) {
                    status.backlog(number - from, Math.max(claimed, number) - from);
                }
            });
        }

        /** Reads what happened since the last number below which everything is stored. */
        private void catchUp() throws IOException, InterruptedException {
            Coverage coverage = countingAgain(intake.coverage(system, epoch));
            EventFetcher fetcher = fetcher(coverage.settled());
            boolean asked = false;
            try {
                if (claimed > coverage.settled()) {
                    asked = true;
                    status.backlog(0, claimed - coverage.settled());
                    fetcher.after(epoch, coverage.settled(), claimed);
                }
                fetcher.fillHoles(epoch, keptFrom, claimed);
                status.settled("backlog");
            } catch (LinkException e) {
                if (!e.answered()) {
                    throw e;
                }
                // What it does not deliver afterwards may still come live.
                status.notice("backlog", Saying.of("link.before-unreadable", e.saying()));
                asked = false;
            }
            sayIfShort(asked);
        }

        /** Where a system has come less far than it had, finds out whether it counts again. */
        private Coverage countingAgain(Coverage coverage) throws IOException, InterruptedException {
            if (claimed >= coverage.settled()) {
                status.settled("counts-again");
                return coverage;
            }
            Optional<Event> next = Optional.empty();
            try {
                next = fetcher(0).peek(claimed);
            } catch (LinkException e) {
                if (!e.answered()) {
                    throw e;
                }
            }
            boolean asBefore = next.flatMap(e -> log.byKey(new EventKey(
                                    system, coverage.logsEpoch(), e.key().sequence()))
                            .filter(e::saysTheSameAs))
                    .isPresent();
            if (asBefore) {
                status.notice("counts-again", Saying.of("link.has-come-less-far", claimed, coverage.settled()));
                return coverage;
            }
            EventFetcher.await(intake.countsAgainFrom(system, epoch, claimed));
            status.notice("counts-again", Saying.of("link.counts-again", claimed, coverage.settled()));
            return intake.coverage(system, epoch);
        }

        private void sayIfShort(boolean asked) {
            long highest = intake.coverage(system, epoch).highest();
            if (claimed > highest && asked) {
                status.notice("short", Saying.of("link.delivers-short", claimed, highest));
            } else {
                status.settled("short");
            }
        }

        /** Asks how the doors stand; the number up to which that holds. */
        private long snapshot() throws IOException, InterruptedException {
            try {
                Fields snapshot = requests.fields("snapshot");
                Instant now = clock.instant();
                Optional<Instant> taken = snapshot.instant("time");
                Duration ahead =
                        taken.map(t -> clocks.aheadWhenItShowed(system, t)).orElse(Duration.ZERO);
                Instant time = taken.map(t -> t.minus(ahead))
                        .filter(t -> t.isBefore(now))
                        .orElse(now);
                long seq = snapshot.number("seq").filter(s -> s >= 0).orElse(claimed);
                EventKey asOf = new EventKey(system, epoch, seq);
                List<Event.Builder> told = new ArrayList<>();
                int odd = 0;
                for (Fields door : snapshot.list("doors")) {
                    Optional<String> id = door.word("door");
                    Map<String, String> details = door.map("details");
                    if (id.isPresent() && id.get().length() <= 200) {
                        told.add(translation.report(id.get(), details, time, ahead, asOf));
                    } else {
                        odd++;
                        intake.keepUnread(Unread.of(system, now, door.json(), Saying.of("unread.state-of-no-door")));
                    }
                }
                reports = told;
                if (odd > 0) {
                    status.notice("snapshot", Saying.of("link.states-of-no-door", odd));
                } else {
                    status.settled("snapshot");
                }
                return snapshot.number("epoch").filter(e -> e != epoch).isPresent() ? claimed : seq;
            } catch (LinkException e) {
                if (!e.answered()) {
                    throw e;
                }
                status.notice("snapshot", Saying.of("link.states-unreadable", e.saying()));
                return claimed;
            }
        }

        /** Logs how the doors stand, where that is news. Away from the thread that reads what happens live. */
        private void logReportsSoon() {
            inBackground(() -> {
                try {
                    logReports();
                } catch (LinkException | EventLogException e) {
                    LOG.debug("How the doors stand was not stored", e);
                    close();
                } catch (InterruptedException e) {
                    Thread.currentThread().interrupt();
                }
            });
        }

        private synchronized void logReports() throws LinkException, InterruptedException {
            Map<Event, Event.Builder> told = new LinkedHashMap<>();
            reports.forEach(r -> told.put(r.build(), r));
            reports = List.of();
            CompletableFuture<Event> last = null;
            for (Event report : around.news().apply(List.copyOf(told.keySet()))) {
                last = intake.recordInOrder(told.get(report));
            }
            if (last != null) {
                EventFetcher.await(last);
            }
        }

        private void follow() throws IOException, InterruptedException {
            long settled = intake.coverage(system, epoch).settled();
            Requests.Answer response = requests.open("stream", "Last-Event-ID", epoch + ":" + settled);
            try (InputStream in = response.body()) {
                heardNanos = System.nanoTime();
                openedNanos = heardNanos;
                open = in;
                if (fellAtOnce < 2) {
                    arrive();
                }
                current = true;
                status.state(State.UP);
                EventStream stream = new EventStream(in);
                EventStream.Message message;
                while ((message = next(stream)) != null) {
                    heard();
                    // A link that falls again and again is not called back before it has held.
                    if (!greeted && held()) {
                        arrive();
                    }
                    take(message);
                }
            } finally {
                open = null;
                current = false;
            }
        }

        /** Waits for the next message. Only this waiting counts as silence: bytes that are not read yet were sent. */
        private EventStream.Message next(EventStream stream) throws IOException {
            heardNanos = System.nanoTime();
            waitsForMessage = true;
            try {
                return stream.next();
            } finally {
                waitsForMessage = false;
            }
        }

        private void arrive() throws LinkException, InterruptedException {
            greeted = true;
            Optional<CompletableFuture<Event>> back = counterpart.logBack();
            if (back.isPresent()) {
                EventFetcher.await(back.get());
            }
            logReportsSoon();
        }

        private void heard() {
            heardNanos = System.nanoTime();
            status.heard();
        }

        boolean held() {
            return openedNanos != 0
                    && System.nanoTime() - openedNanos > around.pace().of(HELD).toNanos();
        }

        private void take(EventStream.Message message) throws IOException, InterruptedException {
            Instant now = clock.instant();
            switch (message.event()) {
                case "event" -> event(message, now);
                case "heartbeat" -> heartbeat(message.data(), now);
                default ->
                    unread(Unread.of(system, now, message.data(), Saying.of("unread.message-kind", message.event())));
            }
        }

        private void event(EventStream.Message message, Instant now) throws LinkException, InterruptedException {
            EventTranslation.Understood understood = message.oversized()
                    ? new EventTranslation.Understood(
                            Optional.empty(),
                            Optional.of(new Unread(
                                    system, number(message.id()), now, message.data(), Saying.of("unread.too-long"))))
                    : translation.read(message.data(), now, number(message.id()));
            if (understood.unread().isPresent()) {
                unread(understood.unread().get());
                return;
            }
            Event event = understood.event().orElseThrow();
            boolean backlog = event.time().isBefore(now.minusSeconds(30));
            store(new Batch(List.of(event), List.of(), false), backlog);
            suspiciousSince = suspiciousSince.isBefore(now) ? suspiciousSince : now;
        }

        /** The number that a stream gives as a message's id. */
        private Optional<EventKey> number(String id) {
            return EventKey.of(system, id).filter(k -> k.sequence() > 0 && k.epoch() <= EventKey.HIGHEST_EPOCH);
        }

        private void unread(Unread unread) throws LinkException, InterruptedException {
            status.notice("unread " + unread.why().code(), Saying.of("link.unread", unread.why()));
            store(new Batch(List.of(), List.of(unread), false), false);
        }

        private void store(Batch batch, boolean waits) throws LinkException, InterruptedException {
            CompletableFuture<Void> stored = feed.accept(batch);
            // A failure to store ends the session, so that the event comes again.
            if (waits || stored.isDone()) {
                EventFetcher.await(stored);
            } else {
                stored.whenComplete((v, failure) -> {
                    if (failure != null) {
                        close();
                    }
                });
            }
        }

        private void heartbeat(String data, Instant now) throws LinkException, InterruptedException {
            Fields beat;
            try {
                beat = Fields.of(data);
            } catch (WireException e) {
                unread(Unread.of(system, now, data, Saying.of("unread.heartbeat", String.valueOf(e.getMessage()))));
                return;
            }
            boolean set = beat.instant("time")
                    .filter(t -> clocks.contradicts(system, now, t))
                    .isPresent();
            if (set || Duration.between(measured, now).compareTo(around.pace().of(MEASURE_EVERY)) > 0) {
                measured = now;
                inBackground(this::measure);
            }
            if (beat.number("epoch").filter(e -> e != epoch).isPresent()) {
                throw LinkException.of("link.other-epoch");
            }
            beat.text("inventory").ifPresent(inventory::wanted);
            long last = beat.number("lastSeq").orElse(claimed);
            // A heartbeat may have been overtaken by an event, but not by those before the heartbeat before.
            fellBack = last < claimedBefore ? fellBack + 1 : 0;
            if (fellBack > 1) {
                throw LinkException.of("link.fell-back");
            }
            claimedBefore = fellBack > 0 ? claimedBefore : claimed;
            claimed = Math.max(claimed, last);
            suspiciousSince = suspiciousSince.isBefore(now) ? suspiciousSince : now;
        }

        /** Once a second: ends what is silent, and sees to numbers that do not come. */
        void check() {
            InputStream current = open;
            if (current == null) {
                return;
            }
            if (waitsForMessage
                    && System.nanoTime() - heardNanos
                            > around.pace().of(SILENT_TOO_LONG).toNanos()) {
                close();
                return;
            }
            Instant now = clock.instant();
            if (Duration.between(suspiciousSince, now).compareTo(around.pace().of(OUT_OF_ORDER)) < 0) {
                return;
            }
            Coverage coverage = intake.coverage(system, epoch);
            // A number that the system does not say it has reached is stray, and nothing is missing before it.
            boolean behind = claimed > coverage.settled();
            behindSince = behind ? behindSince.or(() -> Optional.of(now)) : Optional.empty();
            suspiciousSince = behind ? suspiciousSince : Instant.MAX;
            if (behindSince.isEmpty()
                    || Duration.between(behindSince.get(), now)
                                    .compareTo(around.pace().of(OUT_OF_ORDER))
                            < 0) {
                return;
            }
            boolean same = askedAgainFor == coverage.settled();
            if (same
                    && Duration.between(askedAgain, now).compareTo(around.pace().of(ASK_AGAIN)) < 0) {
                return;
            }
            if (repairing.compareAndSet(false, true)) {
                askedAgain = now;
                askedAgainFor = coverage.settled();
                behindSince = Optional.empty();
                inBackground(() -> repair(coverage));
            }
        }

        /** Asks again for what has not come. */
        private void repair(Coverage coverage) {
            try {
                EventFetcher fetcher = fetcher(coverage.settled());
                fetcher.after(epoch, coverage.settled(), claimed);
                int gaps = fetcher.fillHoles(epoch, keptFrom, claimed);
                sayIfShort(true);
                if (gaps > 0) {
                    // What was missed may have moved doors.
                    snapshot();
                    logReports();
                }
            } catch (LinkException e) {
                if (e.answered()) {
                    status.notice("backlog", Saying.of("link.missing-unreadable", e.saying()));
                } else {
                    close();
                }
            } catch (IOException | EventLogException e) {
                close();
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            } finally {
                repairing.set(false);
            }
        }

        private void inBackground(Runnable work) {
            try {
                executor.execute(() -> {
                    if (session == this) {
                        work.run();
                    }
                });
            } catch (RejectedExecutionException e) {
                LOG.debug("closing");
            }
        }

        /** Ends the connection; whoever reads from it notices. */
        @Override
        public void close() {
            established = false;
            closeQuietly(open);
        }
    }

    private void watch() {
        while (!closed) {
            try {
                Thread.sleep(around.pace().of(LOOK_EVERY).toMillis());
                Session now = session;
                if (now != null) {
                    now.check();
                }
            } catch (InterruptedException e) {
                return;
            } catch (EventLogException e) {
                LOG.debug("The log could not be asked; it is asked again");
            } catch (RuntimeException | Error e) {
                Threads.stumbled(e);
            }
        }
    }

    private static void closeQuietly(InputStream in) {
        try {
            if (in != null) {
                in.close();
            }
        } catch (IOException e) {
            LOG.debug("A stream did not close well");
        }
    }

    @Override
    public CompletableFuture<CommandAnswer> command(DoorId door, DoorCommand command, String key) {
        Session now = session;
        if (now == null || !now.established) {
            return CompletableFuture.completedFuture(new CommandAnswer(
                    Result.NOT_REACHED,
                    Saying.of("command.link-down", status.get().name())));
        }
        Instant until = command instanceof DoorCommand.LeaveUnlocked leave
                ? leave.until()
                        .map(t -> t.plus(clocks.ahead(system, clock.instant())))
                        .orElse(null)
                : null;
        String local = door.value().substring(system.value().length() + 1);
        AccessMessages.Command body = new AccessMessages.Command(
                key, local, command.word(), until, command instanceof DoorCommand.ShowText show ? show.text() : null);
        try {
            return CompletableFuture.supplyAsync(() -> answer(body), executor);
        } catch (RejectedExecutionException e) {
            return CompletableFuture.completedFuture(
                    new CommandAnswer(Result.NOT_REACHED, Saying.of("command.closing")));
        }
    }

    @Override
    public Optional<Boolean> keepsAlarms() {
        return keepsAlarms;
    }

    @Override
    public CommandAnswer tell(Handled handled) {
        List<AccessMessages.EventNumber> events = handled.events().stream()
                .map(e -> new AccessMessages.EventNumber(e.systemsEpoch(), e.sequence()))
                .toList();
        // Times cross a link by the system's clock.
        Instant at = handled.at().plus(clocks.ahead(system, handled.at()));
        try {
            requests.post(
                    "alarms",
                    new AccessMessages.Handling(handled.key(), handled.what().word(), events, handled.by(), at),
                    AccessMessages.Taken.class,
                    COMMAND_WITHIN);
            return new CommandAnswer(Result.DONE, Saying.of("command.done"));
        } catch (LinkException e) {
            // An answer that makes no sense does not say that it was not taken.
            Result result = e.status() > 0 && e.lasting()
                    ? Result.REFUSED
                    : e.withoutEffect() ? Result.NOT_REACHED : Result.NOT_KNOWN;
            return new CommandAnswer(result, e.saying());
        } catch (IOException e) {
            return new CommandAnswer(Result.NOT_KNOWN, Saying.of("link.broke"));
        }
    }

    private CommandAnswer answer(AccessMessages.Command body) {
        try {
            CommandReply reply = requests.post("commands", body, CommandReply.class, COMMAND_WITHIN);
            Saying said = reply.words() == null || reply.words().isBlank()
                    ? Saying.of("command.no-reason")
                    : Saying.quoted(reply.words());
            return switch (String.valueOf(reply.result())) {
                case "done" -> new CommandAnswer(Result.DONE, Saying.of("command.done"));
                case "refused" -> new CommandAnswer(Result.REFUSED, Saying.of("command.refused", said));
                case "not-reached" -> new CommandAnswer(Result.NOT_REACHED, Saying.of("command.not-reached", said));
                default -> new CommandAnswer(Result.NOT_KNOWN, Saying.of("command.answer-odd"));
            };
        } catch (LinkException e) {
            return e.withoutEffect()
                    ? new CommandAnswer(Result.NOT_REACHED, Saying.of("command.not-reached", e.saying()))
                    : new CommandAnswer(Result.NOT_KNOWN, Saying.of("command.not-known-because", e.saying()));
        } catch (IOException e) {
            return new CommandAnswer(Result.NOT_KNOWN, Saying.of("command.not-known-because", Saying.of("link.broke")));
        }
    }

    @Override
    public void close() {
        closed = true;
        Session now = session;
        if (now != null) {
            now.close();
        }
        thread.interrupt();
        watchdog.interrupt();
        inventory.stop();
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
