package org.custodia.core.evidence;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.core.Patience.await;

import java.io.IOException;
import java.time.Clock;
import java.time.Duration;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.atomic.AtomicInteger;
import org.custodia.core.event.EventLogException;
import org.custodia.core.evidence.Candidate.Confidence;
import org.custodia.core.evidence.EvidenceSearch.Holds;
import org.custodia.core.evidence.EvidenceSearch.Outcome;
import org.custodia.core.evidence.EvidenceSearch.Result;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.Crop;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Side;
import org.junit.jupiter.api.Test;

class EvidenceSearchTest {
    private static EvidenceSearch search(SimulatedPlace place, Peeks peeks) {
        return search(place, peeks, Findings.inMemory());
    }

    private static EvidenceSearch search(SimulatedPlace place, Peeks peeks, Findings findings) {
        return new EvidenceSearch(
                place.log,
                place::sites,
                peeks,
                findings,
                Clock.fixed(SimulatedPlace.END, ZoneOffset.UTC),
                Duration.ZERO,
                true);
    }

    private static Result found(SimulatedPlace place, DoorId door) {
        try (EvidenceSearch search = search(place, place)) {
            return found(search, door);
        }
    }

    private static Result found(EvidenceSearch search, DoorId door) {
        search.look(Set.of(door));
        await().until(() -> !search.progress().running());
        return search.of(door).orElseThrow();
    }

    /** A hundred and sixty doors that have cameras, with fixed seeds: the stated rates hold, they are no promise for each one. */
    @Test
    void what_is_called_sure_is_right_whatever_else_moves() {
        int first = 0;
        int sure = 0;
        int wrong = 0;
        int all = 0;
        int views = 0;
        int viewsWrong = 0;
        for (int seed = 0; seed < 16; seed++) {
            SimulatedPlace place = new SimulatedPlace(seed);
            place.stirs = place.random.nextDouble() * 0.2;
            place.missing = place.random.nextDouble() * 0.2;
            List<DoorId> doors = new ArrayList<>();
            for (int i = 0; i < 10; i++) {
                DoorId door = place.door("door " + i);
                doors.add(door);
                CameraId camera = place.camera("camera " + place.random.nextInt(1_000_000), door);
                if (place.random.nextBoolean()) {
                    place.inside.add(camera);
                }
            }
            place.camera("both", doors.get(0), doors.get(1));
            place.camera("yard");
            place.opensAtRandom(20, 20_000);
            try (EvidenceSearch search = search(place, place)) {
                search.look(doors);
                await().until(() -> !search.progress().running());
                for (DoorId door : doors) {
                    List<Candidate> cameras = search.of(door).orElseThrow().cameras();
                    all++;
                    if (!cameras.isEmpty()
                            && place.sees.get(cameras.get(0).camera()).contains(door)) {
                        first++;
                    }
                    for (Candidate c : cameras) {
                        boolean right = place.sees.get(c.camera()).contains(door);
                        if (c.confidence() == Confidence.SURE) {
                            sure++;
                            wrong += right ? 0 : 1;
                        }
                        if (right && c.view().isPresent()) {
                            views++;
                            boolean inside = c.view().get() == Pairing.View.INSIDE;
                            viewsWrong += inside == place.inside.contains(c.camera()) ? 0 : 1;
                        }
                    }
                }
            }
        }
        assertThat(wrong).isLessThanOrEqualTo(1);
        assertThat(sure).isGreaterThan(all / 2);
        assertThat((double) first / all).isGreaterThan(0.95);
        assertThat(viewsWrong).isLessThanOrEqualTo(views / 50);
    }

    @Test
    void a_camera_that_shows_two_doors_is_found_for_both() {
        SimulatedPlace place = new SimulatedPlace(1);
        DoorId one = place.door("one");
        DoorId two = place.door("two");
        CameraId both = place.camera("both", one, two);
        place.camera("yard");
        place.opensAtRandom(10, 20_000);
        try (EvidenceSearch search = search(place, place)) {
            assertThat(found(search, one).cameras().get(0).camera()).isEqualTo(both);
            assertThat(found(search, two).cameras().get(0).camera()).isEqualTo(both);
            assertThat(search.of(two).orElseThrow().cameras().get(0).confidence())
                    .isEqualTo(Confidence.SURE);
        }
    }

