package org.custodia.link.message;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import com.fasterxml.jackson.databind.JsonNode;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.ServerSocket;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import org.custodia.core.message.NotSentException;
import org.custodia.core.message.NotSentException.Why;
import org.custodia.core.message.Receiver;
import org.custodia.wire.MessageForm;
import org.custodia.wire.Wire;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Messages to addresses of the web that take them, refuse them, stumble, lead elsewhere or say nothing. */
class WebPostTest {
    private static final String KEY = "0123456789abcdef0123456789abcdef";

    private final MessageSender sender = new MessageSender(Duration.ofSeconds(30), Duration.ofSeconds(30));
    private final MessageSender hasty = new MessageSender(Duration.ofMillis(1_200), Duration.ofMillis(1_200));

    @AfterEach
    void close() {
        sender.close();
        hasty.close();
    }

    private static Receiver.Web to(int port) {
        return new Receiver.Web(URI.create("http://127.0.0.1:" + port + "/in?from=custodia"));
    }

    private static NotSentException refused(MessageSender by, int port) {
        return catchThrowableOfType(
                NotSentException.class,
                () -> by.web(to(port), KEY, Messages.message(Optional.empty()), Messages.WORDS));
    }

    @Test
    void it_arrives_signed_over_its_time_and_body() throws Exception {
        CompletableFuture<String> body = new CompletableFuture<>();
        CompletableFuture<String> signature = new CompletableFuture<>();
        HttpServer server = HttpServer.create(new InetSocketAddress(InetAddress.getLoopbackAddress(), 0), 0);
        server.createContext("/in", exchange -> {
            byte[] bytes = exchange.getRequestBody().readAllBytes();
            String time = exchange.getRequestHeaders().getFirst(MessageForm.TIME);
            signature.complete(exchange.getRequestHeaders().getFirst(MessageForm.SIGNATURE) + " " + time + " "
                    + MessageForm.signature(KEY, time, bytes) + " "
                    + exchange.getRequestHeaders().getFirst(MessageForm.ID));
            body.complete(new String(bytes, StandardCharsets.UTF_8));
            exchange.sendResponseHeaders(204, -1);
            exchange.close();
        });
        server.start();
        try {
            sender.web(to(server.getAddress().getPort()), KEY, Messages.message(Optional.empty()), Messages.WORDS);
        } finally {
            server.stop(0);
        }
        String[] parts = signature.get(1, TimeUnit.SECONDS).split(" ");
        assertThat(parts[0]).isEqualTo(parts[2]).hasSize(64);
        assertThat(Long.parseLong(parts[1])).isEqualTo(Messages.T.getEpochSecond());
        assertThat(parts[3]).isEqualTo("3f2a-1");
        JsonNode json = Wire.mapper().readTree(body.get());
        assertThat(json.path("attempt").asInt()).isEqualTo(2);
        assertThat(json.path("maybeBefore").asBoolean()).isTrue();
        assertThat(json.path("occasion").asText()).isEqualTo("trial");
        assertThat(json.path("text").asText()).isEqualTo(Messages.WORDS.text());
        // The same at another time, or another body at the same time, has another signature.
        byte[] bytes = body.get().getBytes(StandardCharsets.UTF_8);
        assertThat(MessageForm.signature(KEY, "1", bytes)).isNotEqualTo(parts[0]);
        bytes[0]++;
        assertThat(MessageForm.signature(KEY, parts[1], bytes)).isNotEqualTo(parts[0]);
    }

    /** Against the definition in RFC 2104: H(K XOR opad, H(K XOR ipad, text)), with a line feed between time and body. */
    @Test
    void the_signature_is_the_standards() {
        assertThat(MessageForm.signature("Jefe", "1700000000", "{}".getBytes(StandardCharsets.UTF_8)))
                .isEqualTo(hmac("Jefe", "1700000000\n{}"));
    }

    /** HMAC as RFC 2104 writes it down, put together by hand. */
    private static String hmac(String key, String text) {
        try {
            byte[] inner = new byte[64];
            byte[] outer = new byte[64];
            byte[] k = key.getBytes(StandardCharsets.UTF_8);
            for (int i = 0; i < 64; i++) {
                int b = i < k.length ? k[i] : 0;
                inner[i] = (byte) (b ^ 0x36);
                outer[i] = (byte) (b ^ 0x5c);
            }
            java.security.MessageDigest hash = java.security.MessageDigest.getInstance("SHA-256");
            hash.update(inner);
            byte[] first = hash.digest(text.getBytes(StandardCharsets.UTF_8));
            hash.update(outer);
            return java.util.HexFormat.of().formatHex(hash.digest(first));
        } catch (java.security.NoSuchAlgorithmException e) {
            throw new IllegalStateException(e);
        }
    }

