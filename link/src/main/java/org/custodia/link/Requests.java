package org.custodia.link;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.net.ConnectException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.net.http.HttpTimeoutException;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.concurrent.Executor;
import org.custodia.wire.AccessMessages.Problem;
import org.custodia.wire.Wire;
import org.custodia.wire.WireException;

/** HTTP requests to one system, with its token, bounded in time and size. */
final class Requests {
    private static final Duration ANSWER_WITHIN = Duration.ofSeconds(10);

    private final HttpClient client;
    private final URI base;
    private final String token;

    Requests(URI base, String token, Executor executor) {
        this.base = base.toString().endsWith("/") ? base : URI.create(base + "/");
        this.token = token;
        this.client = HttpClient.newBuilder()
                .version(HttpClient.Version.HTTP_1_1)
                .connectTimeout(Duration.ofSeconds(5))
                .followRedirects(HttpClient.Redirect.NEVER)
                .executor(executor)
                .build();
    }

    private HttpRequest.Builder request(String path) {
        return HttpRequest.newBuilder(base.resolve(path)).header("Authorization", "Bearer " + token);
    }

    <T> T get(String path, Class<T> type) throws IOException {
        return read(send(request(path).timeout(ANSWER_WITHIN).GET().build()), type);
    }

    <T> T post(String path, Object body, Class<T> type, Duration within) throws IOException {
        HttpRequest.BodyPublisher json = HttpRequest.BodyPublishers.ofString(Wire.write(body));
        return read(
                send(request(path)
                        .timeout(within)
                        .header("Content-Type", "application/json")
                        .POST(json)
                        .build()),
                type);
    }

    /** An answer to be read by the caller, who closes it. */
    HttpResponse<InputStream> open(String path, String header, String value) throws IOException {
        HttpRequest.Builder builder = request(path).timeout(ANSWER_WITHIN);
        if (header != null) {
            builder.header(header, value);
        }
        return send(builder.GET().build());
    }

    private HttpResponse<InputStream> send(HttpRequest request) throws IOException {
        HttpResponse<InputStream> response;
        try {
            response = client.send(request, HttpResponse.BodyHandlers.ofInputStream());
        } catch (HttpTimeoutException e) {
            throw new LinkException(0, "no answer from " + where(request) + " in time");
        } catch (ConnectException e) {
            throw new LinkException(0, "nothing answers at " + where(request));
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new LinkException(0, "stopped");
        }
        if (response.statusCode() / 100 == 2) {
            return response;
        }
        try (InputStream body = response.body()) {
            throw failed(response.statusCode(), bounded(body, 10_000), request);
        }
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
            return new LinkException(status, "the system refused the token; check it in the links file");
        }
        return new LinkException(status, words != null ? words : where(request) + " answered with status " + status);
    }

    private static String where(HttpRequest request) {
        return request.uri().getHost() + ":" + request.uri().getPort();
    }

    /** The whole answer as text. */
    String text(String path) throws IOException {
        try (InputStream body = open(path, null, null).body()) {
            return new String(bounded(body, Wire.LONGEST_ANSWER), StandardCharsets.UTF_8);
        }
    }

    private static <T> T read(HttpResponse<InputStream> response, Class<T> type) throws IOException {
        try (InputStream body = response.body()) {
            return Wire.read(new String(bounded(body, Wire.LONGEST_ANSWER), StandardCharsets.UTF_8), type);
        } catch (WireException e) {
            throw new LinkException(
                    response.statusCode(),
                    "the answer to " + response.uri().getPath() + " cannot be understood: " + e.getMessage());
        }
    }

    /** Reads a body to its end. */
    static byte[] bounded(InputStream body, int most) throws IOException {
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        byte[] buffer = new byte[16 * 1024];
        int n;
        while ((n = body.read(buffer)) >= 0) {
            if (out.size() + n > most) {
                throw new LinkException(0, "an answer is longer than " + most + " bytes and was not read");
            }
            out.write(buffer, 0, n);
        }
        return out.toByteArray();
    }
}
