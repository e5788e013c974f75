package org.custodia.video;

import java.io.IOException;
import java.io.InputStream;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.function.Consumer;
import org.custodia.core.link.RecorderLink;
import org.custodia.core.mishap.Threads;
import org.custodia.core.saying.Saying;
import org.custodia.core.saying.Says;
import org.custodia.core.site.CameraId;

/**
 * One camera's live picture, fetched and decoded once for all who look, and for a little longer so that a glance elsewhere
 * does not cost the connection. Keeps the last minute as it came, for recorders that need time before footage can be had.
 */
final class LiveFeed implements AutoCloseable {
    /** How long frames are kept. */
    static final Duration RING = Duration.ofSeconds(75);
    /** Without a frame for so long a picture is no longer live. */
    static final Duration STALE = Duration.ofSeconds(2);
    /** Without a frame for so long a stream is given up and asked for again: what hangs rarely comes back. */
    static final Duration GIVE_UP = Duration.ofSeconds(8);

    /** A recorder whose clock is off by more is not believed to show what is now, though that is corrected for. */
    static final Duration CLOCK_LIMIT = Duration.ofSeconds(5);
    /** A frame that is of so long ago, or so far ahead, is not of now, or its recorder's clock was set. */
    static final Duration NOT_NOW = Duration.ofSeconds(10);

    private static final Duration RETRY_FIRST = Duration.ofMillis(700);
    private static final Duration RETRY_MOST = Duration.ofSeconds(8);

    private final CameraId camera;
    private final RecorderLink recorder;
    private final Clock clock;
    private final List<Viewer> viewers = new CopyOnWriteArrayList<>();
    private final Deque<EncodedFrame> ring = new ArrayDeque<>();
    private final List<Consumer<EncodedFrame>> tappers = new CopyOnWriteArrayList<>();
    private final Thread thread;
    private volatile InputStream open;
    private volatile Instant openedAt = Instant.MIN;
    private volatile boolean closed;
    private volatile PictureState state = new PictureState.Connecting();
    /** Held while viewers are told how it stands, so that nobody is told something older last. */
    private final Object telling = new Object();

    private boolean started;
    /** Held while the pixels of the last picture are changed or read. */
    private final Object decoding = new Object();

    private volatile Picture last;
    private volatile Instant lastFrame = Instant.MIN;

    /** One who looks. */
    interface Viewer {
        /** How many pixels wide the picture is shown; 0 when nobody can see it just now. */
        int width();

        /** A frame, whose pixels are used again for the next; must return quickly. */
        void frame(Picture picture);

        void state(PictureState state);
    }

    LiveFeed(CameraId camera, RecorderLink recorder, Clock clock) {
        this.camera = camera;
        this.recorder = recorder;
        this.clock = clock;
        this.thread = Threads.daemon("live " + camera, this::run);
    }

    /** Takes in somebody who looks, and tells how it stands; the first one begins the fetching. */
    void add(Viewer viewer) {
        synchronized (telling) {
            viewers.add(viewer);
            viewer.state(state);
            if (!started) {
                started = true;
                thread.start();
            }
        }
        synchronized (decoding) {
            if (last != null && running(state)) {
                viewer.frame(last);
            }
        }
    }

    void remove(Viewer viewer) {
        viewers.remove(viewer);
    }

    boolean idle() {
        return viewers.isEmpty() && tappers.isEmpty();
    }

    /** Frames still kept from the last one that stands alone at or before an instant; empty if it is not kept. */
    List<EncodedFrame> kept(Instant from) {
        synchronized (ring) {
            List<EncodedFrame> result = new ArrayList<>();
            boolean covers = false;
            for (EncodedFrame frame : ring) {
                if (frame.key() && !frame.at().isAfter(from)) {
                    result.clear();
                    covers = true;
                }
                if (covers) {
                    result.add(frame);
                }
            }
            return result;
        }
    }

    /** Asks for all frames as they come. */
    void tap(Consumer<EncodedFrame> tapper) {
        tappers.add(tapper);
    }

    void untap(Consumer<EncodedFrame> tapper) {
        tappers.remove(tapper);
    }

