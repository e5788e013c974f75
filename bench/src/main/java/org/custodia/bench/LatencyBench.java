package org.custodia.bench;

import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Random;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import javafx.beans.value.ChangeListener;
import org.custodia.app.Console;
import org.custodia.app.DemoSite;
import org.custodia.app.Main;
import org.custodia.app.Snapshots;
import org.custodia.core.door.LockMode;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.link.LinkStatus;
import org.custodia.desktop.strip.StripData;
import org.custodia.desktop.watch.StripModel;
import org.custodia.desktop.watch.WatchView;

/** How soon a badge is on its strip, and how soon an event that was clicked shows its first frame. */
final class LatencyBench {
    private static final int TIMES = 60;
    /** So many at the start are not counted: code that has not run before is slow for reasons of its own. */
    private static final int WARM_UP = 10;
    /** Slower ones are named. */
    private static final double SLOW = 400;

    private LatencyBench() {}

    static void run() throws Exception {
        Console.offscreen();
        Path data = Files.createTempDirectory("custodia-bench");
        try (DemoSite demo = new DemoSite(data, false);
                Console console = new Console(demo.hub(), demo.siteName(), true, Main.demoOperator())) {
            StartBench.await(() -> demo.hub().links().stream().allMatch(s -> s.state() == LinkStatus.State.UP));
            StartBench.await(() -> Snapshots.onFx(
                    () -> console.window().shell().view(WatchView.class).livePictures() >= 4));
            try (Metronome bare = new Metronome()) {
                badges(demo, console, bare);
            }
            try (Metronome bare = new Metronome()) {
                clicks(demo, console, bare);
            }
        } finally {
            TemporaryFiles.delete(data);
        }
    }

    private static void badges(DemoSite demo, Console console, Metronome bare) throws Exception {
        Samples samples = new Samples();
        Random random = new Random(3);
        // At a door that stands unlocked nobody is asked for a badge; one that is pulled in may leave again.
        List<StripModel> strips =
                Snapshots.onFx(() -> console.window().shell().view(WatchView.class).model().strips().stream()
                        .filter(s -> s.shownFor().get().isEmpty()
                                && demo.hub().board().now(s.door().id()).lock() == LockMode.LOCKED)
                        .toList());
        HttpClient client = HttpClient.newHttpClient();
        for (int i = -WARM_UP; i < TIMES; i++) {
            StripModel strip = strips.get(random.nextInt(strips.size()));
            String badge = Integer.toString(60_100 + i);
            CompletableFuture<Long> drawn = new CompletableFuture<>();
            Runnable pulse = () -> drawn.complete(System.nanoTime());
            ChangeListener<StripData> listener = (o, a, b) -> {
                boolean there = b.items().stream()
                        .anyMatch(x ->
                                x.event().credential().filter(badge::equals).isPresent());
                if (there) {
                    console.window().scene().addPostLayoutPulseListener(pulse);
                }
            };
            Snapshots.onFx(() -> {
                strip.data().addListener(listener);
                return null;
            });
            String door = strip.door()
                    .id()
                    .value()
                    .substring(strip.door().system().value().length() + 1);
            String order = "{\"act\":\"present\",\"door\":\"" + door + "\",\"badge\":\"" + badge + "\"}";
            long start = System.nanoTime();
            client.send(
                    HttpRequest.newBuilder(URI.create(demo.site().address() + "/control/do"))
                            .POST(HttpRequest.BodyPublishers.ofString(order))
                            .build(),
                    HttpResponse.BodyHandlers.discarding());
            double took = (get(drawn) - start) / 1e6;
            if (i >= 0) {
                samples.add(took);
            }
            if (took > SLOW && i >= 0) {
                System.out.printf(
                        "  %.0f ms at %s, withheld %.0f ms%n", took, door, bare.withheld(start, System.nanoTime()));
            }
            Snapshots.onFx(() -> {
                strip.data().removeListener(listener);
                console.window().scene().removePostLayoutPulseListener(pulse);
                return null;
            });
            Thread.sleep(150);
        }
        System.out.println("badge at the reader to its tick on the strip: " + samples
                + " (wanted: p95 under 200 ms)\n  " + bare.words());
    }

    private static void clicks(DemoSite demo, Console console, Metronome bare) throws Exception {
        Samples samples = new Samples();
        WatchView view = console.window().shell().view(WatchView.class);
        List<Event> events = demo.hub()
                .log()
                .find(EventQuery.all()
                        .kinds(Kinds.GRANTED)
                        .doors(java.util.Set.copyOf(console.window()
                                .shell()
                                .view(WatchView.class)
                                .model()
                                .onWatch()))
                        .newest(600));
        Random random = new Random(4);
        for (int i = -WARM_UP; i < TIMES; i++) {
            Event event = events.get(random.nextInt(events.size()));
            long start = System.nanoTime();
            Snapshots.onFx(() -> {
                view.play(event);
                return null;
            });
            StartBench.await(() -> Snapshots.onFx(view::playingShowsPicture));
            double took = (System.nanoTime() - start) / 1e6;
            if (i >= 0) {
                samples.add(took);
            }
            if (took > SLOW && i >= 0) {
                System.out.printf(
                        "  %.0f ms for %s at %s, withheld %.0f ms%n",
                        took, event.door().orElseThrow(), event.time(), bare.withheld(start, System.nanoTime()));
            }
            Snapshots.onFx(view::back);
            Thread.sleep(120);
        }
        System.out.println(
                "click on an event to its first frame: " + samples + " (wanted: p95 under 400 ms)\n  " + bare.words());
    }

    private static long get(CompletableFuture<Long> drawn) throws Exception {
        try {
            return drawn.get(10, TimeUnit.SECONDS);
        } catch (TimeoutException e) {
            System.err.println("a badge never came to its strip");
            return System.nanoTime();
        }
    }
}
