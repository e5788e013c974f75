package org.custodia.link.rig;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.InetSocketAddress;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import org.custodia.wire.RecorderMessages;

/** A recorder that answers as a script says, well or badly. */
public final class ScriptedRecorder implements AutoCloseable {
    private final HttpServer server;
    private final ExecutorService executor = Executors.newCachedThreadPool(r -> {
        Thread t = new Thread(r, "scripted recorder");
        t.setDaemon(true);
        return t;
    });

    /**
     * By path: an answer; one that begins with ! and three digits has that status, one that is jpeg:WxH is a picture of that
     * size.
     */
    public final Map<String, String> answers = new ConcurrentHashMap<>();
    /** By path: the instant that it says its first frame shows. */
    public final Map<String, String> firstFrames = new ConcurrentHashMap<>();
    /** What was asked so far. */
    public final List<String> asked = new CopyOnWriteArrayList<>();
    /** How far its clock is ahead. */
    public volatile Duration ahead = Duration.ZERO;

    public ScriptedRecorder() {
        try {
            server = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        server.setExecutor(executor);
        server.createContext("/", this::answer);
        server.start();
    }

    public URI address() {
        return URI.create("http://127.0.0.1:" + server.getAddress().getPort());
    }

    private void answer(HttpExchange exchange) throws IOException {
        String path = exchange.getRequestURI().getPath();
        asked.add(exchange.getRequestURI().toString());
        String text = path.equals("/time")
                ? "{\"time\":\"" + Instant.now().plus(ahead) + "\"}"
                : answers.getOrDefault(path, "!404{\"problem\":\"nothing here\"}");
        int status = 200;
        if (text.startsWith("!")) {
            status = Integer.parseInt(text.substring(1, 4));
            text = text.substring(4);
        }
        String first = firstFrames.get(path);
        if (first != null) {
            exchange.getResponseHeaders().add(RecorderMessages.FIRST_FRAME, first);
        }
        byte[] bytes = text.startsWith("jpeg:") ? picture(text) : text.getBytes(StandardCharsets.UTF_8);
        exchange.sendResponseHeaders(status, bytes.length == 0 ? -1 : bytes.length);
        exchange.getResponseBody().write(bytes);
        exchange.close();
    }

    private static byte[] picture(String text) {
        String[] size = text.substring(5).split("x");
        return jpegHeader(Integer.parseInt(size[0]), Integer.parseInt(size[1]));
    }

    /** A JPEG that says how large it is, and has nothing else. */
    public static byte[] jpegHeader(int width, int height) {
        return new byte[] {
            (byte) 0xff,
            (byte) 0xd8,
            (byte) 0xff,
            (byte) 0xe0,
            0,
            4,
            0,
            0,
            (byte) 0xff,
            (byte) 0xc0,
            0,
            11,
            8,
            (byte) (height >> 8),
            (byte) height,
            (byte) (width >> 8),
            (byte) width,
            1,
            1,
            17,
            0
        };
    }

    @Override
    public void close() {
        server.stop(0);
        executor.shutdownNow();
    }
}
