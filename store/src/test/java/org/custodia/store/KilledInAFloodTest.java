package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.BufferedReader;
import java.io.IOException;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.Semaphore;
import java.util.function.Consumer;
import java.util.stream.Collectors;
import org.custodia.core.access.PersonRegister;
import org.custodia.core.alarm.AlarmDesk;
import org.custodia.core.alarm.Hours;
import org.custodia.core.alarm.Known;
import org.custodia.core.alarm.Rule;
import org.custodia.core.alarm.RuleTimeline;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Priority;
import org.custodia.core.event.Snapshots;
import org.custodia.core.message.Composer;
import org.custodia.core.message.Dispatch;
import org.custodia.core.message.MailServer;
import org.custodia.core.message.Message;
import org.custodia.core.message.Outbox;
import org.custodia.core.message.Passing;
import org.custodia.core.message.Receiver;
import org.custodia.core.message.Sender;
import org.custodia.core.setup.SetupInHand;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteModel;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mockito.Mockito;

/**
 * A process that is killed in a flood of alarms, again and again: each event has raised one alarm in the end, and whoever is to
 * be told of each was told of each.
 */
class KilledInAFloodTest {
    private static final SiteModel NOWHERE = new SiteModel(List.of(), List.of(), List.of(), List.of());

    @TempDir
    Path path;

    /** Raises an alarm for each event and tells somebody, on the log in a directory. */
    private static final class Watch implements AutoCloseable {
        final StoreFixture store;
        final AlarmDesk alarms;
        final SqlOutbox outbox;
        final Dispatch dispatch;

        /**
         * @param told of each message that arrives
         */
        Watch(Path path, Consumer<Message> told) {
            store = new StoreFixture(path);
            Snapshots snapshots = new SqlSnapshots(store.database);
            Clock clock = Clock.systemUTC();
            alarms = new AlarmDesk(
                    store.log, store.intake, snapshots, Known.of(() -> NOWHERE), (door, command, rule) -> {}, clock);
            outbox = new SqlOutbox(store.database, store.intake);
            SetupInHand secrets = new SetupInHand();
            secrets.put("message/to/duty", "0123456789abcdef0123456789abcdef");
            Composer composer = new Composer(
                    alarms,
                    () -> NOWHERE,
                    Mockito.mock(PersonRegister.class),
                    (camera, at) -> {
                        throw new IOException("no picture");
                    },
                    m -> new Message.Words("", "", "", ""),
                    clock);
            Receiver duty =
                    new Receiver("duty", 1, "Duty", true, new Receiver.Web(URI.create("https://duty.custodia.test/")));
            Dispatch.Directory directory = new Dispatch.Directory() {
                @Override
                public Optional<Receiver> receiver(String id) {
                    return Optional.of(duty);
                }

                @Override
                public Optional<MailServer> server() {
                    return Optional.empty();
                }
            };
            dispatch = new Dispatch(
                    outbox,
                    directory,
                    secrets,
                    composer,
                    new Passing(store.log, system -> Optional.empty(), system -> false),
                    new Post(told),
                    store.log,
                    store.intake,
                    snapshots,
                    clock);
            Rule rule = new Rule(
                    "any",
                    0,
                    "Any",
                    true,
                    new Rule.Once(Set.of(Kinds.FORCED), Set.of(), Set.of()),
                    Rule.Where.ANYWHERE,
                    Rule.Who.ANYBODY,
                    Hours.ALWAYS,
                    Priority.LOW,
                    Rule.Then.QUIET.tells(List.of(new Rule.Tell(Rule.At.START, "duty"))));
            alarms.watch(List.of(RuleTimeline.always(rule)));
        }

        @Override
        public void close() {
            alarms.close();
            dispatch.close();
            store.close();
        }
    }

    private record Post(Consumer<Message> told) implements Sender {
        @Override
        public MailDelivery mail(
                Receiver.Mail to, MailServer server, Optional<String> password, Message message, Message.Words words) {
            return MailDelivery.TO_ALL;
        }

