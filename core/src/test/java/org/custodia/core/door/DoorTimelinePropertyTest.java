package org.custodia.core.door;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Random;
import net.jqwik.api.Arbitraries;
import net.jqwik.api.Arbitrary;
import net.jqwik.api.Combinators;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.Provide;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;

/** The fold does not depend on the order in which events come in, nor on how often. */
class DoorTimelinePropertyTest {
    private record Step(int gap, EventKind kind, String mode) {}

    @Provide
    Arbitrary<List<Event>> courses() {
        Arbitrary<EventKind> kinds = Arbitraries.of(
                Kinds.OPENED,
                Kinds.CLOSED,
                Kinds.FORCED,
                Kinds.HELD,
                Kinds.MODE,
                Kinds.REPORT,
                Kinds.GRANTED,
                Kinds.EXIT_REQUESTED,
                Kinds.RELEASED,
                Kinds.READER_OFF,
                Kinds.READER_ON,
                Kinds.CONTROLLER_LOST,
                Kinds.CONTROLLER_BACK);
        Arbitrary<String> modes = Arbitraries.of("locked", "unlocked", "blocked");
        return Combinators.combine(Arbitraries.integers().between(0, 20), kinds, modes)
                .as(Step::new)
                .list()
                .ofMinSize(1)
                .ofMaxSize(220)
                .map(DoorTimelinePropertyTest::events);
    }

    private static List<Event> events(List<Step> steps) {
        DoorEvents make = new DoorEvents();
        List<Event> events = new ArrayList<>();
        double t = 0;
        for (Step s : steps) {
            t += s.gap();
            events.add(make.event(
                    t, s.kind(), "mode", s.mode(), "by", "timetable", "position", t % 2 == 0 ? "open" : "closed"));
        }
        return events;
    }

    @Property(tries = 300)
    void any_order_of_redelivered_and_late_events_gives_the_same_as_in_order(
            @ForAll("courses") List<Event> events, @ForAll long seed, @ForAll boolean derives) {
        Door door = derives
                ? DoorEvents.door(DoorCapability.REPORTS_FORCED, DoorCapability.REPORTS_HELD)
                : DoorEvents.door();
        DoorTimeline inOrder = new DoorTimeline(door);
        inOrder.addAll(events);

        Random random = new Random(seed);
        List<Event> delivered = new ArrayList<>(events);
        for (int i = 0; i < events.size() / 3; i++) {
            delivered.add(events.get(random.nextInt(events.size())));
        }
        Collections.shuffle(delivered, random);
        DoorTimeline shuffled = new DoorTimeline(door);
        for (Event event : delivered) {
            shuffled.add(event);
            // Asking in between must not leave anything behind that a late event does not correct.
            shuffled.at(event.time().plusSeconds(random.nextInt(100)));
        }
        Instant end = events.get(events.size() - 1).time();
        for (int i = 0; i < 12; i++) {
            Instant t = DoorEvents.START.plusMillis((long)
                    (random.nextDouble() * 1000 * (1 + end.getEpochSecond() - DoorEvents.START.getEpochSecond())));
            assertThat(shuffled.at(t)).isEqualTo(inOrder.at(t));
        }
        assertThat(shuffled.size()).isEqualTo(inOrder.size());
        assertThat(shuffled.openings(DoorEvents.START, end)).isEqualTo(inOrder.openings(DoorEvents.START, end));
        assertThat(shuffled.outcomes(DoorEvents.START, end, end))
                .isEqualTo(inOrder.outcomes(DoorEvents.START, end, end));
    }

    @Property(tries = 200)
    void openings_never_overlap_and_each_grant_has_one_outcome(@ForAll("courses") List<Event> events) {
        DoorTimeline t = new DoorTimeline(DoorEvents.door());
        t.addAll(events);
        Instant end = events.get(events.size() - 1).time().plusSeconds(60);
        List<Opening> openings = t.openings(DoorEvents.START, end);
        for (int i = 1; i < openings.size(); i++) {
            assertThat(openings.get(i - 1).end()).isPresent();
            assertThat(openings.get(i).start())
                    .isAfterOrEqualTo(openings.get(i - 1).end().orElseThrow());
        }
        long grants =
                events.stream().filter(e -> e.kind().equals(Kinds.GRANTED)).count();
        var outcomes = t.outcomes(DoorEvents.START, end, end);
        assertThat(outcomes).hasSize((int) grants);
        long went = outcomes.values().stream()
                .filter(o -> o == GrantOutcome.WENT_THROUGH)
                .count();
        assertThat(went).isLessThanOrEqualTo(openings.size());
    }
}
