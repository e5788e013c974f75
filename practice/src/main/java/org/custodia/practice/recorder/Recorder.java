package org.custodia.practice.recorder;

import java.awt.image.BufferedImage;
import java.awt.image.DataBufferInt;
import java.io.IOException;
import java.io.OutputStream;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.practice.picture.CameraPictures;
import org.custodia.practice.picture.Jpeg;
import org.custodia.practice.place.PracticeCamera;
import org.custodia.practice.timeline.SystemClock;
import org.custodia.practice.timeline.Timeline;
import org.custodia.wire.RecorderMessages;

/** One recorder: the cameras of its buildings, by its own clock, with its own delay. Safe for several threads. */
public final class Recorder implements AutoCloseable {
    /** Pictures a second. */
    public static final int FPS = 10;
    /** From one picture to the next, in milliseconds. */
    public static final long STEP = 1000 / FPS;
    /** How long footage is kept. */
    public static final Duration KEPT = Duration.ofDays(21);

    private final String id;
    private final String name;
    private final Duration readyAfter;
    private final Timeline timeline;
    private final CameraPictures pictures;
    private final Clock clock;
    private final List<PracticeCamera> cameras;
    private final Map<String, LiveCamera> live = new HashMap<>();

    /**
     * @param readyAfter how long until what was recorded can be had
     */
    public Recorder(
            String id, String name, Duration readyAfter, Timeline timeline, CameraPictures pictures, Clock clock) {
        this.id = id;
        this.name = name;
        this.readyAfter = readyAfter;
        this.timeline = timeline;
        this.pictures = pictures;
        this.clock = clock;
        this.cameras = timeline.place().cameras().stream()
                .filter(c -> c.building().recorder().equals(id))
                .toList();
    }

    public String id() {
        return id;
    }

    public String name() {
        return name;
    }

    public List<PracticeCamera> cameras() {
        return cameras;
    }

    public Duration readyAfter() {
        return readyAfter;
    }

    public SystemClock clock() {
        return timeline.recorderClock(id);
    }

    /** The recorder's own time. */
    public Instant time() {
        return Instant.ofEpochMilli(clock().shows(clock.millis()));
    }

    /** The oldest instant kept, by its own clock. */
    public Instant keptFrom() {
        Instant from = time().minus(KEPT);
        Instant begin = Instant.ofEpochMilli(clock().shows(timeline.start().toEpochMilli()));
        return from.isAfter(begin) ? from : begin;
    }

    public Optional<PracticeCamera> camera(String camera) {
        return cameras.stream().filter(c -> c.id().equals(camera)).findFirst();
    }

    /** Since when a camera gives no picture, by the recorder's clock. */
    public Optional<Instant> lostSince(PracticeCamera camera) {
        long since = timeline.scenes().lostSince(camera.id(), clock.millis());
        return since < 0 ? Optional.empty() : Optional.of(Instant.ofEpochMilli(clock().shows(since)));
    }

    /** Spans of what is kept in which a camera gave no picture and gave one again, by the recorder's clock. */
    public List<RecorderMessages.Missing> missing(PracticeCamera camera) {
        Instant from = keptFrom();
        return timeline.scenes().lost(camera.id()).stream()
                .map(l -> new RecorderMessages.Missing(
                        Instant.ofEpochMilli(clock().shows(l.from())), Instant.ofEpochMilli(clock().shows(l.to()))))
                .filter(m -> m.to().isAfter(from) && !m.from().isAfter(time()))
                .toList();
    }

    /** There is nothing to show; the message says why. */
    public static final class NoPictureException extends IOException {
        private static final long serialVersionUID = 1L;

        NoPictureException(String message) {
            super(message);
        }
    }

    /** Draws what a camera saw at a time shown by the recorder's clock. */
    void draw(PracticeCamera camera, long shown, BufferedImage canvas) {
        pictures.draw(camera, clock().trueAt(shown), shown, canvas);
    }

    /** The last time at or before one at which a camera took a picture; no two cameras need be in step. */
    static long taken(PracticeCamera camera, long shown) {
        long phase = Math.floorMod(camera.id().hashCode(), STEP);
        return Math.floorDiv(shown - phase, STEP) * STEP + phase;
    }

