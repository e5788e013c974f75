package org.custodia.video;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.locks.Condition;
import java.util.concurrent.locks.ReentrantLock;
import java.util.function.IntSupplier;
import org.custodia.core.link.RecorderLink;
import org.custodia.core.mishap.Threads;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.CameraId;

/**
 * Plays a camera's footage from one instant to another: exact to the frame, paused, stepped, faster or slower. Its {@link
 * FootageBuffer} fetches ahead; this decodes what is to be shown, at the time it is to be shown.
 */
public final class Playback implements AutoCloseable {
    /** The speeds there are. */
    public static final List<Double> SPEEDS = List.of(0.25, 0.5, 1.0, 2.0, 4.0, 8.0);

    /** This close to now there is nothing left to play but what is live. */
    private static final Duration AT_NOW = Duration.ofMillis(400);

    private final CameraId camera;
    private final Clock clock;
    private final Listener listener;
    private final IntSupplier width;
    private final ReentrantLock lock = new ReentrantLock();
    private final Condition changed = lock.newCondition();
    private final FootageBuffer buffer;
    private final Thread player;

    private boolean playing = true;
    private double speed = 1;
    private Instant position;
    private long since;
    private int shown = -1;
    private int decoded = -1;
    /** Steps asked for beyond what was fetched; they are gone when more comes. */
    private int owed;

    private boolean closed;

    /** What a playback is doing. */
    public enum Mode {
        WAITING,
        PLAYING,
        PAUSED,
        ENDED,
        REACHED_NOW,
        FAILED
    }

    /**
     * Where a playback stands.
     *
     * @param position the instant of the frame shown, or to be shown
     * @param fromLive the frames are from the live picture, since the recorder does not give them yet
     * @param failure why there is no picture
     */
    public record Status(
            Mode mode,
            Instant from,
            Instant to,
            Instant position,
            double speed,
            boolean fromLive,
            Optional<Saying> failure) {}

    /** Told of frames and of how it goes, on the playback's own thread; must return quickly. */
    public interface Listener {
        /** A frame; its pixels are used again for the next. */
        void frame(Picture picture);

        void status(Status status);
    }

    Playback(
            CameraId camera,
            RecorderLink recorder,
            Optional<LiveFeed> feed,
            Clock clock,
            Instant from,
            Instant to,
            boolean startPaused,
            IntSupplier width,
            Listener listener) {
        this.camera = camera;
        this.clock = clock;
        this.listener = listener;
        this.width = width;
        this.playing = !startPaused;
        this.buffer = new FootageBuffer(camera, recorder, feed, lock, changed, clock);
        fetch(from, to);
        this.player = Threads.daemon("playback " + camera, this::play);
        player.start();
    }

    /** Begins to fetch a span, and shows its first instant. Called with the lock held, or before anybody else knows. */
    private void fetch(Instant start, Instant end) {
        buffer.fetch(start, end);
        position = start;
        shown = -1;
        decoded = -1;
        owed = 0;
        since = System.nanoTime();
    }

