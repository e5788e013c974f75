package org.custodia.link;

import java.io.ByteArrayOutputStream;
import java.io.FilterInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.net.ConnectException;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpConnectTimeoutException;
import java.net.http.HttpHeaders;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.net.http.HttpTimeoutException;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CancellationException;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.Executor;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.concurrent.atomic.AtomicBoolean;
import javax.net.ssl.SSLException;
import org.custodia.core.saying.Saying;
import org.custodia.wire.AccessMessages.Problem;
import org.custodia.wire.Fields;
import org.custodia.wire.Wire;
import org.custodia.wire.WireException;

/** HTTP requests to one system, with its token, bounded in time and size. Closing it ends all that is being read. */
final class Requests implements AutoCloseable {
    private static final Duration ANSWER_WITHIN = Duration.ofSeconds(10);
    private static final Duration WHOLE_WITHIN = Duration.ofSeconds(60);
    private static final int LONGEST_PROBLEM = 10_000;

    private final HttpClient client;
    private final URI base;
    private final String token;
    private final Duration wholeWithin;
    /** What is being read: an interrupt alone would not end that. */
    private final Set<InputStream> bodies = ConcurrentHashMap.newKeySet();

    /** What is waited for. */
    private final Set<CompletableFuture<?>> waiting = ConcurrentHashMap.newKeySet();

    private volatile boolean closed;

    /** An answer that has begun; whoever has it closes its body. */
    record Answer(int status, HttpHeaders headers, URI uri, InputStream body) {}

    Requests(LinkFactory.Destination to, Executor executor) {
        this(to.address(), to.token(), to.certificate(), executor, WHOLE_WITHIN);
    }

    /** One that talks to whoever has a certificate that an authority vouches for. */
    Requests(URI base, String token, Executor executor, Duration wholeWithin) {
        this(base, token, Optional.empty(), executor, wholeWithin);
    }

    /**
     * @param certificate fingerprint of the only one that is taken, where somebody has confirmed one
     * @param wholeWithin how long an answer that is wanted whole may take; streams may go on for ever
     */
    Requests(URI base, String token, Optional<String> certificate, Executor executor, Duration wholeWithin) {
        this.wholeWithin = wholeWithin;
        this.base = base.toString().endsWith("/") ? base : URI.create(base + "/");
        this.token = token;
        this.client = HttpClient.newBuilder()
                .version(HttpClient.Version.HTTP_1_1)
                .connectTimeout(Duration.ofSeconds(5))
                .followRedirects(HttpClient.Redirect.NEVER)
                .sslContext(Certificates.context(certificate))
                .executor(executor)
                .build();
    }

    private HttpRequest.Builder request(String path) {
        return HttpRequest.newBuilder(base.resolve(path)).header("Authorization", "Bearer " + token);
    }

    <T> T get(String path, Class<T> type) throws IOException {
        return read(send(request(path).timeout(ANSWER_WITHIN).GET().build()), type, wholeWithin);
    }

    <T> T post(String path, Object body, Class<T> type, Duration within) throws IOException {
        HttpRequest.BodyPublisher json = HttpRequest.BodyPublishers.ofString(Wire.write(body));
        long asked = System.nanoTime();
        Answer answer = send(request(path)
                .timeout(within)
                .header("Content-Type", "application/json")
                .POST(json)
                .build());
        // An answer that begins in time may still come a byte at a time.
        Duration left = within.minusNanos(System.nanoTime() - asked);
        return read(answer, type, left.isNegative() ? Duration.ZERO : left);
    }

    /** An answer to be read by the caller, who closes it. */
    Answer open(String path, String header, String value) throws IOException {
        HttpRequest.Builder builder = request(path).timeout(ANSWER_WITHIN);
        if (header != null) {
            builder.header(header, value);
        }
        return send(builder.GET().build());
    }

