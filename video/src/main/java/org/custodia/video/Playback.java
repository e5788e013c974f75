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
import java.util.function.IntSupplier;
import org.custodia.core.link.RecorderLink;
import org.custodia.core.mishap.Threads;
import org.custodia.core.site.CameraId;

/**
 * Plays a camera's footage from one instant to another: exact to the frame, paused, stepped, faster or slower. Frames are
 * fetched ahead and kept as they came, so that any of them can be shown again at once.
 */
public final class Playback implements AutoCloseable {
    /** The speeds there are. */
    public static final List<Double> SPEEDS = List.of(0.25, 0.5, 1.0, 2.0, 4.0, 8.0);

    private static final int MOST_FRAMES = 12_000;
    /** This close to now there is nothing left to play but what is live. */
    private static final Duration AT_NOW = Duration.ofMillis(400);

    /** Without a first frame for so long it is given up: longer than a recorder has to answer at all. */
    private static final long GIVE_UP_NANOS = TimeUnit.SECONDS.toNanos(12);

    private final CameraId camera;
    private final RecorderLink recorder;
    private final Optional<LiveFeed> feed;
    private final Clock clock;
    private final Listener listener;
    private final IntSupplier width;
    private final ReentrantLock lock = new ReentrantLock();
    private final Condition changed = lock.newCondition();
    private final List<EncodedFrame> frames = new ArrayList<>();
    private final Thread player;
    private Thread fetcher;
    private Consumer<EncodedFrame> tap;
    private InputStream open;
    private long fetchingSince;
    private int generation;

