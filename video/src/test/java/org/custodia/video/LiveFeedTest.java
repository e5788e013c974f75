package org.custodia.video;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.video.RecorderInHand.LOBBY;
import static org.custodia.video.RecorderInHand.RECORDER;
import static org.custodia.video.RecorderInHand.VAULT;

import java.io.IOException;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.atomic.AtomicInteger;
import org.custodia.core.Patience;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.site.CameraId;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class LiveFeedTest {
    @TempDir
    Path directory;

    private RecorderInHand recorder;
    private VideoDesk video;

    @BeforeEach
    void open() {
        recorder = new RecorderInHand(directory, Duration.ZERO);
        video = new VideoDesk(
                s -> s.equals(RECORDER) ? Optional.of(recorder) : Optional.empty(),
                new ClockBook(),
                recorder.clock,
                Duration.ofMillis(100));
    }

    @AfterEach
    void close() {
        video.close();
        recorder.close();
    }

    /** One who looks, and remembers what there was to see. */
    private final class Eye implements AutoCloseable {
        final AtomicInteger width = new AtomicInteger(320);
        final List<Picture> pictures = new CopyOnWriteArrayList<>();
        final List<PictureState> states = new CopyOnWriteArrayList<>();
        private final Pictures.Look look;

        Eye(CameraId camera) {
            look = video.live(camera, RECORDER, width::get, p -> pictures.add(RecorderInHand.copy(p)), states::add);
        }

        PictureState state() {
            return states.get(states.size() - 1);
        }

        void sees(int more) {
            int wanted = pictures.size() + more;
            Patience.await().until(() -> pictures.size() >= wanted);
        }

        @Override
        public void close() {
            look.close();
        }
    }

    @Test
    void pictures_come_in_order_and_each_says_the_instant_that_it_shows() {
        try (Eye eye = new Eye(VAULT)) {
            eye.sees(12);
            assertThat(eye.states.get(0)).isInstanceOf(PictureState.Connecting.class);
            assertThat(eye.state()).isInstanceOf(PictureState.Live.class);
            Instant before = Instant.MIN;
            for (Picture picture : eye.pictures) {
                assertThat(picture.at()).isAfter(before);
                assertThat(Duration.between(recorder.shownIn(picture), picture.at())
                                .abs())
                        .isLessThan(Duration.ofMillis(3));
                before = picture.at();
            }
        }
    }

    @Test
    void a_camera_is_fetched_once_for_all_who_look_as_wide_as_the_widest_wants() {
        try (Eye small = new Eye(VAULT);
                Eye large = new Eye(VAULT)) {
            large.width.set(640);
            small.sees(3);
            large.sees(3);
            assertThat(recorder.liveAsked.get()).isEqualTo(1);
            assertThat(video.running()).isEqualTo(1);
            assertThat(large.pictures.get(large.pictures.size() - 1).width()).isEqualTo(640);
        }
    }

    @Test
    void whoever_cannot_see_it_gets_no_pictures_until_that_changes() {
        try (Eye eye = new Eye(VAULT);
                Eye hidden = new Eye(VAULT)) {
            hidden.width.set(0);
            eye.sees(5);
            int before = hidden.pictures.size();
            eye.sees(5);
            assertThat(hidden.pictures.size()).isLessThanOrEqualTo(before + 1);
            hidden.width.set(160);
            hidden.sees(3);
        }
    }

    @Test
    void who_comes_later_sees_the_last_picture_at_once() {
        try (Eye eye = new Eye(VAULT)) {
            eye.sees(3);
            recorder.hold(true);
            Picture last = eye.pictures.get(eye.pictures.size() - 1);
            try (Eye late = new Eye(VAULT)) {
                assertThat(late.pictures).isNotEmpty();
                assertThat(late.pictures.get(0).at()).isAfterOrEqualTo(last.at());
            }
            recorder.hold(false);
        }
    }

    @Test
    void a_stream_that_hangs_is_given_up_and_asked_for_again() {
        try (Eye eye = new Eye(VAULT)) {
            eye.sees(3);
            recorder.hold(true);
            Patience.await().until(() -> recorder.liveAsked.get() > 1);
            recorder.hold(false);
            eye.sees(3);
            assertThat(eye.states).anyMatch(s -> s instanceof PictureState.Stalled);
            Patience.await().until(() -> eye.state() instanceof PictureState.Live);
        }
    }

    @Test
    void a_picture_that_stands_still_says_since_when_and_goes_on_by_itself() {
        try (Eye eye = new Eye(VAULT)) {
            eye.sees(3);
            recorder.hold(true);
            Patience.await().until(() -> eye.state() instanceof PictureState.Stalled);
            Instant since = ((PictureState.Stalled) eye.state()).since();
            assertThat(since)
                    .isEqualTo(eye.pictures.get(eye.pictures.size() - 1).at());
            recorder.hold(false);
            Patience.await().until(() -> eye.state() instanceof PictureState.Live);
        }
    }

    @Test
    void a_cut_connection_is_made_again_by_itself() throws IOException {
        try (Eye eye = new Eye(VAULT)) {
            eye.sees(3);
            recorder.cut();
            Patience.await().until(() -> eye.state() instanceof PictureState.None);
            Patience.await().until(() -> eye.state() instanceof PictureState.Live);
            eye.sees(3);
            assertThat(recorder.liveAsked.get()).isEqualTo(2);
        }
    }

    @Test
    void a_glance_elsewhere_keeps_the_connection_and_longer_gives_it_up() {
        Eye eye = new Eye(VAULT);
        eye.sees(2);
        eye.close();
        try (Eye again = new Eye(VAULT)) {
            again.sees(2);
            assertThat(recorder.liveAsked.get()).isEqualTo(1);
        }
        Patience.await().until(() -> video.running() == 0);
        Patience.await().until(() -> recorder.open.get() == 0 && recorder.recorder.encoding() == 0);
    }

    @Test
    void every_camera_has_its_own_connection_and_closing_the_desk_ends_them_all() {
        try (Eye vault = new Eye(VAULT);
                Eye lobby = new Eye(LOBBY)) {
            vault.sees(2);
            lobby.sees(2);
            assertThat(video.running()).isEqualTo(2);
            video.close();
            Patience.await().until(() -> recorder.open.get() == 0);
            assertThat(video.running()).isZero();
        }
    }

    @Test
    void a_picture_whose_recorders_clock_is_off_is_not_called_live() {
        try (Eye eye = new Eye(VAULT)) {
            eye.sees(3);
            assertThat(eye.state()).isInstanceOf(PictureState.Live.class);
            recorder.clockOff = LiveFeed.CLOCK_LIMIT;
            eye.sees(3);
            assertThat(eye.state()).isInstanceOf(PictureState.Live.class);
            recorder.clockOff = Duration.ofSeconds(-3_600);
            Patience.await().until(() -> eye.state() instanceof PictureState.Doubtful);
            assertThat(((PictureState.Doubtful) eye.state()).off()).isEqualTo(Duration.ofHours(1));
            eye.sees(2);
            recorder.hold(true);
            Patience.await().until(() -> eye.state() instanceof PictureState.Stalled);
            recorder.hold(false);
            recorder.clockOff = Duration.ZERO;
            Patience.await().until(() -> eye.state() instanceof PictureState.Live);
        }
    }
}