    @Test
    void what_was_found_is_there_after_a_restart_and_what_waited_was_stopped() {
        SimulatedPlace place = new SimulatedPlace(12);
        DoorId one = place.door("one");
        DoorId two = place.door("two");
        CameraId camera = place.camera("of one", one);
        place.camera("of two", two);
        place.opensAtRandom(10, 20_000);
        Findings findings = Findings.inMemory();
        Result before;
        try (EvidenceSearch search = search(place, place, findings)) {
            before = found(search, one);
            assertThat(before.cameras().get(0).camera()).isEqualTo(camera);
        }
        // As a process leaves it that was killed while doors waited.
        findings.keep(Map.of(two, new Result(Outcome.WAITING, List.of(), 0, 0, 0, List.of(), SimulatedPlace.END)));
        try (EvidenceSearch search = search(
                place,
                (c, at) -> {
                    throw new IOException("nobody asks");
                },
                findings)) {
            assertThat(search.of(one)).contains(before);
            assertThat(search.of(two).orElseThrow().outcome()).isEqualTo(Outcome.STOPPED);
            assertThat(search.progress().running()).isFalse();
            // Looked for anew, what was found before no longer counts.
            assertThat(found(search, one).outcome()).isEqualTo(Outcome.NO_PICTURES);
            assertThat(findings.all().get(one).cameras()).isEmpty();
        }
    }

    @Test
    void findings_that_cannot_be_kept_now_are_kept_later() {
        SimulatedPlace place = new SimulatedPlace(13);
        DoorId one = place.door("one");
        DoorId two = place.door("two");
        place.camera("of one", one);
        place.opensAtRandom(10, 20_000);
        AtomicInteger left = new AtomicInteger(2);
        Findings kept = Findings.inMemory();
        Findings stumbling = new Findings() {
            @Override
            public void keep(Map<DoorId, Result> found) {
                if (left.getAndDecrement() > 0) {
                    throw new EventLogException(Saying.of("log.full"), new IOException("full"));
                }
                kept.keep(found);
            }

            @Override
            public Map<DoorId, Result> all() {
                return kept.all();
            }
        };
        try (EvidenceSearch search = search(place, place, stumbling)) {
            Result of = found(search, one);
            assertThat(of.outcome()).isEqualTo(Outcome.DONE);
            assertThat(kept.all()).isEmpty();
            found(search, two);
            await().until(() -> kept.all().containsKey(two));
            assertThat(kept.all().get(one)).isEqualTo(of);
        }
    }

    @Test
    void what_is_remembered_of_a_camera_is_bounded_and_its_doors_stay_found() {
        SimulatedPlace place = new SimulatedPlace(14);
        List<DoorId> doors = new ArrayList<>();
        for (int i = 0; i < 60; i++) {
            doors.add(place.door("door " + i));
        }
        CameraId camera = place.camera("of the first", doors.get(0));
        place.inside.add(camera);
        place.opensAtRandom(4, 40_000);
        try (EvidenceSearch search = search(place, place)) {
            for (int round = 0; round < 2; round++) {
                search.look(doors);
                await().until(() -> !search.progress().running());
                Candidate first =
                        search.of(doors.get(0)).orElseThrow().cameras().get(0);
                assertThat(first.camera()).isEqualTo(camera);
                assertThat(first.confidence()).isIn(Confidence.SURE, Confidence.LIKELY);
                assertThat(first.elsewhere()).isLessThanOrEqualTo(40 + 30);
            }
        }
    }

    @Test
    void of_doors_that_always_open_together_none_is_sure() {
        SimulatedPlace place = new SimulatedPlace(2);
        DoorId outer = place.door("outer");
        DoorId inner = place.door("inner");
        CameraId camera = place.camera("of the outer", outer);
        for (int i = 1; i < 15; i++) {
            place.opens(outer, 200 * i, Side.ENTRY);
            place.opens(inner, 200 * i - 2, Side.ENTRY);
        }
        Candidate candidate = found(place, inner).cameras().get(0);
        assertThat(candidate.camera()).isEqualTo(camera);
        assertThat(candidate.confidence()).isEqualTo(Confidence.LIKELY);
        assertThat(candidate.together()).containsExactly(outer);
    }

