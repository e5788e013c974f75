package org.custodia.practice.recorder;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.awt.image.BufferedImage;
import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.OutputStream;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.util.List;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.stream.IntStream;
import javax.imageio.ImageIO;
import org.custodia.practice.Patience;
import org.custodia.practice.SteppedClock;
import org.custodia.practice.picture.CameraPictures;
import org.custodia.practice.picture.TimeStrip;
import org.custodia.practice.place.Installation;
import org.custodia.practice.place.PracticeCamera;
import org.custodia.practice.timeline.Act;
import org.custodia.practice.timeline.Incidents;
import org.custodia.practice.timeline.Journal;
import org.custodia.practice.timeline.Timeline;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class RecorderTest {
    private static final LocalDate DAY = LocalDate.of(2026, 11, 24);
    private static final Instant NIGHT = Instant.parse("2026-11-24T02:00:00Z");

    @TempDir
    Path directory;

    private final SteppedClock clock = new SteppedClock(NIGHT);
    private Timeline timeline;
    private Recorder quayside;
    private Recorder ferry;

    @BeforeEach
    void open() {
        timeline = new Timeline(
                7, DAY, NIGHT, Installation.sternwick(), Incidents.none(), new Journal(directory.resolve("journal")));
        timeline.advanceTo(NIGHT);
        CameraPictures pictures = new CameraPictures(timeline.scenes());
        quayside = new Recorder("quayside", "Quayside recorder", Duration.ZERO, timeline, pictures, clock);
        ferry = new Recorder("ferry", "Ferry recorder", Duration.ofSeconds(40), timeline, pictures, clock);
    }

    @AfterEach
    void close() {
        quayside.close();
        ferry.close();
        timeline.close();
    }

    private static PracticeCamera camera(Recorder recorder, String id) {
        return recorder.camera(id).orElseThrow();
    }

    private PracticeCamera vault() {
        return camera(quayside, "vault-outside");
    }

    private static BufferedImage image(byte[] jpeg) throws IOException {
        return ImageIO.read(new ByteArrayInputStream(jpeg));
    }

    private static long strip(BufferedImage image) {
        int w = image.getWidth();
        int[] luma = IntStream.range(0, w * image.getHeight())
                .map(i -> image.getRGB(i % w, i / w) >> 8 & 255)
                .toArray();
        return TimeStrip.read(luma, w, image.getHeight()).orElseThrow();
    }

    private byte[] footage(Instant from, Duration length) throws IOException {
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        Instant first = quayside.firstFrame(vault(), from);
        quayside.playback(vault(), first, first.plus(length), out);
        return out.toByteArray();
    }

    @Test
    void a_still_shows_the_last_picture_taken_and_says_which_instant_that_is_by_the_recorders_clock()
            throws IOException {
        Instant asked = quayside.time().minusSeconds(30);
        Recorder.Still still = quayside.still(vault(), asked, 640);
        assertThat(Duration.between(still.at(), asked)).isBetween(Duration.ZERO, Duration.ofMillis(Recorder.STEP - 1));
        assertThat(strip(image(still.jpeg()))).isEqualTo(still.at().toEpochMilli());
    }

    @Test
    void the_recorder_lives_by_its_own_clock() {
        assertThat(quayside.time()).isAfter(NIGHT.plusMillis(800));
        assertThat(quayside.clock().trueAt(quayside.time().toEpochMilli())).isEqualTo(NIGHT.toEpochMilli());
    }

    @Test
    void stills_keep_their_proportions_and_are_never_larger_than_the_camera() throws IOException {
        Instant at = quayside.time().minusSeconds(5);
        BufferedImage small = image(quayside.still(vault(), at, 320).jpeg());
        assertThat(small.getWidth()).isEqualTo(320);
        assertThat(small.getHeight()).isEqualTo(180);
        assertThat(image(quayside.still(vault(), at, 100_000).jpeg()).getWidth())
                .isEqualTo(PracticeCamera.WIDTH);
        assertThat(image(quayside.still(vault(), at, -5).jpeg()).getWidth()).isEqualTo(64);
    }

    @Test
    void what_cannot_be_had_is_refused_with_the_reason() {
        Instant now = quayside.time();
        assertThatThrownBy(() -> quayside.still(vault(), now.plusSeconds(60), 640))
                .isInstanceOf(Recorder.NoPictureException.class)
                .hasMessageContaining("not happened yet");
        assertThatThrownBy(() -> quayside.still(vault(), now.minus(Duration.ofDays(40)), 640))
                .isInstanceOf(Recorder.NoPictureException.class)
                .hasMessageContaining("overwritten");
        PracticeCamera gate = camera(ferry, "cy-gate-outside");
        assertThatThrownBy(() -> ferry.still(gate, ferry.time().minusSeconds(10), 640))
                .isInstanceOf(Recorder.NoPictureException.class)
                .hasMessageContaining("not ready before");
        timeline.act(Act.of("camera-lost").target("vault-outside"), clock.instant());
        clock.advance(Duration.ofSeconds(20));
        assertThat(quayside.lostSince(vault())).isPresent();
        assertThatThrownBy(() -> quayside.still(vault(), quayside.time().minusSeconds(5), 640))
                .isInstanceOf(Recorder.NoPictureException.class)
                .hasMessageContaining("gave no picture");
        assertThatThrownBy(() -> quayside.watch(vault())).isInstanceOf(Recorder.NoPictureException.class);
    }

    @Test
    void what_is_ready_late_can_be_had_when_it_is_ready() throws IOException {
        PracticeCamera gate = camera(ferry, "cy-gate-outside");
        Instant then = ferry.time().minusSeconds(10);
        clock.advance(Duration.ofSeconds(31));
        assertThat(strip(image(ferry.still(gate, then, 640).jpeg()))).isLessThanOrEqualTo(then.toEpochMilli());
    }

    @Test
    void footage_has_every_picture_from_the_first_asked_to_the_last_and_one_a_second_stands_alone() throws IOException {
        List<TransportStream.Picture> pictures =
                TransportStream.pictures(footage(quayside.time().minusSeconds(20), Duration.ofSeconds(3)));
        assertThat(pictures).hasSize(31);
        assertThat(pictures.get(0).standsAlone()).isTrue();
        assertThat(pictures.stream().filter(TransportStream.Picture::standsAlone))
                .hasSize(4);
        for (int i = 1; i < pictures.size(); i++) {
            assertThat(pictures.get(i).pts() - pictures.get(i - 1).pts()).isEqualTo(90 * Recorder.STEP);
        }
    }

    @Test
    void footage_ends_where_the_camera_was_lost() throws IOException {
        Instant from = quayside.time();
        clock.advance(Duration.ofSeconds(2));
        timeline.act(Act.of("camera-lost").target("vault-outside"), clock.instant());
        clock.advance(Duration.ofSeconds(10));
        int pictures =
                TransportStream.pictures(footage(from, Duration.ofSeconds(8))).size();
        assertThat(pictures).isBetween(19, 21);
    }

    @Test
    void an_end_that_is_gone_ends_the_footage_and_nothing_else() {
        Instant first = quayside.time().minusSeconds(20);
        OutputStream gone = new OutputStream() {
            private int room = 20_000;

            @Override
            public void write(int b) throws IOException {
                if (--room < 0) {
                    throw new IOException("gone");
                }
            }
        };
        assertThatThrownBy(() -> quayside.playback(vault(), first, first.plusSeconds(10), gone))
                .isInstanceOf(IOException.class)
                .hasMessage("gone");
    }

    /** What is thrown out of a native call ends the process, so nothing of the receiver's may get there. */
    @Test
    void even_a_receiver_that_fails_in_an_unexpected_way_ends_only_its_own_footage() throws IOException {
        Instant first = quayside.time().minusSeconds(20);
        OutputStream broken = new OutputStream() {
            @Override
            public void write(int b) {
                throw new IllegalStateException("blocked");
            }
        };
        assertThatThrownBy(() -> quayside.playback(vault(), first, first.plusSeconds(10), broken))
                .isInstanceOf(IllegalStateException.class);
        assertThat(footage(first, Duration.ofSeconds(1))).isNotEmpty();
    }

    @Test
    void a_camera_is_encoded_once_however_many_watch_and_not_at_all_when_nobody_does() throws IOException {
        assertThat(quayside.encoding()).isZero();
        LiveCamera.Watcher first = quayside.watch(vault());
        LiveCamera.Watcher second = quayside.watch(vault());
        LiveCamera.Watcher other = quayside.watch(camera(quayside, "staff-lobby-outside"));
        assertThat(quayside.encoding()).isEqualTo(2);
        first.close();
        other.close();
        Patience.await().until(() -> {
            clock.advance(Duration.ofMillis(100));
            return quayside.encoding() == 1;
        });
        second.close();
        Patience.await().until(() -> {
            clock.advance(Duration.ofMillis(100));
            return quayside.encoding() == 0;
        });
    }

    @Test
    void whoever_begins_to_watch_begins_with_a_picture_that_stands_alone() throws Exception {
        try (LiveCamera.Watcher early = quayside.watch(vault())) {
            early.firstFrame();
            clock.advance(Duration.ofMillis(350));
            Recording late = new Recording(quayside.watch(vault()));
            Patience.await().until(() -> {
                clock.advance(Duration.ofMillis(100));
                return late.pictures().size() >= 12;
            });
            List<TransportStream.Picture> pictures = late.stop();
            assertThat(pictures.get(0).standsAlone()).isTrue();
            assertThat(pictures.stream().filter(TransportStream.Picture::standsAlone))
                    .hasSizeGreaterThanOrEqualTo(2);
        }
    }

    @Test
    void a_live_picture_ends_when_its_camera_is_lost() throws Exception {
        Recording recording = new Recording(quayside.watch(vault()));
        Patience.await().until(() -> {
            clock.advance(Duration.ofMillis(100));
            return recording.pictures().size() >= 3;
        });
        timeline.act(Act.of("camera-lost").target("vault-outside"), clock.instant());
        Patience.await().until(() -> {
            clock.advance(Duration.ofMillis(100));
            return recording.ended();
        });
        assertThat(quayside.encoding()).isZero();
    }

    /** Takes off a live picture on a thread of its own. */
    private static final class Recording {
        private final ByteArrayOutputStream out = new ByteArrayOutputStream();
        private final AtomicBoolean going = new AtomicBoolean(true);
        private final Thread thread;

        Recording(LiveCamera.Watcher watcher) {
            thread = new Thread(() -> {
                try (watcher) {
                    watcher.firstFrame();
                    watcher.stream(out, going::get);
                } catch (IOException e) {
                    throw new AssertionError(e);
                }
            });
            thread.start();
        }

        List<TransportStream.Picture> pictures() {
            byte[] bytes = out.toByteArray();
            return TransportStream.pictures(java.util.Arrays.copyOf(bytes, bytes.length / 188 * 188));
        }

        boolean ended() {
            return !thread.isAlive();
        }

        List<TransportStream.Picture> stop() throws InterruptedException {
            going.set(false);
            thread.join();
            return pictures();
        }
    }
}
