package org.custodia.practice.recorder;

import java.awt.image.BufferedImage;
import java.io.IOException;
import java.io.OutputStream;
import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import org.custodia.practice.picture.CameraPictures;
import org.custodia.practice.place.PracticeCamera;
import org.custodia.practice.timeline.Timeline;

/** One camera encoded live for all who watch it, and not at all while nobody does. */
public final class LiveCamera implements AutoCloseable {
    private static final int BEHIND = 40;

    private final Recorder recorder;
    private final PracticeCamera camera;
    private final Timeline timeline;
    private final Clock clock;
    private final List<Watcher> watchers = new ArrayList<>();
    private final List<Picture> group = new ArrayList<>();
    private Thread thread;

    private record Picture(H264Encoder.Encoded encoded, long shown) {}

    LiveCamera(Recorder recorder, PracticeCamera camera, Timeline timeline, Clock clock) {
        this.recorder = recorder;
        this.camera = camera;
        this.timeline = timeline;
        this.clock = clock;
    }

    synchronized boolean running() {
        return thread != null;
    }

    synchronized Watcher watch() {
        Watcher watcher = new Watcher();
        watcher.queue.addAll(group);
        watchers.add(watcher);
        if (thread == null) {
            thread = new Thread(this::encode, "practice camera " + camera.id());
            thread.setDaemon(true);
            thread.start();
        }
        return watcher;
    }

    private void encode() {
        try (H264Encoder encoder =
                new H264Encoder(PracticeCamera.WIDTH, PracticeCamera.HEIGHT, Recorder.FPS, Recorder.FPS)) {
            BufferedImage canvas = CameraPictures.canvas();
            long shown = Recorder.taken(camera, recorder.time().toEpochMilli());
            while (!Thread.currentThread().isInterrupted()) {
                long wait = shown - recorder.time().toEpochMilli();
                if (wait > 0) {
                    Thread.sleep(wait);
                }
                timeline.advanceTo(clock.instant());
                boolean lost = timeline.scenes()
                                .lostSince(camera.id(), recorder.clock().trueAt(shown))
                        >= 0;
                if (lost) {
                    return;
                }
                recorder.draw(camera, shown, canvas);
                if (!publish(new Picture(encoder.encode(Recorder.pixels(canvas)), shown))) {
                    return;
                }
                // A machine that is busy skips pictures rather than fall behind.
                shown = Math.max(
                        shown + Recorder.STEP,
                        Recorder.taken(camera, recorder.time().toEpochMilli() - Recorder.STEP));
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        } finally {
            end();
        }
    }

    /** False when nobody watches any more; the encoder then ends, and who comes next begins another. */
    private synchronized boolean publish(Picture picture) {
        if (watchers.isEmpty()) {
            thread = null;
            group.clear();
            return false;
        }
        if (picture.encoded().key()) {
            group.clear();
        }
        group.add(picture);
        for (Watcher watcher : watchers) {
            watcher.queue.add(picture);
        }
        return true;
    }

    private synchronized void end() {
        if (thread != Thread.currentThread()) {
            return;
        }
        thread = null;
        group.clear();
        watchers.forEach(w -> w.ended = true);
        watchers.clear();
    }

    @Override
    public void close() {
        Thread running;
        synchronized (this) {
            running = thread;
        }
        if (running != null) {
            running.interrupt();
        }
    }

    /** One who watches. */
    public final class Watcher implements AutoCloseable {
        private final BlockingQueue<Picture> queue = new LinkedBlockingQueue<>();
        private volatile boolean ended;
        private Picture next;

        /**
         * Waits for the first picture.
         *
         * @return its instant by the recorder's clock
         * @throws IOException if none comes
         */
        public Instant firstFrame() throws IOException {
            next = take();
            if (next == null) {
                throw new Recorder.NoPictureException("the camera gives no picture");
            }
            return Instant.ofEpochMilli(next.shown());
        }

        private Picture take() throws IOException {
            try {
                for (int i = 0; i < 20; i++) {
                    Picture picture = queue.poll(250, TimeUnit.MILLISECONDS);
                    if (picture != null || ended && queue.isEmpty()) {
                        return picture;
                    }
                }
                return null;
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                throw new IOException("the recorder is closing");
            }
        }

        /** Writes pictures as they come until the camera is lost, the other end is gone, or {@code going} says so. */
        public void stream(OutputStream out, java.util.function.BooleanSupplier going) throws IOException {
            long first = next.shown();
            try (TsWriter ts = new TsWriter(out, PracticeCamera.WIDTH, PracticeCamera.HEIGHT)) {
                while (next != null && going.getAsBoolean()) {
                    ts.write(next.encoded(), next.shown() - first);
                    if (queue.size() > BEHIND) {
                        throw new IOException("the other end is too slow");
                    }
                    next = take();
                }
            }
        }

        @Override
        public void close() {
            synchronized (LiveCamera.this) {
                watchers.remove(this);
            }
        }
    }
}
