package org.custodia.core.door;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.Random;
import net.jqwik.api.Arbitraries;
import net.jqwik.api.Arbitrary;
import net.jqwik.api.Combinators;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.Provide;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;

/**
 * What is said of a door depends only on what happened: not on the order of delivery, on what was forgotten, on where it was
 * loaded from, on restarts, or on reports that merely repeat what was so. A course of events is made as a real door would
 * make it, with truthful reports strewn in, and the whole of it is compared with all sorts of deliveries.
 */
class DoorDependsOnlyOnWhatHappenedTest {

    private enum Act {
        GRANT,
        EXIT,
        RELEASE,
        OPEN,
        CLOSE,
        LOCK,
        UNLOCK,
        LOSE,
        REGAIN,
        CUT,
        MEND,
        READER,
        REPORT,
        WAIT
    }

    private record Step(Act act, int gap) {}

    @Provide
    Arbitrary<List<Step>> courses() {
        Arbitrary<Act> acts = Arbitraries.of(Act.values());
        Arbitrary<Integer> gaps = Arbitraries.frequencyOf(
                net.jqwik.api.Tuple.of(6, Arbitraries.integers().between(0, 12)),
                net.jqwik.api.Tuple.of(3, Arbitraries.integers().between(20, 90)),
                net.jqwik.api.Tuple.of(1, Arbitraries.integers().between(3_000, 90_000)));
        return Combinators.combine(acts, gaps).as(Step::new).list().ofMinSize(1).ofMaxSize(160);
    }

    /** A door that keeps its own state, and reports it truthfully. */
    private static final class RealDoor {
        private final Door door;
        private final DoorEvents make = new DoorEvents();
        private final List<Event> events = new ArrayList<>();
        private double t;
        private boolean open;
        private double since;
        private boolean unlocked;
        private boolean lost;
        private double lostSince;
        private boolean cut;
        private boolean readerOff;
        private long own;
        private long number;

        RealDoor(Door door) {
            this.door = door;
            say(Kinds.MODE, "mode", "locked", "by", "timetable");
            t += 30;
            say(Kinds.CLOSED);
        }

        private void say(EventKind kind, String... details) {
            events.add(make.event(t, kind, details));
            number++;
        }

        private void own(EventKind kind) {
            events.add(Event.of(new EventKey(SystemId.CUSTODIA, 1, ++own), kind, DoorEvents.at(t))
                    .detail("system", "tidewater")
                    .build());
        }

        void step(Step step) {
            t += step.gap() + 0.25;
            switch (step.act()) {
                case GRANT -> say(Kinds.GRANTED);
                case EXIT -> say(Kinds.EXIT_REQUESTED);
                case RELEASE -> say(Kinds.RELEASED);
                case OPEN -> {
                    if (!open) {
                        open = true;
                        since = t;
                        say(Kinds.OPENED);
                    }
                }
                case CLOSE -> {
                    if (open) {
                        open = false;
                        since = t;
                        say(Kinds.CLOSED);
                    }
                }
                case LOCK, UNLOCK -> {
                    unlocked = step.act() == Act.UNLOCK;
                    say(Kinds.MODE, "mode", unlocked ? "unlocked" : "locked", "by", "timetable");
                }
                case LOSE -> {
                    if (!lost) {
                        lost = true;
                        lostSince = t;
                        say(Kinds.CONTROLLER_LOST);
                    }
                }
                case REGAIN -> {
                    if (lost) {
                        lost = false;
                        say(Kinds.CONTROLLER_BACK);
                    }
                }
                case CUT -> {
                    cut = true;
                    own(Kinds.LINK_LOST);
                }
                case MEND -> {
                    if (cut) {
                        cut = false;
                        own(Kinds.LINK_BACK);
                    }
                }
                case READER -> {
                    readerOff = !readerOff;
                    say(readerOff ? Kinds.READER_OFF : Kinds.READER_ON);
                }
                case REPORT -> report();
                case WAIT -> t += 40;
            }
        }