        @Override
        public void web(Receiver.Web to, String key, Message message, Message.Words words) {
            told.accept(message);
        }

        @Override
        public void close() {
            // Nothing is under way.
        }
    }

    private static String line(Message message) {
        return message.id() + " " + message.maybeBefore();
    }

    /** Each at a door of its own. */
    private static Event forced(long sequence) {
        return Event.of(new EventKey(StoreFixture.SYSTEM, 1, sequence), Kinds.FORCED, Instant.now())
                .door(new DoorId("tidewater/d" + sequence))
                .build();
    }

    /** What runs in the process to be killed. */
    static final class Victim {
        private Victim() {}

        public static void main(String[] args) {
            // About a hundred messages are pending at any time, not thousands at the end.
            Semaphore ahead = new Semaphore(100);
            Watch watch = new Watch(Path.of(args[0]), m -> {
                System.out.println(line(m));
                System.out.flush();
                ahead.release();
            });
            long next = watch.store.intake.coverage(StoreFixture.SYSTEM, 1).settled() + 1;
            // The rules have been on from the beginning.
            while (true) {
                ahead.acquireUninterruptibly(5);
                List<Event> some = new ArrayList<>();
                for (int i = 0; i < 5; i++) {
                    some.add(forced(next++));
                }
                watch.store.accept(some, false).join();
            }
        }
    }

    @Test
    void each_event_raises_one_alarm_and_whoever_is_to_be_told_is_told() throws Exception {
        Map<String, Integer> arrived = new HashMap<>();
        Set<String> unsaid = new HashSet<>();
        Consumer<String> count = line -> {
            String[] parts = line.split(" ");
            if (parts.length == 2 && arrived.merge(parts[0], 1, Integer::sum) > 1 && !"true".equals(parts[1])) {
                unsaid.add(parts[0]);
            }
        };
        for (int round = 0; round < 3; round++) {
            Process process = new ProcessBuilder(
                            Path.of(System.getProperty("java.home"), "bin", "java")
                                    .toString(),
                            "-XX:TieredStopAtLevel=1",
                            "-cp",
                            System.getProperty("java.class.path"),
                            Victim.class.getName(),
                            path.toString())
                    .redirectError(ProcessBuilder.Redirect.DISCARD)
                    .start();
            try (BufferedReader out = process.inputReader(StandardCharsets.UTF_8)) {
                String line;
                int heard = 0;
                while (heard < 40 + 30 * round && (line = out.readLine()) != null) {
                    heard++;
                    count.accept(line);
                }
                process.toHandle().destroyForcibly();
                while ((line = out.readLine()) != null) {
                    count.accept(line);
                }
            }
            process.waitFor();
        }
        assertThat(arrived).hasSizeGreaterThan(100);
        try (Watch watch = new Watch(path, m -> {
            synchronized (count) {
                count.accept(line(m));
            }
        })) {
            long events = watch.store.intake.coverage(StoreFixture.SYSTEM, 1).settled();
            StoreFixture.await()
                    .until(() -> watch.outbox.all(100_000).size() == events
                            && watch.outbox
                                    .receiversDue(Instant.now().plusSeconds(3_600))
                                    .isEmpty());
            List<Event> raised = watch.store.log.find(
                    EventQuery.all().kinds(Kinds.ALARM_RAISED).oldest(100_000));
            assertThat(raised).hasSize((int) events);
            assertThat(raised.stream().map(e -> e.detail("of").orElseThrow()).collect(Collectors.toSet()))
                    .hasSize((int) events);
            assertThat(watch.outbox.all(100_000)).allMatch(e -> e.state() == Outbox.State.SENT);
            synchronized (count) {
                assertThat(arrived).hasSize((int) events);
                assertThat(unsaid).as("what came twice and did not say so").isEmpty();
            }
        }
    }
}