    private void play() {
        Status told = null;
        try (FrameDecoder decoder = new FrameDecoder()) {
            while (true) {
                List<EncodedFrame> todo;
                Status status;
                int target;
                lock.lock();
                try {
                    if (closed) {
                        return;
                    }
                    buffer.giveUpWhatHangs();
                    buffer.askAgainWhenReady();
                    takeOwedSteps();
                    target = target();
                    todo = toDecode(target);
                    status = statusNow(target);
                    if (todo.isEmpty() && status.equals(told)) {
                        changed.await(wait(target), TimeUnit.NANOSECONDS);
                        continue;
                    }
                } finally {
                    lock.unlock();
                }
                show(decoder, todo, target);
                if (!status.equals(told)) {
                    told = status;
                    listener.status(status);
                }
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    private void show(FrameDecoder decoder, List<EncodedFrame> todo, int target) {
        for (int i = 0; i < todo.size(); i++) {
            if (i == 0 && todo.get(0).key()) {
                decoder.reset();
            }
            boolean last = i == todo.size() - 1;
            Optional<Picture> picture = decoder.decode(todo.get(i), last ? Math.max(16, width.getAsInt()) : 0);
            if (last) {
                picture.ifPresent(listener::frame);
            }
        }
        lock.lock();
        try {
            if (!todo.isEmpty() && target < buffer.size() && buffer.get(target) == todo.get(todo.size() - 1)) {
                decoded = target;
                shown = target;
            }
        } finally {
            lock.unlock();
        }
    }

    /** Where playing has come to. */
    private Instant playedTo() {
        if (!playing || buffer.isEmpty()) {
            return position;
        }
        return position.plusNanos((long) ((System.nanoTime() - since) * speed));
    }

    /** The frame to be shown now; -1 while there is none. */
    private int target() {
        if (buffer.isEmpty()) {
            since = System.nanoTime();
            return -1;
        }
        Instant wanted = playedTo();
        if (wanted.isAfter(buffer.last()) && playing) {
            // Never ahead of what is there: time stands still until more has come.
            position = buffer.last();
            since = System.nanoTime();
            return buffer.size() - 1;
        }
        return buffer.indexAt(wanted);
    }

    private List<EncodedFrame> toDecode(int target) {
        return target < 0 || target == shown ? List.of() : buffer.leadingTo(target, decoded);
    }

    /** Takes steps that were asked for before there were frames to step to. */
    private void takeOwedSteps() {
        if (owed > 0 && !buffer.isEmpty()) {
            int there = buffer.indexAt(position);
            int wanted = Math.min(there + owed, buffer.size() - 1);
            position = buffer.get(wanted).at();
            owed = buffer.complete() ? 0 : owed - (wanted - there);
        }
    }

    private Status statusNow(int target) {
        Instant at = target >= 0 ? buffer.get(target).at() : position;
        Mode mode;
        boolean atEnd = target >= 0 && target == buffer.size() - 1;
        if (buffer.failure().isPresent() && buffer.isEmpty()) {
            mode = Mode.FAILED;
        } else if (target < 0) {
            mode = Mode.WAITING;
        } else if (atEnd && Duration.between(at, clock.instant()).compareTo(AT_NOW) < 0) {
            mode = Mode.REACHED_NOW;
        } else if (atEnd && buffer.complete() || !at.isBefore(buffer.to())) {
            mode = Mode.ENDED;
        } else {
            mode = playing ? Mode.PLAYING : Mode.PAUSED;
        }
        return new Status(mode, buffer.from(), buffer.to(), at, speed, buffer.fromLive(), buffer.failure());
    }

    private long wait(int target) {
        if (!playing || target < 0 || target + 1 >= buffer.size()) {
            return TimeUnit.MILLISECONDS.toNanos(50);
        }
        Duration until = Duration.between(playedTo(), buffer.get(target + 1).at());
        return Math.max(1_000_000L, Math.min(50_000_000L, (long) (until.toNanos() / speed)));
    }

    private void change(Runnable change) {
        lock.lock();
        try {
            change.run();
            changed.signalAll();
        } finally {
            lock.unlock();
        }
    }

    /** Goes on, from the beginning if it was at the end. */
    public void resume() {
        change(() -> {
            boolean end = buffer.complete() && !buffer.isEmpty() && shown == buffer.size() - 1;
            position = end ? buffer.from() : playedTo();
            since = System.nanoTime();
            owed = 0;
            playing = true;
        });
    }

    public void pause() {
        change(() -> {
            if (playing) {
                position =
                        shown >= 0 && shown < buffer.size() ? buffer.get(shown).at() : playedTo();
                playing = false;
            }
        });
    }

    public boolean playing() {
        lock.lock();
        try {
            return playing;
        } finally {
            lock.unlock();
        }
    }

    /** Pauses and goes some frames on, or back where negative; what is not there yet is gone to when it comes. */
    public void step(int count) {
        pause();
        change(() -> {
            int last = Math.max(0, buffer.size() - 1);
            int wanted = Math.max(0, buffer.indexAt(position) + owed + count);
            owed = buffer.complete() ? 0 : Math.max(0, wanted - last);
            if (!buffer.isEmpty()) {
                position = buffer.get(Math.min(wanted, last)).at();
            }
        });
    }

    /** Sets the speed, one of {@link #SPEEDS}. */
    public void speed(double value) {
        if (!SPEEDS.contains(value)) {
            throw new IllegalArgumentException("no such speed: " + value);
        }
        change(() -> {
            position = playedTo();
            since = System.nanoTime();
            speed = value;
        });
    }

    /** Goes to an instant; outside what was fetched, a new span of the same length is fetched around it. */
    public void seek(Instant wanted) {
        change(() -> {
            if (buffer.reaches(wanted)) {
                position = wanted;
                owed = 0;
                since = System.nanoTime();
            } else {
                fetch(wanted, wanted.plus(buffer.length()));
            }
        });
    }

    public CameraId camera() {
        return camera;
    }

    @Override
    public void close() {
        change(() -> {
            closed = true;
            buffer.close();
        });
    }
}
