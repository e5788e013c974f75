package org.custodia.video;

import com.github.benmanes.caffeine.cache.Cache;
import com.github.benmanes.caffeine.cache.Caffeine;
import java.awt.Graphics2D;
import java.awt.RenderingHints;
import java.awt.image.BufferedImage;
import java.awt.image.DataBufferInt;
import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.Executor;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.function.Function;
import javax.imageio.ImageIO;
import org.custodia.core.footage.Footage;
import org.custodia.core.footage.JpegSize;
import org.custodia.core.footage.ReadyTimes;
import org.custodia.core.link.RecorderLink;
import org.custodia.core.mishap.Threads;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.Crop;
import org.custodia.core.site.SystemId;

/** Fetches single frames, cut to a part of the picture, on threads of its own, and remembers them. */
public final class Stills implements AutoCloseable {
    /** Some four hundred faces, as many as the largest window shows with as many again to look back at; 40 MB. */
    private static final long MOST_PIXELS = 10_000_000;

    private static final int FULL_WIDTH = 640;
    private static final int TRIES = 4;
    private static final Duration TRY_AGAIN = Duration.ofMillis(250);

    private final Function<SystemId, Optional<RecorderLink>> recorders;
    private final Function<CameraId, Optional<LiveFeed>> feeds;
    private final Clock clock;
    private final ExecutorService workers;
    private final Cache<Wanted, Still> cache;
    private final ReadyTimes readyTimes = new ReadyTimes();
    private final Map<Wanted, CompletableFuture<Still>> running = new ConcurrentHashMap<>();

    private record Wanted(CameraId camera, Instant at, Crop crop, int height) {}

    /**
     * A frame.
     *
     * @param betterAt when the recorder will have its own frame; nothing if this is it
     */
    public record Still(Picture picture, Optional<Instant> betterAt) {}

    Stills(
            Function<SystemId, Optional<RecorderLink>> recorders,
            Function<CameraId, Optional<LiveFeed>> feeds,
            Clock clock) {
        this.recorders = recorders;
        this.feeds = feeds;
        this.clock = clock;
        this.workers = Executors.newFixedThreadPool(3, Threads.factory("stills"));
        this.cache = Caffeine.newBuilder()
                .maximumWeight(MOST_PIXELS)
                .<Wanted, Still>weigher(
                        (k, v) -> v.picture().width() * v.picture().height())
                .executor(Runnable::run)
                .build();
    }

    /**
     * The frame of an instant, or the last before it.
     *
     * @param crop the part of the picture wanted
     * @param height wanted height of that part in pixels
     * @return fails with a message in words for the operator
     */
    public CompletableFuture<Still> still(CameraId camera, SystemId recorder, Instant at, Crop crop, int height) {
        Wanted wanted = new Wanted(camera, at.minusNanos(at.getNano() % 1_000_000), crop, height);
        Still known = cache.getIfPresent(wanted);
        if (known != null) {
            return CompletableFuture.completedFuture(known);
        }
        CompletableFuture<Still> underWay = running.get(wanted);
        if (underWay != null) {
            return underWay;
        }
        // What has not happened yet is asked for when it has.
        long ahead = Duration.between(clock.instant(), wanted.at()).toMillis();
        Executor when =
                ahead > 0 ? CompletableFuture.delayedExecutor(ahead + 120, TimeUnit.MILLISECONDS, workers) : workers;
        CompletableFuture<Still> result;
        try {
            result = CompletableFuture.supplyAsync(() -> fetch(wanted, recorder), when);
        } catch (RejectedExecutionException e) {
            return CompletableFuture.failedFuture(new NoPictureException(Saying.of("picture.closing")));
        }
        running.put(wanted, result);
        result.whenComplete((still, failure) -> {
            // What will be better later is not worth remembering.
            if (failure == null && still.betterAt().isEmpty()) {
                cache.put(wanted, still);
            }
            running.remove(wanted);
        });
        return result;
    }

