package org.custodia.link;

import static org.assertj.core.api.Assertions.assertThat;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetSocketAddress;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.Executors;
import org.custodia.core.access.Credential;
import org.custodia.core.access.Person;
import org.custodia.core.door.CommandAnswer;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.site.Camera;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.Site;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** A link against a system that answers as the test says, well or badly. */
class AccessLinkTest {
    private static final SystemId SYSTEM = new SystemId("tidewater");
    private static final String HELLO =
            "{\"protocol\":1,\"system\":\"tidewater\",\"name\":\"T\",\"make\":\"M\",\"epoch\":1,\"lastSeq\":%d,\"inventory\":\"1\"}";
    private static final String DOOR =
            "{\"sites\":[{\"id\":\"harbour\",\"name\":\"Harbour House\",\"timeZone\":\"Europe/London\"}],\"doors\":[{\"id\":\"vault\",\"controller\":\"c5\",\"name\":\"Vault\",\"site\":\"harbour\",\"heldLimitSeconds\":60,\"capabilities\":[\"contact\",\"let-through\",\"levitate\"]}]}";

    private final Map<String, String> answers = new ConcurrentHashMap<>();
    private final List<String> asked = new CopyOnWriteArrayList<>();
    private final Things things = new Things();
    private final CountDownLatch over = new CountDownLatch(1);
    private HttpServer server;
    private HttpAccessLink link;

    /** What stands around the link. */
    private static final class Things implements EventIntake, EventLog, Inventory {
        final List<Event> stored = new CopyOnWriteArrayList<>();
        final List<String> unread = new CopyOnWriteArrayList<>();
        final List<Door> doors = new CopyOnWriteArrayList<>();
        final List<Person> people = new CopyOnWriteArrayList<>();
        final List<Credential> credentials = new CopyOnWriteArrayList<>();
        volatile boolean full;

        @Override
        public CompletableFuture<Void> accept(List<Event> events, boolean backlog) {
            if (full) {
                return CompletableFuture.failedFuture(new EventLogException("The disk is full.", null));
            }
            stored.addAll(events);
            return CompletableFuture.completedFuture(null);
        }

        @Override
        public CompletableFuture<Event> record(Event.Builder event) {
            stored.add(event.build());
            return CompletableFuture.completedFuture(event.build());
        }

        @Override
        public void keepUnread(SystemId system, Instant received, String raw, String why) {
            unread.add(raw + " | " + why);
        }

        @Override
        public Subscription subscribe(Listener listener) {
            return () -> {};
        }

        @Override
        public List<Event> find(EventQuery query) {
            return stored;
        }

        @Override
        public long count(EventQuery query) {
            return stored.size();
        }

        @Override
        public Optional<Event> byKey(EventKey key) {
            return Optional.empty();
        }

        @Override
        public Optional<Resume> lastOf(SystemId system) {
            return stored.stream()
                    .filter(e -> e.key().system().equals(system))
                    .map(e -> new Resume(1, e.key().sequence()))
                    .reduce((a, b) -> b);
        }

        @Override
        public Map<Integer, Slice> slices(Instant from, Instant to, Duration slice) {
            return Map.of();
        }

        @Override
        public long unreadCount() {
            return unread.size();
        }

        @Override
        public void places(SystemId system, List<Site> sites, List<Door> some) {
            doors.addAll(some);
        }

        @Override
        public void people(SystemId system, List<Person> some, List<Credential> badges) {
            people.addAll(some);
            credentials.addAll(badges);
        }

        @Override
        public void cameras(SystemId recorder, List<Camera> cameras) {}

        @Override
        public boolean wantsPhoto(PersonId person, String version) {
            return false;
        }

        @Override
        public void photo(PersonId person, String version, byte[] jpeg) {}
    }

