package org.custodia.desktop.picture;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CompletionException;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.footage.Footage;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Crop;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Side;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;
import org.custodia.video.NoPictureException;
import org.custodia.video.Picture;
import org.custodia.video.Stills;
import org.junit.jupiter.api.Test;

/** Which part of which frame stands for an event. */
class WantedStillTest {
    private static final Instant AT = Instant.parse("2026-11-24T14:20:00Z");
    private static final DoorId STORE = new DoorId("tidewater/map-store");
    private static final CameraId OUTSIDE = new CameraId("quayside/map-store-outside");
    private static final Crop AT_READER = new Crop(0.5, 0.1, 0.2, 0.4);
    private static final Crop COMING_OUT = new Crop(0.1, 0.1, 0.3, 0.5);
    private static final Pairing IN =
            new Pairing(STORE, OUTSIDE, Side.ENTRY, Pairing.View.OUTSIDE, Duration.ZERO, AT_READER, Duration.ZERO);
    private static final Pairing OUT = new Pairing(
            STORE, OUTSIDE, Side.EXIT, Pairing.View.OUTSIDE, Duration.ZERO, COMING_OUT, Duration.ofMillis(2_900));

    private static SiteModel paired(Pairing... pairings) {
        Door door = new Door(
                STORE,
                new SystemId("tidewater"),
                new ControllerId("tidewater/c3"),
                "Map store",
                new SiteId("harbour"),
                "1",
                "Print room",
                "Map store",
                Duration.ofSeconds(30),
                Set.of());
        Camera camera = new Camera(OUTSIDE, new SystemId("quayside"), "Map store outside", new SiteId("harbour"));
        return new SiteModel(List.of(), List.of(door), List.of(camera), List.of(pairings));
    }

    private static WantedStill wanted(SiteModel sites, EventKind kind, Side side) {
        Event event = Event.of(new EventKey(new SystemId("tidewater"), 1, 1), kind, AT)
                .door(STORE)
                .side(side)
                .build();
        return WantedStill.of(sites, event).orElseThrow();
    }

    @Test
    void whom_no_camera_of_that_side_sees_is_looked_for_a_little_later() {
        WantedStill behind = wanted(paired(IN), Kinds.GRANTED, Side.EXIT);
        assertThat(behind.crop()).isEqualTo(Crop.WHOLE);
        assertThat(behind.at()).isAfter(AT);
        Event event = Event.of(new EventKey(new SystemId("tidewater"), 1, 1), Kinds.GRANTED, AT)
                .door(STORE)
                .build();
        assertThat(WantedStill.of(SiteModel.EMPTY, event)).isEmpty();
    }

    @Test
    void who_presents_a_badge_is_at_the_reader_at_that_instant() {
        WantedStill still = wanted(paired(IN, OUT), Kinds.GRANTED, Side.ENTRY);
        assertThat(still.crop()).isEqualTo(AT_READER);
        assertThat(still.at()).isEqualTo(AT);
    }

    @Test
    void who_comes_out_is_seen_when_they_are_out() {
        WantedStill still = wanted(paired(IN, OUT), Kinds.GRANTED, Side.EXIT);
        assertThat(still.crop()).isEqualTo(COMING_OUT);
        assertThat(still.at()).isEqualTo(AT.plusMillis(2_900));
    }

    @Test
    void who_is_refused_on_the_way_out_does_not_come_out() {
        WantedStill still = wanted(paired(IN, OUT), Kinds.REFUSED, Side.EXIT);
        assertThat(still.crop()).isEqualTo(Crop.WHOLE);
        assertThat(still.at()).isEqualTo(AT);
    }

    @Test
    void where_no_camera_is_paired_with_the_side_the_whole_picture_a_little_later_is_shown() {
        WantedStill still = wanted(paired(IN), Kinds.GRANTED, Side.EXIT);
        assertThat(still.crop()).isEqualTo(Crop.WHOLE);
        assertThat(still.at()).isAfter(AT);
        assertThat(WantedStill.of(
                        paired(),
                        Event.of(new EventKey(new SystemId("tidewater"), 1, 1), Kinds.GRANTED, AT)
                                .door(STORE)
                                .build()))
                .isEmpty();
    }

    @Test
    void a_leaf_that_opens_by_itself_says_nothing_of_the_side() {
        assertThat(wanted(paired(IN, OUT), Kinds.OPENED, Side.ENTRY).crop()).isEqualTo(Crop.WHOLE);
    }

    @Test
    void what_the_recorder_still_writes_is_asked_for_again_when_it_has_it() {
        Instant ready = AT.plusSeconds(40);
        WantedStill.Got got = WantedStill.got(
                null, new CompletionException(new Stills.PendingException(ready)), Optional.empty(), AT);
        assertThat(got.still()).isEmpty();
        assertThat(got.readyAt()).contains(ready);
        assertThat(got.again().orElseThrow()).isAfter(ready);
    }

    @Test
    void a_live_picture_stands_in_until_the_recorder_has_its_own() {
        Stills.Still live = new Stills.Still(new Picture(1, 1, new int[1], AT), Optional.of(AT.minusSeconds(3)));
        WantedStill.Got got = WantedStill.got(live, null, Optional.empty(), AT);
        assertThat(got.still()).contains(live);
        // Never at once, even where a clock says that it should be there already.
        assertThat(got.again().orElseThrow()).isAfter(AT);
        Stills.Still own = new Stills.Still(live.picture(), Optional.empty());
        assertThat(WantedStill.got(own, null, Optional.empty(), AT).again()).isEmpty();
    }

    @Test
    void a_recorder_that_does_not_answer_is_asked_again_and_what_was_never_recorded_is_not() {
        IOException silent = new NoPictureException(Saying.of("link.nobody-there", "here"));
        assertThat(WantedStill.got(null, silent, Optional.empty(), AT).again().orElseThrow())
                .isAfter(AT);
        assertThat(WantedStill.got(null, silent, Optional.of(new Footage.At.Ready()), AT)
                        .again())
                .isPresent();
        for (Footage.At never :
                List.of(new Footage.At.NoPicture(AT, Optional.empty()), new Footage.At.Overwritten(AT))) {
            WantedStill.Got got = WantedStill.got(null, silent, Optional.of(never), AT);
            assertThat(got.again()).isEmpty();
            assertThat(got.problem()).isEqualTo("nothing answers at here");
        }
    }
}