    private Still fetch(Wanted wanted, SystemId recorder) {
        RecorderLink link = recorders
                .apply(recorder)
                .orElseThrow(() -> new CompletionException(
                        new NoPictureException(RecorderNotConnectedException.notConnected(recorder))));
        IOException failure = new NoPictureException(Saying.of("picture.none"));
        for (int i = 0; i < TRIES; i++) {
            Optional<Footage.At> there = Optional.empty();
            try {
                there = link.footage(wanted.camera()).map(f -> f.at(wanted.at(), clock.instant()));
                if (there.isPresent() && there.get() instanceof Footage.At.Pending pending) {
                    return fromLive(wanted, pending.readyAt());
                }
                // Twice the wanted height where there is more: a crop is only a part of the picture.
                double full = wanted.height() / wanted.crop().height() * 16 / 9;
                int width = (int) Math.min(FULL_WIDTH, Math.max(160, full));
                RecorderLink.Still still = link.still(wanted.camera(), wanted.at(), width);
                readyTimes.asked(wanted.camera(), Duration.between(wanted.at(), clock.instant()), true);
                return new Still(cut(decode(still.jpeg()), wanted, still.at()), Optional.empty());
            } catch (IOException e) {
                failure = e;
                if (there.filter(Footage.At.Ready.class::isInstance).isPresent()) {
                    readyTimes.asked(wanted.camera(), Duration.between(wanted.at(), clock.instant()), false);
                }
                // A picture of this very moment may be a blink away.
                boolean fresh = Duration.between(wanted.at(), clock.instant()).compareTo(Duration.ofSeconds(3)) < 0;
                if (!fresh || !pause()) {
                    break;
                }
            }
        }
        throw new CompletionException(failure);
    }

    /** How long footage was seen to take until it was ready. */
    ReadyTimes readyTimes() {
        return readyTimes;
    }

    private static boolean pause() {
        try {
            Thread.sleep(TRY_AGAIN.toMillis());
            return true;
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            return false;
        }
    }

    private Still fromLive(Wanted wanted, Instant readyAt) throws IOException {
        List<EncodedFrame> kept =
                feeds.apply(wanted.camera()).map(f -> f.kept(wanted.at())).orElse(List.of());
        Picture found = null;
        try (FrameDecoder decoder = new FrameDecoder()) {
            for (int i = 0; i < kept.size() && !kept.get(i).at().isAfter(wanted.at()); i++) {
                boolean last = i + 1 == kept.size() || kept.get(i + 1).at().isAfter(wanted.at());
                found = decoder.decode(kept.get(i), last ? FULL_WIDTH : 0).orElse(found);
            }
        }
        if (found == null) {
            throw new PendingException(readyAt);
        }
        BufferedImage image = new BufferedImage(found.width(), found.height(), BufferedImage.TYPE_INT_RGB);
        System.arraycopy(found.argb(), 0, pixels(image), 0, found.argb().length);
        return new Still(cut(image, wanted, found.at()), Optional.of(readyAt));
    }

    /** The recorder will have the picture later. */
    public static final class PendingException extends NoPictureException {
        private static final long serialVersionUID = 1L;
        private final transient Instant readyAt;

        public PendingException(Instant readyAt) {
            super(Saying.of("picture.still-written", readyAt));
            this.readyAt = readyAt;
        }

        public Instant readyAt() {
            return readyAt;
        }
    }

    /** Decodes a JPEG, if there is room for what it says it is. */
    static BufferedImage decode(byte[] jpeg) {
        try {
            if (JpegSize.of(jpeg).filter(JpegSize::reasonable).isEmpty()) {
                throw new NoPictureException(Saying.of("picture.no-jpeg"));
            }
            BufferedImage image = ImageIO.read(new ByteArrayInputStream(jpeg));
            if (image == null) {
                throw new NoPictureException(Saying.of("picture.no-picture"));
            }
            return image;
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** A JPEG as a picture, for enrolled photos. */
    public static Picture picture(byte[] jpeg, int height) {
        BufferedImage image = decode(jpeg);
        return cut(image, new Wanted(null, Instant.EPOCH, Crop.WHOLE, height), Instant.EPOCH);
    }

    private static Picture cut(BufferedImage image, Wanted wanted, Instant at) {
        Crop c = wanted.crop();
        int x = (int) Math.round(c.x() * image.getWidth());
        int y = (int) Math.round(c.y() * image.getHeight());
        int w = Math.max(1, Math.min(image.getWidth() - x, (int) Math.round(c.width() * image.getWidth())));
        int h = Math.max(1, Math.min(image.getHeight() - y, (int) Math.round(c.height() * image.getHeight())));
        int height = wanted.height();
        int width = Math.max(1, Math.round((float) height * w / h));
        BufferedImage out = new BufferedImage(width, height, BufferedImage.TYPE_INT_ARGB);
        Graphics2D g = out.createGraphics();
        g.setRenderingHint(RenderingHints.KEY_INTERPOLATION, RenderingHints.VALUE_INTERPOLATION_BICUBIC);
        g.drawImage(image, 0, 0, width, height, x, y, x + w, y + h, null);
        g.dispose();
        return new Picture(width, height, pixels(out), at);
    }

    private static int[] pixels(BufferedImage image) {
        return ((DataBufferInt) image.getRaster().getDataBuffer()).getData();
    }

    @Override
    public void close() {
        workers.shutdownNow();
    }
}