    @BeforeEach
    void serve() throws IOException {
        server = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        server.setExecutor(Executors.newCachedThreadPool());
        server.createContext("/", this::answer);
        server.start();
        answers.put("/hello", String.format(HELLO, 0));
        answers.put("/time", "{\"time\":\"2026-11-24T14:20:00Z\"}");
        answers.put("/inventory/places", DOOR);
        answers.put("/inventory/people", "{\"people\":[],\"more\":false}");
        answers.put("/snapshot", "{\"epoch\":1,\"seq\":0,\"time\":\"2026-11-24T14:20:00Z\",\"doors\":[]}");
        answers.put(
                "/stream", "event: heartbeat\ndata: {\"time\":\"2026-11-24T14:20:00Z\",\"epoch\":1,\"lastSeq\":0}\n\n");
    }

    private void answer(HttpExchange exchange) throws IOException {
        String path = exchange.getRequestURI().getPath();
        asked.add(path + "?" + exchange.getRequestURI().getQuery() + " "
                + exchange.getRequestHeaders().getFirst("Last-Event-ID"));
        String text = answers.get(path);
        int status = 200;
        if (text == null) {
            status = 404;
            text = "{\"problem\":\"nothing here\"}";
        } else if (text.startsWith("!")) {
            status = Integer.parseInt(text.substring(1, 4));
            text = text.substring(4);
        }
        byte[] bytes = text.getBytes(StandardCharsets.UTF_8);
        if (path.equals("/stream") && status == 200) {
            holdOpen(exchange, bytes);
            return;
        }
        exchange.sendResponseHeaders(status, bytes.length == 0 ? -1 : bytes.length);
        exchange.getResponseBody().write(bytes);
        exchange.close();
    }

