package org.custodia.bench;

import com.sun.management.OperatingSystemMXBean;
import java.io.IOException;
import java.lang.management.ManagementFactory;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import org.custodia.app.Console;
import org.custodia.app.DemoSite;
import org.custodia.app.Main;
import org.custodia.app.Snapshots;
import org.custodia.core.event.EventQuery;
import org.custodia.core.link.LinkStatus;
import org.custodia.desktop.watch.WatchView;

/** From the start of a process to a usable console: the first time, with all history to be made and read, and again. */
final class StartBench {
    private StartBench() {}

    static void run() throws Exception {
        Path data = Files.createTempDirectory("custodia-bench");
        try {
            child(data, "first");
            for (int i = 0; i < 3; i++) {
                child(data, "warm");
            }
        } finally {
            TemporaryFiles.delete(data);
        }
    }

    private static void child(Path data, String which) throws IOException, InterruptedException {
        List<String> command = new ArrayList<>();
        command.add(Path.of(System.getProperty("java.home"), "bin", "java").toString());
        command.addAll(ManagementFactory.getRuntimeMXBean().getInputArguments());
        command.addAll(List.of(
                "-cp",
                System.getProperty("java.class.path"),
                Bench.class.getName(),
                "start-once",
                data.toString(),
                which));
        new ProcessBuilder(command).inheritIO().start().waitFor();
    }

    /** Runs in a process of its own; counts from the start of the virtual machine. */
    static void once(String[] args) throws Exception {
        OperatingSystemMXBean machine = (OperatingSystemMXBean) ManagementFactory.getOperatingSystemMXBean();
        Console.offscreen();
        Console.prepare();
        try (Metronome bare = new Metronome();
                DemoSite demo = new DemoSite(Path.of(args[0]), false);
                Console console = new Console(demo.hub(), demo.siteName(), true, Main.demoOperator())) {
            await(() -> Snapshots.onFx(
                    () -> console.window().shell().view(WatchView.class).livePictures() >= 1));
            double picture = sinceStart();
            await(() -> demo.hub().links().stream().allMatch(s -> s.state() == LinkStatus.State.UP));
            double ready = sinceStart();
            System.out.printf(
                    Locale.ROOT,
                    "start (%s): first live picture after %.1f s, all history read and links up after %.1f s, %,d events in the log; %.1f s of processor time in all, the host withheld %.0f %% of the processors%n",
                    args[1],
                    picture,
                    ready,
                    demo.hub().log().count(EventQuery.all()),
                    machine.getProcessCpuTime() / 1e9,
                    bare.withheldShare());
        }
    }

    private static double sinceStart() {
        return (System.currentTimeMillis()
                        - ManagementFactory.getRuntimeMXBean().getStartTime())
                / 1000.0;
    }

    static void await(java.util.function.BooleanSupplier condition) throws InterruptedException {
        while (!condition.getAsBoolean()) {
            Thread.sleep(20);
        }
    }
}
