package org.custodia.app;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.channels.FileChannel;
import java.nio.channels.FileLock;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.Comparator;
import java.util.List;
import java.util.stream.Stream;
import org.awaitility.Awaitility;
import org.awaitility.core.ConditionFactory;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventQuery;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.operator.Actor;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SystemId;
import org.custodia.practice.PracticeSite;
import org.custodia.practice.timeline.AccessSystem;
import org.custodia.wire.WireEvent;

/**
 * A practice site with a day of history, and a hub on it, on a clock that always starts at the same time of day. {@link #prepared}
 * is quicker, since its hub has read most of that day before.
 */
final class Rig implements AutoCloseable {
    static final Actor OPERATOR = Actor.withAll("ivantongeren", "I. Vantongeren", "desk");

    private static final Instant START = Instant.parse("2026-11-24T14:20:00Z");

    /** How long before {@link #START} the hub of a prepared rig was closed, at least. */
    private static final Duration PREPARED_BEFORE = Duration.ofMinutes(2);

    private static Path template;

    final Clock clock;
    final PracticeSite site;
    final Path data;
    Hub hub;

    Rig(Path directory) {
        this(directory, false);
    }

    /**
     * The same.
     *
     * @param secure whether the practice site answers by https as well
     */
    Rig(Path directory, boolean secure) {
        this(directory, START, secure);
    }

    private Rig(Path directory, Instant start, boolean secure) {
        Path practice = directory.resolve("practice");
        data = directory.resolve("console");
        clock = Clock.offset(Clock.systemUTC(), Duration.between(Instant.now(), start));
        try {
            Files.createDirectories(practice);
            Files.writeString(
                    practice.resolve("origin.json"),
                    "{\"seed\":1842,\"firstDay\":\"2026-11-24\",\"people\":\"" + START + "\",\"token\":\"rig-token\"}");
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        site = new PracticeSite(practice, clock, 0, secure);
    }

    /** One whose hub was there before and has read the day but for the last two minutes. */
    static Rig prepared(Path directory) {
        try {
            copy(template(), directory);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        return new Rig(directory);
    }

    /** A directory that a rig has left behind; one for all processes of a run of the tests. */
    private static synchronized Path template() throws IOException {
        if (template == null) {
            String run = System.getProperty(
                    "custodia.run", String.valueOf(ProcessHandle.current().pid()));
            Path all = Files.createDirectories(Path.of("target", "prepared"));
            Path made = all.resolve(run);
            try (FileChannel lock =
                            FileChannel.open(all.resolve("lock"), StandardOpenOption.CREATE, StandardOpenOption.WRITE);
                    FileLock held = lock.lock()) {
                Path whole = made.resolve("whole");
                if (!held.isValid() || !Files.exists(whole)) {
                    deleteAllBut(all.resolve("lock"), all);
                    Files.createDirectories(made);
                    try (Rig rig = new Rig(made, START.minus(PREPARED_BEFORE).minusSeconds(90), false)
                            .withHub()
                            .connected()) {
                        await().until(rig::arePhotosRead);
                    }
                    Files.createFile(whole);
                }
            }
            template = made;
        }
        return template;
    }

    private static void deleteAllBut(Path kept, Path directory) throws IOException {
        try (Stream<Path> files = Files.walk(directory)) {
            files.sorted(Comparator.reverseOrder())
                    .filter(f -> !f.equals(kept) && !f.equals(directory))
                    .forEach(f -> f.toFile().delete());
        }
    }

    private boolean arePhotosRead() {
        return site.timeline().people().all().stream().allMatch(p -> hub.people()
                .photo(new PersonId(site.timeline().place().building(p.home()).accessSystem() + "/" + p.id()))
                .isPresent());
    }

    private static void copy(Path from, Path to) throws IOException {
        try (Stream<Path> files = Files.walk(from)) {
            for (Path file : (Iterable<Path>) files::iterator) {
                Path there = to.resolve(from.relativize(file).toString());
                if (Files.isDirectory(file)) {
                    Files.createDirectories(there);
                } else {
                    Files.copy(file, there, StandardCopyOption.REPLACE_EXISTING);
                }
            }
        }
    }

    Rig withHub() {
        hub = new Hub(data, LinksFiles.read(site.linksFile()), clock, OPERATOR);
        return this;
    }

    static ConditionFactory await() {
        return Awaitility.await().atMost(Duration.ofSeconds(90)).pollInterval(Duration.ofMillis(40));
    }

    Rig connected() {
        await().until(() -> hub.links().stream().allMatch(s -> s.state() == LinkStatus.State.UP));
        return this;
    }

    /** How the link to a system is doing. */
    LinkStatus link(String id) {
        return hub.links().stream()
                .filter(s -> s.system().value().equals(id))
                .findFirst()
                .orElseThrow();
    }

    /** Tells the practice site to do something; the answer's status. */
    int happen(String order) {
        HttpRequest request = HttpRequest.newBuilder(URI.create(site.address() + "/control/do"))
                .POST(HttpRequest.BodyPublishers.ofString(order.replace('\'', '"')))
                .build();
        try {
            return HttpClient.newHttpClient()
                    .send(request, HttpResponse.BodyHandlers.discarding())
                    .statusCode();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
    }

    AccessSystem system(String id) {
        return site.timeline().system(id).orElseThrow();
    }

    List<WireEvent> sent(String id) {
        return system(id).after(0, Integer.MAX_VALUE);
    }

    List<Event> stored(String id) {
        return hub.log().find(EventQuery.all().system(new SystemId(id)));
    }

    @Override
    public void close() {
        if (hub != null) {
            hub.close();
        }
        site.close();
        // What went wrong in this test is not told in the next one, which may run in the same process.
        Thread.setDefaultUncaughtExceptionHandler(null);
    }
}