        private void report() {
            List<String> d = new ArrayList<>(List.of("mode", unlocked ? "unlocked" : "locked", "by", "timetable"));
            if (door.can(DoorCapability.CONTACT)) {
                Collections.addAll(
                        d,
                        "position",
                        open ? "open" : "closed",
                        "position-since",
                        DoorEvents.at(since == 0 ? 30 : since).toString());
            }
            if (readerOff) {
                Collections.addAll(d, "reader", "off");
            }
            if (lost) {
                Collections.addAll(
                        d,
                        "reach",
                        "lost",
                        "reach-since",
                        DoorEvents.at(lostSince).toString());
            }
            if (own % 2 == 0) {
                say(Kinds.REPORT, d.toArray(String[]::new));
            } else {
                Event.Builder b = Event.of(new EventKey(SystemId.CUSTODIA, 1, ++own), Kinds.REPORT, DoorEvents.at(t))
                        .door(DoorEvents.ID)
                        .detail(DoorFact.AS_OF, "1:" + number);
                for (int i = 0; i < d.size(); i += 2) {
                    b.detail(d.get(i), d.get(i + 1));
                }
                events.add(b.build());
            }
        }
    }

    private static Door door(int sort) {
        return switch (sort % 3) {
            case 0 -> DoorEvents.door();
            case 1 -> DoorEvents.door(DoorCapability.REPORTS_FORCED, DoorCapability.REPORTS_HELD);
            default -> DoorEvents.door(DoorCapability.CONTACT);
        };
    }

    private static RealDoor run(Door door, List<Step> steps) {
        RealDoor real = new RealDoor(door);
        steps.forEach(real::step);
        return real;
    }

    private static final class Now extends Clock {
        private Instant now;

        @Override
        public ZoneId getZone() {
            return ZoneOffset.UTC;
        }

        @Override
        public Clock withZone(ZoneId zone) {
            return this;
        }

        @Override
        public Instant instant() {
            return now;
        }
    }

    private static void same(DoorTimeline whole, DoorBoard board, Door door, Instant at, Instant end) {
        assertThat(board.at(door.id(), at)).as("at " + at).isEqualTo(whole.at(at));
        assertThat(board.all(at)).as("all at " + at).isEqualTo(Map.of(door.id(), whole.at(at)));
        Instant from = at.minusSeconds(300);
        DoorBoard.Stretch stretch = board.stretch(door.id(), from, at).orElseThrow();
        assertThat(stretch.outcomes()).as("outcomes to " + at).isEqualTo(whole.outcomes(from, at, end));
        assertThat(stretch.openings()).as("openings to " + at).isEqualTo(whole.openings(from, at));
    }

    @Property(tries = 500)
    void any_delivery_and_any_restart_says_the_same_as_the_whole(
            @ForAll("courses") List<Step> steps, @ForAll int sort, @ForAll long seed) {
        Random random = new Random(seed);
        Door door = door(Math.floorMod(sort, 3));
        RealDoor real = run(door, steps);
        DoorTimeline whole = new DoorTimeline(door);
        whole.addAll(real.events);
        Instant end = DoorEvents.at(real.t + 15);

        SiteModel sites = new SiteModel(List.of(), List.of(door), List.of(), List.of());
        MemoryLog log = new MemoryLog();
        // Whether checkpoints are kept, and where, must not show either.
        MemoryCheckpoints checkpoints = new MemoryCheckpoints(log);
        int stride = List.of(1, 2, 5, 1_000).get(random.nextInt(4));
        Now clock = new Now();
        clock.now = DoorEvents.at(random.nextInt(3) * real.t / 2);
        List<Event> delivered = new ArrayList<>(real.events);
        if (random.nextBoolean()) {
            Collections.shuffle(delivered, random);
        }
        // How much is kept at hand, and how much is read in one go, must not show.
        Duration atHand = Duration.ofSeconds(List.of(0, 60, 900, 40_000).get(random.nextInt(4)));
        int most = List.of(1, 3, 20, 4_000).get(random.nextInt(4));
        int page = List.of(1, 2, 7, 1_000).get(random.nextInt(4));
        DoorBoard board = new DoorBoard(log, checkpoints, log, () -> sites, clock, atHand, most, page);
        for (Event event : delivered) {
            long position = Math.max(0, log.newestPosition() - random.nextInt(2));
            log.store(event);
            if (random.nextInt(12) == 0) {
                // Made while the newest event was being stored, now and then.
                Instant until = DoorEvents.at(random.nextDouble() * (real.t + 5));
                checkpoints.keep(
                        new DoorHistory(log, checkpoints, 3).checkpoints(door, stride, until, stride + 3), position);
            }
            if (random.nextInt(5) == 0) {
                // Asking in between must not leave anything behind.
                board.at(door.id(), DoorEvents.at(random.nextDouble() * real.t));
                board.now(door.id());
            }
            if (random.nextInt(40) == 0) {
                board.close();
                board = new DoorBoard(log, checkpoints, log, () -> sites, clock, atHand, most, page);
            }
        }
        clock.now = end;
        for (int i = 0; i < 8; i++) {
            same(whole, board, door, DoorEvents.at(random.nextDouble() * (real.t + 15)), end);
        }
        same(whole, board, door, end, end);
        board.close();
    }