    /** A stream goes on until the test is over. */
    private void holdOpen(HttpExchange exchange, byte[] first) throws IOException {
        exchange.sendResponseHeaders(200, 0);
        exchange.getResponseBody().write(first);
        exchange.getResponseBody().flush();
        try {
            over.await();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
        exchange.close();
    }

    private void connect() {
        link = new HttpAccessLink(
                SYSTEM,
                "Tidewater",
                URI.create("http://127.0.0.1:" + server.getAddress().getPort()),
                "secret",
                new HttpAccessLink.Surroundings(
                        things, things, new ClockBook(), r -> {}, things, Clock.systemUTC(), s -> {}));
    }

    @AfterEach
    void stop() {
        if (link != null) {
            link.close();
        }
        over.countDown();
        server.stop(0);
    }

    private void saysProblem(String words) {
        connect();
        Patience.await()
                .until(() ->
                        link.status().problem().filter(p -> p.contains(words)).isPresent());
    }

    private static String event(long seq, String kind) {
        return "{\"epoch\":1,\"seq\":" + seq + ",\"time\":\"2026-11-24T14:20:00Z\",\"kind\":\"" + kind
                + "\",\"door\":\"vault\"}";
    }

    @Test
    void a_system_of_another_version_or_another_name_is_not_taken_for_ours() {
        answers.put("/hello", String.format(HELLO, 0).replace("\"protocol\":1", "\"protocol\":9"));
        saysProblem("version 9");
        link.close();
        answers.put("/hello", String.format(HELLO, 0).replace("tidewater", "somebody"));
        saysProblem("answers \"somebody\"");
    }

    @Test
    void answers_that_cannot_be_understood_are_said_in_words() {
        answers.put("/hello", "<html>");
        saysProblem("cannot be understood");
        link.close();
        answers.put("/hello", "!503{\"problem\":\"being serviced\"}");
        saysProblem("being serviced");
        link.close();
        answers.put("/hello", "!500oops");
        saysProblem("status 500");
        link.close();
        answers.put("/hello", String.format(HELLO, 0));
        answers.put("/inventory/places", DOOR.replace("Europe/London", "Atlantis/Centre"));
        saysProblem("list of doors cannot be understood");
    }

    @Test
    void what_a_door_can_do_that_nobody_knows_is_passed_over() {
        connect();
        Patience.await().until(() -> !things.doors.isEmpty());
        Door door = things.doors.get(0);
        assertThat(door.id().value()).isEqualTo("tidewater/vault");
        assertThat(door.capabilities()).containsExactlyInAnyOrder(DoorCapability.CONTACT, DoorCapability.LET_THROUGH);
        assertThat(door.level()).isEmpty();
    }

    @Test
    void people_come_page_by_page() {
        answers.put(
                "/inventory/people",
                "{\"people\":[{\"id\":\"p1\",\"name\":\"Tove Ingleholm\",\"stopped\":false,\"credentials\":[{\"number\":\"20266\",\"kind\":\"card\",\"status\":\"active\"}]}],\"more\":true}");
        connect();
        Patience.await().until(() -> asked.stream().anyMatch(a -> a.contains("after=p1")));
        answers.put("/inventory/people", "{\"people\":[],\"more\":false}");
        Patience.await().until(() -> !things.people.isEmpty());
        assertThat(things.people.get(0).name()).isEqualTo("Tove Ingleholm");
        assertThat(things.credentials.get(0).number()).isEqualTo("20266");
    }

    @Test
    void a_backlog_with_a_line_that_makes_no_sense_is_read_to_its_end() {
        answers.put("/hello", String.format(HELLO, 3));
        answers.put("/events", event(1, "door.opened") + "\n{\"epoch\":1,\"seq\":\n" + event(3, "door.closed") + "\n");
        connect();
        Patience.await()
                .until(() -> things.unread.size() == 1
                        && things.stored.stream().anyMatch(e -> e.key().sequence() == 3));
        Patience.await().until(() -> asked.stream().anyMatch(a -> a.startsWith("/stream") && a.endsWith("1:3")));
    }

    @Test
    void a_system_that_keeps_back_its_backlog_is_not_waited_for_in_silence() {
        answers.put("/hello", String.format(HELLO, 3));
        answers.put("/events", "\n");
        saysProblem("did not deliver what happened after event 0");
    }

    @Test
    void while_the_log_takes_nothing_the_session_ends_and_is_tried_again() {
        things.full = true;
        answers.put("/hello", String.format(HELLO, 1));
        answers.put("/events", event(1, "door.opened"));
        saysProblem("The disk is full.");
        things.full = false;
        Patience.await()
                .until(() -> things.stored.stream().anyMatch(e -> e.kind().equals(Kinds.OPENED)));
    }

    @Test
    void a_lost_link_is_logged_once_and_its_return_too() {
        answers.put("/stream", "!503{\"problem\":\"gone\"}");
        saysProblem("gone");
        Patience.await()
                .until(() -> asked.stream().filter(a -> a.startsWith("/stream")).count() >= 2);
        long lost = things.stored.stream()
                .filter(e -> e.kind().equals(Kinds.LINK_LOST))
                .count();
        long back = things.stored.stream()
                .filter(e -> e.kind().equals(Kinds.LINK_BACK))
                .count();
        assertThat(back).isBetween(1L, lost);
        assertThat(lost - back).isBetween(0L, 1L);
    }

    @Test
    void a_command_gets_an_honest_answer() {
        connect();
        DoorId vault = new DoorId("tidewater/vault");
        Patience.await().until(() -> link.status().state() == LinkStatus.State.UP);
        Map<String, CommandAnswer.Result> expected = Map.of(
                "{\"result\":\"done\",\"words\":\"\"}", CommandAnswer.Result.DONE,
                "{\"result\":\"refused\",\"words\":\"jammed\"}", CommandAnswer.Result.REFUSED,
                "{\"result\":\"not-reached\",\"words\":\"no controller\"}", CommandAnswer.Result.NOT_REACHED,
                "{\"result\":\"perhaps\",\"words\":\"\"}", CommandAnswer.Result.NOT_KNOWN,
                "!500{\"problem\":\"broken\"}", CommandAnswer.Result.NOT_REACHED);
        expected.forEach((answer, result) -> {
            answers.put("/commands", answer);
            assertThat(link.command(vault, new DoorCommand.LetThrough(), "k")
                            .join()
                            .result())
                    .as(answer)
                    .isEqualTo(result);
        });
        link.close();
        assertThat(link.command(vault, new DoorCommand.LockNow(), "z").join().result())
                .isEqualTo(CommandAnswer.Result.NOT_REACHED);
        assertThat(link.status().state()).isEqualTo(LinkStatus.State.CLOSED);
    }
}
