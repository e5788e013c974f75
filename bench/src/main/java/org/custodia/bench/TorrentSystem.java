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
import java.util.Map;
import java.util.concurrent.ConcurrentSkipListMap;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.TimeUnit;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/**
 * An access system that has been busy: any number of events within the last hours, made while they are read. It can be cut, and
 * has more events afterwards.
 */
final class TorrentSystem implements AutoCloseable {
    private static final int FEW_DOORS = 48;
    private static final long HEARTBEAT_MS = 1_000;
    private static final String[] KINDS = {"access.granted", "door.opened", "door.closed", "access.refused"};

    private final HttpServer server;
    private final ExecutorService executor = Executors.newCachedThreadPool(r -> {
        Thread t = new Thread(r, "torrent");
        t.setDaemon(true);
        return t;
    });
    private final CountDownLatch over = new CountDownLatch(1);
    private final String name;
    private final int doors;
    private final long firstMillis;
    private final double stepMillis;
    /** When events were added, by the number of the first of them. */
    private final ConcurrentSkipListMap<Long, Long> added = new ConcurrentSkipListMap<>();

    private volatile long events;
    private volatile boolean cut;

    TorrentSystem(long events, long hours) throws IOException {
        this("torrent", FEW_DOORS, events, hours);
    }

    /**
     * @param name its id
     * @param events that there are at first, spread over the last hours
     */
    TorrentSystem(String name, int doors, long events, long hours) throws IOException {
        this.name = name;
        this.doors = doors;
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

    /** Answers nothing and ends its streams, until {@link #restore}. */
    void cut() {
        cut = true;
    }

    /** Answers again, with more events than before, which happened just now. */
    void restore(long more) {
        added.put(events + 1, System.currentTimeMillis());
        events += more;
        cut = false;
    }

    /** When an event happened; the same whenever it is asked for. */
    private long millis(long n) {
        Map.Entry<Long, Long> later = added.floorEntry(n);
        return later != null ? later.getValue() : firstMillis + (long) (n * stepMillis);
    }

    private String event(long n) {
        int door = (int) (n / KINDS.length % doors);
        String kind = KINDS[(int) (n % KINDS.length)];
        boolean badge = kind.startsWith("access");
        return "{\"epoch\":1,\"seq\":" + n + ",\"time\":\""
                + Instant.ofEpochMilli(millis(n))
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
        if (cut) {
            exchange.sendResponseHeaders(503, -1);
            exchange.close();
            return;
        }
        switch (path) {
            case "hello" ->
                send(
                        exchange,
                        "{\"protocol\":1,\"system\":\"" + name + "\",\"name\":\"" + name
                                + "\",\"make\":\"T\",\"epoch\":1,\"lastSeq\":"
                                + events + ",\"inventory\":\"1\"}");
            case "time" -> send(exchange, "{\"time\":\"" + Instant.now() + "\"}");
            case "inventory/places" -> send(exchange, places());
            case "inventory/people" -> send(exchange, "{\"people\":[],\"more\":false}");
            case "snapshot" ->
                send(
                        exchange,
                        "{\"epoch\":1,\"seq\":" + events + ",\"time\":\"" + Instant.now() + "\",\"doors\":["
                                + snapshot() + "]}");
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

    private String snapshot() {
        return IntStream.range(0, doors)
                .mapToObj(
                        i -> "{\"door\":\"door-" + i + "\",\"details\":{\"mode\":\"locked\",\"position\":\"closed\"}}")
                .collect(Collectors.joining(","));
    }

    private String places() {
        StringBuilder all = new StringBuilder();
        for (int i = 0; i < doors; i++) {
            all.append(i == 0 ? "" : ",")
                    .append("{\"id\":\"door-")
                    .append(i)
                    .append("\",\"controller\":\"c")
                    .append(i / 4)
                    .append("\",\"name\":\"Door ")
                    .append(i)
                    .append("\",\"site\":\"harbour\",\"capabilities\":[\"contact\",\"let-through\"]}");
        }
        return "{\"sites\":[{\"id\":\"harbour\",\"name\":\"Harbour House\",\"timeZone\":\"Europe/London\"}],\"doors\":["
                + all + "]}";
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
            while (!cut && !over.await(HEARTBEAT_MS, TimeUnit.MILLISECONDS)) {
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
