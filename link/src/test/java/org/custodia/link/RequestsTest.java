package org.custodia.link;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.io.InputStream;
import java.net.InetSocketAddress;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.TimeUnit;
import org.custodia.core.Patience;
import org.custodia.wire.ClockMessage;
import org.custodia.wire.Wire;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

class RequestsTest {
    private final ExecutorService executor = Executors.newCachedThreadPool();
    private final CountDownLatch over = new CountDownLatch(1);
    private final CountDownLatch half = new CountDownLatch(1);
    private HttpServer server;
    private Requests requests;

    @BeforeEach
    void serve() throws IOException {
        server = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        server.setExecutor(executor);
        server.createContext("/good", e -> answer(e, 200, "{\"time\":\"2026-11-24T14:20:00Z\"}"));
        server.createContext("/long", e -> answer(e, 200, "x".repeat(2_000)));
        server.createContext("/words", e -> answer(e, 409, "{\"problem\":\"being serviced\"}"));
        server.createContext("/page", e -> answer(e, 502, "<html>bad gateway</html>"));
        server.createContext("/moved", e -> answer(e, 302, ""));
        server.createContext("/half", this::answerHalf);
        server.start();
        requests = requests(Duration.ofSeconds(30));
    }

    private Requests requests(Duration wholeWithin) {
        return new Requests(
                URI.create("http://127.0.0.1:" + server.getAddress().getPort()), "secret", executor, wholeWithin);
    }

    private static void answer(HttpExchange exchange, int status, String text) throws IOException {
        byte[] bytes = text.getBytes(StandardCharsets.UTF_8);
        exchange.sendResponseHeaders(status, bytes.length == 0 ? -1 : bytes.length);
        exchange.getResponseBody().write(bytes);
        exchange.close();
    }

    /** Promises a hundred bytes, sends ten and keeps the line open. */
    private void answerHalf(HttpExchange exchange) throws IOException {
        exchange.sendResponseHeaders(200, 100);
        exchange.getResponseBody().write("{\"time\":\"2".getBytes(StandardCharsets.UTF_8));
        exchange.getResponseBody().flush();
        half.countDown();
        try {
            over.await();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
        exchange.close();
    }

    @AfterEach
    void stop() {
        over.countDown();
        requests.close();
        server.stop(0);
        executor.shutdownNow();
    }

    @Test
    void answers_are_read_and_refusals_keep_their_words() throws IOException {
        assertThat(requests.get("good", ClockMessage.class).time()).isEqualTo("2026-11-24T14:20:00Z");
        assertThat(text("long")).hasSize(2_000);
        assertThatThrownBy(() -> text("words")).hasMessage("quoted \"being serviced\"");
        assertThatThrownBy(() -> text("page"))
                .hasMessageContaining("link.status")
                .hasMessageContaining("n502");
        assertThatThrownBy(() -> text("moved")).hasMessageContaining("n302");
        assertThatThrownBy(() -> requests.get("long", ClockMessage.class))
                .hasMessageContaining("link.answer-odd-because");
    }

    @Test
    void an_answer_that_is_too_long_is_not_read() throws IOException {
        assertThatThrownBy(() -> requests.whole(requests.open("long", null, null), 1_999))
                .hasMessage("link.answer-too-long n1999");
        assertThat(requests.whole(requests.open("long", null, null), 2_000)).hasSize(2_000);
    }

    @Test
    void an_answer_that_stops_in_the_middle_is_given_up() {
        requests = requests(Duration.ofMillis(200));
        assertThatThrownBy(() -> text("half")).hasMessage("link.answer-too-slow");
    }

    @Test
    void closing_ends_what_is_being_read_by_others() throws Exception {
        CompletableFuture<String> reading = CompletableFuture.supplyAsync(
                () -> {
                    try {
                        return text("half");
                    } catch (IOException e) {
                        return "ended";
                    }
                },
                executor);
        half.await();
        requests.close();
        assertThat(reading.get(90, TimeUnit.SECONDS)).isEqualTo("ended");
    }

    @Test
    void a_stream_is_ended_too_and_none_begins_after_the_end() throws IOException {
        InputStream stream = requests.open("half", null, null).body();
        assertThat(stream.read()).isEqualTo('{');
        requests.close();
        assertThatThrownBy(stream::readAllBytes).isInstanceOf(IOException.class);
        assertThatThrownBy(() -> text("good")).hasMessage("link.stopped");
    }

    @Test
    void where_nothing_answers_the_place_is_named() {
        server.stop(0);
        Patience.await().ignoreExceptions().untilAsserted(() -> assertThatThrownBy(() -> text("good"))
                .hasMessageContaining("link.nobody-there \"127.0.0.1:"));
    }

    private String text(String path) throws IOException {
        return new String(requests.whole(requests.open(path, null, null), Wire.LONGEST_ANSWER), StandardCharsets.UTF_8);
    }
}
