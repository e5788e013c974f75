package org.custodia.bench;

import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Clock;
import java.util.List;
import java.util.Locale;
import java.util.function.BooleanSupplier;
import org.custodia.app.Hub;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.operator.Actor;
import org.custodia.core.site.SystemId;
import org.custodia.wire.LinksFile;
import org.custodia.wire.LinksFileForm;

/**
 * How long after a cut a link with many doors is back: alone, while another link begins to read a backlog, and with a backlog
 * of its own.
 */
final class ReturnBench {
    private static final int DOORS = 4_000;
    private static final long BACKLOG = 100_000;
    private static final long FEW = 2_000;
    private static final long CUT_MS = 5_000;
    private static final long LONGEST_MS = 300_000;

    private ReturnBench() {}

    static void run() throws Exception {
        Path data = Files.createTempDirectory("custodia-bench");
        try (TorrentSystem many = new TorrentSystem("many", DOORS, 20_000, 12);
                TorrentSystem other = new TorrentSystem("other", 48, 1_000, 12)) {
            LinksFileForm.Content file = new LinksFileForm()
                    .content(new LinksFile(
                            "Bench", List.of(link("many", many), link("other", other)), List.of(), List.of()));
            Actor operator = Actor.withAll("bench", "Bench", "Bench");
            try (Hub hub = new Hub(data, file, Clock.systemUTC(), operator)) {
                await(() -> isUp(hub, "many") && isUp(hub, "other"));
                System.out.printf(
                        Locale.ROOT,
                        "A link with %,d doors after a cut of %d s (wanted: back within 10 s):%n",
                        DOORS,
                        CUT_MS / 1000);
                measure("alone, 2,000 events missed", hub, many, FEW, () -> {});
                other.cut();
                await(() -> !isUp(hub, "other"));
                measure("beside 100,000 events of another link", hub, many, FEW, () -> other.restore(BACKLOG));
                await(() -> isUp(hub, "other"));
                measure("with 100,000 events of its own missed", hub, many, BACKLOG, () -> {});
            }
        } finally {
            TemporaryFiles.delete(data);
        }
    }

    private static LinksFile.Link link(String id, TorrentSystem system) {
        return new LinksFile.Link("access", null, id, id, system.address(), "token");
    }

    private static void measure(String what, Hub hub, TorrentSystem system, long missed, Runnable meanwhile)
            throws InterruptedException {
        system.cut();
        await(() -> !isUp(hub, "many"));
        Thread.sleep(CUT_MS);
        long end = System.nanoTime();
        system.restore(missed);
        meanwhile.run();
        await(() -> status(hub, "many").state() != LinkStatus.State.DOWN);
        double reached = (System.nanoTime() - end) / 1e9;
        await(() -> isUp(hub, "many"));
        double up = (System.nanoTime() - end) / 1e9;
        // One that flaps is down again soon.
        Thread.sleep(5_000);
        System.out.printf(
                Locale.ROOT,
                "  %s: first answer after %.1f s, up after %.1f s, %s 5 s later%n",
                what,
                reached,
                up,
                isUp(hub, "many") ? "still up" : "DOWN again");
    }

    private static LinkStatus status(Hub hub, String system) {
        return hub.links().stream()
                .filter(l -> l.system().equals(new SystemId(system)))
                .findFirst()
                .orElseThrow();
    }

    private static boolean isUp(Hub hub, String system) {
        return status(hub, system).state() == LinkStatus.State.UP;
    }

    private static void await(BooleanSupplier condition) throws InterruptedException {
        long end = System.nanoTime() + LONGEST_MS * 1_000_000;
        while (!condition.getAsBoolean()) {
            if (System.nanoTime() > end) {
                throw new IllegalStateException("waited in vain for " + LONGEST_MS / 1000 + " s");
            }
            Thread.sleep(20);
        }
    }
}
