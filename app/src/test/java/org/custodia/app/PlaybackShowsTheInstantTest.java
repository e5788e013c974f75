package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.ExecutionException;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.Crop;
import org.custodia.core.site.SystemId;
import org.custodia.practice.picture.TimeStrip;
import org.custodia.video.Picture;
import org.custodia.video.PictureState;
import org.custodia.video.Playback;
import org.custodia.video.Stills;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The strip in each practice picture proves which instant is shown, by the recorder's clock. */
class PlaybackShowsTheInstantTest {
    private static final SystemId QUAYSIDE = new SystemId("quayside");
    private static final SystemId FERRY = new SystemId("ferry");
    private static final CameraId LOBBY = new CameraId("quayside/staff-lobby-outside");
    private static final CameraId GATE = new CameraId("ferry/cy-gate-outside");
    /** One frame, and what half a round trip can hide. */
    private static final Duration EXACT = Duration.ofMillis(180);

    @TempDir
    Path directory;

    private Rig rig;
    private final List<Picture> frames = new CopyOnWriteArrayList<>();
    private volatile Playback.Status status;
    private final Playback.Listener listener = new Playback.Listener() {
        @Override
        public void frame(Picture picture) {
            // Its pixels are used again for the next frame.
            frames.add(new Picture(
                    picture.width(), picture.height(), picture.argb().clone(), picture.at()));
        }

        @Override
        public void status(Playback.Status s) {
            status = s;
        }
    };

    @BeforeEach
    void start() {
        rig = Rig.prepared(directory).withHub().connected();
    }

    @AfterEach
    void stop() {
        rig.close();
    }

    /** The true instant a picture shows, from its strip and the recorder's true clock. */
    private Instant trueInstant(Picture picture, String recorder) {
        int[] luma = new int[picture.argb().length];
        for (int i = 0; i < luma.length; i++) {
            luma[i] = picture.argb()[i] >> 8 & 255;
        }
        long shown = TimeStrip.read(luma, picture.width(), picture.height()).orElseThrow();
        return Instant.ofEpochMilli(rig.site.timeline().recorderClock(recorder).trueAt(shown));
    }

    private void shows(Picture picture, Instant instant, String recorder) {
        Duration off = Duration.between(trueInstant(picture, recorder), instant);
        assertThat(off.abs())
                .as("shown %s, wanted %s", trueInstant(picture, recorder), instant)
                .isLessThan(EXACT);
    }

    private Playback play(CameraId camera, SystemId recorder, Instant from, Instant to, boolean paused) {
        return rig.hub.video().play(camera, recorder, from, to, paused, () -> 640, listener);
    }

    @Test
    void playback_begins_at_the_asked_instant_steps_seeks_and_ends_on_the_recorder_whose_clock_is_off() {
        rig.happen("{'act':'clock','target':'quayside','seconds':4.3}");
        Instant set = rig.clock.instant();
        Rig.await()
                .until(() ->
                        rig.hub.clocks().ahead(QUAYSIDE, rig.clock.instant()).toMillis() > 4_000);
        // What is played was recorded by the clock that is off, and not by that of before.
        Rig.await().until(() -> rig.clock.instant().isAfter(set.plusMillis(1_500)));
        Instant from = rig.clock.instant().minusSeconds(1);
        try (Playback playback = play(LOBBY, QUAYSIDE, from, from.plusSeconds(2), true)) {
            Rig.await().until(() -> !frames.isEmpty());
            shows(frames.get(0), from, "quayside");
            assertThat(Duration.between(frames.get(0).at(), from)).isBetween(Duration.ZERO, EXACT);
            Rig.await().until(() -> status.mode() == Playback.Mode.PAUSED);
            int before = frames.size();
            playback.step(3);
            Rig.await().until(() -> frames.size() > before);
            shows(frames.get(frames.size() - 1), frames.get(0).at().plusMillis(300), "quayside");
            int stepped = frames.size();
            playback.step(-2);
            Rig.await().until(() -> frames.size() > stepped);
            shows(frames.get(frames.size() - 1), frames.get(0).at().plusMillis(100), "quayside");
        }
    }

    @Test
    void a_stretch_of_the_morning_plays_to_its_end_and_can_be_gone_through_again() {
        Instant from = Instant.parse("2026-11-24T09:30:00Z");
        try (Playback playback = play(LOBBY, QUAYSIDE, from, from.plusSeconds(3), false)) {
            Rig.await().until(() -> status != null && status.mode() == Playback.Mode.ENDED);
            assertThat(frames.size()).isBetween(20, 40);
            Duration drift = Duration.between(
                    trueInstant(frames.get(0), "quayside"), frames.get(0).at());
            for (Picture p : frames) {
                assertThat(Duration.between(trueInstant(p, "quayside"), p.at())
                                .minus(drift)
                                .abs())
                        .isLessThan(Duration.ofMillis(20));
            }
            int before = frames.size();
            playback.seek(from.plusSeconds(1));
            Rig.await().until(() -> frames.size() > before);
            playback.seek(from.minusSeconds(60));
            Rig.await().until(() -> frames.get(frames.size() - 1).at().isBefore(from.minusSeconds(50)));
            playback.speed(8);
            playback.pause();
            Rig.await().until(() -> status.mode() == Playback.Mode.PAUSED);
        }
    }