    private Instant from;
    private Instant to;
    private boolean complete;
    private boolean fromLive;
    private String failure;
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
            Optional<String> failure) {}

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
        this.recorder = recorder;
        this.feed = feed;
        this.clock = clock;
        this.listener = listener;
        this.width = width;
        this.playing = !startPaused;
        fetch(from, to);
        this.player = Threads.daemon("playback " + camera, this::play);
        player.start();
    }

    /** Begins to fetch a span, and shows its first instant. Called with the lock held, or before anybody else knows. */
    private void fetch(Instant start, Instant end) {
        stopFetching();
        int mine = ++generation;
        from = start;
        to = end;
        position = start;
        frames.clear();
        complete = false;
        failure = null;
        fromLive = false;
        shown = -1;
        decoded = -1;
        owed = 0;
        since = System.nanoTime();
        fetchingSince = since;
        fetcher = Threads.daemon("playback fetch " + camera, () -> fetchAll(mine, start, end));
        fetcher.start();
    }

    private void stopFetching() {
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
            finish(mine, null);
        } catch (IOException e) {
            if (!fromFeed(mine, start)) {
                finish(mine, String.valueOf(e.getMessage()));
            }
        } catch (RuntimeException | Error e) {
            Threads.stumbled(e);
            if (!fromFeed(mine, start)) {
                finish(mine, "it could not be played");
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
            if (mine != generation || closed) {
                return true;
            }
            fromLive = true;
            kept.forEach(this::append);
            tap = frame -> add(mine, frame);
            feed.get().tap(tap);
            changed.signalAll();
            return true;
        } finally {
            lock.unlock();
        }
    }

    private boolean adopt(int mine, InputStream stream) {
        lock.lock();
        try {
            if (mine != generation || closed) {
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
            if (mine != generation || closed || frames.size() >= MOST_FRAMES) {
                return false;
            }
            if (frames.isEmpty()
                    || frame.at().isAfter(frames.get(frames.size() - 1).at())) {
                append(frame);
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

    private void append(EncodedFrame frame) {
        frames.add(frame);
        if (owed > 0 && frames.size() > 1) {
            owed--;
            position = frame.at();
        }
    }

    private void finish(int mine, String problem) {
        lock.lock();
        try {
            if (mine == generation && failure == null) {
                complete = true;
                owed = 0;
                failure = frames.isEmpty() && problem == null ? "the recorder sent no picture" : problem;
                open = null;
                changed.signalAll();
            }
        } finally {
            lock.unlock();
        }
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
                    giveUpWhatHangs();
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

    private void giveUpWhatHangs() {
        if (frames.isEmpty() && !complete && System.nanoTime() - fetchingSince > GIVE_UP_NANOS) {
            failure = "the recorder sends no picture";
            complete = true;
            stopFetching();
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
            if (!todo.isEmpty() && target < frames.size() && frames.get(target) == todo.get(todo.size() - 1)) {
                decoded = target;
                shown = target;
            }
        } finally {
            lock.unlock();
        }
    }

    /** Where playing has come to. */
    private Instant playedTo() {
        if (!playing || frames.isEmpty()) {
            return position;
        }
        return position.plusNanos((long) ((System.nanoTime() - since) * speed));
    }

    /** The frame to be shown now; -1 while there is none. */
    private int target() {
        if (frames.isEmpty()) {
            since = System.nanoTime();
            return -1;
        }
        Instant wanted = playedTo();
        int last = frames.size() - 1;
        if (wanted.isAfter(frames.get(last).at()) && playing) {
            // Never ahead of what is there: time stands still until more has come.
            position = frames.get(last).at();
            since = System.nanoTime();
            return last;
        }
        return indexAt(wanted);
    }

    private int indexAt(Instant wanted) {
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

    private List<EncodedFrame> toDecode(int target) {
        if (target < 0 || target == shown) {
            return List.of();
        }
        int start = target;
        boolean onwards = decoded >= 0 && target > decoded;
        while (start > 0 && !frames.get(start).key() && !(onwards && start == decoded + 1)) {
            start--;
        }
        return List.copyOf(frames.subList(start, target + 1));
    }

    private Status statusNow(int target) {
        Instant at = target >= 0 ? frames.get(target).at() : position;
        Mode mode;
        boolean atEnd = target >= 0 && target == frames.size() - 1;
        if (failure != null && frames.isEmpty()) {
            mode = Mode.FAILED;
        } else if (target < 0) {
            mode = Mode.WAITING;
        } else if (atEnd && Duration.between(at, clock.instant()).compareTo(AT_NOW) < 0) {
            mode = Mode.REACHED_NOW;
        } else if (atEnd && complete || !at.isBefore(to)) {
            mode = Mode.ENDED;
        } else {
            mode = playing ? Mode.PLAYING : Mode.PAUSED;
        }
        return new Status(mode, from, to, at, speed, fromLive, Optional.ofNullable(failure));
    }

    private long wait(int target) {
        if (!playing || target < 0 || target + 1 >= frames.size()) {
            return TimeUnit.MILLISECONDS.toNanos(50);
        }
        Duration until = Duration.between(playedTo(), frames.get(target + 1).at());
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
            boolean end = complete && !frames.isEmpty() && shown == frames.size() - 1;
            position = end ? from : playedTo();
            since = System.nanoTime();
            owed = 0;
            playing = true;
        });
    }

    public void pause() {
        change(() -> {
            if (playing) {
                position =
                        shown >= 0 && shown < frames.size() ? frames.get(shown).at() : playedTo();
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
            int last = Math.max(0, frames.size() - 1);
            int wanted = Math.max(0, indexAt(position) + owed + count);
            owed = complete ? 0 : Math.max(0, wanted - last);
            if (!frames.isEmpty()) {
                position = frames.get(Math.min(wanted, last)).at();
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
            boolean there = !frames.isEmpty()
                    && !wanted.isBefore(frames.get(0).at())
                    && !wanted.isAfter(frames.get(frames.size() - 1).at());
            if (there || !wanted.isBefore(from) && !wanted.isAfter(to) && !complete) {
                position = wanted;
                owed = 0;
                since = System.nanoTime();
            } else {
                Duration length = Duration.between(from, to);
                fetch(wanted, wanted.plus(length));
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
            stopFetching();
        });
    }
}
