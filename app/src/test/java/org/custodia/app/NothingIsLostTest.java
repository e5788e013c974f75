package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Clock;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.lifecycle.AfterTry;
import org.custodia.core.access.Credential;
import org.custodia.core.access.Person;
import org.custodia.core.access.RuleBook;
import org.custodia.core.event.Coverage;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.NumberRanges.Range;
import org.custodia.core.event.Translation;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.operator.Actor;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.Camera;
import org.custodia.core.site.Device;
import org.custodia.core.site.Door;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.Reader;
import org.custodia.core.site.Site;
import org.custodia.core.site.SystemId;
import org.custodia.link.HttpAccessLink;
import org.custodia.link.Inventory;
import org.custodia.link.LinkFactory;
import org.custodia.link.Pace;
import org.custodia.link.Surroundings;
import org.custodia.link.rig.ScriptedSystem;
import org.custodia.store.BatchIntake;
import org.custodia.store.DataDirectory;
import org.custodia.store.Database;
import org.custodia.store.SqlEventLog;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/**
 * A scripted system that sends in bursts, out of order, with nonsense between, over a link that is cut, into a log that fails
 * now and then, through restarts of the console: what it counts as sent is stored once.
 */
class NothingIsLostTest {
    private static final SystemId SYSTEM = new SystemId("tidewater");
    private Path directory;
    private Console console;

    /** The headless part of a console: a log and a link. */
    private static final class Console implements AutoCloseable {
        private final DataDirectory claimed;
        private final Database database;
        private final SqlEventLog log;
        private final BatchIntake intake;
        private final Flaky flaky;
        private final HttpAccessLink link;

        Console(Path directory, ScriptedSystem system, Random random) {
            claimed = DataDirectory.claim(directory);
            database = Database.open(claimed);
            log = new SqlEventLog(database);
            intake = new BatchIntake(database, log, Clock.systemUTC());
            flaky = new Flaky(intake, random);
            link = new HttpAccessLink(
                    new LinkFactory.Destination(SYSTEM, "Tidewater", system.address(), "token"),
                    new Surroundings(
                            flaky,
                            log,
                            new ClockBook(),
                            e -> {},
                            new Nobody(),
                            reports -> List.of(),
                            Clock.systemUTC(),
                            Pace.USUAL,
                            s -> {}));
        }

        @Override
        public void close() {
            link.close();
            intake.close();
            database.close();
            claimed.close();
        }
    }

    /** An intake whose batches fail now and then, as on a disk that is full for a moment. */
    private static final class Flaky implements EventIntake {
        private final EventIntake intake;
        private final Random random;
        private final AtomicInteger failures = new AtomicInteger();

        Flaky(EventIntake intake, Random random) {
            this.intake = intake;
            this.random = random;
        }

        @Override
        public Feed feed(SystemId system) {
            Feed feed = intake.feed(system);
            return new Feed() {
                private boolean broken;

                @Override
                public synchronized CompletableFuture<Void> accept(Batch batch) {
                    broken |= failures.get() > 0 && random.nextInt(3) == 0 && failures.getAndDecrement() > 0;
                    return broken
                            ? CompletableFuture.failedFuture(
                                    new EventLogException(Saying.of("store.not-stored.full", "x"), null))
                            : feed.accept(batch);
                }
            };
        }

        @Override
        public Coverage coverage(SystemId system, long epoch) {
            return intake.coverage(system, epoch);
        }

        @Override
        public Optional<Long> newestEpoch(SystemId system) {
            return intake.newestEpoch(system);
        }

        @Override
        public CompletableFuture<List<Range>> missing(SystemId system, long epoch, Range numbers, String reason) {
            return intake.missing(system, epoch, numbers, reason);
        }

        @Override
        public CompletableFuture<Void> countsAgainFrom(SystemId system, long epoch, long lastSeq) {
            return intake.countsAgainFrom(system, epoch, lastSeq);
        }

        @Override
        public CompletableFuture<Event> record(Event.Builder event) {
            return intake.record(event);
        }

        @Override
        public CompletableFuture<Event> recordInOrder(Event.Builder event) {
            return intake.recordInOrder(event);
        }

        @Override
        public Translation translation(SystemId system) {
            return intake.translation(system);
        }

        @Override
        public CompletableFuture<Translation> translate(
                SystemId system, long basedOn, List<Translation.Rule> rules, Actor operator) {
            return intake.translate(system, basedOn, rules, operator);
        }

        @Override
        public CompletableFuture<Void> keepUnread(Unread unread) {
            return intake.keepUnread(unread);
        }

        @Override
        public Subscription subscribe(Listener listener) {
            return intake.subscribe(listener);
        }
    }

    private static final class Nobody implements Inventory {
        @Override
        public void places(
                SystemId system, List<Site> sites, List<Door> doors, List<Reader> readers, List<Device> devices) {}

