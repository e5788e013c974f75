package org.custodia.bench;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import java.io.BufferedWriter;
import java.io.IOException;
import java.io.OutputStream;
import java.io.OutputStreamWriter;
import java.net.InetSocketAddress;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;

/** An access system that has been busy: any number of events within the last hours, made while they are read. */
final class TorrentSystem implements AutoCloseable {
    static final int DOORS = 48;
    private static final String[] KINDS = {"access.granted", "door.opened", "door.closed", "access.refused"};

    private final HttpServer server;
    private final ExecutorService executor = Executors.newCachedThreadPool(r -> {
        Thread t = new Thread(r, "torrent");
        t.setDaemon(true);
        return t;
    });
    private final CountDownLatch over = new CountDownLatch(1);
    private final long events;
    private final long firstMillis;
    private final double stepMillis;

    TorrentSystem(long events, long hours) throws IOException {
        this.events = events;
        long span = hours * 3_600_000L;
        this.firstMillis = System.currentTimeMillis() - span;
        this.stepMillis = (double) span / events;
        server = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        server.setExecutor(executor);
        server.createContext("/", this::answer);
        server.start();
    }

    URI address() {
        return URI.create("http://127.0.0.1:" + server.getAddress().getPort() + "/");
    }

    private String event(long n) {
        int door = (int) (n / KINDS.length % DOORS);
        String kind = KINDS[(int) (n % KINDS.length)];
        boolean badge = kind.startsWith("access");
        return "{\"epoch\":1,\"seq\":" + n + ",\"time\":\""
                + Instant.ofEpochMilli(firstMillis + (long) (n * stepMillis))
                + "\",\"kind\":\"" + kind + "\",\"code\":\"T100\",\"door\":\"door-" + door + "\",\"controller\":\"c"
                + door / 4 + "\""
                + (badge
                        ? ",\"reader\":\"door-" + door + ".in\",\"side\":\"entry\",\"person\":\"p" + n % 900
                                + "\",\"credential\":\"" + (20_000 + n % 900) + "\",\"credentialKind\":\"card\""
                        : "")
                + (kind.endsWith("refused") ? ",\"reason\":\"no-level\"" : "") + "}";
    }

    private void answer(HttpExchange exchange) throws IOException {
        String path = exchange.getRequestURI().getPath().substring(1);
        String query = exchange.getRequestURI().getQuery();
        switch (path) {
            case "hello" ->
                send(
                        exchange,
                        "{\"protocol\":1,\"system\":\"torrent\",\"name\":\"Torrent\",\"make\":\"T\",\"epoch\":1,\"lastSeq\":"
                                + events + ",\"inventory\":\"1\"}");
            case "time" -> send(exchange, "{\"time\":\"" + Instant.now() + "\"}");
            case "inventory/places" -> send(exchange, places());
            case "inventory/people" -> send(exchange, "{\"people\":[],\"more\":false}");
            case "snapshot" ->
                send(exchange, "{\"epoch\":1,\"seq\":" + events + ",\"time\":\"" + Instant.now() + "\",\"doors\":[]}");
            case "events" -> events(exchange, number(query, "after"), number(query, "limit"));
            case "stream" -> stream(exchange);
            default -> send(exchange, "{}");
        }
    }

    private static long number(String query, String name) {
        for (String part : query.split("&")) {
            if (part.startsWith(name + "=")) {
                return Long.parseLong(part.substring(name.length() + 1));
            }
        }
        return 0;
    }

    private static String places() {
        StringBuilder doors = new StringBuilder();
        for (int i = 0; i < DOORS; i++) {
            doors.append(i == 0 ? "" : ",")
                    .append("{\"id\":\"door-")
                    .append(i)
                    .append("\",\"controller\":\"c")
                    .append(i / 4)
                    .append("\",\"name\":\"Door ")
                    .append(i)
                    .append("\",\"site\":\"harbour\",\"capabilities\":[\"contact\",\"let-through\"]}");
        }
        return "{\"sites\":[{\"id\":\"harbour\",\"name\":\"Harbour House\",\"timeZone\":\"Europe/London\"}],\"doors\":["
                + doors + "]}";
    }

    private void events(HttpExchange exchange, long after, long limit) throws IOException {
        exchange.sendResponseHeaders(200, 0);
        try (BufferedWriter out = new BufferedWriter(
                new OutputStreamWriter(exchange.getResponseBody(), StandardCharsets.UTF_8), 64 * 1024)) {
            for (long n = after + 1; n <= Math.min(events, after + limit); n++) {
                out.write(event(n));
                out.write('\n');
            }
        }
        exchange.close();
    }

    private void stream(HttpExchange exchange) throws IOException {
        exchange.sendResponseHeaders(200, 0);
        try (OutputStream out = exchange.getResponseBody()) {
            while (!over.await(2, java.util.concurrent.TimeUnit.SECONDS)) {
                out.write(("event: heartbeat\ndata: {\"time\":\"" + Instant.now() + "\",\"epoch\":1,\"lastSeq\":"
                                + events + "}\n\n")
                        .getBytes(StandardCharsets.UTF_8));
                out.flush();
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    private static void send(HttpExchange exchange, String text) throws IOException {
        byte[] bytes = text.getBytes(StandardCharsets.UTF_8);
        exchange.sendResponseHeaders(200, bytes.length);
        exchange.getResponseBody().write(bytes);
        exchange.close();
    }

    @Override
    public void close() {
        over.countDown();
        server.stop(0);
        executor.shutdownNow();
    }
}
