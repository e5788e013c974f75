package org.custodia.video;

import java.io.IOException;
import java.io.InputStream;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.locks.Condition;
import java.util.concurrent.locks.ReentrantLock;
import java.util.function.Consumer;
import org.custodia.core.footage.Footage;
import org.custodia.core.link.RecorderLink;
import org.custodia.core.mishap.Threads;
import org.custodia.core.saying.Saying;
import org.custodia.core.saying.Says;
import org.custodia.core.site.CameraId;

/**
 * The frames of one span of a camera's footage, fetched ahead by a thread of its own and kept as they came, in order of
 * their instants. What a recorder cannot give yet is taken from what was live a moment ago. All methods are called with the
 * lock held that was given to it; it signals whenever something has come.
 */
final class FootageBuffer {
    private static final int MOST_FRAMES = 12_000;
    /** Without a first frame for so long it is given up: longer than a recorder has to answer at all. */
    private static final long GIVE_UP_NANOS = TimeUnit.SECONDS.toNanos(12);
    /** How soon a recorder is asked again that refuses what it should have by now, since clocks are not exact, and */
    private static final Duration ASK_AGAIN = Duration.ofSeconds(2);
    /** for how long after it should have had it. */
    private static final Duration MAY_BE_LATE = Duration.ofMinutes(1);

    private final CameraId camera;
    private final RecorderLink recorder;
    private final Optional<LiveFeed> feed;
    private final ReentrantLock lock;
    private final Condition changed;
    private final Clock clock;
    private final List<EncodedFrame> frames = new ArrayList<>();
    private Instant from;
    private Instant to;
    private boolean complete;
    private boolean fromLive;
    private Saying failure;
    /** When what is still being written may be had; null where there is nothing to wait for. */
    private Instant askAgainAt;

    /** Tells what is fetched now from what was fetched for an earlier span. */
    private int generation;

    private long since;
    private Consumer<EncodedFrame> tap;
    private InputStream open;
    private boolean closed;

    /**
     * @param feed of the camera, if somebody looks at it live
     * @param changed of the lock
     */
    FootageBuffer(
            CameraId camera,
            RecorderLink recorder,
            Optional<LiveFeed> feed,
            ReentrantLock lock,
            Condition changed,
            Clock clock) {
        this.camera = camera;
        this.recorder = recorder;
        this.feed = feed;
        this.lock = lock;
        this.changed = changed;
        this.clock = clock;
    }

    /** Forgets what there is and begins to fetch a span. */
    void fetch(Instant start, Instant end) {
        stop();
        int mine = ++generation;
        from = start;
        to = end;
        frames.clear();
        complete = false;
        failure = null;
        askAgainAt = null;
        fromLive = false;
        since = System.nanoTime();
        Threads.daemon("playback fetch " + camera, () -> fetchAll(mine, start, end))
                .start();
    }

    /** Asks again once the recorder should have what it was still writing; until something comes, the reason stays. */
    void askAgainWhenReady() {
        if (askAgainAt != null && !clock.instant().isBefore(askAgainAt)) {
            Saying why = failure;
            fetch(from, to);
            failure = why;
        }
    }

    /** When it is worth asking again for what could not be had; nothing for what the recorder will not have. */
    private Optional<Instant> askAgainAt(Instant start) {
        Instant now = clock.instant();
        Optional<Footage> footage = recorder.footage(camera);
        Optional<Footage.At> there = footage.map(f -> f.at(start, now));
        if (there.isPresent() && there.get() instanceof Footage.At.Pending pending) {
            return Optional.of(pending.readyAt());
        }
        boolean ready = there.filter(Footage.At.Ready.class::isInstance).isPresent();
        return footage.filter(f -> ready)
                .map(f -> start.plus(f.readyAfter()).plus(MAY_BE_LATE))
                .filter(now::isBefore)
                .map(until -> now.plus(ASK_AGAIN));
    }

    private void stop() {
        if (tap != null) {
            feed.ifPresent(f -> f.untap(tap));
            tap = null;
        }
        if (open != null) {
            try {
                open.close();
            } catch (IOException e) {
                // It is not wanted any more.
            }
            open = null;
        }
    }

    private void fetchAll(int mine, Instant start, Instant end) {
        try {
            RecorderLink.Stream stream = recorder.playback(camera, start, end);
            if (!adopt(mine, stream.bytes())) {
                stream.bytes().close();
                return;
            }
            try (TsReader reader = new TsReader(stream.bytes(), stream.firstFrame())) {
                EncodedFrame frame;
                while ((frame = reader.next()) != null && add(mine, frame)) {
                    // add does the work
                }
            }
            finish(mine, null, Optional.empty());
        } catch (IOException e) {
            if (!fromFeed(mine, start)) {
                finish(mine, Says.of(e, Saying.of("picture.broke")), askAgainAt(start));
            }
        } catch (RuntimeException | Error e) {
            Threads.stumbled(e);
            if (!fromFeed(mine, start)) {
                finish(mine, Saying.of("picture.not-played"), Optional.empty());
            }
        }
    }

