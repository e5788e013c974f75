package org.custodia.bench;

import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import org.custodia.app.DemoSite;
import org.custodia.app.Main;
import org.custodia.core.event.Snapshots;
import org.custodia.core.evidence.ClockMender;
import org.custodia.core.evidence.EvidenceSearch;
import org.custodia.core.evidence.Findings;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.operator.Actor;
import org.custodia.core.setup.PairDesk;
import org.custodia.core.setup.PairDesk.ClockLag;
import org.custodia.practice.PracticeSite;
import org.custodia.practice.timeline.Act;
import org.custodia.wire.PairSheetForms;
import org.custodia.wire.Wire;

/**
 * How well pictures find what a recorder's clock was off by yesterday. The clock is set right just before Custodia connects, so
 * that nothing which is measured over the network tells of it.
 */
final class ClockBench {
    private static final String RECORDER = "quayside";
    /** What the recorder is ahead of true time by itself. */
    private static final long USUAL_MILLIS = 900;

    private ClockBench() {}

    static void run() throws Exception {
        for (long off : List.of(0L, 600L, -2_500L, 3_700L, -5_200L)) {
            measure(off);
        }
    }

    private static void measure(long offMillis) throws Exception {
        Path data = Files.createTempDirectory("custodia-bench");
        Path practice = data.resolve("practice");
        Clock clock = Main.demoClock(practice, false);
        Instant now = clock.instant();
        PracticeSite.begin(practice, now, 3);
        Act wrong = Act.of("clock").target(RECORDER).millis(USUAL_MILLIS + offMillis);
        Act right = Act.of("clock").target(RECORDER).millis(USUAL_MILLIS);
        Files.writeString(
                practice.resolve("journal.jsonl"),
                Wire.write(wrong.at(now.minus(Duration.ofHours(30)).toEpochMilli())) + "\n"
                        + Wire.write(right.at(now.minus(Duration.ofSeconds(80)).toEpochMilli())) + "\n");
        try (DemoSite demo = new DemoSite(data, false)) {
            StartBench.await(() -> demo.hub().links().stream().allMatch(s -> s.state() == LinkStatus.State.UP));
            StartBench.await(() -> demo.hub().sites().get().cameras().size() > 50);
            Actor odo = Main.demoOperator();
            try (EvidenceSearch search = new EvidenceSearch(
                            demo.hub().log(),
                            demo.hub().sites(),
                            demo.hub().peeks(),
                            Findings.inMemory(),
                            demo.hub().clock(),
                            Duration.ZERO,
                            true);
                    PairDesk pairs = new PairDesk(
                            demo.hub().sites(),
                            demo.hub().sites(),
                            demo.hub().log(),
                            demo.hub().intake(),
                            Snapshots.inMemory(),
                            search,
                            new ClockMender(new ClockBook(), estimate -> {}),
                            new PairSheetForms(),
                            demo.hub().clock())) {
                tell(pairs, odo, offMillis);
            }
        } finally {
            TemporaryFiles.delete(data);
        }
    }

    private static void tell(PairDesk pairs, Actor odo, long offMillis) throws InterruptedException {
        long begun = System.nanoTime();
        pairs.measureClocks(odo);
        StartBench.await(() -> !pairs.looking(odo).running());
        for (ClockLag lag : pairs.clockLags(odo)) {
            long expected = lag.recorder().value().equals(RECORDER) ? offMillis : 0;
            System.out.printf(
                    "clocks by pictures: %s against %s off by %.2f s: found %.3f s (%.3f to %.3f), %d openings of %d"
                            + " pairs, error %.3f s%n",
                    lag.recorder(),
                    lag.access(),
                    expected / 1e3,
                    lag.lag().lag().toMillis() / 1e3,
                    lag.lag().low().toMillis() / 1e3,
                    lag.lag().high().toMillis() / 1e3,
                    lag.lag().openings(),
                    lag.pairs(),
                    Math.abs(lag.lag().lag().toMillis() - expected) / 1e3);
        }
        System.out.printf(
                "  %d stills, %.0f s without pacing%n", pairs.looking(odo).stills(), (System.nanoTime() - begun) / 1e9);
    }
}
