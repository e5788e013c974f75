package org.custodia.core.message;

import static org.custodia.core.alarm.Happening.GATE;
import static org.custodia.core.alarm.Happening.at;

import java.io.IOException;
import java.net.URI;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.Function;
import org.awaitility.core.ConditionFactory;
import org.custodia.core.Patience;
import org.custodia.core.access.OnFile;
import org.custodia.core.access.PersonRegister;
import org.custodia.core.alarm.AlarmDesk;
import org.custodia.core.alarm.Escalation;
import org.custodia.core.alarm.Happening;
import org.custodia.core.alarm.Hours;
import org.custodia.core.alarm.Known;
import org.custodia.core.alarm.Rule;
import org.custodia.core.alarm.RuleTimeline;
import org.custodia.core.alarm.VersionsInHand;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.event.Priority;
import org.custodia.core.event.Snapshots;
import org.custodia.core.link.AccessLink;
import org.custodia.core.operator.Actor;
import org.custodia.core.saying.Saying;
import org.custodia.core.setup.SetupInHand;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SystemId;
import org.mockito.Mockito;

/** Everything that messages go through, with a post that does what a test says. What is kept outlives who uses it. */
final class PostRig implements AutoCloseable {
    static final Actor IV = Actor.withAll("iv", "I. Vantongeren", "Desk 1");
    static final String KEY = "0123456789abcdef0123456789abcdef";

    /** What came to a receiver. */
    record Came(Receiver.Way to, Message message, Message.Words words) {}

    /** What the post does with a message; nothing to take it. */
    interface Fate extends Function<Message, Optional<NotSentException>> {}

    final MemoryLog log = new MemoryLog();
    final Snapshots snapshots = Snapshots.inMemory();
    final OutboxInHand outbox = new OutboxInHand(log);
    final SetupInHand secrets = new SetupInHand(log);
    final Happening make = new Happening();
    final VersionsInHand<Receiver> receivers = new VersionsInHand<>(Receiver::version);
    final VersionsInHand<MailServer> servers = new VersionsInHand<>(MailServer::version);
    final VersionsInHand<Escalation> escalations = new VersionsInHand<>(Escalation::version);
    final List<Came> came = new CopyOnWriteArrayList<>();
    final Map<SystemId, AccessLink> links = new ConcurrentHashMap<>();
    /** Systems that are set up, whose links may not be open yet. */
    final Set<SystemId> setUp = ConcurrentHashMap.newKeySet();

    /** How often it cannot be read which systems are set up. */
    final AtomicInteger unreadable = new AtomicInteger();

    final Map<String, Fate> fates = new ConcurrentHashMap<>();
    /** What comes of mail to some addresses; it goes to all otherwise. */
    final Map<List<String>, Sender.MailDelivery> deliveries = new ConcurrentHashMap<>();

    volatile boolean pictures;
    private final Clock clock = Mockito.mock(Clock.class);
    private volatile Instant now = at(100);
    private final List<Rule> rules;
    AlarmDesk alarms;
    Dispatch dispatch;
    Receivers directory;
    MessageDesk desk;

    PostRig(Rule... rules) {
        receivers.log = log;
        servers.log = log;
        escalations.log = log;
        this.rules = List.of(rules);
        Mockito.when(clock.instant()).thenAnswer(i -> now);
        begin();
    }

    void begin() {
        Known known = Known.of(() -> Happening.SITES);
        alarms = new AlarmDesk(log, log, snapshots, known, (door, c, rule) -> {}, clock);
        PersonRegister people = Mockito.mock(PersonRegister.class);
        Mockito.when(people.person(Mockito.any(), Mockito.any())).thenReturn(OnFile.notThen());
        directory = new Receivers(receivers, servers);
        Composer composer = new Composer(
                alarms,
                () -> Happening.SITES,
                people,
                (camera, instant) -> {
                    throw new IOException("no picture");
                },
                m -> new Message.Words(
                        m.alarm().map(a -> a.origin().subject().id()).orElse("trial"), "text", "what", "where"),
                clock);
        dispatch = new Dispatch(
                outbox,
                directory,
                secrets,
                composer,
                new Passing(log, system -> Optional.ofNullable(links.get(system)), this::isSetUp),
                new Post(),
                log,
                log,
                snapshots,
                clock);
        desk = new MessageDesk(directory, escalations, alarms, outbox, dispatch, secrets, log, clock);
        alarms.watch(rules.stream().map(RuleTimeline::always).toList());
    }