    /** A recorder that needs time cannot play yet what was live a moment ago; what was kept of it can. */
    private boolean fromFeed(int mine, Instant start) {
        if (feed.isEmpty()) {
            return false;
        }
        List<EncodedFrame> kept = feed.get().kept(start);
        if (kept.isEmpty()) {
            return false;
        }
        lock.lock();
        try {
            if (unwanted(mine)) {
                return true;
            }
            fromLive = true;
            failure = null;
            frames.addAll(kept);
            tap = frame -> add(mine, frame);
            feed.get().tap(tap);
            changed.signalAll();
            return true;
        } finally {
            lock.unlock();
        }
    }

    private boolean unwanted(int mine) {
        return mine != generation || closed;
    }

    private boolean adopt(int mine, InputStream stream) {
        lock.lock();
        try {
            if (unwanted(mine)) {
                return false;
            }
            open = stream;
            return true;
        } finally {
            lock.unlock();
        }
    }

    private boolean add(int mine, EncodedFrame frame) {
        lock.lock();
        try {
            if (unwanted(mine) || frames.size() >= MOST_FRAMES) {
                return false;
            }
            if (frames.isEmpty() || frame.at().isAfter(last())) {
                frames.add(frame);
                failure = null;
            }
            if (frame.at().isAfter(to)) {
                complete = true;
            }
            changed.signalAll();
            return true;
        } finally {
            lock.unlock();
        }
    }

    private void finish(int mine, Saying problem, Optional<Instant> again) {
        lock.lock();
        try {
            if (mine == generation) {
                complete = true;
                failure = frames.isEmpty() && problem == null ? Saying.of("picture.nothing-sent") : problem;
                askAgainAt = again.filter(a -> frames.isEmpty()).orElse(null);
                open = null;
                changed.signalAll();
            }
        } finally {
            lock.unlock();
        }
    }

    /** Gives up a recorder that does not send anything. */
    void giveUpWhatHangs() {
        if (frames.isEmpty() && !complete && System.nanoTime() - since > GIVE_UP_NANOS) {
            failure = Saying.of("picture.nothing-comes");
            complete = true;
            // What the stream says when it is closed is no reason of its own.
            generation++;
            stop();
        }
    }

    /** Begin of the span that was asked for. */
    Instant from() {
        return from;
    }

    /** End of the span that was asked for. */
    Instant to() {
        return to;
    }

    /** How long the span is. */
    Duration length() {
        return Duration.between(from, to);
    }

    boolean isEmpty() {
        return frames.isEmpty();
    }

    int size() {
        return frames.size();
    }

    EncodedFrame get(int index) {
        return frames.get(index);
    }

    /** The instant of the last frame there is. */
    Instant last() {
        return frames.get(frames.size() - 1).at();
    }

    /** Whether all has come that will. */
    boolean complete() {
        return complete;
    }

    /** Whether the frames are from the live picture. */
    boolean fromLive() {
        return fromLive;
    }

    /** Why no more comes. */
    Optional<Saying> failure() {
        return Optional.ofNullable(failure);
    }

    /** Whether an instant lies among the frames there are, or may yet come to. */
    boolean reaches(Instant wanted) {
        boolean there = !frames.isEmpty() && !wanted.isBefore(frames.get(0).at()) && !wanted.isAfter(last());
        return there || !wanted.isBefore(from) && !wanted.isAfter(to) && !complete;
    }

    /** The last frame at or before an instant; the first where there is none, 0 where there are no frames. */
    int indexAt(Instant wanted) {
        int low = 0;
        int high = frames.size();
        while (low < high) {
            int middle = (low + high) >>> 1;
            if (frames.get(middle).at().isAfter(wanted)) {
                high = middle;
            } else {
                low = middle + 1;
            }
        }
        return Math.max(0, low - 1);
    }

    /**
     * What a decoder has to be given so that a frame comes out: from the last before it that stands alone, or only what is
     * new where it just decoded an earlier one.
     *
     * @param decoded the frame that was decoded last; -1 if none was
     */
    List<EncodedFrame> leadingTo(int target, int decoded) {
        int start = target;
        boolean onwards = decoded >= 0 && target > decoded;
        while (start > 0 && !frames.get(start).key() && !(onwards && start == decoded + 1)) {
            start--;
        }
        return List.copyOf(frames.subList(start, target + 1));
    }

    /** Fetches no more. */
    void close() {
        closed = true;
        stop();
    }
}
