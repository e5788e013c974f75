package org.custodia.video;

import java.time.Duration;
import java.time.Instant;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.function.Consumer;
import java.util.function.IntSupplier;
import org.custodia.core.footage.Footage;
import org.custodia.core.footage.ReadyTimes;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.Crop;
import org.custodia.core.site.SystemId;
import org.custodia.core.workplace.Permit;
import org.custodia.core.workplace.Sight;

/** The pictures that one operator may see. Owns nothing: what runs is the {@link VideoDesk}'s. */
public final class Pictures {
    private final VideoDesk desk;
    private final Permit permit;

    public Pictures(VideoDesk desk, Permit permit) {
        this.desk = desk;
        this.permit = permit;
    }

    /** Looks at a camera live; close to look away. */
    public interface Look extends AutoCloseable {
        @Override
        void close();
    }

    /**
     * Looks at a camera live. Whoever may not is told so as the picture's state.
     *
     * @param width how many pixels wide it is shown, asked for each frame; 0 while nobody can see it
     * @param frames told each frame, whose pixels are used again for the next; must return quickly
     * @param states told of changes, likewise
     */
    public Look live(
            CameraId camera,
            SystemId recorder,
            IntSupplier width,
            Consumer<Picture> frames,
            Consumer<PictureState> states) {
        if (!permit.seesLive(camera)) {
            states.accept(new PictureState.None(permit.refusal(Sight.PICTURES).saying()));
            return () -> {};
        }
        return desk.live(camera, recorder, width, frames, states);
    }

    /**
     * Plays footage; close it to stop.
     *
     * @param paused shows the first frame and waits
     * @param width how many pixels wide it is shown
     * @throws NotPermittedException if footage of that time cannot be seen
     * @throws RecorderNotConnectedException if the recorder is not connected
     */
    public Playback play(
            CameraId camera,
            SystemId recorder,
            Instant from,
            Instant to,
            boolean paused,
            IntSupplier width,
            Playback.Listener listener) {
        if (!permit.seesPictures(camera, from)) {
            throw permit.refusal(Sight.PAST);
        }
        return desk.play(camera, recorder, from, to, paused, width, listener);
    }

    /**
     * The frame of an instant, or the last before it.
     *
     * @param crop the part of the picture wanted
     * @param height wanted height of that part in pixels
     * @return fails with what {@link org.custodia.core.saying.Says} why
     */
    public CompletableFuture<Stills.Still> still(
            CameraId camera, SystemId recorder, Instant at, Crop crop, int height) {
        if (!permit.seesPictures(camera, at)) {
            return CompletableFuture.failedFuture(
                    new NoPictureException(permit.refusal(Sight.PAST).saying()));
        }
        return desk.stills().still(camera, recorder, at, crop, height);
    }

    /** How long a camera's footage was seen to take until it was ready; nothing where none was asked for, or can be seen. */
    public Optional<ReadyTimes.Seen> readySeen(CameraId camera) {
        return permit.seesPictures(camera, now()) ? desk.stills().readyTimes().of(camera) : Optional.empty();
    }

    /** What footage there is of a camera at an instant; nothing where that is not known, or cannot be seen. */
    public Optional<Footage.At> footage(CameraId camera, SystemId recorder, Instant at) {
        return permit.seesPictures(camera, at) ? desk.footage(camera, recorder, at) : Optional.empty();
    }

    /** All footage there is of a camera; nothing where that is not known, or cannot be seen. */
    public Optional<Footage> footage(CameraId camera, SystemId recorder) {
        return permit.seesPictures(camera, Instant.EPOCH) ? desk.footage(camera, recorder) : Optional.empty();
    }

    /** Since when a camera gives no picture, if its recorder says so and it could be seen. */
    public Optional<Instant> lostSince(CameraId camera, SystemId recorder) {
        return permit.seesLive(camera) ? desk.lostSince(camera, recorder) : Optional.empty();
    }

    /** How far the times of a recorder's pictures of an instant may be off; none while its clock was never measured. */
    public Duration unsure(SystemId recorder, Instant at) {
        return desk.unsure(recorder, at).orElse(Duration.ZERO);
    }

    /** What time it is for whoever looks. */
    public Instant now() {
        return desk.now();
    }
}