    @Test
    void what_moves_at_the_other_door_is_not_held_against_this_one_once_it_is_known() {
        SimulatedPlace place = new SimulatedPlace(3);
        DoorId outer = place.door("outer");
        DoorId inner = place.door("inner");
        place.camera("of the outer", outer);
        for (int i = 1; i < 15; i++) {
            place.opens(outer, 200 * i, Side.ENTRY);
            place.opens(inner, 200 * i - 2, Side.ENTRY);
            place.opens(outer, 200 * i + 100, Side.ENTRY);
        }
        try (EvidenceSearch search = search(place, place)) {
            assertThat(found(search, outer).cameras().get(0).confidence()).isEqualTo(Confidence.SURE);
            assertThat(found(search, inner).cameras())
                    .allSatisfy(c -> assertThat(c.weight()).isLessThan(Math.log(20)));
        }
    }

    @Test
    void a_camera_in_which_something_always_moves_is_no_evidence() {
        SimulatedPlace place = new SimulatedPlace(4);
        DoorId door = place.door("door");
        place.camera("busy hall");
        place.stirs = 0.9;
        place.opensAtRandom(12, 20_000);
        assertThat(found(place, door).cameras())
                .noneMatch(c -> c.confidence() == Confidence.SURE || c.confidence() == Confidence.LIKELY);
    }

    @Test
    void a_door_that_opened_twice_is_not_sure() {
        SimulatedPlace place = new SimulatedPlace(5);
        DoorId door = place.door("seldom");
        CameraId camera = place.camera("of it", door);
        place.stirs = 0;
        place.opens(door, 500, Side.ENTRY);
        place.opens(door, 900, Side.ENTRY);
        Candidate only = found(place, door).cameras().get(0);
        assertThat(only.camera()).isEqualTo(camera);
        assertThat(only.confidence()).isIn(Confidence.OPEN, Confidence.LIKELY);
        assertThat(only.moved()).isEqualTo(2);
    }

    @Test
    void of_a_door_without_contact_or_openings_or_pictures_that_is_said() {
        SimulatedPlace place = new SimulatedPlace(6);
        DoorId without = place.door("without", DoorCapability.LET_THROUGH);
        DoorId still = place.door("still");
        DoorId unseen = place.door("unseen");
        place.camera("camera", unseen);
        place.opens(unseen, 500, Side.ENTRY);
        place.missing = 1;
        assertThat(found(place, without).outcome()).isEqualTo(Outcome.NO_CONTACT);
        assertThat(found(place, still).outcome()).isEqualTo(Outcome.NO_OPENINGS);
        assertThat(found(place, unseen).outcome()).isEqualTo(Outcome.NO_PICTURES);
        assertThat(found(place, new DoorId("tidewater/gone")).outcome()).isEqualTo(Outcome.NO_CONTACT);
    }

    @Test
    void it_takes_far_fewer_stills_than_asking_everything() {
        SimulatedPlace place = new SimulatedPlace(7);
        for (int i = 0; i < 20; i++) {
            place.camera("camera " + i, place.door("door " + i));
        }
        place.opensAtRandom(14, 30_000);
        try (EvidenceSearch search = search(place, place)) {
            search.look(place.sites().doors().stream().map(d -> d.id()).toList());
            await().until(() -> !search.progress().running());
            assertThat(search.progress().stills()).isLessThan(3 * 12 * 20 * 20 / 8);
        }
    }

    @Test
    void it_waits_while_paused_and_ends_when_stopped() throws InterruptedException {
        SimulatedPlace place = new SimulatedPlace(8);
        DoorId one = place.door("one");
        DoorId two = place.door("two");
        for (int i = 0; i < 6; i++) {
            place.camera("camera " + i, one);
        }
        place.opensAtRandom(8, 10_000);
        AtomicInteger asked = new AtomicInteger();
        CountDownLatch three = new CountDownLatch(3);
        CountDownLatch goOn = new CountDownLatch(1);
        try (EvidenceSearch search = search(place, (camera, at) -> {
            asked.incrementAndGet();
            three.countDown();
            if (three.getCount() == 0) {
                try {
                    goOn.await();
                } catch (InterruptedException e) {
                    throw new IOException(e);
                }
            }
            return place.at(camera, at);
        })) {
            search.look(List.of(one, two, one));
            three.await();
            search.pause();
            goOn.countDown();
            await().until(() -> search.progress().paused());
            int before = asked.get();
            assertThat(search.progress().running()).isTrue();
            assertThat(search.progress().ofDoors()).isEqualTo(2);
            search.stop();
            await().until(() -> !search.progress().running());
            assertThat(asked.get()).isLessThanOrEqualTo(before + 1);
            assertThat(search.of(one).orElseThrow().outcome()).isEqualTo(Outcome.STOPPED);
            assertThat(search.of(two).orElseThrow().outcome()).isEqualTo(Outcome.STOPPED);
            assertThat(found(search, one).outcome()).isEqualTo(Outcome.DONE);
        }
    }

