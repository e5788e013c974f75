package org.custodia.video;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.custodia.video.RecorderInHand.RECORDER;
import static org.custodia.video.RecorderInHand.VAULT;

import java.io.IOException;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CopyOnWriteArrayList;
import org.custodia.core.Patience;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.saying.Saying;
import org.custodia.video.Playback.Mode;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class PlaybackTest {
    private static final Duration STEP = Duration.ofMillis(100);

    @TempDir
    Path directory;

    private final List<Picture> frames = new CopyOnWriteArrayList<>();
    private final List<Playback.Status> told = new CopyOnWriteArrayList<>();
    private RecorderInHand recorder;
    private VideoDesk video;
    private Instant then;

    @BeforeEach
    void open() {
        use(Duration.ZERO);
    }

    private void use(Duration readyAfter) {
        recorder = new RecorderInHand(directory, readyAfter);
        video = new VideoDesk(s -> Optional.of(recorder), new ClockBook(), recorder.clock);
        then = recorder.clock.instant().minusSeconds(600);
    }

    @AfterEach
    void close() {
        video.close();
        recorder.close();
    }

    private Playback play(Instant from, Instant to, boolean paused) {
        return video.play(VAULT, RECORDER, from, to, paused, () -> 640, new Playback.Listener() {
            @Override
            public void frame(Picture picture) {
                frames.add(RecorderInHand.copy(picture));
            }

            @Override
            public void status(Playback.Status status) {
                told.add(status);
            }
        });
    }

    private void until(Mode mode) {
        Patience.await().until(() -> !told.isEmpty() && last().mode() == mode);
    }

    private Playback.Status last() {
        return told.get(told.size() - 1);
    }

    private Picture newest() {
        return frames.get(frames.size() - 1);
    }

    /** Waits for a frame of an instant. */
    private void shows(Instant at) {
        Patience.await()
                .untilAsserted(() -> assertThat(frames).isNotEmpty().last().satisfies(f -> assertThat(f.at())
                        .isEqualTo(at)));
        assertThat(Duration.between(recorder.shownIn(newest()), at).abs()).isLessThan(Duration.ofMillis(5));
    }

    @Test
    void the_first_frame_is_the_last_one_taken_at_or_before_the_asked_instant() {
        try (Playback playback = play(then, then.plusSeconds(5), true)) {
            until(Mode.PAUSED);
            assertThat(frames).hasSize(1);
            assertThat(Duration.between(newest().at(), then)).isBetween(Duration.ZERO, STEP);
            shows(newest().at());
            assertThat(playback.playing()).isFalse();
            assertThat(last().from()).isEqualTo(then);
            assertThat(last().position()).isEqualTo(newest().at());
        }
    }

    @Test
    void it_plays_every_frame_once_to_the_end() {
        try (Playback playback = play(then, then.plusSeconds(2), false)) {
            until(Mode.ENDED);
            assertThat(playback.camera()).isEqualTo(VAULT);
            // Frames may be skipped where the machine is too slow, but never shown out of order.
            for (int i = 1; i < frames.size(); i++) {
                assertThat(frames.get(i).at()).isAfter(frames.get(i - 1).at());
            }
            assertThat(Duration.between(then.plusSeconds(2), newest().at()).abs())
                    .isLessThanOrEqualTo(STEP);
            assertThat(told.stream().map(Playback.Status::mode)).contains(Mode.PLAYING);
        }
    }

    @Test
    void steps_go_by_one_frame_forwards_and_backwards_over_the_frames_that_stand_alone() {
        try (Playback playback = play(then, then.plusSeconds(5), true)) {
            until(Mode.PAUSED);
            Instant first = newest().at();
            for (int i = 1; i <= 12; i++) {
                playback.step(1);
                shows(first.plus(STEP.multipliedBy(i)));
            }
            for (int i = 11; i >= 8; i--) {
                playback.step(-1);
                shows(first.plus(STEP.multipliedBy(i)));
            }
            playback.step(-500);
            shows(first);
        }
    }

    @Test
    void steps_asked_for_before_their_frames_are_there_are_not_lost() throws IOException {
        recorder.hold(true);
        try (Playback playback = play(then, then.plusSeconds(5), true)) {
            until(Mode.WAITING);
            playback.step(2);
            playback.step(3);
            playback.step(-1);
            recorder.hold(false);
            until(Mode.PAUSED);
            Instant fifth = recorder.frameAtOrBefore(then).plus(STEP.multipliedBy(4));
            shows(fifth);
            playback.step(1);
            playback.step(1);
            shows(fifth.plus(STEP.multipliedBy(2)));
        }
    }

    @Test
    void seeking_inside_shows_that_instant_and_fetches_nothing_again() {
        try (Playback playback = play(then, then.plusSeconds(5), true)) {
            until(Mode.PAUSED);
            Instant first = newest().at();
            playback.seek(first.plusMillis(3_140));
            shows(first.plusMillis(3_100));
            playback.seek(first.plusMillis(250));
            shows(first.plusMillis(200));
            assertThat(recorder.playbackAsked.get()).isEqualTo(1);
        }
    }

    @Test
    void seeking_outside_fetches_a_stretch_of_the_same_length_there() {
        try (Playback playback = play(then, then.plusSeconds(5), true)) {
            until(Mode.PAUSED);
            Instant elsewhere = then.minusSeconds(300);
            playback.seek(elsewhere);
            Patience.await().until(() -> last().from().equals(elsewhere) && last().mode() == Mode.PAUSED);
            assertThat(last().to()).isEqualTo(elsewhere.plusSeconds(5));
            assertThat(Duration.between(newest().at(), elsewhere)).isBetween(Duration.ZERO, STEP);
            assertThat(recorder.playbackAsked.get()).isEqualTo(2);
            Patience.await().until(() -> recorder.open.get() <= 1);
        }
    }

    @Test
    void pausing_stays_and_going_on_goes_on_from_there() {
        try (Playback playback = play(then, then.plusSeconds(30), false)) {
            until(Mode.PLAYING);
            playback.pause();
            until(Mode.PAUSED);
            Instant here = last().position();
            int before = told.size();
            playback.resume();
            Patience.await().until(() -> told.stream().skip(before).anyMatch(t -> t.mode() == Mode.PLAYING));
            Playback.Status first = told.stream()
                    .skip(before)
                    .filter(t -> t.mode() == Mode.PLAYING)
                    .findFirst()
                    .orElseThrow();
            assertThat(first.position()).isBetween(here, here.plusSeconds(10));
        }
    }

    @Test
    void going_on_at_the_end_begins_again() {
        try (Playback playback = play(then, then.plusSeconds(1), false)) {
            playback.speed(8);
            until(Mode.ENDED);
            Instant first = frames.get(0).at();
            int before = frames.size();
            playback.resume();
            Patience.await().until(() -> frames.size() > before);
            assertThat(frames.get(before).at()).isBefore(first.plusMillis(900));
        }
    }

    @Test
    void only_the_speeds_there_are_can_be_set() {
        try (Playback playback = play(then, then.plusSeconds(30), false)) {
            until(Mode.PLAYING);
            playback.speed(0.25);
            Patience.await().until(() -> last().speed() == 0.25);
            assertThatThrownBy(() -> playback.speed(3)).isInstanceOf(IllegalArgumentException.class);
            assertThatThrownBy(() -> playback.speed(0)).isInstanceOf(IllegalArgumentException.class);
            assertThat(last().speed()).isEqualTo(0.25);
        }
    }

    @Test
    void what_was_overwritten_says_so_and_another_instant_can_be_tried() {
        Instant longAgo = then.minus(Duration.ofDays(40));
        try (Playback playback = play(longAgo, longAgo.plusSeconds(5), false)) {
            until(Mode.FAILED);
            assertThat(last().failure().orElseThrow().text()).contains("overwritten");
            assertThat(frames).isEmpty();
            playback.seek(then);
            until(Mode.PLAYING);
            assertThat(last().failure()).isEmpty();
        }
    }

    @Test
    void a_cut_in_the_middle_leaves_what_came_before_it() throws IOException {
        try (Playback playback = play(then, then.plusSeconds(3_000), true)) {
            until(Mode.PAUSED);
            Patience.await().until(() -> {
                playback.step(1);
                return frames.size() >= 3;
            });
            recorder.cut();
            Patience.await().until(() -> recorder.open.get() == 0);
            int seen = frames.size();
            playback.step(-1);
            Patience.await().until(() -> frames.size() > seen);
            assertThat(last().mode()).isIn(Mode.PAUSED, Mode.ENDED);
        }
    }

    @Test
    void it_says_when_it_has_reached_now() {
        Instant justNow = recorder.clock.instant().minusSeconds(1);
        try (Playback playback = play(justNow, justNow.plusSeconds(60), false)) {
            playback.speed(4);
            until(Mode.REACHED_NOW);
            assertThat(Duration.between(last().position(), recorder.clock.instant()))
                    .isLessThan(Duration.ofSeconds(30));
        }
    }

    @Test
    void closing_ends_the_fetching() {
        Playback playback = play(then, then.plusSeconds(3_000), false);
        until(Mode.PLAYING);
        assertThat(recorder.open.get()).isEqualTo(1);
        playback.close();
        Patience.await().until(() -> recorder.open.get() == 0);
    }

    @Test
    void what_the_recorder_is_still_writing_plays_from_what_was_kept_of_the_live_picture() {
        close();
        use(Duration.ofSeconds(40));
        Instant before = recorder.clock.instant();
        List<Picture> live = new CopyOnWriteArrayList<>();
        try (Pictures.Look look =
                video.live(VAULT, RECORDER, () -> 320, p -> live.add(RecorderInHand.copy(p)), s -> {})) {
            Patience.await().until(() -> live.size() > 14);
            Instant seen = live.get(6).at();
            try (Playback playback = play(seen, seen.plusSeconds(4), true)) {
                until(Mode.PAUSED);
                assertThat(last().fromLive()).isTrue();
                assertThat(newest().at()).isEqualTo(seen);
                playback.step(1);
                shows(seen.plus(STEP));
            }
            try (Playback playback = play(before.minusSeconds(5), before, true)) {
                until(Mode.FAILED);
                assertThat(last().failure().orElseThrow().text()).contains("not ready before");
                assertThat(playback.playing()).isFalse();
            }
            assertThat(look).isNotNull();
        }
    }

    @Test
    void what_the_recorder_is_still_writing_plays_by_itself_once_it_is_ready() {
        close();
        use(Duration.ofSeconds(4));
        Instant justNow = recorder.clock.instant().minusSeconds(1);
        try (Playback playback = play(justNow, justNow.plusSeconds(3), true)) {
            until(Mode.FAILED);
            until(Mode.PAUSED);
            assertThat(last().failure()).isEmpty();
            assertThat(last().fromLive()).isFalse();
            playback.step(1);
            Patience.await().until(() -> newest().at().isAfter(justNow));
        }
    }

    @Test
    void a_recorder_that_sends_nothing_is_given_up_and_can_be_asked_again() {
        recorder.hold(true);
        try (Playback playback = play(then, then.plusSeconds(5), false)) {
            until(Mode.FAILED);
            assertThat(last().failure()).contains(Saying.of("picture.nothing-comes"));
            recorder.hold(false);
            playback.seek(then.plusSeconds(1));
            until(Mode.PLAYING);
        }
    }
}
