package org.custodia.link.rig;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.io.OutputStream;
import java.io.UncheckedIOException;
import java.net.InetSocketAddress;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.NavigableMap;
import java.util.TreeMap;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;

/**
 * An access system written from docs/link-protocol.md alone, which does as a script says: it has a numbered list of lines,
 * any of which may be nonsense, and everything it says of itself can be a lie. Unlike the practice site it is not kind.
 */
public final class ScriptedSystem implements AutoCloseable {
    /** One answer in place of the usual one. */
    @FunctionalInterface
    public interface Answer {
        void to(HttpExchange exchange) throws IOException;
    }

    private final String id;
    private final HttpServer server;
    private final ExecutorService executor = Executors.newCachedThreadPool(r -> {
        Thread t = new Thread(r, "scripted system");
        t.setDaemon(true);
        return t;
    });
    private final Map<String, Answer> answers = new ConcurrentHashMap<>();
    private final List<String> asked = new CopyOnWriteArrayList<>();
    private final NavigableMap<Long, String> lines = new TreeMap<>();
    private final List<OutputStream> streams = new ArrayList<>();
    private volatile boolean closed;

    /** The epoch that it says it counts in. */
    public volatile long epoch = 1;
    /** What it says its newest number is; less than 0 for the truth. */
    public volatile long claims = -1;
    /** Lines on a page at most, whatever is asked for. */
    public volatile int mostOnAPage = 5_000;
    /** After so many bytes a page is cut off in the middle, once; 0 for never. */
    public volatile int cutPageAfter;
    /** How far its clock is ahead. */
    public volatile Duration ahead = Duration.ZERO;
    /** How long it takes to tell the time. */
    public volatile Duration slow = Duration.ZERO;
    /** Whether nothing is heard of it but events. */
    public volatile boolean silent;

    /** The version of what it has. */
    public volatile String inventory = "1";

    /** Whether streams are told what is added. */
    public volatile boolean tellsStreams = true;
    /** The clock that it goes by, but for what it is ahead. */
    public volatile Clock clock = Clock.systemUTC();

