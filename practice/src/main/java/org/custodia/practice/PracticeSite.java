package org.custodia.practice;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.URI;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.security.SecureRandom;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.site.Crop;
import org.custodia.practice.picture.CameraPictures;
import org.custodia.practice.place.Installation;
import org.custodia.practice.place.PracticeCamera;
import org.custodia.practice.place.PracticeDoor;
import org.custodia.practice.post.PostOffice;
import org.custodia.practice.recorder.Recorder;
import org.custodia.practice.serve.PracticeServer;
import org.custodia.practice.serve.SecureKeys;
import org.custodia.practice.timeline.Incidents;
import org.custodia.practice.timeline.Journal;
import org.custodia.practice.timeline.Timeline;
import org.custodia.wire.LinksFile;
import org.custodia.wire.Wire;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** The practice site as a whole: the timeline kept up with the clock, the recorders, the server. */
public final class PracticeSite implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(PracticeSite.class);
    /** From which all chance is drawn where nothing else is said. */
    static final long SEED = 1842;

    private static final Duration KEEP_TIME_EVERY = Duration.ofSeconds(5);

    private final Path directory;
    private final Clock clock;
    private final Timeline timeline;
    private final List<Recorder> recorders = new ArrayList<>();
    private final PostOffice post;
    private final PracticeServer server;
    private final Thread runner;
    private final String token;
    private volatile boolean closed;

    /**
     * What the site's directory remembers of its beginning.
     *
     * @param people when everybody got the badge they have
     */
    public record Origin(long seed, LocalDate firstDay, Instant people, String token) {
        /** The token is not printed. */
        @Override
        public String toString() {
            return "seed " + seed + " since " + firstDay;
        }
    }

    /** When the site was last running, by practice time. */
    public static Optional<Instant> lastSeen(Path directory) {
        Path file = directory.resolve("last-seen");
        try {
            return Files.exists(file)
                    ? Optional.of(Instant.parse(Files.readString(file).trim()))
                    : Optional.empty();
        } catch (IOException | java.time.format.DateTimeParseException e) {
            LOG.warn("The practice site's last time in {} cannot be read and is left out.", file);
            return Optional.empty();
        }
    }

    /**
     * Opens the site, making it with its history if it is not there, and serves it.
     *
     * @param port 0 for any that is free
     */
    public PracticeSite(Path directory, Clock clock, int port) {
        this(directory, clock, port, false);
    }

    /**
     * The same.
     *
     * @param secure whether it answers by https as well
     */
    public PracticeSite(Path directory, Clock clock, int port, boolean secure) {
        this.directory = directory;
        this.clock = clock;
        Origin origin = origin();
        this.token = origin.token();
        Installation installation = installation(directory);
        this.timeline = new Timeline(
                origin.seed(),
                origin.firstDay(),
                origin.people(),
                installation,
                incidents(directory),
                new Journal(directory.resolve("journal.jsonl")));
        timeline.advanceTo(clock.instant());
        CameraPictures pictures = new CameraPictures(timeline.scenes());
        installation
                .recorders()
                .forEach(r -> recorders.add(new Recorder(
                        r.id(), r.name(), Duration.ofSeconds(r.readyAfterSeconds()), timeline, pictures, clock)));
        this.post = new PostOffice(clock, token);
        this.server = new PracticeServer(
                timeline,
                recorders,
                post,
                clock,
                port,
                token,
                secure ? Optional.of(SecureKeys.in(directory)) : Optional.empty());
        writeLinks();
        this.runner = new Thread(this::run, "practice timeline");
        runner.setDaemon(true);
        runner.start();
    }

    /** The installation whose file lies in a directory; Sternwick where there is none. */
    static Installation installation(Path directory) {
        Path file = directory.resolve("installation.json");
        return Files.exists(file) ? Installation.read(file) : Installation.sternwick();
    }

    /** What goes wrong there, in the same way. */
    static Incidents incidents(Path directory) {
        Path file = directory.resolve("incidents.json");
        return Files.exists(file) ? Incidents.read(file) : Incidents.sternwick();
    }

    private Origin origin() {
        return begin(directory, clock.instant(), Timeline.HISTORY_DAYS);
    }

    /**
     * Settles how a site begins, unless that was settled before.
     *
     * @param days of history
     */
    public static Origin begin(Path directory, Instant now, int days) {
        try {
            Files.createDirectories(directory);
            Path file = directory.resolve("origin.json");
            if (Files.exists(file)) {
                return Wire.read(Files.readString(file), Origin.class);
            }
            byte[] secret = new byte[16];
            new SecureRandom().nextBytes(secret);
            Origin origin = new Origin(
                    SEED,
                    now.atZone(PracticeClock.zone(installation(directory)))
                            .toLocalDate()
                            .minusDays(days),
                    now,
                    HexFormat.of().formatHex(secret));
            Files.writeString(file, Wire.write(origin));
            return origin;
        } catch (IOException e) {
            throw new UncheckedIOException("The practice site's directory " + directory + " cannot be used.", e);
        }
    }

    private void writeLinks() {
        URI base = server.address();
        List<LinksFile.Link> links = new ArrayList<>();
        timeline.systems()
                .forEach(s -> links.add(new LinksFile.Link(
                        "access", null, s.id(), s.name(), base.resolve("/access/" + s.id() + "/"), token)));
        recorders.forEach(r -> links.add(new LinksFile.Link(
                "recorder", null, r.id(), r.name(), base.resolve("/recorder/" + r.id() + "/"), token)));
        List<LinksFile.WirePairing> pairings = new ArrayList<>();
        for (PracticeCamera camera : timeline.place().cameras()) {
            boolean inside = camera.view() == 'i';
            pairings.add(pairing(camera, inside ? "exit" : "entry", CameraPictures.face(inside), Duration.ZERO));
            boolean onlyOutside = camera.view() == 'o' && !camera.door().views().contains("i");
            if (onlyOutside) {
                pairings.add(pairing(camera, "exit", CameraPictures.COMING_OUT, CameraPictures.COMING_OUT_AFTER));
            }
        }
        List<String> watch = timeline.place().watched().stream()
                .map(d -> d.building().accessSystem() + "/" + d.id())
                .toList();
        try {
            Path temporary = Files.createTempFile(directory, "links", ".tmp");
            Files.writeString(
                    temporary,
                    Wire.mapper()
                            .writerWithDefaultPrettyPrinter()
                            .writeValueAsString(new LinksFile(timeline.name(), links, pairings, watch)));
            Files.move(temporary, linksFile(), StandardCopyOption.REPLACE_EXISTING);
        } catch (IOException e) {
            throw new UncheckedIOException("The practice site's links file cannot be written.", e);
        }
    }

    private static LinksFile.WirePairing pairing(PracticeCamera camera, String side, Crop face, Duration after) {
        PracticeDoor door = camera.door();
        return new LinksFile.WirePairing(
                door.building().accessSystem() + "/" + door.id(),
                door.building().recorder() + "/" + camera.id(),
                side,
                camera.view() == 'v' ? "overview" : camera.view() == 'i' ? "inside" : "outside",
                10,
                Map.of("x", face.x(), "y", face.y(), "width", face.width(), "height", face.height()),
                (int) after.toMillis());
    }

    /** The file that tells a console how to reach this site. */
    public Path linksFile() {
        return directory.resolve("links.json");
    }

    public URI address() {
        return server.address();
    }

    /** Where it answers by https, if it does. */
    public Optional<URI> secureAddress() {
        return server.secureAddress();
    }

    /** Takes what is sent by mail and to an address of the web. */
    public PostOffice post() {
        return post;
    }

    /** Where messages are posted to. */
    public URI postAddress() {
        return server.postAddress();
    }

    public Timeline timeline() {
        return timeline;
    }

    public List<Recorder> recorders() {
        return List.copyOf(recorders);
    }

    private void run() {
        Instant kept = Instant.MIN;
        while (!closed) {
            try {
                Instant now = clock.instant();
                timeline.advanceTo(now);
                if (kept.equals(Instant.MIN) || Duration.between(kept, now).compareTo(KEEP_TIME_EVERY) > 0) {
                    kept = now;
                    post.tick();
                    Files.writeString(directory.resolve("last-seen"), now.toString());
                }
                long wait = Duration.between(clock.instant(), timeline.next()).toMillis();
                Thread.sleep(Math.max(1, Math.min(25, wait)));
            } catch (InterruptedException e) {
                return;
            } catch (IOException | RuntimeException e) {
                LOG.error("The practice site stumbled and goes on.");
                LOG.debug("What happened", e);
            }
        }
    }

    @Override
    public void close() {
        closed = true;
        runner.interrupt();
        try {
            runner.join(2_000);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
        server.close();
        post.close();
        recorders.forEach(Recorder::close);
        try {
            Files.writeString(directory.resolve("last-seen"), clock.instant().toString());
        } catch (IOException e) {
            LOG.warn("The practice site's last time could not be kept. Is the disk full?");
        }
        timeline.close();
    }
}
