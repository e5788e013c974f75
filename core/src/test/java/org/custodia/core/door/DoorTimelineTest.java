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
import org.custodia.core.site.SystemId;
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
        DoorTimeline shorter = t.keeping(1);
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

    private static GrantOutcome outcome(DoorTimeline t, Event grant) {
        return t.outcomes(at(0), at(1_000), at(2_000)).get(grant.key());
    }

    private static Door derives() {
        return DoorEvents.door(DoorCapability.REPORTS_FORCED, DoorCapability.REPORTS_HELD);
    }

    private Event locked(double seconds) {
        return make.event(seconds, Kinds.MODE, "mode", "locked", "by", "timetable");
    }

    @Test
    void a_door_propped_open_after_a_grant_is_never_forced_however_much_is_forgotten() {
        DoorTimeline t = timeline(
                derives(), locked(0), make.event(20, Kinds.GRANTED), make.event(22, Kinds.OPENED), locked(40_000));
        for (int keep = 0; keep < 4; keep++) {
            DoorState state = t.keeping(keep).at(at(48_000));
            assertThat(state.forcedSince()).as("keeping " + keep).isEmpty();
            assertThat(state.heldSince()).contains(at(82));
        }
    }

    @Test
    void a_derived_forced_opening_stays_when_a_report_does_not_speak_of_it() {
        Event report = make.event(
                100, Kinds.REPORT, "mode", "locked", "position", "open", "position-since", at(50).toString());
        DoorTimeline t = timeline(derives(), locked(0), make.event(50, Kinds.OPENED), report);
        assertThat(t.at(at(120)).forcedSince()).contains(at(50));
        assertThat(t.openings(at(110), at(120)).get(0).forced()).isTrue();
        assertThat(timeline(derives(), report).at(at(120)).forcedSince()).isEmpty();
    }

    @Test
    void where_somebody_else_may_have_opened_it_nobody_can_say_who_did() {
        for (var other : List.of(Kinds.EXIT_REQUESTED, Kinds.RELEASED)) {
            for (double when : new double[] {-8, -1, 1, 2.5}) {
                Event grant = make.event(30, Kinds.GRANTED);
                DoorTimeline t = timeline(
                        DoorEvents.door(),
                        make.event(0, Kinds.CLOSED),
                        make.event(30 + when, other),
                        grant,
                        make.event(33, Kinds.OPENED));
                boolean within = 30 + when >= 23;
                assertThat(outcome(t, grant))
                        .as(other + " " + when)
                        .isEqualTo(within ? GrantOutcome.CANNOT_TELL : GrantOutcome.WENT_THROUGH);
            }
        }
        Event grant = make.event(38, Kinds.GRANTED);
        DoorTimeline used = timeline(
                DoorEvents.door(),
                make.event(30, Kinds.EXIT_REQUESTED),
                make.event(31, Kinds.OPENED),
                make.event(35, Kinds.CLOSED),
                grant,
                make.event(39, Kinds.OPENED));
        assertThat(outcome(used, grant)).isEqualTo(GrantOutcome.WENT_THROUGH);
    }

    @Test
    void where_the_position_was_never_heard_nobody_can_say_that_nobody_entered() {
        Event grant = make.event(30, Kinds.GRANTED);
        assertThat(outcome(timeline(DoorEvents.door(), grant), grant)).isEqualTo(GrantOutcome.CANNOT_TELL);
        assertThat(outcome(timeline(DoorEvents.door(), grant, make.event(34, Kinds.CLOSED)), grant))
                .isEqualTo(GrantOutcome.CANNOT_TELL);
        Event closed = make.event(0, Kinds.CLOSED);
        assertThat(outcome(timeline(DoorEvents.door(), closed, grant, make.event(34, Kinds.CLOSED)), grant))
                .isEqualTo(GrantOutcome.CANNOT_TELL);
        assertThat(outcome(timeline(DoorEvents.door(), closed, grant), grant)).isEqualTo(GrantOutcome.NOBODY_ENTERED);
    }

    @Test
    void what_a_controller_kept_through_an_outage_is_told_for_what_it_was() {
        Event closed = make.event(0, Kinds.CLOSED);
        Event lost = make.event(10, Kinds.CONTROLLER_LOST);
        Event through = make.event(30, Kinds.GRANTED);
        Event alone = make.event(100, Kinds.GRANTED);
        DoorTimeline t = timeline(
                DoorEvents.door(),
                closed,
                lost,
                through,
                make.event(32, Kinds.OPENED),
                make.event(36, Kinds.CLOSED),
                alone,
                make.event(200, Kinds.CONTROLLER_BACK));
        assertThat(outcome(t, through)).isEqualTo(GrantOutcome.WENT_THROUGH);
        assertThat(outcome(t, alone)).isEqualTo(GrantOutcome.CANNOT_TELL);
        Event cutShort = make.event(300, Kinds.GRANTED);
        t.add(cutShort);
        t.add(make.event(305, Kinds.CONTROLLER_LOST));
        t.add(make.event(307, Kinds.CONTROLLER_BACK));
        assertThat(outcome(t, cutShort)).isEqualTo(GrantOutcome.CANNOT_TELL);
    }

    @Test
    void passage_and_allowing_windows_end_where_they_are_said_to() {
        Event closed = make.event(0, Kinds.CLOSED);
        Event grant = make.event(30, Kinds.GRANTED);
        assertThat(outcome(timeline(derives(), locked(1), closed, grant, make.event(40, Kinds.OPENED)), grant))
                .isEqualTo(GrantOutcome.WENT_THROUGH);
        DoorTimeline late = timeline(derives(), locked(1), closed, grant, make.event(40.001, Kinds.OPENED));
        assertThat(outcome(late, grant)).isEqualTo(GrantOutcome.NOBODY_ENTERED);
        assertThat(late.at(at(41)).forcedSince()).contains(at(40.001));
        assertThat(timeline(derives(), locked(1), closed, grant, make.event(40, Kinds.OPENED))
                        .at(at(41))
                        .forcedSince())
                .isEmpty();
        DoorTimeline pending = timeline(DoorEvents.door(), closed, grant);
        assertThat(pending.outcomes(at(0), at(60), at(40)).get(grant.key())).isEqualTo(GrantOutcome.PENDING);
        assertThat(pending.outcomes(at(0), at(60), at(40.001)).get(grant.key())).isEqualTo(GrantOutcome.NOBODY_ENTERED);
    }

    @Test
    void forced_at_a_door_without_contact_comes_to_an_end() {
        Door door = DoorEvents.door(DoorCapability.CONTACT);
        Event forced = make.event(10, Kinds.FORCED);
        DoorTimeline t = timeline(door, locked(0), forced);
        assertThat(t.at(at(11)).forcedSince()).contains(at(10));
        assertThat(t.at(at(69)).forcedSince()).contains(at(10));
        assertThat(t.at(at(70)).forcedSince()).isEmpty();
        assertThat(timeline(door, locked(0), forced, make.event(20, Kinds.CLOSED))
                        .at(at(21))
                        .forcedSince())
                .isEmpty();
        assertThat(timeline(door, locked(0), forced, make.event(20, Kinds.REPORT, "mode", "locked"))
                        .at(at(21))
                        .forcedSince())
                .isEmpty();
    }

    @Test
    void a_door_that_may_stand_open_is_not_held_until_it_is_locked() {
        Event unlocked = make.event(0, Kinds.MODE, "mode", "unlocked", "by", "timetable");
        DoorTimeline t = timeline(derives(), unlocked, make.event(10, Kinds.OPENED));
        assertThat(t.at(at(5_000)).heldSince()).isEmpty();
        assertThat(t.openings(at(0), at(5_000)).get(0).heldAt()).isEmpty();
        t.add(locked(6_000));
        assertThat(t.at(at(6_059)).heldSince()).isEmpty();
        assertThat(t.at(at(6_061)).heldSince()).contains(at(6_060));
        t.add(make.event(7_000, Kinds.MODE, "mode", "unlocked"));
        assertThat(t.at(at(7_001)).heldSince()).isEmpty();
        assertThat(t.openings(at(0), at(8_000)).get(0).heldAt()).contains(at(6_060));
    }

    @Test
    void what_does_not_name_this_door_does_not_move_it() {
        DoorTimeline t = timeline(DoorEvents.door(), make.event(0, Kinds.CLOSED));
        EventKey key = new EventKey(DoorEvents.SYSTEM, 1, 99);
        Event nowhere = Event.of(key, Kinds.OPENED, at(10))
                .controller(DoorEvents.door().controller())
                .build();
        assertThat(t.add(nowhere)).isFalse();
        Event foreign = Event.of(new EventKey(new SystemId("tide"), 1, 1), Kinds.OPENED, at(10))
                .door(DoorEvents.ID)
                .build();
        assertThat(t.add(foreign)).isFalse();
        Event forged = Event.of(key, Kinds.LINK_LOST, at(10))
                .detail("system", "tidewater")
                .build();
        assertThat(t.add(forged)).isFalse();
        Event otherLink = Event.of(new EventKey(SystemId.CUSTODIA, 1, 1), Kinds.LINK_LOST, at(10))
                .detail("system", "tidewater-2")
                .build();
        assertThat(t.add(otherLink)).isFalse();
        assertThat(t.at(at(20)))
                .isEqualTo(
                        timeline(DoorEvents.door(), make.event(0, Kinds.CLOSED)).at(at(20)));
    }

    @Test
    void a_report_of_before_an_event_does_not_undo_it() {
        DoorTimeline t = timeline(DoorEvents.door(), make.event(0, Kinds.CLOSED), make.event(10, Kinds.OPENED));
        Event stale = Event.of(new EventKey(SystemId.CUSTODIA, 1, 5), Kinds.REPORT, at(11))
                .door(DoorEvents.ID)
                .detail("mode", "locked")
                .detail("position", "closed")
                .detail(DoorFact.AS_OF, "1:" + (make.last() - 1))
                .build();
        t.add(stale);
        assertThat(t.at(at(12)).open()).isTrue();
        Event fresh = stale.toBuilder()
                .key(new EventKey(SystemId.CUSTODIA, 1, 6))
                .detail(DoorFact.AS_OF, "1:" + make.last())
                .build();
        t.add(fresh);
        assertThat(t.at(at(12)).open()).isFalse();
    }

    @Test
    void one_loss_does_not_end_with_the_other() {
        Event cut = Event.of(new EventKey(SystemId.CUSTODIA, 1, 1), Kinds.LINK_LOST, at(20))
                .detail("system", "tidewater")
                .build();
        Event back = Event.of(new EventKey(SystemId.CUSTODIA, 1, 2), Kinds.LINK_BACK, at(30))
                .detail("system", "tidewater")
                .build();
        DoorTimeline t = timeline(DoorEvents.door(), make.event(10, Kinds.CONTROLLER_LOST), cut, back);
        assertThat(t.at(at(25)).outOfReachSince()).contains(at(10));
        assertThat(t.at(at(40)).outOfReachSince()).contains(at(10));
        t.add(make.event(50, Kinds.CONTROLLER_BACK));
        assertThat(t.at(at(51)).outOfReachSince()).isEmpty();
    }

    @Test
    void a_report_tells_of_movements_that_nobody_saw() {
        Event closed = make.event(0, Kinds.CLOSED);
        Event opened = make.event(10, Kinds.OPENED);
        Event grant = make.event(30, Kinds.GRANTED);
        Event moved = make.event(
                36, Kinds.REPORT, "mode", "locked", "position", "closed", "position-since", at(34).toString());
        assertThat(outcome(timeline(DoorEvents.door(), closed, grant, moved), grant))
                .isEqualTo(GrantOutcome.CANNOT_TELL);
        Event still = make.event(
                36, Kinds.REPORT, "mode", "locked", "position", "closed", "position-since", at(0).toString());
        assertThat(outcome(timeline(DoorEvents.door(), closed, grant, still), grant))
                .isEqualTo(GrantOutcome.NOBODY_ENTERED);
        Event jitter = make.event(
                36, Kinds.REPORT, "mode", "locked", "position", "closed", "position-since", at(1.2).toString());
        assertThat(outcome(timeline(DoorEvents.door(), closed, grant, jitter), grant))
                .isEqualTo(GrantOutcome.NOBODY_ENTERED);
        Event before = make.event(
                36, Kinds.REPORT, "mode", "locked", "position", "closed", "position-since", at(20).toString());
        assertThat(outcome(timeline(DoorEvents.door(), closed, grant, before), grant))
                .isEqualTo(GrantOutcome.NOBODY_ENTERED);
        Event open =
                make.event(36, Kinds.REPORT, "mode", "locked", "position", "open", "position-since", at(33).toString());
        assertThat(outcome(timeline(DoorEvents.door(), closed, grant, open), grant))
                .isEqualTo(GrantOutcome.CANNOT_TELL);
        DoorTimeline missed = timeline(DoorEvents.door(), closed, opened, moved);
        assertThat(missed.at(at(40)).positionSince()).contains(at(34));
        assertThat(missed.openings(at(0), at(60)))
                .containsExactly(new Opening(at(10), Optional.of(at(34)), Optional.empty(), false));
        Event vague = make.event(50, Kinds.REPORT, "mode", "locked", "position", "closed");
        missed.add(vague);
        assertThat(missed.at(at(60)).positionSince()).contains(at(34));
        assertThat(timeline(DoorEvents.door(), vague).at(at(60)).positionSince())
                .contains(at(50));
    }

    @Test
    void forced_and_held_by_the_controller_follow_its_reports_and_end_with_the_opening() {
        DoorTimeline t = timeline(
                DoorEvents.door(),
                locked(0),
                make.event(10, Kinds.FORCED),
                make.event(20, Kinds.FORCED),
                make.event(80, Kinds.HELD));
        assertThat(t.at(at(90)).forcedSince()).contains(at(10));
        assertThat(t.at(at(90)).heldSince()).contains(at(80));
        assertThat(t.at(at(90)).open()).isTrue();
        t.add(make.event(100, Kinds.REPORT, "mode", "locked", "position", "open", "forced-since", at(11).toString()));
        assertThat(t.at(at(101)).forcedSince()).contains(at(10));
        assertThat(t.at(at(101)).heldSince()).isEmpty();
        t.add(make.event(110, Kinds.REPORT, "mode", "locked", "position", "open"));
        assertThat(t.at(at(111)).forcedSince()).isEmpty();
        t.add(make.event(120, Kinds.CLOSED));
        t.add(make.event(130, Kinds.OPENED));
        assertThat(t.at(at(131)).forcedSince()).isEmpty();
        Event grant = make.event(200, Kinds.GRANTED);
        DoorTimeline forced =
                timeline(DoorEvents.door(), make.event(150, Kinds.CLOSED), grant, make.event(202, Kinds.FORCED));
        assertThat(outcome(forced, grant)).isEqualTo(GrantOutcome.CANNOT_TELL);
    }

    @Test
    void where_the_lock_was_not_known_nothing_is_called_forced() {
        DoorTimeline t = timeline(derives(), make.event(10, Kinds.OPENED));
        assertThat(t.at(at(11)).forcedSince()).isEmpty();
        Event blocked = make.event(0, Kinds.MODE, "mode", "blocked");
        assertThat(timeline(derives(), blocked, make.event(10, Kinds.OPENED))
                        .at(at(11))
                        .forcedSince())
                .contains(at(10));
        assertThat(timeline(derives(), make.event(0, Kinds.MODE, "mode", "unlocked"), make.event(10, Kinds.OPENED))
                        .at(at(11))
                        .forcedSince())
                .isEmpty();
    }

    @Test
    void a_controller_that_is_lost_says_since_when_and_a_report_may_know_better() {
        DoorTimeline t = timeline(
                DoorEvents.door(), make.event(10, Kinds.CONTROLLER_LOST), make.event(20, Kinds.CONTROLLER_LOST));
        assertThat(t.at(at(21)).outOfReachSince()).contains(at(10));
        t.add(make.event(30, Kinds.REPORT, "mode", "locked", "reach", "lost", "reach-since", at(8).toString()));
        assertThat(t.at(at(31)).outOfReachSince()).contains(at(8));
        t.add(make.event(40, Kinds.REPORT, "mode", "locked", "reach", "lost"));
        assertThat(t.at(at(41)).outOfReachSince()).contains(at(8));
        t.add(make.event(50, Kinds.REPORT, "mode", "locked"));
        assertThat(t.at(at(51)).outOfReachSince()).isEmpty();
        t.add(make.event(60, Kinds.REPORT, "mode", "locked", "reach", "lost"));
        assertThat(t.at(at(61)).outOfReachSince()).contains(at(60));
        Event cut = Event.of(new EventKey(SystemId.CUSTODIA, 1, 1), Kinds.LINK_LOST, at(55))
                .detail("system", "tidewater")
                .build();
        t.add(cut);
        assertThat(t.at(at(62)).outOfReachSince()).contains(at(55));
        Event again = Event.of(new EventKey(SystemId.CUSTODIA, 1, 2), Kinds.LINK_LOST, at(58))
                .detail("system", "tidewater")
                .build();
        t.add(again);
        assertThat(t.at(at(62)).outOfReachSince()).contains(at(55));
        Event grant = make.event(63, Kinds.GRANTED);
        t.add(grant);
        assertThat(outcome(t, grant)).isEqualTo(GrantOutcome.CANNOT_TELL);
    }

    @Test
    void adding_says_whether_it_was_new_and_forgetting_what_can_still_be_asked() {
        Event closed = make.event(10, Kinds.CLOSED);
        DoorTimeline t =
                timeline(DoorEvents.door(), closed, make.event(20, Kinds.OPENED), make.event(30, Kinds.CLOSED));
        assertThat(t.add(closed)).isFalse();
        assertThat(t.add(make.event(40, Kinds.OPENED))).isTrue();
        assertThat(t.size()).isEqualTo(4);
        assertThat(t.keeping(4)).isSameAs(t);
        DoorTimeline shorter = t.keeping(2);
        assertThat(shorter.size()).isEqualTo(2);
        assertThat(shorter.covers(at(20))).isFalse();
        assertThat(shorter.covers(at(20.001))).isTrue();
        DoorFact at20 =
                DoorFact.of(make.event(20, Kinds.OPENED), DoorEvents.door()).orElseThrow();
        DoorFact at19 =
                DoorFact.of(make.event(19, Kinds.OPENED), DoorEvents.door()).orElseThrow();
        assertThat(shorter.reaches(at20)).isTrue();
        assertThat(shorter.reaches(at19)).isFalse();
        assertThat(shorter.reaches(DoorFact.of(closed, DoorEvents.door()).orElseThrow()))
                .isFalse();
        assertThat(shorter.openings(at(25), at(50)))
                .containsExactly(
                        new Opening(at(20), Optional.of(at(30)), Optional.empty(), false),
                        new Opening(at(40), Optional.empty(), Optional.empty(), false));
        assertThat(timeline(DoorEvents.door(DoorCapability.CONTACT), closed).openings(at(0), at(50)))
                .isEmpty();
    }

    @Test
    void a_report_says_all_of_a_door_at_rest_only_if_it_does() {
        Door door = DoorEvents.door();
        String since = at(1).toString();
        assertThat(says(door, "mode", "locked", "position", "closed", "position-since", since))
                .isTrue();
        assertThat(says(door, "mode", "locked", "position", "open", "position-since", since))
                .isFalse();
        assertThat(says(door, "position", "closed", "position-since", since)).isFalse();
        assertThat(says(door, "mode", "locked", "position", "closed")).isFalse();
        assertThat(says(door, "mode", "locked", "position", "ajar", "position-since", since))
                .isFalse();
        assertThat(says(door, "mode", "locked", "position", "closed", "position-since", at(99).toString()))
                .isFalse();
        assertThat(says(door, "mode", "locked", "position", "closed", "position-since", "long ago"))
                .isFalse();
        assertThat(says(door, "mode", "locked", "position", "closed", "position-since", since, "reach", "lost"))
                .isFalse();
        assertThat(says(
                        door,
                        "mode",
                        "locked",
                        "position",
                        "closed",
                        "position-since",
                        since,
                        "reach",
                        "lost",
                        "reach-since",
                        since))
                .isTrue();
        Door without = DoorEvents.door(DoorCapability.CONTACT);
        assertThat(says(without, "mode", "locked")).isTrue();
        assertThat(says(without, "mode", "locked", "forced-since", since)).isFalse();
        assertThat(says(without, "mode", "locked", "held-since", since)).isFalse();
        Event mode = make.event(5, Kinds.MODE, "mode", "locked", "position", "closed", "position-since", since);
        assertThat(DoorFact.of(mode, door).orElseThrow().saysAllOf(door)).isFalse();
        Event unnumbered = make.event(5, Kinds.REPORT, "mode", "locked").toBuilder()
                .key(new EventKey(SystemId.CUSTODIA, 1, 3))
                .build();
        assertThat(DoorFact.of(unnumbered, without).orElseThrow().saysAllOf(without))
                .isFalse();
    }

    private boolean says(Door door, String... details) {
        return DoorFact.of(make.event(5, Kinds.REPORT, details), door)
                .orElseThrow()
                .saysAllOf(door);
    }

    @Test
    void a_link_that_falls_while_a_grant_waits_leaves_it_in_doubt() {
        Event grant = make.event(30, Kinds.GRANTED);
        DoorTimeline t = timeline(DoorEvents.door(), make.event(0, Kinds.CLOSED), grant);
        t.add(Event.of(new EventKey(SystemId.CUSTODIA, 1, 1), Kinds.LINK_LOST, at(34))
                .detail("system", "tidewater")
                .build());
        t.add(Event.of(new EventKey(SystemId.CUSTODIA, 1, 2), Kinds.LINK_BACK, at(36))
                .detail("system", "tidewater")
                .build());
        assertThat(outcome(t, grant)).isEqualTo(GrantOutcome.CANNOT_TELL);
        Event reported = make.event(60, Kinds.GRANTED);
        t.add(reported);
        t.add(make.event(62, Kinds.REPORT, "mode", "locked", "reach", "lost"));
        t.add(make.event(64, Kinds.REPORT, "mode", "locked"));
        assertThat(outcome(t, reported)).isEqualTo(GrantOutcome.CANNOT_TELL);
    }

    @Test
    void only_grants_of_the_span_have_an_outcome_in_it() {
        Event before = make.event(30, Kinds.GRANTED);
        Event within = make.event(33, Kinds.GRANTED);
        DoorTimeline t =
                timeline(DoorEvents.door(), make.event(0, Kinds.CLOSED), before, within, make.event(35, Kinds.OPENED));
        assertThat(t.outcomes(at(31), at(60), at(100))).containsOnlyKeys(within.key());
        assertThat(t.outcomes(at(31), at(60), at(100))).containsEntry(within.key(), GrantOutcome.CANNOT_TELL);
        assertThat(t.outcomes(at(30), at(60), at(100))).containsEntry(before.key(), GrantOutcome.WENT_THROUGH);
    }

    @Test
    void of_two_reports_the_one_with_the_higher_number_holds_whatever_their_times() {
        DoorTimeline t = timeline(DoorEvents.door(), make.event(0, Kinds.CLOSED));
        Event.Builder first = Event.of(new EventKey(SystemId.CUSTODIA, 1, 5), Kinds.REPORT, at(20))
                .door(DoorEvents.ID)
                .detail("mode", "unlocked")
                .detail(DoorFact.AS_OF, "1:40");
        t.add(first.build());
        t.add(first.key(new EventKey(SystemId.CUSTODIA, 1, 6))
                .time(at(25))
                .detail("mode", "locked")
                .detail(DoorFact.AS_OF, "1:30")
                .build());
        assertThat(t.at(at(30)).lock()).isEqualTo(LockMode.UNLOCKED);
        t.add(first.key(new EventKey(SystemId.CUSTODIA, 1, 7))
                .time(at(28))
                .detail(DoorFact.AS_OF, "2:1")
                .build());
        assertThat(t.at(at(30)).lock()).isEqualTo(LockMode.LOCKED);
    }
}