    @Property(tries = 500)
    void what_is_forgotten_leaves_behind_all_that_the_rest_depends_on(
            @ForAll("courses") List<Step> steps, @ForAll int sort, @ForAll long seed) {
        Random random = new Random(seed);
        Door door = door(Math.floorMod(sort, 3));
        RealDoor real = run(door, steps);
        DoorTimeline whole = new DoorTimeline(door);
        whole.addAll(real.events);
        DoorTimeline shorter = new DoorTimeline(door);
        for (Event event : real.events.stream().sorted().toList()) {
            shorter.add(event);
            if (random.nextInt(6) == 0) {
                shorter = shorter.keeping(random.nextInt(4));
            }
        }
        Instant end = DoorEvents.at(real.t + 15);
        assertThat(shorter.at(end)).isEqualTo(whole.at(end));
        Instant from = DoorEvents.at(real.t - random.nextInt(20));
        if (shorter.covers(from)) {
            assertThat(shorter.outcomes(from, end, end)).isEqualTo(whole.outcomes(from, end, end));
            assertThat(shorter.openings(from, end)).isEqualTo(whole.openings(from, end));
        }
    }

    @Property(tries = 500)
    void reports_that_repeat_what_is_so_change_nothing(@ForAll("courses") List<Step> steps, @ForAll int sort) {
        Door door = door(Math.floorMod(sort, 3));
        RealDoor real = run(door, steps);
        DoorTimeline with = new DoorTimeline(door);
        with.addAll(real.events);
        DoorTimeline without = new DoorTimeline(door);
        without.addAll(
                real.events.stream().filter(e -> !e.kind().equals(Kinds.REPORT)).toList());
        Instant end = DoorEvents.at(real.t + 15);
        for (double t = 0; t <= real.t + 15; t += Math.max(1, real.t / 40)) {
            Instant at = DoorEvents.at(t);
            DoorState a = with.at(at);
            DoorState b = without.at(at);
            assertThat(a).as("at " + at).isEqualTo(b);
        }
        assertThat(with.outcomes(Instant.EPOCH, end, end)).isEqualTo(without.outcomes(Instant.EPOCH, end, end));
        assertThat(with.openings(Instant.EPOCH, end)).isEqualTo(without.openings(Instant.EPOCH, end));
    }

    @Property(tries = 100)
    void every_grant_has_one_outcome_and_no_opening_is_given_to_two(@ForAll("courses") List<Step> steps) {
        RealDoor real = run(DoorEvents.door(), steps);
        DoorTimeline t = new DoorTimeline(DoorEvents.door());
        t.addAll(real.events);
        Instant end = DoorEvents.at(real.t + 60);
        var outcomes = t.outcomes(Instant.EPOCH, end, end);
        long grants =
                real.events.stream().filter(e -> e.kind().equals(Kinds.GRANTED)).count();
        assertThat(outcomes).hasSize((int) grants).doesNotContainValue(GrantOutcome.PENDING);
        long went = outcomes.values().stream()
                .filter(GrantOutcome.WENT_THROUGH::equals)
                .count();
        assertThat(went).isLessThanOrEqualTo(t.openings(Instant.EPOCH, end).size());
    }
}
