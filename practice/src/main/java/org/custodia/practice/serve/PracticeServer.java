package org.custodia.practice.serve;

import io.javalin.Javalin;
import io.javalin.http.Context;
import io.javalin.http.HttpStatus;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.security.MessageDigest;
import java.time.Clock;
import java.util.List;
import java.util.Optional;
import org.custodia.practice.post.PostOffice;
import org.custodia.practice.recorder.Recorder;
import org.custodia.practice.timeline.AccessSystem;
import org.custodia.practice.timeline.Timeline;
import org.eclipse.jetty.server.Server;
import org.eclipse.jetty.server.ServerConnector;
import org.eclipse.jetty.util.ssl.SslContextFactory;
import org.eclipse.jetty.util.thread.QueuedThreadPool;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Serves the practice site on loopback. */
public final class PracticeServer implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(PracticeServer.class);

    private final Javalin app;
    private final Links links;
    private final String token;

    /**
     * Starts serving.
     *
     * @param port 0 for any that is free
     * @param token what a link must send to be let in
     * @param keys the key store to serve https with as well, on a port of its own
     */
    public PracticeServer(
            Timeline timeline,
            List<Recorder> recorders,
            PostOffice post,
            Clock clock,
            int port,
            String token,
            Optional<Path> keys) {
        this.links = new Links(clock);
        this.token = token;
        this.app = Javalin.create(config -> {
            config.showJavalinBanner = false;
            config.startupWatcherEnabled = false;
            config.jetty.threadPool = new QueuedThreadPool(220, 6);
            config.jetty.addConnector((server, http) -> listening(new ServerConnector(server), port));
            keys.ifPresent(k -> config.jetty.addConnector((server, http) -> listening(secure(server, k), 0)));
        });
        app.before("/access/*", this::admit);
        app.before("/recorder/*", this::admit);
        for (AccessSystem system : timeline.systems()) {
            new AccessApi(system, timeline, clock, links).register(app);
        }
        for (Recorder recorder : recorders) {
            ClockApi time = new ClockApi(recorder.id(), timeline.recorderClock(recorder.id()), timeline, clock);
            new RecorderApi(recorder, links, time).register(app);
        }
        new ControlApi(timeline, recorders, links, post, clock, token).register(app);
        new PostApi(post).register(app);
        app.exception(Answers.BadRequest.class, (e, ctx) -> Answers.problem(ctx, 400, e.getMessage()));
        app.exception(Answers.NotFound.class, (e, ctx) -> Answers.problem(ctx, 404, e.getMessage()));
        app.exception(Refused.class, (e, ctx) -> Answers.problem(ctx, e.status, e.getMessage()));
        app.exception(Recorder.NoPictureException.class, (e, ctx) -> Answers.problem(ctx, 409, e.getMessage()));
        app.exception(IOException.class, (e, ctx) -> abort(ctx));
        app.exception(UncheckedIOException.class, (e, ctx) -> abort(ctx));
        app.error(HttpStatus.NOT_FOUND, ctx -> {
            String answered = ctx.res().getContentType();
            if (answered == null || !answered.startsWith("application/json")) {
                Answers.problem(ctx, 404, "there is nothing at this address");
            }
        });
        app.start();
        LOG.info("The practice site answers on {}", address());
    }

    private static final class Refused extends RuntimeException {
        private static final long serialVersionUID = 1L;
        private final int status;

        Refused(int status, String message) {
            super(message);
            this.status = status;
        }
    }

    private void admit(Context ctx) {
        String[] parts = ctx.path().split("/");
        if (parts.length > 2 && !links.up(parts[2])) {
            throw new Refused(503, "the link is down");
        }
        String given = String.valueOf(ctx.header("Authorization"));
        byte[] wanted = ("Bearer " + token).getBytes(StandardCharsets.UTF_8);
        if (!MessageDigest.isEqual(wanted, given.getBytes(StandardCharsets.UTF_8))) {
            throw new Refused(401, "the token is missing or wrong");
        }
    }

    /** Breaks the connection off, so that the other end notices that something is missing. */
    private static void abort(Context ctx) {
        if (ctx.req() instanceof org.eclipse.jetty.server.Request request) {
            request.getHttpChannel().abort(new IOException("cut"));
        }
    }

    private static ServerConnector listening(ServerConnector connector, int port) {
        connector.setHost("127.0.0.1");
        connector.setPort(port);
        return connector;
    }

    private static ServerConnector secure(Server server, Path keys) {
        SslContextFactory.Server ssl = new SslContextFactory.Server();
        ssl.setKeyStorePath(keys.toString());
        ssl.setKeyStorePassword(SecureKeys.PASSWORD);
        return new ServerConnector(server, ssl);
    }

    /** Where it answers. */
    public URI address() {
        return URI.create("http://127.0.0.1:" + port(0));
    }

    /** Where it answers by https, if it does. */
    public Optional<URI> secureAddress() {
        return app.jettyServer().server().getConnectors().length < 2
                ? Optional.empty()
                : Optional.of(URI.create("https://127.0.0.1:" + port(1)));
    }

    /** Where messages are posted. */
    public URI postAddress() {
        return address().resolve(PostApi.IN);
    }

    private int port(int connector) {
        return ((ServerConnector) app.jettyServer().server().getConnectors()[connector]).getLocalPort();
    }

    @Override
    public void close() {
        links.close();
        app.stop();
    }
}