    private Answer send(HttpRequest request) throws IOException {
        HttpResponse<InputStream> response;
        try {
            response = answered(request);
        } catch (LinkException e) {
            throw e;
        } catch (HttpConnectTimeoutException | ConnectException e) {
            throw LinkException.nobodyThere("link.nobody-there", where(request));
        } catch (HttpTimeoutException e) {
            throw LinkException.of("link.no-answer-in-time", where(request));
        } catch (SSLException e) {
            throw Certificates.NotTrusted.in(e)
                    .map(n -> LinkException.nobodyThere(
                            n.changed() ? "link.certificate-changed" : "link.certificate-unknown",
                            where(request),
                            n.fingerprint()))
                    .orElseGet(() -> LinkException.nobodyThere("link.not-secure", where(request)));
        } catch (IOException e) {
            throw LinkException.of("link.broke-before-answer", where(request));
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw LinkException.of("link.stopped");
        }
        Answer answer = new Answer(response.statusCode(), response.headers(), response.uri(), tracked(response.body()));
        if (answer.status() / 100 == 2) {
            return answer;
        }
        throw failed(answer.status(), whole(answer, LONGEST_PROBLEM), request);
    }

    /**
     * Waits for an answer, or until this is closed. The client's own way to wait would not end then: what would tell it has
     * nobody left to run it.
     */
    private HttpResponse<InputStream> answered(HttpRequest request) throws IOException, InterruptedException {
        CompletableFuture<HttpResponse<InputStream>> answer;
        try {
            answer = client.sendAsync(request, HttpResponse.BodyHandlers.ofInputStream());
        } catch (RejectedExecutionException e) {
            throw LinkException.of("link.stopped");
        }
        waiting.add(answer);
        try {
            if (closed) {
                answer.cancel(true);
            }
            return answer.get();
        } catch (InterruptedException e) {
            answer.cancel(true);
            throw e;
        } catch (CancellationException e) {
            throw LinkException.of("link.stopped");
        } catch (ExecutionException e) {
            if (closed) {
                // The client may say that it was broken off before it says that it was called off.
                throw LinkException.of("link.stopped");
            }
            if (e.getCause() instanceof IOException why) {
                throw why;
            }
            throw new IOException(e.getCause());
        } finally {
            waiting.remove(answer);
        }
    }

    private InputStream tracked(InputStream body) throws IOException {
        InputStream tracked = new FilterInputStream(body) {
            @Override
            public void close() throws IOException {
                bodies.remove(this);
                super.close();
            }
        };
        bodies.add(tracked);
        if (closed) {
            tracked.close();
            throw LinkException.of("link.stopped");
        }
        return tracked;
    }

    private static LinkException failed(int status, byte[] body, HttpRequest request) {
        String words;
        try {
            words = Wire.read(new String(body, StandardCharsets.UTF_8), Problem.class)
                    .problem();
        } catch (WireException e) {
            words = null;
        }
        if (status == 401) {
            return new LinkException(status, Saying.of("link.token-refused"));
        }
        return new LinkException(
                status, words != null ? Saying.quoted(words) : Saying.of("link.status", where(request), status));
    }

    private static String where(HttpRequest request) {
        int port = request.uri().getPort();
        return request.uri().getHost() + (port < 0 ? "" : ":" + port);
    }

    /** The fields of an answer. */
    Fields fields(String path) throws IOException {
        Answer answer = send(request(path).timeout(ANSWER_WITHIN).GET().build());
        try {
            return Fields.of(new String(whole(answer, Wire.LONGEST_ANSWER), StandardCharsets.UTF_8));
        } catch (WireException e) {
            throw LinkException.unreadable(
                    "link.answer-odd-because", answer.uri().getPath(), String.valueOf(e.getMessage()));
        }
    }

