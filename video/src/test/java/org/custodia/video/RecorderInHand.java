package org.custodia.video;

import java.io.FilterInputStream;
import java.io.FilterOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.io.PipedInputStream;
import java.io.PipedOutputStream;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.atomic.AtomicInteger;
import org.custodia.core.Patience;
import org.custodia.core.footage.Footage;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.link.RecorderLink;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.SystemId;
import org.custodia.practice.picture.CameraPictures;
import org.custodia.practice.picture.TimeStrip;
import org.custodia.practice.place.Installation;
import org.custodia.practice.place.PracticeCamera;
import org.custodia.practice.recorder.LiveCamera;
import org.custodia.practice.recorder.Recorder;
import org.custodia.practice.timeline.Incidents;
import org.custodia.practice.timeline.Journal;
import org.custodia.practice.timeline.Timeline;

/** A practice recorder without a network between, whose streams can be cut, held up and counted. */
final class RecorderInHand implements RecorderLink {
    static final SystemId RECORDER = new SystemId("quayside");
    static final CameraId VAULT = new CameraId("quayside/vault-outside");
    static final CameraId LOBBY = new CameraId("quayside/staff-lobby-outside");

    private static final Instant START = Instant.parse("2026-11-24T10:20:00Z");

    final Clock clock = Clock.offset(Clock.systemUTC(), Duration.between(Instant.now(), START));
    final AtomicInteger liveAsked = new AtomicInteger();
    final AtomicInteger playbackAsked = new AtomicInteger();
    final AtomicInteger stillAsked = new AtomicInteger();
    final AtomicInteger open = new AtomicInteger();
    final Recorder recorder;
    private final Timeline timeline;
    private final List<OutputStream> outs = new CopyOnWriteArrayList<>();
    private final Object gate = new Object();
    private boolean held;

    /**
     * @param readyAfter how long until what was recorded can be had
     */
    RecorderInHand(Path directory, Duration readyAfter) {
        timeline = new Timeline(
                7,
                LocalDate.of(2026, 11, 24),
                START,
                Installation.sternwick(),
                Incidents.none(),
                new Journal(directory.resolve("journal")));
        timeline.advanceTo(clock.instant());
        recorder = new Recorder(
                "quayside", "Quayside", readyAfter, timeline, new CameraPictures(timeline.scenes()), clock);
    }

    private Duration ahead() {
        return Duration.ofMillis(recorder.clock().ahead(clock.millis()));
    }

    private Instant theirs(Instant ours) {
        return ours.plus(ahead());
    }

    private Instant ours(Instant theirs) {
        return theirs.minus(ahead());
    }

    private PracticeCamera camera(CameraId id) {
        return recorder.camera(id.value().substring("quayside/".length())).orElseThrow();
    }

    /** The instant a picture shows, read from the strip in the picture itself. */
    Instant shownIn(Picture picture) {
        int[] luma = new int[picture.argb().length];
        for (int i = 0; i < luma.length; i++) {
            luma[i] = picture.argb()[i] >> 8 & 255;
        }
        return ours(Instant.ofEpochMilli(
                TimeStrip.read(luma, picture.width(), picture.height()).orElseThrow()));
    }

    /** The instant of the frame that stands for an instant. */
    Instant frameAtOrBefore(Instant at) throws IOException {
        return ours(recorder.firstFrame(camera(VAULT), theirs(at)));
    }

    /** A picture that may be kept. */
    static Picture copy(Picture p) {
        return new Picture(p.width(), p.height(), p.argb().clone(), p.at());
    }

    /** Cuts all that is running. */
    void cut() throws IOException {
        for (OutputStream out : outs) {
            out.close();
        }
        outs.clear();
    }

    /** Lets nothing more through, or everything again. */
    void hold(boolean on) {
        synchronized (gate) {
            held = on;
            gate.notifyAll();
        }
    }

    private interface Writing {
        void to(OutputStream out) throws IOException;
    }

    private InputStream stream(Writing writing) throws IOException {
        PipedInputStream in = new PipedInputStream(256 * 1024);
        OutputStream out = new FilterOutputStream(new PipedOutputStream(in)) {
            @Override
            public void write(byte[] bytes, int from, int length) throws IOException {
                synchronized (gate) {
                    while (held) {
                        try {
                            gate.wait();
                        } catch (InterruptedException e) {
                            throw new IOException(e);
                        }
                    }
                }
                out.write(bytes, from, length);
            }
        };
        outs.add(out);
        open.incrementAndGet();
        Thread thread = new Thread(() -> {
            try (out) {
                writing.to(out);
            } catch (IOException e) {
                // Whoever read it has closed it, or it was cut.
            }
        });
        thread.setDaemon(true);
        thread.start();
        return new FilterInputStream(in) {
            private boolean counted;

            @Override
            public void close() throws IOException {
                super.close();
                if (!counted) {
                    counted = true;
                    open.decrementAndGet();
                    // Ends a read that waits, as closing a connection does.
                    out.close();
                }
            }
        };
    }

    @Override
    public Stream live(CameraId id) throws IOException {
        liveAsked.incrementAndGet();
        LiveCamera.Watcher watcher = recorder.watch(camera(id));
        Instant first = watcher.firstFrame();
        return new Stream(
                stream(out -> {
                    try (watcher) {
                        watcher.stream(out, () -> true);
                    }
                }),
                ours(first));
    }

    @Override
    public Stream playback(CameraId id, Instant from, Instant to) throws IOException {
        playbackAsked.incrementAndGet();
        PracticeCamera camera = camera(id);
        Instant first;
        try {
            first = recorder.firstFrame(camera, theirs(from));
        } catch (IOException e) {
            // As a link hands on what its recorder says.
            throw new NoPictureException(Saying.quoted(e.getMessage()));
        }
        Instant last = theirs(to);
        return new Stream(stream(out -> recorder.playback(camera, first, last, out)), ours(first));
    }

    @Override
    public Still still(CameraId id, Instant at, int width) throws IOException {
        stillAsked.incrementAndGet();
        Recorder.Still still = recorder.still(camera(id), theirs(at), width);
        return new Still(still.jpeg(), ours(still.at()));
    }

    /** How far its clock is said to be off. */
    volatile Duration clockOff = Duration.ZERO;

    @Override
    public Duration clockAhead() {
        return clockOff;
    }

    @Override
    public SystemId system() {
        return RECORDER;
    }

    @Override
    public LinkStatus status() {
        return LinkStatus.starting(RECORDER, "in hand", START);
    }

    @Override
    public Optional<Footage> footage(CameraId camera) {
        return Optional.of(new Footage(ours(recorder.keptFrom()), recorder.readyAfter(), Optional.empty()));
    }

    @Override
    public void close() {
        hold(false);
        recorder.close();
        Patience.await().until(() -> recorder.encoding() == 0);
        timeline.close();
    }
}
