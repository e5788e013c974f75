package org.custodia.video;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.function.Consumer;
import java.util.function.Function;
import java.util.function.IntSupplier;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.footage.Footage;
import org.custodia.core.link.RecorderLink;
import org.custodia.core.mishap.Threads;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.SystemId;

/** All pictures of all recorders: one live feed a camera, playbacks, stills. Owns their threads. */
public final class VideoDesk implements AutoCloseable {
    private static final Duration LINGER = Duration.ofSeconds(8);

    private final Function<SystemId, Optional<RecorderLink>> recorders;
    private final Clock clock;
    private final Duration linger;
    private final Map<CameraId, LiveFeed> feeds = new HashMap<>();
    private final Map<CameraId, Long> idleSince = new HashMap<>();
    private final ClockBook clocks;
    private final Stills stills;
    private final ScheduledExecutorService housekeeping;

    /**
     * @param clocks says how sure the times of pictures are
     */
    public VideoDesk(Function<SystemId, Optional<RecorderLink>> recorders, ClockBook clocks, Clock clock) {
        this(recorders, clocks, clock, LINGER);
    }

    VideoDesk(Function<SystemId, Optional<RecorderLink>> recorders, ClockBook clocks, Clock clock, Duration linger) {
        this.recorders = recorders;
        this.clocks = clocks;
        this.linger = linger;
        this.clock = clock;
        this.stills = new Stills(recorders, this::feed, clock);
        this.housekeeping = Executors.newSingleThreadScheduledExecutor(Threads.factory("video housekeeping"));
        housekeeping.scheduleWithFixedDelay(this::tidy, 500, 500, TimeUnit.MILLISECONDS);
    }

    /** How far the times of a recorder's pictures of an instant may be off; nothing while its clock was never measured. */
    Optional<Duration> unsure(SystemId recorder, Instant at) {
        return clocks.estimate(recorder, at).map(ClockBook.Estimate::uncertainty);
    }

    /**
     * Looks at a camera live.
     *
     * @param width how many pixels wide it is shown, asked for each frame; 0 while nobody can see it
     * @param frames told each frame, whose pixels are used again for the next; must return quickly
     * @param states told of changes, likewise
     */
    public Pictures.Look live(
            CameraId camera,
            SystemId recorder,
            IntSupplier width,
            Consumer<Picture> frames,
            Consumer<PictureState> states) {
        Optional<RecorderLink> link = recorders.apply(recorder);
        if (link.isEmpty()) {
            states.accept(new PictureState.None(RecorderNotConnectedException.notConnected(recorder)));
            return () -> {};
        }
        LiveFeed.Viewer viewer = new LiveFeed.Viewer() {
            @Override
            public int width() {
                return width.getAsInt();
            }

            @Override
            public void frame(Picture picture) {
                frames.accept(picture);
            }

            @Override
            public void state(PictureState state) {
                states.accept(state);
            }
        };
        LiveFeed feed;
        synchronized (feeds) {
            feed = feeds.computeIfAbsent(camera, c -> new LiveFeed(c, link.get(), clock));
            idleSince.remove(camera);
            feed.add(viewer);
        }
        return () -> feed.remove(viewer);
    }

    /**
     * Plays footage; close it to stop.
     *
     * @param paused shows the first frame and waits
     * @param width how many pixels wide it is shown
     */
    public Playback play(
            CameraId camera,
            SystemId recorder,
            Instant from,
            Instant to,
            boolean paused,
            IntSupplier width,
            Playback.Listener listener) {
        RecorderLink link = recorders.apply(recorder).orElseThrow(() -> new RecorderNotConnectedException(recorder));
        return new Playback(camera, link, feed(camera), clock, from, to, paused, width, listener);
    }

    /** What footage there is of a camera at an instant; nothing while its recorder has not said. */
    public Optional<Footage.At> footage(CameraId camera, SystemId recorder, Instant at) {
        return recorders.apply(recorder).flatMap(r -> r.footage(camera)).map(f -> f.at(at, clock.instant()));
    }

    /** All footage there is of a camera; nothing while its recorder has not said. */
    public Optional<Footage> footage(CameraId camera, SystemId recorder) {
        return recorders.apply(recorder).flatMap(r -> r.footage(camera));
    }

    /** Since when a camera gives no picture, if its recorder says so. */
    public Optional<Instant> lostSince(CameraId camera, SystemId recorder) {
        return recorders.apply(recorder).flatMap(r -> r.footage(camera)).flatMap(Footage::lostSince);
    }

    /** What time it is for whoever looks. */
    public Instant now() {
        return clock.instant();
    }

    public Stills stills() {
        return stills;
    }

    private Optional<LiveFeed> feed(CameraId camera) {
        synchronized (feeds) {
            return Optional.ofNullable(feeds.get(camera));
        }
    }

    /** How many cameras are being fetched. */
    public int running() {
        synchronized (feeds) {
            return feeds.size();
        }
    }

    private void tidy() {
        synchronized (feeds) {
            long now = System.nanoTime();
            feeds.entrySet().removeIf(entry -> {
                entry.getValue().check();
                if (!entry.getValue().idle()) {
                    idleSince.remove(entry.getKey());
                    return false;
                }
                long since = idleSince.computeIfAbsent(entry.getKey(), c -> now);
                if (now - since < linger.toNanos()) {
                    return false;
                }
                idleSince.remove(entry.getKey());
                entry.getValue().close();
                return true;
            });
        }
    }

    @Override
    public void close() {
        housekeeping.shutdownNow();
        synchronized (feeds) {
            feeds.values().forEach(LiveFeed::close);
            feeds.clear();
        }
        stills.close();
    }
}
