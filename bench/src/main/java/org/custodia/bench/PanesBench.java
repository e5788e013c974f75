package org.custodia.bench;

import com.sun.management.OperatingSystemMXBean;
import java.lang.management.ManagementFactory;
import java.lang.management.ThreadMXBean;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.concurrent.CountDownLatch;
import javafx.animation.AnimationTimer;
import javafx.application.Platform;
import javafx.scene.Scene;
import javafx.scene.layout.TilePane;
import javafx.stage.Stage;
import org.custodia.app.Console;
import org.custodia.app.DemoSite;
import org.custodia.app.Snapshots;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.operator.Actor;
import org.custodia.core.site.Camera;
import org.custodia.desktop.picture.PicturePane;
import org.custodia.video.Pictures;

/** Nine live panes of 640 by 360 at ten pictures a second, site and console in one process. */
final class PanesBench {
    private static final int PANES = 9;
    /** A pulse is slow when it comes so many milliseconds after the one before. */
    private static final double SLOW = 50;

    private PanesBench() {}

    static void run(int seconds) throws Exception {
        Console.offscreen();
        Path data = Files.createTempDirectory("custodia-bench");
        try (DemoSite demo = new DemoSite(data, false)) {
            Console.startToolkit();
            StartBench.await(() -> demo.hub().links().stream().allMatch(s -> s.state() == LinkStatus.State.UP));
            List<PicturePane> panes = open(demo);
            StartBench.await(() -> Snapshots.onFx(() -> panes.stream().allMatch(PicturePane::hasPicture)));
            Thread.sleep(5_000);
            try (Metronome bare = new Metronome()) {
                measure(demo, panes, seconds, bare);
            }
        } finally {
            TemporaryFiles.delete(data);
        }
    }

    private static List<PicturePane> open(DemoSite demo) throws InterruptedException {
        List<PicturePane> panes = new ArrayList<>();
        CountDownLatch shown = new CountDownLatch(1);
        Platform.runLater(() -> {
            TilePane tiles = new TilePane();
            tiles.setPrefColumns(3);
            List<Camera> cameras = demo.hub().sites().get().cameras().stream()
                    .filter(c -> c.recorder().value().equals("quayside"))
                    .limit(PANES)
                    .toList();
            Actor actor = Actor.withAll("bench", "Bench", "desk");
            Pictures pictures =
                    new Pictures(demo.hub().video(), demo.hub().workplace(actor).permit());
            for (Camera camera : cameras) {
                PicturePane pane = new PicturePane(pictures);
                pane.setPrefSize(640, 360);
                pane.camera(camera, camera.name(), ZoneId.of("Europe/London"));
                tiles.getChildren().add(pane);
                panes.add(pane);
            }
            Stage stage = new Stage();
            stage.setScene(new Scene(tiles, 1920, 1080));
            stage.show();
            Platform.runLater(() -> {
                panes.forEach(p -> p.seen(true));
                shown.countDown();
            });
        });
        shown.await();
        return panes;
    }