    @Test
    void a_pair_holds_until_its_camera_is_turned_and_is_open_where_little_happened() {
        SimulatedPlace place = new SimulatedPlace(10);
        DoorId door = place.door("door");
        DoorId other = place.door("other");
        DoorId seldom = place.door("seldom");
        CameraId camera = place.camera("camera", door);
        for (int i = 1; i < 9; i++) {
            place.opens(door, 400 * i, Side.ENTRY);
            place.opens(other, 400 * i + 200, Side.ENTRY);
        }
        place.opens(seldom, 5_000, Side.ENTRY);
        List<EvidenceSearch.Check> told = new CopyOnWriteArrayList<>();
        try (EvidenceSearch search = search(place, place)) {
            search.onCheck(told::add);
            assertThat(checked(search, door, camera).holds()).isEqualTo(Holds.YES);
            place.sees.put(camera, Set.of(other));
            EvidenceSearch.Check gone = checked(search, door, camera);
            assertThat(gone.holds()).isEqualTo(Holds.NO);
            assertThat(gone.moved()).isZero();
            // A camera that missed two or three openings is not called turned.
            assertThat(gone.openings()).hasSizeGreaterThan(3);
            place.sees.put(camera, Set.of());
            assertThat(checked(search, seldom, camera).holds()).isEqualTo(Holds.OPEN);
            place.missing = 1;
            assertThat(checked(search, door, camera).holds()).isEqualTo(Holds.OPEN);
            assertThat(told).hasSize(4);
        }
    }

    private static EvidenceSearch.Check checked(EvidenceSearch search, DoorId door, CameraId camera) {
        search.check(List.of(
                new Pairing(door, camera, Side.ENTRY, Pairing.View.OUTSIDE, Duration.ZERO, Crop.WHOLE, Duration.ZERO)));
        await().until(() -> !search.progress().running());
        return search.checked(door, camera).orElseThrow();
    }

    @Test
    void a_log_that_cannot_be_read_ends_that_door_and_not_the_next() {
        SimulatedPlace place = new SimulatedPlace(9);
        DoorId door = place.door("door");
        place.camera("camera", door);
        place.opensAtRandom(12, 20_000);
        Thread.UncaughtExceptionHandler before = Thread.getDefaultUncaughtExceptionHandler();
        List<Throwable> told = new ArrayList<>();
        Thread.setDefaultUncaughtExceptionHandler((t, e) -> told.add(e));
        try (EvidenceSearch search = search(place, place)) {
            place.log.unreadable = true;
            assertThat(found(search, door).outcome()).isEqualTo(Outcome.STOPPED);
            place.log.unreadable = false;
            assertThat(found(search, door).cameras()).hasSize(1);
            assertThat(told).hasSize(1);
        } finally {
            Thread.setDefaultUncaughtExceptionHandler(before);
        }
    }

    /** With 300 of each it is 13 of each more: run with {@code -Devidence.many=300}. */
    @Test
    void many_doors_and_cameras_take_few_stills_each() {
        int many = Integer.getInteger("evidence.many", 60);
        SimulatedPlace place = new SimulatedPlace(7);
        List<DoorId> doors = new ArrayList<>();
        for (int i = 0; i < many; i++) {
            DoorId door = place.door("door " + i);
            doors.add(door);
            place.camera("camera " + place.random.nextInt(1_000_000), door);
        }
        place.opensAtRandom(30, 14_400);
        try (EvidenceSearch search = search(place, place)) {
            search.look(doors);
            boolean[] left = new boolean[1];
            await().atMost(Duration.ofSeconds(600)).until(() -> {
                EvidenceSearch.Progress now = search.progress();
                left[0] |= now.left().isPresent();
                return !now.running();
            });
            int sure = 0;
            for (DoorId door : doors) {
                List<Candidate> cameras = search.of(door).orElseThrow().cameras();
                assertThat(cameras).isNotEmpty();
                assertThat(place.sees.get(cameras.get(0).camera())).contains(door);
                for (Candidate c : cameras) {
                    if (c.confidence() == Confidence.SURE) {
                        assertThat(place.sees.get(c.camera())).contains(door);
                        sure++;
                    }
                }
            }
            assertThat(sure).isGreaterThan(many * 3 / 4);
            assertThat(left[0]).as("how long it will take is said").isTrue();
            assertThat(search.found()).hasSize(many);
            System.out.println(many + " doors and cameras: " + search.progress().stills() + " stills");
            assertThat(search.progress().stills()).isLessThan(50L * many);
        }
    }

