package org.custodia.app;

import java.nio.file.Path;
import java.time.Clock;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.Optional;
import java.util.concurrent.CancellationException;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.concurrent.TimeUnit;
import java.util.function.Consumer;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.EventLogException;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.mishap.Threads;
import org.custodia.core.site.Site;
import org.custodia.practice.PracticeSite;
import org.custodia.wire.LinksFileForm;

/** The practice site and a hub connected to it, in one process on one clock. */
public final class DemoSite implements AutoCloseable {
    private static final long LOOK_EVERY_MS = 250;

    private final PracticeSite site;
    private final Hub hub;
    private final String siteName;
    private final Thread past;
    private final Cancellation cancelPast = new Cancellation();
    private volatile boolean closed;

    /** Opens the practice site in a directory, making it if it is not there, and a hub on it. */
    public DemoSite(Path directory, boolean wallClock) {
        this(directory, wallClock, status -> {});
    }

    /**
     * @param told of each change of a link's status
     */
    DemoSite(Path directory, boolean wallClock, Consumer<LinkStatus> told) {
        Path practice = directory.resolve("practice");
        Clock clock = Main.demoClock(practice, wallClock);
        // Four weeks are run through meanwhile.
        CompletableFuture<PracticeSite> made = new CompletableFuture<>();
        Threads.daemon(
                        "practice site",
                        () -> made.completeAsync(() -> new PracticeSite(practice, clock, 0), Runnable::run))
                .start();
        Hub opened = null;
        try {
            opened = new Hub(
                    directory.resolve("console"), Optional.empty(), Optional.empty(), clock, Main.demoOperator());
            site = made.join();
            LinksFileForm.Content links = LinksFiles.read(site.linksFile());
            siteName = links.setup().name();
            opened.connect(Optional.of(links), told);
            new DemoPost(site, opened.messages()).setUp();
            hub = opened;
            past = Threads.daemon("past alarms", this::addPastAlarms);
            past.start();
        } catch (RuntimeException e) {
            if (opened != null) {
                opened.close();
            }
            made.handle((there, failure) -> there)
                    .thenAccept(there -> Optional.ofNullable(there).ifPresent(PracticeSite::close))
                    .join();
            if (e instanceof CompletionException && e.getCause() instanceof Error own) {
                throw own;
            }
            throw e instanceof CompletionException && e.getCause() instanceof RuntimeException own ? own : e;
        }
    }

    public PracticeSite site() {
        return site;
    }

    public Hub hub() {
        return hub;
    }

    public String siteName() {
        return siteName;
    }

    /** The weeks before the first start had alarms too, and operators who handled them. */
    private void addPastAlarms() {
        try {
            while (!closed && hub.links().stream().anyMatch(l -> l.state() != LinkStatus.State.UP)) {
                Thread.sleep(LOOK_EVERY_MS);
            }
            if (!closed) {
                ZoneId zone = hub.sites().get().sites().stream()
                        .map(Site::timeZone)
                        .findFirst()
                        .orElse(ZoneOffset.UTC);
                hub.replayAlarms(new DemoOperators(zone), new Pauses(), cancelPast);
            }
        } catch (InterruptedException | CancellationException e) {
            // The demo ends meanwhile.
        } catch (EventLogException e) {
            // The intake says what is wrong with the log; the demo is there without past alarms.
        }
    }

    /** Waits nine times as long as was worked since the last pause, so that the first badges and pictures are not slower. */
    private static final class Pauses implements Runnable {
        private static final int WAITED_PER_WORKED = 9;

        private long workedSince = System.nanoTime();

        @Override
        public void run() {
            try {
                TimeUnit.NANOSECONDS.sleep(WAITED_PER_WORKED * (System.nanoTime() - workedSince));
            } catch (InterruptedException e) {
                throw new CancellationException();
            }
            workedSince = System.nanoTime();
        }
    }

    @Override
    public void close() {
        closed = true;
        cancelPast.cancel();
        past.interrupt();
        try {
            past.join();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
        hub.close();
        site.close();
    }
}
