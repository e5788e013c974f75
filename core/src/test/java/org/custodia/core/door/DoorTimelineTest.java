package org.custodia.core.door;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.core.door.DoorEvents.at;

import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.door.DoorState.Position;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.junit.jupiter.api.Test;

class DoorTimelineTest {
    private final DoorEvents make = new DoorEvents();

    private DoorTimeline timeline(Door door, Event... events) {
        DoorTimeline t = new DoorTimeline(door);
        t.addAll(List.of(events));
        return t;
    }

    @Test
    void the_state_follows_contact_and_lock_and_any_past_instant_can_be_asked_for() {
        DoorTimeline t = timeline(
                DoorEvents.door(),
                make.event(
                        0,
                        Kinds.MODE,
                        "mode",
                        "unlocked",
                        "by",
                        "timetable",
                        "next-mode",
                        "locked",
                        "next-at",
                        at(3600).toString()),
                make.event(1, Kinds.CLOSED),
                make.event(10, Kinds.OPENED),
                make.event(70, Kinds.HELD),
                make.event(90, Kinds.CLOSED));
        assertThat(t.at(at(-1))).isEqualTo(DoorState.UNKNOWN);
        assertThat(t.at(at(5)).position()).isEqualTo(Position.CLOSED);
        assertThat(t.at(at(5)).lock()).isEqualTo(LockMode.UNLOCKED);
        assertThat(t.at(at(5)).next()).contains(new DoorState.Next(LockMode.LOCKED, at(3600)));
        assertThat(t.at(at(10)).open()).isTrue();
        assertThat(t.at(at(75)).heldSince()).contains(at(70));
        assertThat(t.at(at(95)).heldSince()).isEmpty();
        assertThat(t.openings(at(0), at(100)))
                .containsExactly(new Opening(at(10), Optional.of(at(90)), Optional.of(at(70)), false));
    }

    @Test
    void a_door_without_contact_is_never_called_closed() {
        DoorTimeline t = timeline(
                DoorEvents.door(DoorCapability.CONTACT),
                make.event(0, Kinds.REPORT, "mode", "locked", "by", "timetable", "position", "closed"),
                make.event(1, Kinds.CLOSED));
        assertThat(t.at(at(9)).position()).isEqualTo(Position.UNKNOWN);
        assertThat(t.openings(at(0), at(9))).isEmpty();
    }

    @Test
    void one_opening_satisfies_one_grant_and_a_second_during_it_cannot_be_told() {
        Event first = make.event(0, Kinds.GRANTED);
        Event second = make.event(1, Kinds.GRANTED);
        Event third = make.event(4, Kinds.GRANTED);
        Event later = make.event(60, Kinds.GRANTED);
        DoorTimeline t = timeline(
                DoorEvents.door(),
                first,
                second,
                make.event(2, Kinds.OPENED),
                third,
                make.event(6, Kinds.CLOSED),
                later);
        Map<EventKey, GrantOutcome> outcomes = t.outcomes(at(0), at(100), at(200));
        assertThat(outcomes.get(first.key())).isEqualTo(GrantOutcome.WENT_THROUGH);
        assertThat(outcomes.get(second.key())).isEqualTo(GrantOutcome.CANNOT_TELL);
        assertThat(outcomes.get(third.key())).isEqualTo(GrantOutcome.CANNOT_TELL);
        assertThat(outcomes.get(later.key())).isEqualTo(GrantOutcome.NOBODY_ENTERED);
        assertThat(t.outcomes(at(0), at(100), at(65)).get(later.key())).isEqualTo(GrantOutcome.PENDING);
    }

    @Test
    void what_happens_out_of_reach_cannot_be_told() {
        Event grant = make.event(5, Kinds.GRANTED);
        DoorTimeline t = timeline(DoorEvents.door(), make.event(0, Kinds.CONTROLLER_LOST), grant);
        assertThat(t.at(at(6)).outOfReachSince()).contains(at(0));
        assertThat(t.outcomes(at(0), at(60), at(100)).get(grant.key())).isEqualTo(GrantOutcome.CANNOT_TELL);
    }

    @Test
    void forced_and_held_are_derived_only_where_the_controller_does_not_decide() {
        Event locked = make.event(0, Kinds.MODE, "mode", "locked", "by", "timetable");
        Event opened = make.event(30, Kinds.OPENED);
        DoorTimeline derives =
                timeline(DoorEvents.door(DoorCapability.REPORTS_FORCED, DoorCapability.REPORTS_HELD), locked, opened);
        assertThat(derives.at(at(31)).forcedSince()).contains(at(30));
        assertThat(derives.at(at(89)).heldSince()).isEmpty();
        assertThat(derives.at(at(91)).heldSince()).contains(at(90));
        assertThat(derives.openings(at(0), at(100)).get(0).forced()).isTrue();

        DoorTimeline leaves = timeline(DoorEvents.door(), locked, opened);
        assertThat(leaves.at(at(500)).forcedSince()).isEmpty();
        assertThat(leaves.at(at(500)).heldSince()).isEmpty();
    }

    @Test
    void an_exit_request_a_command_or_a_grant_shortly_before_makes_a_door_not_forced() {
        for (var kind : List.of(Kinds.GRANTED, Kinds.EXIT_REQUESTED, Kinds.RELEASED)) {
            DoorTimeline t = timeline(
                    DoorEvents.door(DoorCapability.REPORTS_FORCED),
                    make.event(0, Kinds.MODE, "mode", "locked", "by", "timetable"),
                    make.event(27, kind),
                    make.event(30, Kinds.OPENED));
            assertThat(t.at(at(31)).forcedSince()).as(kind.id()).isEmpty();
        }
    }

    @Test
    void forgetting_the_far_past_keeps_what_it_led_to() {
        DoorTimeline t = timeline(
                DoorEvents.door(),
                make.event(0, Kinds.MODE, "mode", "unlocked", "by", "command"),
                make.event(5, Kinds.OPENED),
                make.event(50, Kinds.HELD),
                make.event(80, Kinds.CLOSED));
        DoorTimeline shorter = t.startingAt(at(60));
        assertThat(shorter.size()).isEqualTo(1);
        assertThat(shorter.at(at(70))).isEqualTo(t.at(at(70)));
        assertThat(shorter.at(at(90))).isEqualTo(t.at(at(90)));
    }

    @Test
    void a_report_says_what_was_missed() {
        DoorTimeline t = timeline(
                DoorEvents.door(),
                make.event(0, Kinds.CONTROLLER_LOST),
                make.event(
                        60,
                        Kinds.REPORT,
                        "mode",
                        "locked",
                        "by",
                        "command",
                        "position",
                        "open",
                        "position-since",
                        at(20).toString(),
                        "held-since",
                        at(50).toString()));
        DoorState state = t.at(at(61));
        assertThat(state.outOfReachSince()).isEmpty();
        assertThat(state.positionSince()).contains(at(20));
        assertThat(state.heldSince()).contains(at(50));
        assertThat(state.lockBy()).contains("command");
    }
}
