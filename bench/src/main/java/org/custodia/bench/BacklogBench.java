package org.custodia.bench;

import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Clock;
import java.util.List;
import java.util.Locale;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import javafx.application.Platform;
import org.custodia.app.Console;
import org.custodia.app.Hub;
import org.custodia.app.Snapshots;
import org.custodia.core.event.EventQuery;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.operator.Actor;
import org.custodia.desktop.watch.WatchView;
import org.custodia.wire.LinksFile;
import org.custodia.wire.LinksFileForm;

/** A console that finds a great backlog of the last hours: how much memory that takes, and whether its window answers. */
final class BacklogBench {
    private static final long HOURS = 12;

    private BacklogBench() {}

    static void run(long events) throws Exception {
        Console.offscreen();
        Path data = Files.createTempDirectory("custodia-bench");
        try (TorrentSystem torrent = new TorrentSystem(events, HOURS)) {
            LinksFile.Link link = new LinksFile.Link("access", null, "torrent", "Torrent", torrent.address(), "token");
            LinksFileForm.Content file =
                    new LinksFileForm().content(new LinksFile("Bench", List.of(link), List.of(), List.of()));
            Actor operator = Actor.withAll("bench", "Bench", "Bench");
            Console.startToolkit();
            try (Hub hub = new Hub(data, file, Clock.systemUTC(), operator);
                    Console console = new Console(hub, "Bench", false, operator);
                    Metronome bare = new Metronome()) {
                measure(hub, console, events, bare);
            }
        } finally {
            TemporaryFiles.delete(data);
        }
    }

    private static void measure(Hub hub, Console console, long events, Metronome bare) throws Exception {
        Samples answers = new Samples();
        long start = System.nanoTime();
        long memory = 0;
        boolean up = false;
        long settle = 0;
        while (!up || System.nanoTime() - settle < 10_000_000_000L) {
            CountDownLatch answered = new CountDownLatch(1);
            long asked = System.nanoTime();
            Platform.runLater(answered::countDown);
            answered.await(30, TimeUnit.SECONDS);
            answers.add((System.nanoTime() - asked) / 1e6);
            memory = Math.max(memory, PanesBench.resident());
            if (!up && hub.links().get(0).state() == LinkStatus.State.UP) {
                up = true;
                settle = System.nanoTime();
            }
            Thread.sleep(40);
        }
        double seconds = (settle - start) / 1e9;
        long stored = hub.log().count(EventQuery.all());
        boolean shows = Snapshots.onFx(() ->
                console.window().shell().view(WatchView.class).model().strips().size() > 0);
        System.out.printf(
                Locale.ROOT,
                "%,d events of the last %d hours read in %.0f s (%,.0f a second), %,d stored, strips shown: %s%n",
                events,
                HOURS,
                seconds,
                events / seconds,
                stored,
                shows);
        System.out.printf(
                Locale.ROOT,
                "  resident memory at most %d MB (wanted: under 900); the window answered after %s (wanted: p95 under 200)%n",
                memory / 1024,
                answers);
        System.out.println("  " + bare.words());
    }
}
