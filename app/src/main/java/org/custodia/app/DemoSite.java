package org.custodia.app;

import java.nio.file.Path;
import java.time.Clock;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.function.Consumer;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.mishap.Threads;
import org.custodia.practice.PracticeSite;
import org.custodia.wire.LinksFileForm;

/** The practice site and a hub connected to it, in one process on one clock. */
public final class DemoSite implements AutoCloseable {
    private final PracticeSite site;
    private final Hub hub;
    private final String siteName;

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

    @Override
    public void close() {
        hub.close();
        site.close();
    }
}
