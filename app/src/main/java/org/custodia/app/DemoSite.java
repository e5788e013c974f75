package org.custodia.app;

import java.nio.file.Path;
import java.time.Clock;
import java.util.function.Consumer;
import org.custodia.core.link.LinkStatus;
import org.custodia.practice.PracticeSite;
import org.custodia.wire.LinksFile;

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
        site = new PracticeSite(practice, clock, 0);
        try {
            LinksFile links = LinksFiles.read(site.linksFile());
            siteName = links.site();
            hub = new Hub(directory.resolve("console"), links, clock, Main.demoOperator(), told);
        } catch (RuntimeException e) {
            site.close();
            throw e;
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