    private boolean isSetUp(SystemId system) {
        if (unreadable.getAndUpdate(n -> Math.max(0, n - 1)) > 0) {
            throw new EventLogException(Saying.of("store.not-read"), null);
        }
        return setUp.contains(system) || links.containsKey(system);
    }

    /** The process ends and begins again. */
    void again() {
        end();
        begin();
    }

    void end() {
        alarms.close();
        dispatch.close();
    }

    private final class Post implements Sender {
        @Override
        public MailDelivery mail(
                Receiver.Mail to, MailServer server, Optional<String> password, Message message, Message.Words words)
                throws NotSentException {
            take(to.to().get(0), to, message, words);
            return deliveries.getOrDefault(to.to(), MailDelivery.TO_ALL);
        }

        @Override
        public void web(Receiver.Web to, String key, Message message, Message.Words words) throws NotSentException {
            take(to.address().getHost(), to, message, words);
        }

        private void take(String where, Receiver.Way to, Message message, Message.Words words) throws NotSentException {
            Optional<NotSentException> no =
                    fates.getOrDefault(where, m -> Optional.empty()).apply(message);
            if (no.isPresent()) {
                throw no.get();
            }
            came.add(new Came(to, message, words));
        }

        @Override
        public void close() {
            // Nothing is under way that does not end by itself.
        }
    }

    /** Sets up one by mail and one at an address of the web. */
    PostRig both() {
        desk.keep(
                new MailServer(
                        0, "mail.custodia.test", 25, MailServer.Security.NONE, Optional.empty(), "us@custodia.test"),
                0,
                Optional.empty(),
                IV);
        desk.keep(mail("duty"), 0, Optional.empty(), IV);
        desk.keep(web("phones"), 0, Optional.of(KEY), IV);
        return this;
    }

    static Receiver mail(String id) {
        return new Receiver(id, 0, "By mail: " + id, true, new Receiver.Mail(List.of(id + "@custodia.test"), true));
    }

    static Receiver web(String id) {
        return new Receiver(
                id, 0, "By web: " + id, true, new Receiver.Web(URI.create("https://" + id + ".custodia.test/in")));
    }

    static Rule rule(String id, EventKind kind, Rule.Tell... tells) {
        return new Rule(
                id,
                0,
                "Of the site: " + id,
                true,
                new Rule.Once(Set.of(kind), Set.of(), kind.equals(Kinds.FORCED) ? Set.of(Kinds.CLOSED) : Set.of()),
                Rule.Where.ANYWHERE,
                Rule.Who.ANYBODY,
                Hours.ALWAYS,
                Priority.URGENT,
                Rule.Then.CALLS.tells(List.of(tells)));
    }

    static Rule.Tell start(String receiver) {
        return new Rule.Tell(Rule.At.START, receiver);
    }

    static NotSentException no(NotSentException.Why why) {
        return new NotSentException(why, Saying.of("message.nobody-there", "there"));
    }

    void happens(EventKind kind, double seconds) {
        log.store(make.event(kind, GATE, seconds).build());
    }

    void happens(EventKind kind, DoorId door, double seconds) {
        log.store(make.event(kind, door, seconds).build());
    }

    void later(Duration by) {
        now = now.plus(by);
        dispatch.wake();
    }

    Instant now() {
        return now;
    }

    List<Message> to(String receiver) {
        return came.stream()
                .filter(c -> c.to().toString().contains(receiver))
                .map(Came::message)
                .toList();
    }

    List<Outbox.State> states() {
        return outbox.all(10_000).stream().map(Outbox.Entry::state).toList();
    }

    static ConditionFactory soon() {
        return Patience.await();
    }

    @Override
    public void close() {
        end();
    }
}
