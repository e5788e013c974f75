package org.custodia.app;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.Comparator;
import java.util.List;
import java.util.function.BooleanSupplier;
import java.util.stream.Stream;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.link.LinkStatus;
import org.custodia.desktop.watch.WatchView;
import org.custodia.practice.PracticeSite;

/**
 * Goes once through what a demo does, with a short history and without a display, so that the virtual machine can note which
 * classes a start needs (class data sharing); with that note a start takes two thirds of the time.
 */
final class Rehearsal {
    private static final Duration PATIENCE = Duration.ofSeconds(40);

    private Rehearsal() {}

    static void run() throws IOException, InterruptedException {
        Path data = Files.createTempDirectory("custodia-rehearsal");
        Path practice = data.resolve("practice");
        PracticeSite.begin(practice, Main.demoClock(practice, false).instant(), 1);
        try (DemoSite demo = new DemoSite(data, false);
                Console console = new Console(demo.hub(), demo.siteName(), true, Main.demoOperator())) {
            var window = console.window();
            until(() -> demo.hub().links().stream().allMatch(s -> s.state() == LinkStatus.State.UP));
            until(() ->
                    Snapshots.onFx(() -> window.shell().view(WatchView.class).livePictures() >= 3));
            List<Event> granted =
                    demo.hub().log().find(EventQuery.all().kinds(Kinds.GRANTED).newest(1));
            Snapshots.onFx(() -> {
                granted.forEach(window.shell().view(WatchView.class)::play);
                window.shell().find("vault");
                return null;
            });
            until(() -> Snapshots.onFx(window.shell().view(WatchView.class)::playingShowsPicture));
        } finally {
            try (Stream<Path> files = Files.walk(data)) {
                files.sorted(Comparator.reverseOrder()).forEach(f -> f.toFile().delete());
            }
        }
    }

    private static void until(BooleanSupplier condition) throws InterruptedException {
        long end = System.nanoTime() + PATIENCE.toNanos();
        while (!condition.getAsBoolean() && System.nanoTime() < end) {
            Thread.sleep(50);
        }
    }
}
