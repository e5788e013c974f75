package org.custodia.video;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.awt.image.BufferedImage;
import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.Random;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.atomic.AtomicInteger;
import javax.imageio.ImageIO;
import org.custodia.core.Patience;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.footage.Footage;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.link.RecorderLink;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.Crop;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** What video does with recorders that give nothing, or nonsense. */
class VideoWithoutPicturesTest {
    private static final SystemId RECORDER = new SystemId("quayside");
    private static final CameraId CAMERA = new CameraId("quayside/vault-outside");
    private static final Instant T = Instant.parse("2026-11-24T14:20:00Z");

    private final Clock clock = Clock.offset(Clock.systemUTC(), Duration.between(Instant.now(), T));
    private final FakeRecorder recorder = new FakeRecorder();
    private final VideoDesk video =
            new VideoDesk(s -> s.equals(RECORDER) ? Optional.of(recorder) : Optional.empty(), new ClockBook(), clock);

    @AfterEach
    void close() {
        video.close();
    }

    /** A recorder that gives what it is told to. */
    private static final class FakeRecorder implements RecorderLink {
        final AtomicInteger asked = new AtomicInteger();
        byte[] stream = new byte[0];
        byte[] jpeg = new byte[0];
        IOException failure;
        Footage footage = new Footage(T.minus(Duration.ofDays(21)), Duration.ZERO, Optional.empty());

        @Override
        public Duration clockAhead() {
            return Duration.ZERO;
        }

        @Override
        public SystemId system() {
            return RECORDER;
        }

        @Override
        public LinkStatus status() {
            return LinkStatus.starting(RECORDER, "fake", T);
        }

        @Override
        public Optional<Footage> footage(CameraId camera) {
            return Optional.of(footage);
        }

        @Override
        public Stream live(CameraId camera) throws IOException {
            return playback(camera, T, T);
        }

        @Override
        public Stream playback(CameraId camera, Instant from, Instant to) throws IOException {
            asked.incrementAndGet();
            if (failure != null) {
                throw failure;
            }
            return new Stream(new ByteArrayInputStream(stream), from);
        }

        @Override
        public Still still(CameraId camera, Instant at, int width) throws IOException {
            asked.incrementAndGet();
            if (failure != null) {
                throw failure;
            }
            return new Still(jpeg, at);
        }

        @Override
        public void close() {}
    }

    private static byte[] noise(int size) {
        byte[] bytes = new byte[size];
        new Random(3).nextBytes(bytes);
        return bytes;
    }

    private static byte[] jpeg(int width, int height) throws IOException {
        BufferedImage image = new BufferedImage(width, height, BufferedImage.TYPE_INT_RGB);
        for (int y = 0; y < height; y++) {
            for (int x = 0; x < width; x++) {
                image.setRGB(x, y, x < width / 2 ? 0xff0000 : 0x0000ff);
            }
        }
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        ImageIO.write(image, "jpg", out);
        return out.toByteArray();
    }

    @Test
    void a_live_picture_that_cannot_be_had_says_why_and_is_tried_again() {
        recorder.failure = new NoPictureException(Saying.quoted("the camera gives no picture"));
        List<PictureState> states = new CopyOnWriteArrayList<>();
        try (Pictures.Look look = video.live(CAMERA, RECORDER, () -> 320, p -> {}, states::add)) {
            Patience.await()
                    .until(() -> states.contains(new PictureState.None(Saying.quoted("the camera gives no picture"))));
            Patience.await().until(() -> recorder.asked.get() >= 2);
            assertThat(states.get(0)).isInstanceOf(PictureState.Connecting.class);
            assertThat(look).isNotNull();
        }
    }

    @Test
    void nonsense_in_place_of_a_stream_ends_in_words() {
        recorder.stream = noise(400_000);
        List<PictureState> states = new CopyOnWriteArrayList<>();
        try (Pictures.Look look = video.live(CAMERA, RECORDER, () -> 320, p -> {}, states::add)) {
            Patience.await().until(() -> states.stream().anyMatch(s -> s instanceof PictureState.None));
            assertThat(look).isNotNull();
        }
    }

    @Test
    void a_recorder_that_is_not_connected_is_named() {
        List<PictureState> states = new CopyOnWriteArrayList<>();
        video.live(CAMERA, new SystemId("nowhere"), () -> 320, p -> {}, states::add)
                .close();
        assertThat(states).singleElement().isInstanceOfSatisfying(PictureState.None.class, n -> assertThat(
                        n.why().text())
                .contains("nowhere"));
        assertThatThrownBy(() -> video.play(CAMERA, new SystemId("nowhere"), T, T, true, () -> 1, null))
                .hasMessageContaining("nowhere");
        assertThat(video.footage(CAMERA, new SystemId("nowhere"), T)).isEmpty();
    }