        @Override
        public void rules(SystemId system, RuleBook book) {}

        @Override
        public void people(SystemId system, List<Person> people, List<Credential> credentials) {}

        @Override
        public void cameras(SystemId recorder, List<Camera> cameras) {}

        @Override
        public boolean wantsPhoto(PersonId person, String version) {
            return false;
        }

        @Override
        public void photo(PersonId person, String version, byte[] jpeg) {}
    }

    @AfterTry
    @AfterEach
    void end() throws Exception {
        if (console != null) {
            console.close();
        }
        try (Stream<Path> files = Files.walk(directory)) {
            for (Path file : files.sorted(Comparator.reverseOrder()).toList()) {
                Files.deleteIfExists(file);
            }
        }
    }

    @Property(tries = 6, shrinking = net.jqwik.api.ShrinkingMode.OFF)
    void what_was_sent_is_stored_once_whatever_lies_between(@ForAll long seed) throws Exception {
        Random random = new Random(seed);
        directory = Files.createTempDirectory("custodia-rig");
        Map<Long, String> sent = new ConcurrentHashMap<>();
        int nonsense = 0;
        try (ScriptedSystem system = new ScriptedSystem("tidewater")) {
            console = new Console(directory, system, random);
            long next = 1;
            for (int act = 0; act < 40; act++) {
                switch (random.nextInt(10)) {
                    case 0 -> system.cutStreams();
                    case 1 -> system.cutPageAfter = 50 + random.nextInt(4_000);
                    case 2 -> system.mostOnAPage = 1 + random.nextInt(30);
                    case 3 -> console.flaky.failures.set(1 + random.nextInt(3));
                    case 4 -> {
                        console.close();
                        console = new Console(directory, system, random);
                    }
                    case 5 -> system.tellsStreams = random.nextBoolean();
                    case 6 -> {
                        system.has(next, "<nonsense " + next + ">");
                        nonsense++;
                        next++;
                    }
                    case 7 -> {
                        // Out of order.
                        for (long seq : new long[] {next + 2, next, next + 1}) {
                            send(system, sent, seq);
                        }
                        next += 3;
                    }
                    case 8 -> {
                        // Again what was sent long ago.
                        long old = 1 + random.nextInt((int) next);
                        if (sent.containsKey(old)) {
                            system.tell("event: event\ndata: " + sent.get(old) + "\n\n");
                        }
                    }
                    default -> {
                        int burst = 1 + random.nextInt(60);
                        for (int i = 0; i < burst; i++) {
                            send(system, sent, next++);
                        }
                    }
                }
            }
            send(system, sent, next);
            long last = next;
            Rig.await().until(() -> console.intake.coverage(SYSTEM, 1).settled() == last);
            List<Event> stored = console.log.find(EventQuery.all().system(SYSTEM));
            assertThat(stored.stream().collect(Collectors.toMap(e -> e.key().sequence(), Event::raw)))
                    .isEqualTo(sent);
            assertThat(console.log.unreadCount()).isEqualTo(nonsense);
            assertThat(console.log.find(EventQuery.all().kinds(Kinds.CONFLICT))).isEmpty();
            long open = console.log.count(EventQuery.all().kinds(Kinds.GAP))
                    - console.log.count(EventQuery.all().kinds(Kinds.GAP_CLOSED));
            assertThat(open).isZero();
        }
    }

    @Test
    void a_system_restored_from_a_copy_that_has_passed_our_number_again_loses_nothing() throws Exception {
        directory = Files.createTempDirectory("custodia-rig");
        Map<Long, String> sent = new ConcurrentHashMap<>();
        try (ScriptedSystem system = new ScriptedSystem("tidewater")) {
            for (long seq = 1; seq <= 40; seq++) {
                send(system, sent, seq);
            }
            console = new Console(directory, system, new Random(1));
            Rig.await().until(() -> console.intake.coverage(SYSTEM, 1).settled() == 40);
            console.close();
            system.forgetAfter(30);
            for (long seq = 31; seq <= 45; seq++) {
                system.has(seq, system.event(seq, "door.closed", "\"door\":\"vault\",\"controller\":\"c5\""));
            }
            console = new Console(directory, system, new Random(1));
            Rig.await().until(() -> console.log.count(EventQuery.all().system(SYSTEM)) == 55);
            assertThat(console.log.find(EventQuery.all().kinds(Kinds.COUNTS_AGAIN)))
                    .hasSize(1);
            assertThat(console.log.find(EventQuery.all().kinds(Kinds.CONFLICT))).isEmpty();
        }
    }

    private static void send(ScriptedSystem system, Map<Long, String> sent, long seq) {
        String line = system.event(seq, "door.opened", "\"door\":\"vault\",\"controller\":\"c5\"");
        sent.put(seq, line);
        system.has(seq, line);
    }
}
