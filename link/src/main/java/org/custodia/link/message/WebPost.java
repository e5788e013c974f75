package org.custodia.link.message;

import java.io.IOException;
import java.io.InputStream;
import java.net.ConnectException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpConnectTimeoutException;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.channels.UnresolvedAddressException;
import java.time.Duration;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CancellationException;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import javax.net.ssl.SSLException;
import org.custodia.core.message.Message;
import org.custodia.core.message.NotSentException;
import org.custodia.core.message.NotSentException.Why;
import org.custodia.core.message.Receiver;
import org.custodia.core.mishap.Threads;
import org.custodia.core.saying.Saying;
import org.custodia.link.Certificates;
import org.custodia.wire.MessageForm;

/** Posts messages to addresses of the web. What is answered beside the status is not read; redirects are not followed. */
final class WebPost implements AutoCloseable {
    private final Duration within;
    private final ExecutorService executor = Executors.newCachedThreadPool(Threads.factory("messages web"));
    /** A client for each certificate that somebody has confirmed, and one for what authorities vouch for. */
    private final Map<Optional<String>, HttpClient> clients = new ConcurrentHashMap<>();

    private final Set<CompletableFuture<?>> waiting = ConcurrentHashMap.newKeySet();
    private volatile boolean closed;

    WebPost(Duration within) {
        this.within = within;
    }

    private HttpClient client(Optional<String> certificate) {
        return clients.computeIfAbsent(certificate, c -> HttpClient.newBuilder()
                .sslContext(Certificates.context(c))
                .version(HttpClient.Version.HTTP_1_1)
                .connectTimeout(within.dividedBy(4))
                // Where to is said by an operator, and by nobody else.
                .followRedirects(HttpClient.Redirect.NEVER)
                .executor(executor)
                .build());
    }

    void send(Receiver.Web to, String key, Message message, Message.Words words) throws NotSentException {
        byte[] body = MessageForm.write(message, words);
        String time = String.valueOf(message.sent().getEpochSecond());
        HttpRequest request = HttpRequest.newBuilder(to.address())
                .timeout(within)
                .header("Content-Type", "application/json")
                .header(MessageForm.ID, message.id())
                .header(MessageForm.TIME, time)
                .header(MessageForm.SIGNATURE, MessageForm.signature(key, time, body))
                .POST(HttpRequest.BodyPublishers.ofByteArray(body))
                .build();
        int status = answered(client(to.certificate()), request);
        if (status / 100 == 2) {
            return;
        }
        String where = where(to.address());
        if (status / 100 == 3) {
            throw new NotSentException(Why.REFUSED, Saying.of("message.redirected", where, status));
        }
        if (status == 408 || status == 425 || status == 429 || status == 503) {
            throw new NotSentException(Why.NOBODY_TAKES_ANY, Saying.of("message.not-now", where, status));
        }
        if (status / 100 == 4) {
            throw new NotSentException(Why.REFUSED, Saying.of("message.web-refused", where, status));
        }
        // It stumbled over it, before or after it took it.
        throw new NotSentException(Why.NOT_KNOWN, Saying.of("message.web-failed", where, status));
    }

    private int answered(HttpClient client, HttpRequest request) throws NotSentException {
        String where = where(request.uri());
        CompletableFuture<HttpResponse<InputStream>> answer;
        try {
            answer = client.sendAsync(request, HttpResponse.BodyHandlers.ofInputStream());
        } catch (RejectedExecutionException e) {
            throw stopped();
        }
        waiting.add(answer);
        try {
            if (closed) {
                answer.cancel(true);
            }
            HttpResponse<InputStream> response = answer.get(within.toMillis(), TimeUnit.MILLISECONDS);
            // Whatever the body is, and however long: the status says it all.
            response.body().close();
            return response.statusCode();
        } catch (TimeoutException e) {
            answer.cancel(true);
            throw new NotSentException(Why.NOT_KNOWN, Saying.of("message.no-answer", where, within));
        } catch (CancellationException e) {
            throw stopped();
        } catch (InterruptedException e) {
            answer.cancel(true);
            Thread.currentThread().interrupt();
            throw stopped();
        } catch (ExecutionException e) {
            throw closed ? stopped() : failed(e.getCause(), where);
        } catch (IOException e) {
            throw new NotSentException(Why.NOT_KNOWN, Saying.of("message.broke-off", where));
        } finally {
            waiting.remove(answer);
        }
    }

    private static NotSentException stopped() {
        return new NotSentException(Why.NOT_KNOWN, Saying.of("message.stopped"));
    }

    private NotSentException failed(Throwable why, String where) {
        if (why instanceof ConnectException
                || why instanceof HttpConnectTimeoutException
                || why instanceof UnresolvedAddressException) {
            return new NotSentException(Why.NOBODY_TAKES_ANY, Saying.of("message.nobody-there", where));
        }
        Optional<Certificates.NotTrusted> not = Certificates.NotTrusted.in(why);
        if (not.isPresent()) {
            return NotTaken.of(where, not.get());
        }
        if (why instanceof SSLException) {
            return new NotSentException(Why.NOBODY_TAKES_ANY, Saying.of("message.not-secure", where));
        }
        if (why instanceof java.net.http.HttpTimeoutException) {
            return new NotSentException(Why.NOT_KNOWN, Saying.of("message.no-answer", where, within));
        }
        if (why instanceof IOException) {
            return new NotSentException(Why.NOT_KNOWN, Saying.of("message.broke-off", where));
        }
        throw new IllegalStateException(why);
    }

    private static String where(URI address) {
        return address.getHost() + (address.getPort() < 0 ? "" : ":" + address.getPort());
    }

    @Override
    public void close() {
        closed = true;
        waiting.forEach(a -> a.cancel(true));
        executor.shutdown();
    }
}
