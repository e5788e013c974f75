package org.custodia.bench;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Locale;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.locks.LockSupport;

/**
 * The baseline of what has to be quick: a thread that does nothing but wake sixty times a second. How late it wakes is what
 * machine and collector cost any thread; and it notes when a virtual machine's host withheld the processors ("steal" in
 * Linux's /proc/stat).
 */
final class Metronome implements AutoCloseable {
    private static final long BEAT = 1_000_000_000L / 60;
    private static final Path STAT = Path.of("/proc/stat");
    /** /proc/stat counts in hundredths of a second. */
    private static final double MILLIS_PER_COUNT = 10;

    private final Samples gaps = new Samples();
    private final TreeMap<Long, Double> withheld = new TreeMap<>();
    private final long begin = System.nanoTime();
    private final Thread thread = new Thread(this::beat, "bench metronome");
    private volatile boolean ended;

    Metronome() {
        thread.setDaemon(true);
        thread.start();
    }

    private void beat() {
        long before = System.nanoTime();
        long next = before + BEAT;
        note(before);
        while (!ended) {
            LockSupport.parkNanos(next - System.nanoTime());
            long now = System.nanoTime();
            if (now >= next) {
                gaps.add((now - before) / 1e6);
                note(now);
                before = now;
                next = Math.max(next + BEAT, now + BEAT / 2);
            }
        }
    }

    private void note(long now) {
        double millis = steal();
        synchronized (withheld) {
            withheld.put(now, millis);
        }
    }

    /** Processor time that the host gave to others, in milliseconds since it was started; 0 where nobody says. */
    private static double steal() {
        try {
            String line = Files.exists(STAT) ? Files.readAllLines(STAT).get(0) : "";
            String[] counts = line.trim().split("\\s+");
            return counts.length > 8 ? Double.parseDouble(counts[8]) * MILLIS_PER_COUNT : 0;
        } catch (IOException e) {
            return 0;
        }
    }

    /** How late this thread woke. */
    Samples gaps() {
        return gaps;
    }

    /**
     * Processor time withheld by the host between two times of {@link System#nanoTime}, in milliseconds over all processors,
     * to within a beat.
     */
    double withheld(long from, long to) {
        synchronized (withheld) {
            Map.Entry<Long, Double> a = withheld.floorEntry(from);
            Map.Entry<Long, Double> b = withheld.ceilingEntry(to);
            a = a == null ? withheld.firstEntry() : a;
            b = b == null ? withheld.lastEntry() : b;
            return b.getValue() - a.getValue();
        }
    }

    /** How much of all processors the host withheld since this began, in per cent. */
    double withheldShare() {
        long now = System.nanoTime();
        return 100
                * withheld(begin, now)
                / ((now - begin) / 1e6)
                / Runtime.getRuntime().availableProcessors();
    }

    /** In words, what the machine was like. */
    String words() {
        return String.format(
                Locale.ROOT,
                "a bare thread that wakes 60 times a second, beside it: p99.9 %.0f ms, longest %.0f ms; the host withheld %.0f %% of the processors",
                gaps.percentile(99.9),
                gaps.percentile(100),
                withheldShare());
    }

    @Override
    public void close() throws InterruptedException {
        ended = true;
        thread.join();
    }
}
