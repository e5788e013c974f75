package org.custodia.core.evidence;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.IntStream;
import org.custodia.core.evidence.PictureLag.Lag;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Side;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class PictureLagTest {
    private static Optional<Lag> measured(SimulatedPlace place, DoorId door, CameraId camera) throws Exception {
        List<KnownOpening> openings = new Openings(place.log)
                .of(
                        place.sites().door(door).orElseThrow(),
                        SimulatedPlace.END.minus(Duration.ofDays(1)),
                        SimulatedPlace.END,
                        20);
        Camera of = place.camera(camera).orElseThrow();
        return new PictureLag(at -> {
                    try {
                        return Optional.of(place.at(of, at));
                    } catch (java.io.IOException e) {
                        return Optional.empty();
                    }
                })
                .measure(openings);
    }

    @ParameterizedTest
    @CsvSource({"0", "0.4", "-0.7", "2.3", "-3.6", "5.2", "-6"})
    void it_finds_how_much_later_pictures_are(double late) throws Exception {
        SimulatedPlace place = new SimulatedPlace(11);
        DoorId door = place.door("door");
        CameraId camera = place.camera("camera", door);
        place.late = Duration.ofMillis(Math.round(late * 1_000));
        place.opensAtRandom(25, 30_000);
        Lag lag = measured(place, door, camera).orElseThrow();
        assertThat(lag.lag().toMillis() / 1_000.0).isBetween(late - 0.2, late + 0.2);
        assertThat(lag.low()).isLessThanOrEqualTo(lag.lag());
        assertThat(lag.high()).isGreaterThanOrEqualTo(lag.lag());
        assertThat(lag.openings()).isGreaterThanOrEqualTo(5);
    }

    @ParameterizedTest
    @ValueSource(longs = {1, 2, 3, 4, 5, 6, 7, 8})
    void the_truth_lies_in_the_interval_also_where_people_always_come_in_and_stills_are_missing(long seed)
            throws Exception {
        SimulatedPlace place = new SimulatedPlace(seed);
        DoorId door = place.door("door");
        CameraId camera = place.camera("camera", door);
        place.late = Duration.ofMillis(1_200);
        place.stirs = 0.1;
        for (int i = 0; i < 20; i++) {
            place.opens(door, 300 + 250 * i + place.random.nextInt(100), Side.ENTRY);
        }
        place.missing = 0.005;
        Lag lag = measured(place, door, camera).orElseThrow();
        assertThat(lag.low().toMillis()).isLessThan(1_200 + 60);
        assertThat(lag.high().toMillis()).isGreaterThan(1_200 - 60);
    }

    @Test
    void a_camera_that_does_not_see_the_door_gives_no_lag() throws Exception {
        SimulatedPlace place = new SimulatedPlace(12);
        DoorId door = place.door("door");
        CameraId camera = place.camera("camera");
        place.opensAtRandom(25, 30_000);
        assertThat(measured(place, door, camera)).isEmpty();
    }

    @Test
    void few_openings_or_no_pictures_give_no_lag() throws Exception {
        SimulatedPlace place = new SimulatedPlace(13);
        DoorId door = place.door("door");
        CameraId camera = place.camera("camera", door);
        place.opensAtRandom(3, 3_000);
        assertThat(measured(place, door, camera)).isEmpty();
        place.opensAtRandom(20, 30_000);
        place.missing = 1;
        assertThat(measured(place, door, camera)).isEmpty();
    }

    @Test
    void one_odd_onset_does_not_move_the_lag_and_more_of_them_narrow_the_interval() {
        Lag few = PictureLag.lag(List.of(0.1, 0.2, 0.15, 0.12, 7.0));
        assertThat(few.lag()).isEqualTo(Duration.ofMillis(150));
        Lag many = PictureLag.lag(java.util.stream.IntStream.range(0, 40)
                .mapToObj(i -> 0.1 + 0.1 * (i % 11) / 10)
                .toList());
        assertThat(many.high().minus(many.low())).isLessThan(few.high().minus(few.low()));
    }

    /**
     * A leaf takes a moment to swing across the picture: its hinge side changes first, its edge up to half a second later, and
     * the edge just as exactly. Where a second of the clock passes in between, only the first is when the leaf begins to move.
     */
    @ParameterizedTest
    @CsvSource({"-5.2, 0.25", "-5.2, 0.4", "0.85, 0.25", "2.7, 0.4", "-0.1, 0.3", "1.4, 0.3"})
    void the_onset_is_when_the_leaf_begins_to_move_and_not_when_it_has_swung_across(double late, double swings)
            throws Exception {
        List<KnownOpening> openings = IntStream.range(0, 12)
                .mapToObj(i -> new KnownOpening(
                        new DoorId("tidewater/door"),
                        SimulatedPlace.END.minus(Duration.ofMinutes(20L * i)).plusMillis(37L * i % 100),
                        Optional.empty(),
                        Set.of()))
                .toList();
        Lag lag = new PictureLag(at -> Optional.of(swingingLeaf(openings, at, late, swings)))
                .measure(openings)
                .orElseThrow();
        assertThat(lag.lag().toMillis() / 1_000.0).isBetween(late - 0.1, late + 0.1);
    }

    /** Ten frames a second; the hinge side varies from frame to frame by a little more than the edge. */
    private static Glimpse swingingLeaf(List<KnownOpening> openings, Instant at, double late, double swings) {
        Instant frame = Instant.ofEpochMilli(at.toEpochMilli() / 100 * 100);
        int[] cells = new int[Glimpse.CELLS];
        Arrays.fill(cells, 100);
        for (int i = 0; i < openings.size(); i++) {
            double since = Duration.between(openings.get(i).at(), frame).toMillis() / 1_000.0 - late;
            double jitter = i % 3 * 0.02;
            if (since >= jitter && since < 5) {
                Arrays.fill(cells, 40, 52, 20);
            }
            if (since >= swings && since < 5) {
                Arrays.fill(cells, 60, 90, 20);
            }
        }
        return Glimpse.ofCells(frame, cells);
    }
}
