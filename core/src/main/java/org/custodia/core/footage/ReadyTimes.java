package org.custodia.core.footage;

import java.time.Duration;
import java.util.ArrayDeque;
import java.util.Comparator;
import java.util.Deque;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import org.custodia.core.site.CameraId;

/**
 * How long footage really takes to be ready, told from when it was asked for: what was had and what was refused, and how old it
 * was then. Safe for use by several threads.
 */
public final class ReadyTimes {
    /** What is older says nothing of how long it takes. */
    private static final Duration TELLS = Duration.ofMinutes(5);
    /** Of each camera the latest are remembered. */
    private static final int REMEMBERED = 60;

    private record Asked(Duration age, boolean had) {}

    private final Map<CameraId, Deque<Asked>> byCamera = new ConcurrentHashMap<>();

    /**
     * What was seen of a camera lately.
     *
     * @param had how old the youngest was that was had; nothing if nothing young was asked for
     * @param refused how old the oldest was that was refused though it was to be had; nothing if none was
     * @param times how often it was asked for
     */
    public record Seen(Optional<Duration> had, Optional<Duration> refused, int times) {}

    /**
     * Takes in that a picture of a camera was asked for.
     *
     * @param age how long ago it was taken, when it came or was refused
     */
    public void asked(CameraId camera, Duration age, boolean had) {
        if (age.isNegative() || age.compareTo(TELLS) > 0) {
            return;
        }
        Deque<Asked> all = byCamera.computeIfAbsent(camera, c -> new ArrayDeque<>());
        synchronized (all) {
            all.addLast(new Asked(age, had));
            if (all.size() > REMEMBERED) {
                all.removeFirst();
            }
        }
    }

    /** What was seen of a camera lately; nothing where nothing young was asked for. */
    public Optional<Seen> of(CameraId camera) {
        Deque<Asked> all = byCamera.get(camera);
        if (all == null) {
            return Optional.empty();
        }
        synchronized (all) {
            return Optional.of(new Seen(
                    all.stream().filter(Asked::had).map(Asked::age).min(Comparator.naturalOrder()),
                    all.stream().filter(a -> !a.had()).map(Asked::age).max(Comparator.naturalOrder()),
                    all.size()));
        }
    }
}