    /**
     * One frame as JPEG.
     *
     * @param at by the recorder's clock
     */
    public Still still(PracticeCamera camera, Instant at, int width) throws NoPictureException {
        long shown = taken(camera, at.toEpochMilli());
        check(camera, shown);
        BufferedImage image = CameraPictures.canvas();
        draw(camera, shown, image);
        int w = Math.max(64, Math.min(width, PracticeCamera.WIDTH));
        BufferedImage scaled = image;
        if (w < PracticeCamera.WIDTH) {
            int h = w * PracticeCamera.HEIGHT / PracticeCamera.WIDTH;
            scaled = new BufferedImage(w, h, BufferedImage.TYPE_INT_RGB);
            var g = scaled.createGraphics();
            g.setRenderingHint(
                    java.awt.RenderingHints.KEY_INTERPOLATION, java.awt.RenderingHints.VALUE_INTERPOLATION_BILINEAR);
            g.drawImage(image, 0, 0, w, h, null);
            g.dispose();
        }
        return new Still(Jpeg.of(scaled), Instant.ofEpochMilli(shown));
    }

    /** One frame, and the instant it shows by the recorder's clock. */
    public record Still(byte[] jpeg, Instant at) {}

    private void check(PracticeCamera camera, long shown) throws NoPictureException {
        long now = time().toEpochMilli();
        if (shown > now) {
            throw new NoPictureException("that has not happened yet");
        }
        if (shown + readyAfter.toMillis() > now) {
            throw new NoPictureException(
                    "not ready before " + Instant.ofEpochMilli(shown).plus(readyAfter));
        }
        if (shown < keptFrom().toEpochMilli()) {
            throw new NoPictureException("overwritten; the oldest kept is of " + keptFrom());
        }
        long since = timeline.scenes().lostSince(camera.id(), clock().trueAt(shown));
        if (since >= 0) {
            throw new NoPictureException("the camera gave no picture then");
        }
    }

    /** When the first frame of a playback will be, by the recorder's clock. */
    public Instant firstFrame(PracticeCamera camera, Instant from) throws NoPictureException {
        long shown = taken(camera, from.toEpochMilli());
        check(camera, shown);
        return Instant.ofEpochMilli(shown);
    }

    /**
     * Writes footage as fast as it is taken off; what is still to come is written when it is ready.
     *
     * @param from a first frame as {@link #firstFrame} gave it
     * @throws IOException when the other end is gone
     */
    public void playback(PracticeCamera camera, Instant from, Instant to, OutputStream out) throws IOException {
        long first = from.toEpochMilli();
        long last = taken(camera, to.toEpochMilli());
        try (H264Encoder encoder = new H264Encoder(PracticeCamera.WIDTH, PracticeCamera.HEIGHT, FPS, FPS);
                TsWriter ts = new TsWriter(out, PracticeCamera.WIDTH, PracticeCamera.HEIGHT)) {
            BufferedImage canvas = CameraPictures.canvas();
            for (long shown = first; shown <= last; shown += STEP) {
                awaitReady(shown);
                if (timeline.scenes().lostSince(camera.id(), clock().trueAt(shown)) >= 0) {
                    return;
                }
                draw(camera, shown, canvas);
                ts.write(encoder.encode(pixels(canvas)), shown - first);
            }
        }
    }

    private void awaitReady(long shown) throws IOException {
        long wait = shown + readyAfter.toMillis() - time().toEpochMilli();
        while (wait > 0) {
            try {
                Thread.sleep(Math.min(wait, 200));
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                throw new IOException("the recorder is closing");
            }
            wait = shown + readyAfter.toMillis() - time().toEpochMilli();
        }
    }

    static int[] pixels(BufferedImage image) {
        return ((DataBufferInt) image.getRaster().getDataBuffer()).getData();
    }

    /** Watches a camera live; it is encoded once however many watch. */
    public LiveCamera.Watcher watch(PracticeCamera camera) throws NoPictureException {
        if (lostSince(camera).isPresent()) {
            throw new NoPictureException("the camera gives no picture");
        }
        synchronized (live) {
            LiveCamera shared = live.computeIfAbsent(camera.id(), c -> new LiveCamera(this, camera, timeline, clock));
            return shared.watch();
        }
    }

    /** How many cameras are being encoded live. */
    public int encoding() {
        synchronized (live) {
            return (int) live.values().stream().filter(LiveCamera::running).count();
        }
    }

    @Override
    public void close() {
        synchronized (live) {
            live.values().forEach(LiveCamera::close);
            live.clear();
        }
    }
}