    @Test
    void playback_that_fails_says_why_and_can_be_closed() {
        recorder.failure = new NoPictureException(Saying.quoted("overwritten"));
        List<Playback.Status> told = new CopyOnWriteArrayList<>();
        Playback.Listener listener = new Playback.Listener() {
            @Override
            public void frame(Picture picture) {}

            @Override
            public void status(Playback.Status status) {
                told.add(status);
            }
        };
        try (Playback playback =
                video.play(CAMERA, RECORDER, T.minusSeconds(60), T.minusSeconds(50), false, () -> 320, listener)) {
            Patience.await().until(() -> told.stream().anyMatch(s -> s.mode() == Playback.Mode.FAILED));
            assertThat(told.get(told.size() - 1).failure()).contains(Saying.quoted("overwritten"));
            playback.step(1);
            playback.resume();
            assertThatThrownBy(() -> playback.speed(3)).isInstanceOf(IllegalArgumentException.class);
            recorder.failure = null;
            recorder.stream = noise(10_000);
            playback.seek(T.minusSeconds(500));
            Patience.await().until(() -> recorder.asked.get() >= 2);
        }
    }

    @Test
    void a_still_is_cut_and_scaled_and_fetched_once() throws IOException, ExecutionException, InterruptedException {
        recorder.jpeg = jpeg(640, 360);
        Crop right = new Crop(0.5, 0, 0.5, 1);
        Stills.Still still = video.stills()
                .still(CAMERA, RECORDER, T.minusSeconds(9), right, 90)
                .get();
        assertThat(still.picture().width()).isEqualTo(80);
        assertThat(still.picture().height()).isEqualTo(90);
        int middle = still.picture().argb()[45 * 80 + 40];
        assertThat(middle & 0xff).isGreaterThan(200);
        assertThat(middle >> 16 & 0xff).isLessThan(60);
        video.stills().still(CAMERA, RECORDER, T.minusSeconds(9), right, 90).get();
        assertThat(recorder.asked.get()).isEqualTo(1);
    }

    @Test
    void a_still_of_what_is_still_being_written_says_when_it_is_there() {
        recorder.footage = new Footage(T.minus(Duration.ofDays(21)), Duration.ofSeconds(40), Optional.empty());
        Instant asked = clock.instant().minusSeconds(5);
        assertThatThrownBy(() -> video.stills()
                        .still(CAMERA, RECORDER, asked, Crop.WHOLE, 90)
                        .get())
                .hasCauseInstanceOf(Stills.PendingException.class)
                .cause()
                .isInstanceOfSatisfying(Stills.PendingException.class, p -> assertThat(p.readyAt())
                        .isEqualTo(asked.minusNanos(asked.getNano() % 1_000_000).plusSeconds(40)));
        assertThat(recorder.asked.get()).isZero();
    }

    @Test
    void what_is_no_jpeg_is_said_so() {
        recorder.jpeg = noise(2_000);
        assertThatThrownBy(() -> video.stills()
                        .still(CAMERA, RECORDER, T.minusSeconds(99), Crop.WHOLE, 90)
                        .get())
                .isInstanceOf(ExecutionException.class);
        recorder.failure = new NoPictureException(Saying.quoted("overwritten; the oldest kept is of yesterday"));
        assertThatThrownBy(() -> video.stills()
                        .still(CAMERA, RECORDER, T.minusSeconds(98), Crop.WHOLE, 90)
                        .get())
                .hasMessageContaining("overwritten");
    }

    @Test
    void a_still_asked_for_at_the_very_end_fails_in_words() {
        video.close();
        assertThatThrownBy(() -> video.stills()
                        .still(CAMERA, RECORDER, T.minusSeconds(9), Crop.WHOLE, 90)
                        .get())
                .hasMessageContaining("closing");
    }

    @Test
    void a_crop_lies_inside_its_picture() {
        assertThatThrownBy(() -> new Crop(0.5, 0, 0.6, 1)).isInstanceOf(IllegalArgumentException.class);
        assertThatThrownBy(() -> new Crop(0, 0, 0, 1)).isInstanceOf(IllegalArgumentException.class);
        assertThatThrownBy(() -> new Crop(Double.NaN, 0, 1, 1)).isInstanceOf(IllegalArgumentException.class);
    }
}