    private void run() {
        Duration retry = RETRY_FIRST;
        while (!closed) {
            try (FrameDecoder decoder = new FrameDecoder()) {
                RecorderLink.Stream stream = recorder.live(camera);
                openedAt = clock.instant();
                open = stream.bytes();
                if (closed) {
                    close(stream.bytes());
                    return;
                }
                try (TsReader reader = new TsReader(stream.bytes(), stream.firstFrame())) {
                    if (read(reader, decoder)) {
                        retry = RETRY_FIRST;
                    }
                    set(new PictureState.None(Saying.of("picture.stopped")));
                }
            } catch (IOException e) {
                set(new PictureState.None(Says.of(e, Saying.of("picture.broke"))));
            } catch (RuntimeException | Error e) {
                Threads.stumbled(e);
                set(new PictureState.None(Saying.of("picture.stumbled")));
            } finally {
                open = null;
            }
            try {
                Thread.sleep(retry.toMillis());
            } catch (InterruptedException e) {
                return;
            }
            retry = retry.multipliedBy(2).compareTo(RETRY_MOST) > 0 ? RETRY_MOST : retry.multipliedBy(2);
        }
    }

    private boolean read(TsReader reader, FrameDecoder decoder) {
        boolean any = false;
        boolean synced = false;
        EncodedFrame frame;
        while (!closed && (frame = reader.next()) != null) {
            keep(frame);
            synced |= frame.key();
            if (!synced) {
                continue;
            }
            any |= show(frame, decoder);
        }
        return any;
    }

    private boolean show(EncodedFrame frame, FrameDecoder decoder) {
        int width = viewers.stream().mapToInt(Viewer::width).max().orElse(0);
        synchronized (decoding) {
            Optional<Picture> picture = decoder.decode(frame, width);
            lastFrame = clock.instant();
            if (picture.isEmpty()) {
                return false;
            }
            last = picture.get();
            set(liveOrNot(frame));
            for (Viewer viewer : viewers) {
                if (viewer.width() > 0) {
                    viewer.frame(last);
                }
            }
            return true;
        }
    }

    private PictureState liveOrNot(EncodedFrame frame) {
        Duration ahead = recorder.clockAhead().abs();
        if (ahead.compareTo(CLOCK_LIMIT) > 0) {
            return new PictureState.Doubtful(rounded(ahead));
        }
        Duration ago = Duration.between(frame.at(), lastFrame).abs();
        return ago.compareTo(NOT_NOW) > 0 ? new PictureState.Doubtful(rounded(ago)) : new PictureState.Live();
    }

    /** To the second, so that not each frame is news. */
    private static Duration rounded(Duration d) {
        return Duration.ofSeconds(d.plusMillis(500).toSeconds());
    }

    private void keep(EncodedFrame frame) {
        synchronized (ring) {
            ring.addLast(frame);
            Instant oldest = frame.at().minus(RING);
            while (!ring.isEmpty() && ring.peekFirst().at().isBefore(oldest)) {
                ring.removeFirst();
            }
        }
        tappers.forEach(t -> t.accept(frame));
    }

    private static boolean running(PictureState state) {
        return state instanceof PictureState.Live || state instanceof PictureState.Doubtful;
    }

    /** Notices that frames have stopped coming; called now and then from outside. */
    void check() {
        if (running(state) && Duration.between(lastFrame, clock.instant()).compareTo(STALE) > 0) {
            set(new PictureState.Stalled(last == null ? lastFrame : last.at()));
        }
        Instant since = lastFrame.isAfter(openedAt) ? lastFrame : openedAt;
        InputStream hanging = open;
        if (hanging != null && Duration.between(since, clock.instant()).compareTo(GIVE_UP) > 0) {
            close(hanging);
        }
    }

    private void set(PictureState next) {
        synchronized (telling) {
            if (!next.equals(state)) {
                state = next;
                viewers.forEach(v -> v.state(next));
            }
        }
    }

    @Override
    public void close() {
        closed = true;
        InputStream current = open;
        if (current != null) {
            close(current);
        }
        thread.interrupt();
    }

    private static void close(InputStream stream) {
        try {
            stream.close();
        } catch (IOException e) {
            // It is on its way out anyway.
        }
    }
}
