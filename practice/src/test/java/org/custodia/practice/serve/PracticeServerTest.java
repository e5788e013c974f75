package org.custodia.practice.serve;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import org.custodia.practice.PracticeSite;
import org.custodia.practice.SteppedClock;
import org.custodia.wire.AccessMessages;
import org.custodia.wire.ClockMessage;
import org.custodia.wire.RecorderMessages;
import org.custodia.wire.Wire;
import org.custodia.wire.WireEvent;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What the site answers over HTTP, to good questions and to bad ones. */
class PracticeServerTest {
    private static final Instant START = Instant.parse("2026-11-24T02:00:00Z");

    @TempDir
    Path directory;

    private final SteppedClock clock = new SteppedClock(START);
    private final HttpClient client = HttpClient.newHttpClient();
    private PracticeSite site;

    @BeforeEach
    void open() throws IOException {
        Files.writeString(
                directory.resolve("origin.json"),
                "{\"seed\":7,\"firstDay\":\"2026-11-23\",\"people\":\"" + START + "\",\"token\":\"test-token\"}");
        site = new PracticeSite(directory, clock, 0);
    }

    @AfterEach
    void close() {
        site.close();
    }

    private HttpResponse<byte[]> send(HttpRequest.Builder request) {
        try {
            return client.send(request.build(), HttpResponse.BodyHandlers.ofByteArray());
        } catch (IOException e) {
            throw new AssertionError(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new AssertionError(e);
        }
    }

    private HttpRequest.Builder to(String path) {
        return HttpRequest.newBuilder(URI.create(site.address() + path)).timeout(Duration.ofSeconds(30));
    }

    private HttpResponse<byte[]> get(String path) {
        return send(to(path).header("Authorization", "Bearer test-token"));
    }

    private HttpResponse<byte[]> post(String path, String body) {
        return send(to(path).header("Authorization", "Bearer test-token")
                .POST(HttpRequest.BodyPublishers.ofString(body.replace('\'', '"'))));
    }

    private static String text(HttpResponse<byte[]> response) {
        return new String(response.body(), StandardCharsets.UTF_8);
    }

    private static <T> T read(HttpResponse<byte[]> response, Class<T> type) {
        assertThat(response.statusCode()).as(text(response)).isEqualTo(200);
        return Wire.read(text(response), type);
    }

    private void refused(HttpResponse<byte[]> response, int status, String words) {
        assertThat(response.statusCode()).as(text(response)).isEqualTo(status);
        assertThat(Wire.read(text(response), AccessMessages.Problem.class).problem())
                .contains(words);
    }

    @Test
    void nobody_is_let_in_without_the_token() {
        refused(send(to("/access/tidewater/hello")), 401, "token");
        refused(send(to("/recorder/quayside/cameras").header("Authorization", "Bearer wrong")), 401, "token");
        assertThat(get("/access/tidewater/hello").statusCode()).isEqualTo(200);
    }

    @Test
    void every_system_says_who_it_is_and_what_time_its_clock_shows() {
        for (String system : List.of("tidewater", "larkspur")) {
            AccessMessages.Hello hello = read(get("/access/" + system + "/hello"), AccessMessages.Hello.class);
            assertThat(hello.system()).isEqualTo(system);
            assertThat(hello.lastSeq()).isPositive();
        }
        for (String recorder : List.of("quayside", "ferry")) {
            assertThat(read(get("/recorder/" + recorder + "/hello"), RecorderMessages.Hello.class)
                            .system())
                    .isEqualTo(recorder);
        }
        Instant shown = read(get("/access/larkspur/time"), ClockMessage.class).time();
        assertThat(shown).isEqualTo(START.minusMillis(800));
    }

    @Test
    void the_whole_past_can_be_read_page_by_page_without_a_hole() {
        long last =
                read(get("/access/larkspur/hello"), AccessMessages.Hello.class).lastSeq();
        List<Long> numbers = new ArrayList<>();
        long after = 0;
        while (after < last) {
            List<WireEvent> page = text(get("/access/larkspur/events?after=" + after + "&limit=300"))
                    .lines()
                    .map(line -> Wire.read(line, WireEvent.class))
                    .toList();
            assertThat(page).hasSizeBetween(1, 300);
            page.forEach(e -> numbers.add(e.seq()));
            after = numbers.get(numbers.size() - 1);
        }
        assertThat(numbers).hasSize((int) last);
        for (int i = 0; i < numbers.size(); i++) {
            assertThat(numbers.get(i)).isEqualTo(i + 1L);
        }
    }

    @Test
    void questions_that_make_no_sense_are_answered_with_a_sentence() {
        refused(get("/access/tidewater/events?after=yesterday"), 400, "after is a number");
        refused(get("/access/tidewater/people/p999999/photo"), 404, "nobody");
        refused(get("/access/nobody/hello"), 404, "nothing at this address");
        refused(get("/recorder/quayside/cameras/none/still?at=2026-11-24T01:00:00Z"), 404, "no camera none");
        refused(get("/recorder/quayside/cameras/vault-outside/still"), 400, "at is missing");
        refused(get("/recorder/quayside/cameras/vault-outside/still?at=noon"), 400, "not \"noon\"");
        refused(
                get("/recorder/quayside/cameras/vault-outside/still?at=2026-11-24T01:00:00Z&width=wide"),
                400,
                "width is a number");
        refused(
                get(
                        "/recorder/quayside/cameras/vault-outside/playback?from=2026-11-23T01:00:00Z&to=2026-11-23T09:00:00Z"),
                400,
                "an hour");
        refused(get("/recorder/quayside/cameras/vault-outside/still?at=2026-11-24T09:00:00Z"), 409, "not happened yet");
    }

    @Test
    void a_still_says_which_instant_it_shows() {
        HttpResponse<byte[]> still =
                get("/recorder/quayside/cameras/vault-outside/still?at=2026-11-24T01:30:00Z&width=320");
        assertThat(still.statusCode()).isEqualTo(200);
        assertThat(still.headers().firstValue("Content-Type")).contains("image/jpeg");
        Instant shown = Instant.parse(
                still.headers().firstValue(RecorderMessages.FIRST_FRAME).orElseThrow());
        assertThat(Duration.between(shown, Instant.parse("2026-11-24T01:30:00Z")))
                .isBetween(Duration.ZERO, Duration.ofMillis(99));
    }

    private AccessMessages.CommandReply command(String door, String command, String key) {
        return read(
                post(
                        "/access/tidewater/commands",
                        "{'key':'" + key + "','door':'" + door + "','command':'" + command + "'}"),
                AccessMessages.CommandReply.class);
    }

    private long count(String door, String kind) {
        return site.timeline().system("tidewater").orElseThrow().after(0, Integer.MAX_VALUE).stream()
                .filter(e -> door.equals(e.door()) && kind.equals(e.kind()))
                .count();
    }

    @Test
    void a_command_with_the_same_key_is_done_once() {
        long before = count("loading-bay", "door.released");
        assertThat(command("loading-bay", "let-through", "k1").result()).isEqualTo("done");
        assertThat(command("loading-bay", "let-through", "k1").result()).isEqualTo("done");
        assertThat(count("loading-bay", "door.released")).isEqualTo(before + 1);
        command("loading-bay", "let-through", "k2");
        assertThat(count("loading-bay", "door.released")).isEqualTo(before + 2);
    }

    @Test
    void what_a_door_cannot_do_is_refused_and_what_makes_no_sense_is_said() {
        assertThat(command("staff-lobby", "leave-unlocked", "k1").result()).isEqualTo("refused");
        assertThat(command("vault", "dance", "k2").result()).isEqualTo("refused");
        refused(post("/access/tidewater/commands", "{'key':'k','door':'nowhere','command':'lock'}"), 404, "nowhere");
        refused(post("/access/tidewater/commands", "{'door':'vault'}"), 400, "a command has");
        refused(post("/access/tidewater/commands", "{'key':"), 400, "");
        refused(post("/access/tidewater/commands", "{'key':'" + "k".repeat(70_000) + "'}"), 400, "longer than");
    }

    @Test
    void a_link_that_is_dropped_answers_again_when_its_time_is_over() {
        assertThat(post("/control/do", "{'act':'link-drop','target':'tidewater','seconds':30}")
                        .statusCode())
                .isEqualTo(204);
        refused(get("/access/tidewater/hello"), 503, "down");
        assertThat(get("/access/larkspur/hello").statusCode()).isEqualTo(200);
        clock.advance(Duration.ofSeconds(31));
        assertThat(get("/access/tidewater/hello").statusCode()).isEqualTo(200);
    }

    @Test
    void the_control_page_makes_things_happen_and_says_what_it_does_not_know() {
        assertThat(text(send(to("/control")))).contains("<html");
        assertThat(text(send(to("/control/things")))).contains("Loading bay").contains("quayside");
        long before = count("roof-store", "access.granted");
        post("/control/do", "{'act':'present','door':'roof-store','badge':'20144'}");
        clock.advance(Duration.ofSeconds(10));
        site.timeline().advanceTo(clock.instant());
        assertThat(count("roof-store", "access.granted")).isEqualTo(before + 1);
        refused(post("/control/do", "{'act':'dance'}"), 400, "no dance");
        refused(post("/control/do", "{'door':'vault'}"), 400, "which act");
        refused(post("/control/do", "{'act':'link-drop'}"), 400, "which link");
        refused(post("/control/do", "{'act':'force','door':'nowhere'}"), 400, "no door nowhere");
    }

    @Test
    void after_a_restart_everything_that_happened_is_the_same() {
        post("/control/do", "{'act':'force','door':'strongroom-corr','seconds':40}");
        clock.advance(Duration.ofSeconds(90));
        site.timeline().advanceTo(clock.instant());
        List<WireEvent> before =
                site.timeline().system("tidewater").orElseThrow().after(0, Integer.MAX_VALUE);
        site.close();
        assertThat(PracticeSite.lastSeen(directory)).contains(clock.instant());
        site = new PracticeSite(directory, clock, 0);
        assertThat(site.timeline().system("tidewater").orElseThrow().after(0, Integer.MAX_VALUE))
                .isEqualTo(before);
    }
}