    @Test
    void playback_that_runs_into_now_says_so() {
        try (Playback playback = play(
                LOBBY,
                QUAYSIDE,
                rig.clock.instant().minusSeconds(3),
                rig.clock.instant().plusSeconds(60),
                false)) {
            playback.speed(4);
            Rig.await().until(() -> status != null && status.mode() == Playback.Mode.REACHED_NOW);
        }
    }

    @Test
    void what_the_slow_recorder_is_still_writing_plays_from_the_live_picture_or_says_when() {
        Instant justNow = rig.clock.instant().minusSeconds(1);
        try (Playback playback = play(GATE, FERRY, justNow, justNow.plusSeconds(5), false)) {
            Rig.await().until(() -> status != null && status.mode() == Playback.Mode.FAILED);
            assertThat(status.failure().orElseThrow().text()).contains("not ready before");
        }
        frames.clear();
        status = null;
        var look = rig.hub.video().live(GATE, FERRY, () -> 320, frames::add, s -> {});
        Rig.await().until(() -> frames.size() > 15);
        Instant seen = frames.get(5).at();
        frames.clear();
        try (Playback playback = play(GATE, FERRY, seen, seen.plusSeconds(4), true)) {
            Rig.await().until(() -> status != null && status.mode() == Playback.Mode.PAUSED);
            assertThat(status.fromLive()).isTrue();
            assertThat(Duration.between(status.position(), seen).abs()).isLessThan(EXACT);
        }
        look.close();
    }

    @Test
    void a_still_shows_the_instant_of_its_event_with_whoever_presented_the_badge()
            throws ExecutionException, InterruptedException {
        rig.happen("{'act':'present','door':'staff-lobby','badge':'20153'}");
        Rig.await()
                .until(() -> rig
                        .hub
                        .log()
                        .find(EventQuery.all()
                                .kinds(Kinds.GRANTED, Kinds.REFUSED)
                                .newest(5))
                        .stream()
                        .anyMatch(e -> e.credential().equals(Optional.of("20153"))));
        var event = rig
                .hub
                .log()
                .find(EventQuery.all().kinds(Kinds.GRANTED, Kinds.REFUSED).newest(5))
                .stream()
                .filter(e -> e.credential().equals(Optional.of("20153")))
                .findFirst()
                .orElseThrow();
        Stills.Still whole = rig.hub
                .video()
                .stills()
                .still(LOBBY, QUAYSIDE, event.time(), Crop.WHOLE, 360)
                .get();
        shows(whole.picture(), event.time(), "quayside");
        assertThat(whole.betterAt()).isEmpty();
        Stills.Still again = rig.hub
                .video()
                .stills()
                .still(LOBBY, QUAYSIDE, event.time(), Crop.WHOLE, 360)
                .get();
        assertThat(again).isSameAs(whole);
        Stills.Still face = rig.hub
                .video()
                .stills()
                .still(LOBBY, QUAYSIDE, event.time(), new Crop(0.585, 0.135, 0.2, 0.41), 152)
                .get();
        assertThat(face.picture().height()).isEqualTo(152);
        assertThat(face.picture().width()).isBetween(120, 140);
    }

    @Test
    void a_lost_camera_says_so_and_comes_back_by_itself_and_nobody_looking_costs_nothing() {
        List<PictureState> states = new CopyOnWriteArrayList<>();
        var look = rig.hub.video().live(LOBBY, QUAYSIDE, () -> 160, frames::add, states::add);
        var second = rig.hub.video().live(LOBBY, QUAYSIDE, () -> 160, p -> {}, s -> {});
        Rig.await().until(() -> frames.size() > 3);
        assertThat(rig.site.recorders().get(0).encoding()).isEqualTo(1);
        rig.happen("{'act':'camera-lost','target':'staff-lobby-outside'}");
        Rig.await().until(() -> states.get(states.size() - 1) instanceof PictureState.None);
        Rig.await().until(() -> rig.hub.video().lostSince(LOBBY, QUAYSIDE).isPresent());
        Rig.await().until(() -> !rig.hub
                .log()
                .find(EventQuery.all().kinds(Kinds.CAMERA_LOST))
                .isEmpty());
        rig.happen("{'act':'camera-back','target':'staff-lobby-outside'}");
        Rig.await().until(() -> states.get(states.size() - 1) instanceof PictureState.Live);
        look.close();
        second.close();
        Rig.await()
                .until(() -> rig.hub.video().running() == 0
                        && rig.site.recorders().get(0).encoding() == 0);
    }
}
