package org.custodia.desktop.picture;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Clock;
import java.time.Instant;
import java.time.ZoneId;
import java.util.Optional;
import java.util.concurrent.TimeoutException;
import javafx.scene.control.Label;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.operator.Actor;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;
import org.custodia.core.workplace.Permit;
import org.custodia.video.Picture;
import org.custodia.video.Pictures;
import org.custodia.video.VideoDesk;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.testfx.api.FxToolkit;
import org.testfx.util.WaitForAsyncUtils;

/** What a pane shows when what it showed before still sends. */
class PicturePaneTest {
    private static final Instant AT = Instant.parse("2026-11-24T14:20:00Z");
    private static final ZoneId UTC = ZoneId.of("UTC");

    private static final Clock CLOCK = Clock.fixed(AT.plusSeconds(100), UTC);

    private final VideoDesk video = new VideoDesk(system -> Optional.empty(), new ClockBook(), CLOCK);
    private PicturePane pane;

    @BeforeAll
    static void toolkit() throws TimeoutException {
        FxToolkit.registerPrimaryStage();
    }

    @BeforeEach
    void open() {
        pane = fx(() -> new PicturePane(new Pictures(
                video, new Permit(Actor.withAll("iv", "I. Vantongeren", "desk"), () -> SiteModel.EMPTY, CLOCK))));
        camera("north");
    }

    @AfterEach
    void close() {
        video.close();
    }

    private static <T> T fx(java.util.concurrent.Callable<T> task) {
        T result = WaitForAsyncUtils.waitForAsyncFx(90_000, task);
        WaitForAsyncUtils.waitForFxEvents();
        return result;
    }

    private void camera(String name) {
        Camera camera =
                new Camera(new CameraId("quayside/" + name), new SystemId("quayside"), name, new SiteId("harbour"));
        fx(() -> {
            pane.camera(camera, name, UTC);
            return null;
        });
    }

    private static Picture frame(Instant at) {
        return new Picture(4, 2, new int[8], at);
    }

    private String tag() {
        return fx(() -> {
            Label tag = (Label) pane.lookup(".tag");
            return tag.isVisible() ? pane.getAccessibleText() : "";
        });
    }

    private String said() {
        return fx(() -> ((Label) pane.lookup(".reason-title")).getText());
    }

    @Test
    void a_frame_is_shown_with_its_camera_and_instant() {
        PicturePane.Source source = fx(() -> pane.recorded());
        assertThat(said()).isEqualTo("Loading");
        source.frame(frame(AT));
        assertThat(tag()).startsWith("north · recorded 14:20:00");
        assertThat(fx(() -> pane.hasPicture())).isTrue();
    }

    @Test
    void a_frame_of_another_day_is_dated() {
        PicturePane.Source source = fx(() -> pane.recorded());
        source.frame(frame(AT.minusSeconds(86_400)));
        assertThat(tag()).isEqualTo("north · recorded 23 Nov 14:20:00.0");
    }

    @Test
    void what_an_earlier_recording_still_sends_is_passed_over() {
        PicturePane.Source earlier = fx(() -> pane.recorded());
        PicturePane.Source later = fx(() -> pane.recorded());
        later.frame(frame(AT));
        earlier.frame(frame(AT.plusSeconds(60)));
        fx(() -> {
            earlier.explain("No picture", "it failed");
            return null;
        });
        assertThat(tag()).startsWith("north · recorded 14:20:00");
        assertThat(pane.frames()).isEqualTo(1);
    }

    @Test
    void another_camera_never_has_the_frames_of_the_one_before() {
        PicturePane.Source north = fx(() -> pane.recorded());
        camera("south");
        north.frame(frame(AT));
        assertThat(fx(() -> pane.hasPicture())).isFalse();
        assertThat(tag()).isEmpty();
    }

    @Test
    void a_recorded_frame_that_comes_late_is_not_called_live() {
        PicturePane.Source source = fx(() -> pane.recorded());
        source.frame(frame(AT));
        fx(() -> {
            pane.live();
            return null;
        });
        source.frame(frame(AT.plusSeconds(1)));
        assertThat(fx(() -> pane.hasPicture())).isFalse();
        assertThat(said()).isEqualTo("Connecting");
    }

    @Test
    void a_frame_on_its_way_to_the_screen_is_dropped_too() {
        PicturePane.Source source = fx(() -> pane.recorded());
        fx(() -> {
            // The screen's thread is here, so the frame waits for it.
            source.frame(frame(AT));
            pane.live();
            return null;
        });
        assertThat(fx(() -> pane.hasPicture())).isFalse();
    }

    @Test
    void a_pane_whose_recorder_is_not_connected_says_so_once_it_is_seen() {
        assertThat(said()).isEqualTo("Connecting");
        fx(() -> {
            pane.seen(true);
            return null;
        });
        assertThat(said()).isEqualTo("No picture");
    }
}