    /** Two doors of one lobby belong to two sites and open together: what the camera shows may be either. */
    @Test
    void doors_that_open_together_are_inseparable_also_where_they_belong_to_two_sites() {
        SimulatedPlace place = new SimulatedPlace(11);
        DoorId ours = place.door("lobby east");
        DoorId theirs = place.door("lobby west", SimulatedPlace.OTHER);
        place.camera("lobby", theirs);
        for (int i = 1; i < 15; i++) {
            place.opens(theirs, 200 * i, Side.ENTRY);
            place.opens(ours, 200 * i - 2, Side.ENTRY);
        }
        Candidate candidate = found(place, ours).cameras().get(0);
        assertThat(candidate.confidence()).isNotEqualTo(Confidence.SURE);
        assertThat(candidate.together()).containsExactly(theirs);
    }

    @Test
    void a_camera_that_is_late_is_found_and_not_doubted_once_it_is_known_how_late_it_is() {
        for (int millis : new int[] {2_000, -2_500, 3_700}) {
            SimulatedPlace place = new SimulatedPlace(12);
            DoorId door = place.door("door");
            CameraId camera = place.camera("late", door);
            CameraId yard = place.camera("yard");
            place.later.put(camera, Duration.ofMillis(millis));
            for (int i = 1; i < 25; i++) {
                place.opens(door, 300 * i, i % 2 == 0 ? Side.ENTRY : Side.EXIT);
            }
            try (EvidenceSearch search = search(place, place)) {
                List<Candidate> cameras = found(search, door).cameras();
                assertThat(cameras).as("%d ms late", millis).isNotEmpty();
                assertThat(cameras.get(0).camera()).isEqualTo(camera);
                assertThat(cameras.get(0).confidence()).isEqualTo(Confidence.SURE);
            }
            try (EvidenceSearch search = search(place, place)) {
                assertThat(checked(search, door, camera).holds()).isEqualTo(Holds.YES);
                assertThat(checked(search, door, yard).holds()).isEqualTo(Holds.NO);
            }
        }
    }

    @Test
    void a_recorder_that_is_late_as_a_whole_is_found_among_many_doors() {
        SimulatedPlace place = new SimulatedPlace(13);
        place.late = Duration.ofSeconds(2);
        List<DoorId> doors = new ArrayList<>();
        for (int i = 0; i < 12; i++) {
            DoorId door = place.door("door " + i);
            doors.add(door);
            place.camera("camera " + place.random.nextInt(1_000_000), door);
        }
        place.opensAtRandom(20, 20_000);
        try (EvidenceSearch search = search(place, place)) {
            search.look(doors);
            await().until(() -> !search.progress().running());
            long right = doors.stream()
                    .filter(d -> search.of(d).orElseThrow().cameras().stream()
                            .findFirst()
                            .filter(c -> place.sees.get(c.camera()).contains(d))
                            .isPresent())
                    .count();
            assertThat(right).isGreaterThanOrEqualTo(11);
        }
    }

    @Test
    void cameras_without_pictures_do_not_count_as_asked_and_history_that_is_read_is_not_no_opening() {
        SimulatedPlace place = new SimulatedPlace(14);
        DoorId door = place.door("door");
        DoorId unread = place.door("unread");
        place.camera("of it", door);
        place.blind.add(place.camera("dark"));
        place.opensAtRandom(12, 20_000);
        place.log.events.removeIf(e -> e.door().filter(unread::equals).isPresent());
        try (EvidenceSearch search = search(place, place)) {
            search.historyRead(system -> false);
            Result result = found(search, door);
            assertThat(result.asked()).isEqualTo(1);
            assertThat(result.of()).isEqualTo(2);
            assertThat(found(search, unread).outcome()).isEqualTo(Outcome.NOT_READ_YET);
            search.historyRead(system -> true);
            assertThat(found(search, unread).outcome()).isEqualTo(Outcome.NO_OPENINGS);
        }
    }
}
