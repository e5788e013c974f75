package org.custodia.bench;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import java.util.concurrent.TimeUnit;
import org.custodia.app.Console;
import org.custodia.app.DemoSite;
import org.custodia.app.Main;
import org.custodia.app.Snapshots;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.watch.StripModel;
import org.custodia.desktop.watch.WatchModel;
import org.custodia.desktop.watch.WatchView;
import org.custodia.practice.place.Installation;
import org.custodia.wire.Wire;

/** What happens while somebody drags the marker of the day line: when strips have settled, and how old doors become meanwhile. */
final class DragBench {
    private static final int DRAGS = 12;
    private static final int MOVES = 20;
    private static final long BETWEEN_MOVES = 30;
    private static final List<Integer> DOORS = List.of(6, 24, 49, 300);
    /** So often each door is there. */
    private static final int WINGS = 7;

    private DragBench() {}

    static void run() throws Exception {
        Console.offscreen();
        Path data = Files.createTempDirectory("custodia-bench");
        manyDoors(data.resolve("practice"));
        try (DemoSite demo = new DemoSite(data, false);
                Console console = new Console(demo.hub(), demo.siteName(), true, Main.demoOperator())) {
            StartBench.await(() -> demo.hub().links().stream().allMatch(s -> s.state() == LinkStatus.State.UP));
            for (int many : DOORS) {
                drags(demo, console, many);
            }
        } finally {
            TemporaryFiles.delete(data);
        }
    }

    /** A practice site where every door stands several times beside itself. */
    private static void manyDoors(Path practice) throws IOException {
        Installation site = Installation.sternwick();
        List<Installation.DoorEntry> doors = new ArrayList<>(site.doors());
        for (int wing = 2; wing <= WINGS; wing++) {
            for (Installation.DoorEntry d : site.doors()) {
                doors.add(d.called(d.id() + "-" + wing, d.name() + " " + wing, d.controller() + "-" + wing));
            }
        }
        Files.createDirectories(practice);
        Files.writeString(practice.resolve("installation.json"), Wire.write(site.withDoors(doors)));
    }

    private static void drags(DemoSite demo, Console console, int many) throws Exception {
        Desk desk = console.window().shell().desk();
        WatchModel watch = console.window().shell().view(WatchView.class).model();
        List<DoorId> doors = demo.hub().sites().get().doors().stream()
                .map(Door::id)
                .limit(many)
                .toList();
        Snapshots.onFx(() -> {
            watch.watch(doors);
            return null;
        });
        StartBench.await(() -> Snapshots.onFx(() -> watch.strips().size() >= doors.size() && settled(watch)));
        Random random = new Random(9);
        Samples settle = new Samples();
        Samples age = new Samples();
        Instant now = demo.hub().clock().instant();
        for (int drag = -2; drag < DRAGS; drag++) {
            Instant from = now.minus(Duration.ofMinutes(60 + random.nextInt(9 * 24 * 60)));
            double oldest = 0;
            for (int move = 0; move < MOVES; move++) {
                Instant to = from.plus(Duration.ofMinutes(2L * move));
                oldest = Math.max(oldest, Snapshots.onFx(() -> {
                    desk.lookBack(to);
                    return age(desk);
                }));
                TimeUnit.MILLISECONDS.sleep(BETWEEN_MOVES);
            }
            long last = System.nanoTime();
            while (!Snapshots.onFx(() -> settled(watch))) {
                oldest = Math.max(oldest, Snapshots.onFx(() -> age(desk)));
                TimeUnit.MILLISECONDS.sleep(2);
            }
            if (drag >= 0) {
                settle.add((System.nanoTime() - last) / 1e6);
                age.add(oldest);
            }
        }
        Snapshots.onFx(() -> {
            desk.returnToNow();
            return null;
        });
        long memory = 0;
        for (int i = 0; i < 20; i++) {
            memory = Math.max(memory, PanesBench.resident());
            TimeUnit.MILLISECONDS.sleep(250);
        }
        System.out.println("drag: " + many + " doors on watch, settled after the last of " + MOVES + " moves: " + settle
                + " (wanted: under 400 ms); oldest that doors became meanwhile: " + age
                + " (wanted: under 1000 ms); resident memory at most " + memory / 1024 + " MB (wanted: under 900)");
    }

    private static boolean settled(WatchModel watch) {
        return watch.strips().stream().filter(StripModel::isInView).allMatch(StripModel::isRead);
    }

    /** How long ago doors were looked at, in milliseconds. */
    private static double age(Desk desk) {
        return Duration.between(desk.live().asOf(), desk.now()).toNanos() / 1e6;
    }
}