    /**
     * Hands over the lines of an answer one by one.
     *
     * @throws IOException if it breaks off, or goes on without an end for too long; the lines so far were handed over
     */
    void lines(String path, LineTaker taker) throws IOException, InterruptedException {
        Answer answer = open(path, null, null);
        AtomicBoolean late = new AtomicBoolean();
        try (InputStream body = answer.body();
                Limit limit = new Limit(() -> {
                    late.set(true);
                    closeQuietly(body);
                })) {
            Lines lines = new Lines(body);
            Lines.Line line;
            while ((line = lines.next()) != null) {
                taker.take(line);
                limit.goOn();
            }
        } catch (LinkException e) {
            throw e;
        } catch (IOException e) {
            throw LinkException.of(late.get() ? "link.answer-stalled" : "link.answer-broke-off");
        }
    }

    /** Takes one line of an answer. */
    interface LineTaker {
        void take(Lines.Line line) throws IOException, InterruptedException;
    }

    /** Ends an answer that does not go on. */
    private final class Limit implements AutoCloseable {
        private final Runnable end;
        private CompletableFuture<Void> timer = new CompletableFuture<>();
        private long since = System.nanoTime();

        Limit(Runnable end) {
            this.end = end;
            start();
        }

        private void start() {
            CompletableFuture<Void> mine = new CompletableFuture<>();
            timer = mine;
            mine.orTimeout(wholeWithin.toMillis(), TimeUnit.MILLISECONDS).whenComplete((v, late) -> {
                if (late instanceof TimeoutException) {
                    end.run();
                }
            });
        }

        /** Something came; the time begins anew, now and then. */
        void goOn() {
            if (System.nanoTime() - since > wholeWithin.toNanos() / 4) {
                since = System.nanoTime();
                timer.complete(null);
                start();
            }
        }

        @Override
        public void close() {
            timer.complete(null);
        }
    }

    /** An id of a system's own as a part of a path. */
    static String segment(String id) {
        return URLEncoder.encode(id, StandardCharsets.UTF_8).replace("+", "%20");
    }

    private <T> T read(Answer answer, Class<T> type, Duration within) throws IOException {
        try {
            return Wire.read(new String(whole(answer, Wire.LONGEST_ANSWER, within), StandardCharsets.UTF_8), type);
        } catch (WireException e) {
            throw LinkException.unreadable(
                    "link.answer-odd-because", answer.uri().getPath(), String.valueOf(e.getMessage()));
        }
    }

    /**
     * Reads an answer to its end, and closes it.
     *
     * @param most bytes; a longer answer is not read
     */
    byte[] whole(Answer answer, int most) throws IOException {
        return whole(answer, most, wholeWithin);
    }

    private byte[] whole(Answer answer, int most, Duration within) throws IOException {
        CompletableFuture<byte[]> read = new CompletableFuture<>();
        try (InputStream body = answer.body()) {
            read.orTimeout(within.toMillis(), TimeUnit.MILLISECONDS).whenComplete((bytes, late) -> {
                if (late != null) {
                    closeQuietly(body);
                }
            });
            byte[] bytes = bounded(body, most);
            read.complete(bytes);
            return bytes;
        } catch (LinkException e) {
            throw e;
        } catch (IOException e) {
            throw LinkException.of(read.isDone() ? "link.answer-too-slow" : "link.answer-broke-off");
        } finally {
            // Ends the timer, which would keep hold of the answer otherwise.
            read.cancel(false);
        }
    }

    private static void closeQuietly(InputStream body) {
        try {
            body.close();
        } catch (IOException e) {
            // It is not wanted any more.
        }
    }

    @Override
    public void close() {
        closed = true;
        waiting.forEach(a -> a.cancel(true));
        bodies.forEach(Requests::closeQuietly);
    }

    private static byte[] bounded(InputStream body, int most) throws IOException {
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        byte[] buffer = new byte[16 * 1024];
        int n;
        while ((n = body.read(buffer)) >= 0) {
            if (out.size() + n > most) {
                throw LinkException.of("link.answer-too-long", most);
            }
            out.write(buffer, 0, n);
        }
        return out.toByteArray();
    }
}