    private static void measure(DemoSite demo, List<PicturePane> panes, int seconds, Metronome bare) throws Exception {
        OperatingSystemMXBean machine = (OperatingSystemMXBean) ManagementFactory.getOperatingSystemMXBean();
        Samples pulses = new Samples();
        List<long[]> gaps = java.util.Collections.synchronizedList(new ArrayList<>());
        AnimationTimer timer = new AnimationTimer() {
            private long before;

            @Override
            public void handle(long now) {
                long at = System.nanoTime();
                if (before != 0) {
                    pulses.add((at - before) / 1e6);
                    gaps.add(new long[] {before, at});
                }
                before = at;
            }
        };
        Platform.runLater(timer::start);
        long pausedBefore = paused();
        Map<String, Long> threadsBefore = threads();
        long cpuBefore = machine.getProcessCpuTime();
        long framesBefore = panes.stream().mapToLong(PicturePane::frames).sum();
        long start = System.nanoTime();
        long memory = 0;
        while (System.nanoTime() - start < seconds * 1_000_000_000L) {
            Thread.sleep(1_000);
            memory = Math.max(memory, resident());
        }
        double span = (System.nanoTime() - start) / 1e9;
        double cores = (machine.getProcessCpuTime() - cpuBefore) / 1e9 / span;
        long frames = panes.stream().mapToLong(PicturePane::frames).sum() - framesBefore;
        Platform.runLater(timer::stop);
        System.out.printf(
                Locale.ROOT,
                "nine live panes over %.0f s: %.2f cores together (wanted: under 1.60), %.1f pictures a second each, resident memory at most %d MB (wanted: under 900)%n",
                span,
                cores,
                frames / span / panes.size(),
                memory / 1024);
        System.out.printf(
                Locale.ROOT,
                "  time from one JavaFX pulse to the next: p99.9 %.0f ms (wanted: under 50), longest %.0f ms, median %.1f ms%n",
                pulses.percentile(99.9),
                pulses.percentile(100),
                pulses.percentile(50));
        System.out.println("  " + bare.words() + "; collectors paused " + (paused() - pausedBefore) + " ms in all");
        Samples undisturbed = new Samples();
        long slow = 0;
        long taken = 0;
        for (long[] gap : gaps) {
            double millis = (gap[1] - gap[0]) / 1e6;
            boolean withheld = bare.withheld(gap[0], gap[1]) >= millis / 2;
            boolean isSlow = millis > SLOW;
            slow += isSlow ? 1 : 0;
            taken += isSlow && withheld ? 1 : 0;
            if (!isSlow || !withheld) {
                undisturbed.add(millis);
            }
        }
        System.out.printf(
                Locale.ROOT,
                "  %d of %d pulses took more than %.0f ms (%.2f %%); during %d of those the host withheld a processor for half of the time or more; without them p99.9 is %.0f ms, longest %.0f ms%n",
                slow,
                pulses.count(),
                SLOW,
                100.0 * slow / pulses.count(),
                taken,
                undisturbed.percentile(99.9),
                undisturbed.percentile(100));
        Map<String, Long> after = threads();
        Map<String, Double> shares = new HashMap<>();
        after.forEach((name, cpu) ->
                shares.merge(group(name), (cpu - threadsBefore.getOrDefault(name, 0L)) / 1e9 / span, Double::sum));
        shares.entrySet().stream()
                .sorted(Map.Entry.<String, Double>comparingByValue().reversed())
                .limit(8)
                .forEach(e -> System.out.printf(Locale.ROOT, "  %-28s %.2f cores%n", e.getKey(), e.getValue()));
        System.out.println("  encoding " + demo.site().recorders().get(0).encoding() + " cameras");
    }

    /** Milliseconds that collectors have stopped the process for. */
    private static long paused() {
        return ManagementFactory.getGarbageCollectorMXBeans().stream()
                .mapToLong(java.lang.management.GarbageCollectorMXBean::getCollectionTime)
                .sum();
    }

    private static String group(String name) {
        if (name.startsWith("practice camera")) {
            return "practice: draw and encode";
        }
        if (name.startsWith("practice") || name.startsWith("qtp") || name.startsWith("JettyServer")) {
            return "practice: timeline and serve";
        }
        if (name.startsWith("live ")) {
            return "console: fetch and decode";
        }
        if (name.contains("JavaFX") || name.contains("Quantum") || name.contains("Prism")) {
            return "console: JavaFX";
        }
        return name.startsWith("link ") || name.startsWith("HttpClient") ? "console: links" : "other";
    }

    private static Map<String, Long> threads() {
        ThreadMXBean bean = ManagementFactory.getThreadMXBean();
        Map<String, Long> result = new HashMap<>();
        for (long id : bean.getAllThreadIds()) {
            var info = bean.getThreadInfo(id);
            if (info != null) {
                result.merge(info.getThreadName(), bean.getThreadCpuTime(id), Long::sum);
            }
        }
        return result;
    }

    /** Kilobytes of memory that the process holds. */
    static long resident() throws Exception {
        Path status = Path.of("/proc/self/status");
        if (!Files.exists(status)) {
            return 0;
        }
        return Files.readAllLines(status).stream()
                .filter(l -> l.startsWith("VmRSS:"))
                .map(l -> Long.parseLong(l.replaceAll("\\D", "")))
                .findFirst()
                .orElse(0L);
    }
}