    public ScriptedSystem(String id) {
        this.id = id;
        try {
            server = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        server.setExecutor(executor);
        server.createContext("/", this::answer);
        server.start();
        executor.execute(this::beatOn);
    }

    public String id() {
        return id;
    }

    public URI address() {
        return URI.create("http://127.0.0.1:" + server.getAddress().getPort() + "/");
    }

    /** What was asked so far: path, query and, after a blank, the id to go on from. */
    public List<String> asked() {
        return List.copyOf(asked);
    }

    /** How often something was asked that begins so. */
    public long askedFor(String beginning) {
        return asked.stream().filter(a -> a.startsWith(beginning)).count();
    }

    /** Answers a path in its own way from now on. */
    public ScriptedSystem answers(String path, Answer answer) {
        answers.put(path, answer);
        return this;
    }

    /** Answers a path with a text. */
    public ScriptedSystem answers(String path, String text) {
        return answers(path, 200, text);
    }

    /** Answers a path with a status and a text. */
    public ScriptedSystem answers(String path, int status, String text) {
        return answers(path, exchange -> send(exchange, status, text));
    }

    /** Answers a path as usual again. */
    public ScriptedSystem answersAsUsual(String path) {
        answers.remove(path);
        return this;
    }

    /** What its clock shows. */
    public Instant time() {
        return clock.instant().plus(ahead);
    }

    /** An event as a line. */
    public String event(long seq, String kind, String more) {
        return "{\"epoch\":" + epoch + ",\"seq\":" + seq + ",\"time\":\"" + time() + "\",\"kind\":\"" + kind + "\""
                + (more.isEmpty() ? "" : "," + more) + "}";
    }

    /** Has a line under a number, and tells the streams of it. */
    public ScriptedSystem has(long seq, String line) {
        synchronized (lines) {
            lines.put(seq, line);
        }
        if (tellsStreams) {
            tell("id: " + epoch + ":" + seq + "\nevent: event\ndata: " + line + "\n\n");
        }
        return this;
    }

    /** Has events of a kind under these numbers. */
    public ScriptedSystem hasEvents(long first, long last, String kind) {
        for (long seq = first; seq <= last; seq++) {
            has(seq, event(seq, kind, "\"door\":\"vault\",\"controller\":\"c5\""));
        }
        return this;
    }

    /** Keeps lines from this number on only. */
    public void forgetBefore(long seq) {
        synchronized (lines) {
            lines.headMap(seq, false).clear();
        }
    }

    /** Keeps lines up to this number only. */
    public void forgetAfter(long seq) {
        synchronized (lines) {
            lines.tailMap(seq, false).clear();
        }
    }

    /** The highest number that it has. */
    public long last() {
        synchronized (lines) {
            return lines.isEmpty() ? 0 : lines.lastKey();
        }
    }

    /** Says something on all streams, whatever it is. */
    public void tell(String text) {
        synchronized (streams) {
            streams.removeIf(out -> {
                try {
                    out.write(text.getBytes(StandardCharsets.UTF_8));
                    out.flush();
                    return false;
                } catch (IOException e) {
                    return true;
                }
            });
        }
    }

    /** Sends a heartbeat on all streams. */
    public void beat() {
        tell(heartbeat());
    }

    private void beatOn() {
        while (!closed) {
            pause(Duration.ofMillis(300));
            if (!silent && !closed) {
                beat();
            }
        }
    }

    private String heartbeat() {
        return "event: heartbeat\ndata: {\"time\":\"" + time() + "\",\"epoch\":" + epoch + ",\"lastSeq\":" + claimed()
                + ",\"inventory\":\"" + inventory + "\"}\n\n";
    }

    private long claimed() {
        return claims >= 0 ? claims : last();
    }

    /** How many streams are open. */
    public int streams() {
        synchronized (streams) {
            return streams.size();
        }
    }

    /** Breaks all streams off. */
    public void cutStreams() {
        synchronized (streams) {
            for (OutputStream out : streams) {
                try {
                    out.close();
                } catch (IOException e) {
                    // It is cut.
                }
            }
            streams.clear();
        }
    }

    private void answer(HttpExchange exchange) throws IOException {
        String path = exchange.getRequestURI().getRawPath().substring(1);
        String query = exchange.getRequestURI().getRawQuery();
        String from = exchange.getRequestHeaders().getFirst("Last-Event-ID");
        asked.add(path + (query == null ? "" : "?" + query) + (from == null ? "" : " " + from));
        Answer own = answers.get(path);
        if (own != null) {
            own.to(exchange);
            return;
        }
        switch (path) {
            case "hello" ->
                send(
                        exchange,
                        200,
                        "{\"protocol\":1,\"system\":\"" + id + "\",\"name\":\"S\",\"make\":\"M\",\"epoch\":" + epoch
                                + ",\"lastSeq\":" + claimed() + ",\"inventory\":\"" + inventory + "\"}");
            case "time" -> {
                pause(slow);
                send(exchange, 200, "{\"time\":\"" + time() + "\"}");
            }
            case "inventory/places" ->
                send(
                        exchange,
                        200,
                        "{\"sites\":[{\"id\":\"harbour\",\"name\":\"Harbour House\",\"timeZone\":\"Europe/London\"}],"
                                + "\"doors\":[{\"id\":\"vault\",\"controller\":\"c5\",\"name\":\"Vault\",\"site\":\"harbour\","
                                + "\"heldLimitSeconds\":60,\"capabilities\":[\"contact\",\"let-through\",\"lock\",\"timetable\",\"leave-unlocked\"]}]}");
            case "inventory/people" -> send(exchange, 200, "{\"people\":[],\"more\":false}");
            case "inventory/rules" -> send(exchange, 200, "{\"levels\":[],\"timetables\":[]}");
            case "snapshot" ->
                send(
                        exchange,
                        200,
                        "{\"epoch\":" + epoch + ",\"seq\":" + last() + ",\"time\":\"" + time() + "\",\"doors\":[]}");
            case "events" -> events(exchange, query == null ? "" : query);
            case "stream" -> stream(exchange, from == null ? "1:0" : from);
            case "commands" -> send(exchange, 200, "{\"result\":\"done\",\"words\":\"\"}");
            default -> send(exchange, 404, "{\"problem\":\"there is nothing here\"}");
        }
    }

    private void pause(Duration length) {
        try {
            Thread.sleep(length.toMillis());
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    private static long number(String query, String name, long otherwise) {
        for (String part : query.split("&")) {
            if (part.startsWith(name + "=")) {
                return Long.parseLong(part.substring(name.length() + 1));
            }
        }
        return otherwise;
    }

    private void events(HttpExchange exchange, String query) throws IOException {
        long after = number(query, "after", 0);
        long limit = Math.min(mostOnAPage, number(query, "limit", 1_000));
        StringBuilder page = new StringBuilder();
        synchronized (lines) {
            lines.tailMap(after, false).values().stream().limit(limit).forEach(line -> page.append(line)
                    .append('\n'));
        }
        int cut = cutPageAfter;
        byte[] bytes = page.toString().getBytes(StandardCharsets.UTF_8);
        if (cut > 0 && bytes.length > cut) {
            cutPageAfter = 0;
            exchange.sendResponseHeaders(200, cut);
            exchange.getResponseBody().write(bytes, 0, cut);
            exchange.close();
            return;
        }
        send(exchange, 200, page.toString());
    }

    private void stream(HttpExchange exchange, String from) throws IOException {
        long after = Long.parseLong(from.substring(from.lastIndexOf(':') + 1));
        exchange.getResponseHeaders().add("Content-Type", "text/event-stream");
        exchange.sendResponseHeaders(200, 0);
        OutputStream out = exchange.getResponseBody();
        StringBuilder first = new StringBuilder();
        synchronized (streams) {
            synchronized (lines) {
                lines.tailMap(after, false).forEach((seq, line) -> first.append("id: ")
                        .append(epoch)
                        .append(':')
                        .append(seq)
                        .append("\nevent: event\ndata: ")
                        .append(line)
                        .append("\n\n"));
            }
            first.append(heartbeat());
            out.write(first.toString().getBytes(StandardCharsets.UTF_8));
            out.flush();
            if (closed) {
                exchange.close();
                return;
            }
            streams.add(out);
        }
    }

    /** Sends an answer whole. */
    public static void send(HttpExchange exchange, int status, String text) throws IOException {
        send(exchange, status, text.getBytes(StandardCharsets.UTF_8));
    }

    /** Sends bytes with success. */
    public static void send(HttpExchange exchange, byte[] bytes) throws IOException {
        send(exchange, 200, bytes);
    }

    private static void send(HttpExchange exchange, int status, byte[] bytes) throws IOException {
        exchange.sendResponseHeaders(status, bytes.length == 0 ? -1 : bytes.length);
        exchange.getResponseBody().write(bytes);
        exchange.close();
    }

    @Override
    public void close() {
        closed = true;
        cutStreams();
        server.stop(0);
        executor.shutdownNow();
    }
}