    @ParameterizedTest
    @CsvSource({
        "400, message.web-refused, REFUSED",
        "401, message.web-refused, REFUSED",
        "404, message.web-refused, REFUSED",
        "429, message.not-now, NOBODY_TAKES_ANY",
        "500, message.web-failed, NOT_KNOWN",
        "503, message.not-now, NOBODY_TAKES_ANY",
    })
    void what_it_answers_decides_what_becomes_of_it(int status, String code, Why why) throws IOException {
        try (Scripted server = answers("HTTP/1.1 " + status + " Such\r\nContent-Length: 0\r\n\r\n")) {
            NotSentException e = refused(sender, server.port());
            assertThat(e.saying().code()).isEqualTo(code);
            assertThat(e.why()).isEqualTo(why);
        }
    }

    private static Scripted answers(String answer) {
        return new Scripted((in, out) -> {
            String line;
            while ((line = in.readLine()) != null && !line.isEmpty()) {
                // The head of the request.
            }
            Scripted.say(out, answer);
            Scripted.nothing(in);
        });
    }

    @Test
    void where_it_leads_elsewhere_nothing_follows() throws IOException {
        AtomicInteger there = new AtomicInteger();
        try (Scripted elsewhere = new Scripted((in, out) -> there.incrementAndGet());
                Scripted leads = answers("HTTP/1.1 307 Elsewhere\r\nLocation: http://127.0.0.1:" + elsewhere.port()
                        + "/\r\nContent-Length: 0\r\n\r\n")) {
            NotSentException e = refused(sender, leads.port());
            assertThat(e.saying().code()).isEqualTo("message.redirected");
            assertThat(e.why()).isEqualTo(Why.REFUSED);
            assertThat(there).hasValue(0);
        }
    }

    @Test
    void one_that_says_nothing_or_breaks_off_may_have_taken_it_and_one_that_is_not_there_has_not() throws IOException {
        try (Scripted mute = new Scripted((in, out) -> Scripted.nothing(in))) {
            NotSentException e = refused(hasty, mute.port());
            assertThat(e.saying().code()).isEqualTo("message.no-answer");
            assertThat(e.why()).isEqualTo(Why.NOT_KNOWN);
        }
        try (Scripted breaks = new Scripted((in, out) -> in.readLine())) {
            assertThat(refused(sender, breaks.port()).why()).isEqualTo(Why.NOT_KNOWN);
        }
        int port;
        try (ServerSocket free = new ServerSocket(0, 1, InetAddress.getLoopbackAddress())) {
            port = free.getLocalPort();
        }
        NotSentException e = refused(sender, port);
        assertThat(e.saying().code()).isEqualTo("message.nobody-there");
        assertThat(e.why()).isEqualTo(Why.NOBODY_TAKES_ANY);
    }

    @Test
    void an_answer_without_an_end_keeps_nobody_once_its_status_is_known() throws Exception {
        try (Scripted endless = new Scripted((in, out) -> {
            String line;
            while ((line = in.readLine()) != null && !line.isEmpty()) {
                // The head of the request.
            }
            Scripted.say(out, "HTTP/1.1 200 Fine\r\nTransfer-Encoding: chunked\r\n");
            while (true) {
                Scripted.say(out, "4\r\nmore");
            }
        })) {
            sender.web(to(endless.port()), KEY, Messages.message(Optional.empty()), Messages.WORDS);
        }
    }

    @Test
    void closing_ends_what_is_under_way() throws Exception {
        CompletableFuture<Void> connected = new CompletableFuture<>();
        try (Scripted mute = new Scripted((in, out) -> {
            connected.complete(null);
            Scripted.nothing(in);
        })) {
            CompletableFuture<NotSentException> ended =
                    CompletableFuture.supplyAsync(() -> refused(sender, mute.port()));
            connected.get(30, TimeUnit.SECONDS);
            sender.close();
            assertThat(ended.get(15, TimeUnit.SECONDS).saying().code()).isEqualTo("message.stopped");
        }
    }
}
