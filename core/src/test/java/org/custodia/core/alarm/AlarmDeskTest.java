package org.custodia.core.alarm;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatCode;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.custodia.core.Patience.await;
import static org.custodia.core.alarm.Happening.GATE;
import static org.custodia.core.alarm.Happening.TIDEWATER;
import static org.custodia.core.alarm.Happening.VAULT;
import static org.custodia.core.alarm.Happening.at;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.stream.Stream;
import org.assertj.core.api.ThrowableAssert.ThrowingCallable;
import org.awaitility.core.ConditionFactory;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.event.Priority;
import org.custodia.core.event.Snapshots;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.operator.Permission;
import org.custodia.core.operator.Roles;
import org.custodia.core.operator.SiteScope;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** Alarms that are raised once, joined, ended and dealt with: late, twice, by many, over restarts, by those who may not. */
class AlarmDeskTest {
    private static final Actor IV = Actor.withAll("iv", "I. Vantongeren", "Desk 1");

    private final MemoryLog log = new MemoryLog();
    private final Snapshots snapshots = Snapshots.inMemory();
    private final Happening make = new Happening();
    private final Clock clock = mock(Clock.class);
    private volatile Instant now = at(100);
    private final List<String> told = new CopyOnWriteArrayList<>();
    private AlarmDesk desk;

    @BeforeEach
    void open() {
        when(clock.instant()).thenAnswer(i -> now);
        begin();
    }

    private void begin() {
        desk = new AlarmDesk(
                log,
                log,
                snapshots,
                Known.of(() -> Happening.SITES),
                (door, command, rule) -> told.add(door + " " + command.word()),
                clock);
        desk.watch(Rule.shipped().stream().map(RuleTimeline::always).toList());
    }

    @AfterEach
    void close() {
        desk.close();
    }

    private static ConditionFactory soon() {
        return await();
    }

    private List<Alarm> open_() {
        return desk.open(IV);
    }

    private Alarm only() {
        soon().until(() -> open_().size() == 1);
        return open_().get(0);
    }

    private long facts(org.custodia.core.event.EventKind kind) {
        return log.events.stream().filter(e -> e.kind().equals(kind)).count();
    }

    private Rule counting() {
        return Happening.rule(
                "often",
                new Rule.Often(
                        Set.of(Kinds.REFUSED),
                        Set.of(),
                        Set.of(Kinds.GRANTED),
                        3,
                        Duration.ofSeconds(60),
                        Rule.Per.PLACE));
    }

    /** An alarm has called by then, so it stays for an operator to see, and says that it was not so. */
    @Test
    void what_is_stored_later_contradicts_an_alarm_that_was_found_by_counting_or_by_silence() {
        Rule nobody = Happening.rule(
                "nobody", new Rule.Unfollowed(Set.of(Kinds.GRANTED), Set.of(Kinds.OPENED), Duration.ofSeconds(20)));
        desk.watch(List.of(RuleTimeline.always(counting()), RuleTimeline.always(nobody)));
        for (int i = 0; i < 3; i++) {
            log.store(make.event(Kinds.REFUSED, VAULT, 110 + i).build());
        }
        assertThat(only().condition()).isEqualTo(Alarm.Condition.MOMENT);
        // A grant at another door, or after all of them, is none of its business.
        log.store(make.event(Kinds.GRANTED, GATE, 111.5).build());
        log.store(make.event(Kinds.GRANTED, VAULT, 113).build());
        desk.settled();
        assertThat(only().condition()).isEqualTo(Alarm.Condition.MOMENT);
        log.store(make.event(Kinds.OPENED, GATE, 112).build());
        log.store(make.event(Kinds.GRANTED, VAULT, 111.5).build());
        soon().until(() -> only().condition() == Alarm.Condition.CONTRADICTED);
        assertThat(only().state(now)).isEqualTo(Alarm.State.NEW);
        desk.finish(seen(only().id()), Outcome.HARMLESS, "", IV).join();

        now = at(160);
        soon().until(() -> open_().size() == 1);
        assertThat(only().origin().rule()).isEqualTo("nobody");
        close();
        begin();
        desk.watch(List.of(RuleTimeline.always(counting()), RuleTimeline.always(nobody)));
        log.store(make.event(Kinds.OPENED, VAULT, 140).build());
        desk.settled();
        assertThat(only().condition()).isEqualTo(Alarm.Condition.MOMENT);
        log.store(make.event(Kinds.OPENED, VAULT, 125).build());
        soon().until(() -> only().condition() == Alarm.Condition.CONTRADICTED);
        // It happens again, and is what it is.
        log.store(make.event(Kinds.GRANTED, VAULT, 150).build());
        now = at(200);
        soon().until(() -> only().condition() == Alarm.Condition.MOMENT);
        assertThat(only().times()).isGreaterThan(1);
    }

    @Test
    void what_was_counted_before_a_state_was_known_to_be_over_counts_no_more() {
        Rule whileArmed = counting()
                .holding(Optional.of(
                        new Rule.Holding(Set.of(Kinds.PANEL_ARMED), Set.of(Kinds.PANEL_DISARMED), Rule.Extent.SITE)));
        desk.watch(List.of(RuleTimeline.always(whileArmed)));
        log.store(
                make.event(Kinds.PANEL_ARMED, VAULT, 100).build(),
                make.event(Kinds.REFUSED, VAULT, 110).build(),
                make.event(Kinds.PANEL_ARMED, VAULT, 115).build(),
                make.event(Kinds.REFUSED, VAULT, 120).build(),
                make.event(Kinds.REFUSED, VAULT, 130).build());
        assertThat(only().condition()).isEqualTo(Alarm.Condition.MOMENT);
        // The one at 110 was not while it was armed; the newest was.
        log.store(make.event(Kinds.PANEL_DISARMED, VAULT, 105).build());
        desk.settled();
        assertThat(only().condition()).isEqualTo(Alarm.Condition.CONTRADICTED);
        log.store(make.event(Kinds.REFUSED, VAULT, 140).build());
        soon().until(() -> only().times() == 2);
        assertThat(only().newest().at()).isEqualTo(at(140));
    }

    @Test
    void what_is_forced_is_one_alarm_that_counts_and_ends_and_calls_again() {
        log.store(make.event(Kinds.FORCED, VAULT, 110).build());
        Alarm first = only();
        assertThat(first.origin().priority()).isEqualTo(Priority.URGENT);
        assertThat(first.origin().since()).isEqualTo(at(110));
        assertThat(first.condition()).isEqualTo(Alarm.Condition.ON);
        assertThat(first.state(now)).isEqualTo(Alarm.State.NEW);
        desk.acknowledge(List.of(seen(first.id())), IV).join();
        assertThat(only().state(now)).isEqualTo(Alarm.State.ACKNOWLEDGED);
        log.store(make.event(Kinds.FORCED, VAULT, 112).build());
        soon().until(() -> only().times() == 2);
        assertThat(only().state(now)).isEqualTo(Alarm.State.ACKNOWLEDGED);
        log.store(make.event(Kinds.CLOSED, VAULT, 115).build());
        soon().until(() -> only().condition() == Alarm.Condition.ENDED);
        assertThat(only().state(now)).isEqualTo(Alarm.State.ACKNOWLEDGED);
        log.store(make.event(Kinds.FORCED, VAULT, 130).build());
        soon().until(() -> only().times() == 3);
        assertThat(only().condition()).isEqualTo(Alarm.Condition.ON);
        assertThat(only().state(now)).isEqualTo(Alarm.State.NEW);
        desk.finish(seen(first.id()), Outcome.HARMLESS, "Wind.", IV).join();
        assertThat(open_()).isEmpty();
        assertThat(desk.finished(IV)).singleElement().satisfies(a -> {
            assertThat(a.finished().orElseThrow().outcome()).isEqualTo(Outcome.HARMLESS);
            assertThat(a.finished().orElseThrow().by().operator()).isEqualTo("iv");
        });
        // From now on it is another one.
        log.store(make.event(Kinds.FORCED, VAULT, 140).build());
        assertThat(only().id()).isNotEqualTo(first.id());
        assertThat(log.events)
                .filteredOn(e -> e.kind().equals(Kinds.ALARM_RAISED))
                .allMatch(e -> e.door().isPresent());
    }

    @Test
    void what_nobody_came_for_goes_on_calling_since_it_first_did_however_often_it_happens() {
        log.store(make.event(Kinds.FORCED, VAULT, 110).build());
        Alarm first = only();
        for (int i = 0; i < 5; i++) {
            log.store(make.event(Kinds.CLOSED, VAULT, 112 + 30 * i).build());
            soon().until(() -> only().condition() == Alarm.Condition.ENDED);
            now = at(130 + 30 * i);
            log.store(make.event(Kinds.FORCED, VAULT, 130 + 30 * i).build());
            int times = 2 + i;
            soon().until(() -> only().times() == times);
            assertThat(only().call().since()).isEqualTo(first.call().since());
        }
        now = first.call().since().plus(Duration.ofMinutes(3));
        soon().until(() -> only().call().steps() > 0);
    }

    @Test
    void a_clock_that_is_set_back_keeps_nobody_from_being_called_louder() {
        desk.escalation(new Escalation(
                0, Map.of(Priority.URGENT, List.of(new Escalation.Step(Duration.ofMillis(1_500), List.of())))));
        log.store(make.event(Kinds.FORCED, VAULT, 110).build());
        assertThat(only().call().steps()).isZero();
        now = at(-80_000);
        soon().until(() -> only().call().steps() == 1);
    }

    @Test
    void a_moment_that_was_seen_calls_again_after_a_pause_and_not_while_it_goes_on() {
        log.store(make.event(Kinds.DURESS, VAULT, 110).build());
        Alarm first = only();
        assertThat(first.condition()).isEqualTo(Alarm.Condition.MOMENT);
        desk.acknowledge(List.of(seen(first.id())), IV).join();
        log.store(make.event(Kinds.DURESS, VAULT, 300).build());
        soon().until(() -> only().times() == 2);
        assertThat(only().state(now)).isEqualTo(Alarm.State.ACKNOWLEDGED);
        now = at(700);
        log.store(make.event(Kinds.DURESS, VAULT, 700).build());
        soon().until(() -> only().times() == 3);
        assertThat(only().state(now)).isEqualTo(Alarm.State.NEW);
        assertThat(only().call()).isEqualTo(new Alarm.Call(at(700), 0, 2));
        // What comes late of before is of before.
        desk.acknowledge(List.of(seen(first.id())), IV).join();
        log.store(make.event(Kinds.DURESS, VAULT, 120).late(true).build());
        soon().until(() -> only().times() == 4);
        assertThat(only().state(now)).isEqualTo(Alarm.State.ACKNOWLEDGED);
    }

    @Test
    void what_somebody_has_in_hand_calls_again_once_they_have_left_it_alone() {
        log.store(make.event(Kinds.DURESS, VAULT, 110).build());
        Alarm first = only();
        desk.take(first.id(), IV).join();
        now = at(110 + 3_000);
        desk.note(first.id(), "Somebody is on the way.", IV).join();
        now = at(110 + 6_000);
        log.store(make.event(Kinds.DURESS, VAULT, 110 + 6_000).build());
        soon().until(() -> only().times() == 2);
        assertThat(only().state(now)).isEqualTo(Alarm.State.IN_HAND);
        now = at(110 + 9_000);
        log.store(make.event(Kinds.DURESS, VAULT, 110 + 9_000).build());
        soon().until(() -> only().times() == 3);
        assertThat(only().state(now)).isEqualTo(Alarm.State.NEW);
        assertThat(only().owner()).isEmpty();
        // Put aside, it stays so until its time is over.
        desk.shelve(first.id(), now.plus(Duration.ofDays(1)), "Known.", IV).join();
        now = at(110 + 20_000);
        log.store(make.event(Kinds.DURESS, VAULT, 110 + 20_000).build());
        soon().until(() -> only().times() == 4);
        assertThat(only().state(now)).isEqualTo(Alarm.State.SHELVED);
    }

    /** While the log is full what is found waits, in its order, also over a restart; and each is told once. */
    @ParameterizedTest
    @ValueSource(longs = {1, 2, 3, 4, 5, 6})
    void what_cannot_be_stored_is_told_once_it_can_be(long seed) {
        Random random = new Random(seed);
        List<DoorId> doors = List.of(VAULT, GATE);
        Map<DoorId, Alarm.Condition> last = new HashMap<>();
        List<EventKey> forced = new ArrayList<>();
        for (int i = 0; i < 60; i++) {
            log.full = random.nextInt(3) > 0;
            DoorId door = doors.get(random.nextInt(2));
            boolean opens = random.nextBoolean();
            Event event = make.event(opens ? Kinds.FORCED : Kinds.CLOSED, door, 110 + i)
                    .build();
            log.store(event);
            if (opens) {
                forced.add(event.key());
                last.put(door, Alarm.Condition.ON);
            } else {
                last.replace(door, Alarm.Condition.ENDED);
            }
            now = at(110 + i);
            if (random.nextInt(15) == 0) {
                desk.close();
                begin();
            }
        }
        log.full = false;
        soon().until(() -> found().size() >= forced.size());
        assertThat(found()).containsExactlyInAnyOrderElementsOf(forced);
        last.forEach((door, condition) -> soon().until(() -> open_().stream()
                .anyMatch(x -> x.origin().subject().door().equals(Optional.of(door)) && x.condition() == condition)));
        assertThat(facts(Kinds.ALARM_RAISED)).isEqualTo(last.size());
    }

    private List<EventKey> found() {
        return log.events.stream()
                .filter(e -> e.kind().equals(Kinds.ALARM_RAISED) || e.kind().equals(Kinds.ALARM_AGAIN))
                .map(e -> EventKey.parse(e.detail("of").orElseThrow()).orElseThrow())
                .toList();
    }

    @Test
    void what_is_done_at_a_system_while_nothing_can_be_stored_is_taken_over_later() {
        Event cause = make.event(Kinds.FORCED, VAULT, 110).build();
        log.store(cause);
        only();
        log.full = true;
        log.store(make.event(Kinds.SEEN_THERE, VAULT, 112)
                .detail("of", cause.key().epoch() + ":" + cause.key().sequence())
                .build());
        log.store(make.event(Kinds.FORCED, GATE, 113).build());
        log.full = false;
        soon().until(() -> open_().size() == 2);
        soon().until(() -> facts(Kinds.ALARM_ACKNOWLEDGED) == 1);
    }

    @Test
    void what_no_rule_watches_any_more_is_not_said_to_be_still_so() {
        log.store(
                make.event(Kinds.HELD, VAULT, 110).build(),
                make.event(Kinds.FORCED, GATE, 111).build());
        soon().until(() -> open_().size() == 2);
        Rule held = Rule.shipped().stream()
                .filter(r -> r.id().equals("held"))
                .findFirst()
                .orElseThrow();
        Rule forced = Rule.shipped().stream()
                .filter(r -> r.id().equals("forced"))
                .findFirst()
                .orElseThrow();
        // The one is of another door by now, the other as it was.
        watch(
                new Rule(
                        held.id(),
                        1,
                        held.name(),
                        true,
                        held.when(),
                        Rule.Where.at(Set.of(GATE)),
                        held.who(),
                        held.during(),
                        held.priority(),
                        held.then()),
                forced);
        soon().until(() -> alarmOf("held").condition() == Alarm.Condition.UNWATCHED);
        assertThat(alarmOf("forced").condition()).isEqualTo(Alarm.Condition.ON);
        // Also where the process has ended in between.
        desk.close();
        desk = new AlarmDesk(log, log, snapshots, Known.of(() -> Happening.SITES), (door, command, rule) -> {}, clock);
        watch(held.on(false));
        soon().until(() -> alarmOf("forced").condition() == Alarm.Condition.UNWATCHED);
        // Once it is watched again and happens again, it is so again.
        watch(held);
        log.store(make.event(Kinds.HELD, VAULT, 150).build());
        soon().until(() -> alarmOf("held").condition() == Alarm.Condition.ON);
        assertThat(facts(Kinds.ALARM_ENDED)).isEqualTo(2);
    }

    private Alarm alarmOf(String rule) {
        return open_().stream()
                .filter(a -> a.origin().rule().equals(rule))
                .findFirst()
                .orElseThrow();
    }

    private void watch(Rule... rules) {
        desk.watch(Stream.of(rules).map(RuleTimeline::always).toList());
    }

    @Test
    void what_happened_before_rules_were_on_raises_nothing_and_what_comes_late_does() {
        log.store(make.event(Kinds.FORCED, VAULT, 50).build());
        log.store(make.event(Kinds.HELD, VAULT, 105).late(true).build());
        assertThat(only().origin().rule()).isEqualTo("held");
        assertThat(facts(Kinds.ALARM_RAISED)).isEqualTo(1);
    }

    @Test
    void an_end_of_before_ends_nothing() {
        log.store(make.event(Kinds.FORCED, VAULT, 120).build());
        only();
        log.store(
                make.event(Kinds.CLOSED, VAULT, 119).build(),
                make.event(Kinds.FORCED, GATE, 121).build());
        soon().until(() -> open_().size() == 2);
        assertThat(open_()).allMatch(a -> a.condition() == Alarm.Condition.ON);
    }

    @Test
    void after_a_restart_the_queue_is_the_same_and_what_was_not_looked_at_any_more_is() {
        log.store(
                make.event(Kinds.FORCED, VAULT, 110).build(),
                make.event(Kinds.HELD, GATE, 111).build());
        soon().until(() -> open_().size() == 2);
        EventKey urgent = open_().get(0).id();
        desk.take(urgent, IV).join();
        desk.note(urgent, "Sent the patrol.", IV).join();
        Alarm before = desk.atHand(urgent).orElseThrow();
        desk.close();
        log.store(
                make.event(Kinds.FORCED, VAULT, 112).build(),
                make.event(Kinds.DURESS, GATE, 113).build());
        long raised = facts(Kinds.ALARM_RAISED);
        begin();
        soon().until(() -> open_().size() == 3);
        soon().until(() -> open_().stream().anyMatch(a -> a.times() == 2));
        assertThat(facts(Kinds.ALARM_RAISED)).isEqualTo(raised + 1);
        assertThat(open_().stream()
                        .filter(a -> a.id().equals(urgent))
                        .findFirst()
                        .orElseThrow())
                .satisfies(a -> {
                    assertThat(a.owner()).isEqualTo(before.owner());
                    assertThat(a.notes()).isEqualTo(before.notes());
                });
        List<Alarm> now2 = open_();
        long all = log.events.size();
        desk.close();
        begin();
        assertThat(open_()).isEqualTo(now2);
        log.store(
                make.event(Kinds.OPENED, GATE, 200).build(),
                make.event(Kinds.FORCED, GATE, 201).build());
        soon().until(() -> open_().size() == 4);
        // Nothing else was raised again meanwhile.
        assertThat(log.events).hasSize((int) all + 3);
    }

    @Test
    void what_is_put_aside_comes_back_when_its_time_is_over_or_somebody_lets_it() {
        log.store(make.event(Kinds.HELD, VAULT, 110).build());
        EventKey id = only().id();
        assertThatThrownBy(() -> desk.shelve(id, now.plusSeconds(60), " ", IV)).isInstanceOf(AlarmException.class);
        assertThatThrownBy(() -> desk.shelve(id, now, "repair", IV)).isInstanceOf(AlarmException.class);
        assertThatThrownBy(() -> desk.shelve(id, now.plus(Duration.ofDays(40)), "repair", IV))
                .isInstanceOf(AlarmException.class);
        desk.shelve(id, now.plusSeconds(60), "damper repair", IV).join();
        assertThat(only().state(now)).isEqualTo(Alarm.State.SHELVED);
        // Meanwhile it counts, and does not call.
        log.store(make.event(Kinds.HELD, VAULT, 120).build());
        soon().until(() -> only().times() == 2);
        assertThat(only().state(now)).isEqualTo(Alarm.State.SHELVED);
        now = now.plusSeconds(61);
        assertThat(only().state(now)).isEqualTo(Alarm.State.NEW);
        soon().until(() -> only().shelved().isEmpty());
        assertThat(facts(Kinds.ALARM_BACK)).isEqualTo(1);
        desk.shelve(id, now.plusSeconds(60), "once more", IV).join();
        desk.back(id, IV).join();
        assertThat(only().state(now)).isEqualTo(Alarm.State.NEW);
    }

    @Test
    void what_is_done_with_cannot_be_done_again_and_two_at_once_leave_one_outcome() {
        log.store(make.event(Kinds.HELD, VAULT, 110).build());
        EventKey id = only().id();
        desk.hand(id, "ba", "B. Achterberg", IV).join();
        assertThat(only().owner().orElseThrow().operator()).isEqualTo("ba");
        desk.finish(seen(id), Outcome.FAULT, "", IV).join();
        for (ThrowingCallable each : List.<ThrowingCallable>of(
                () -> desk.acknowledge(List.of(seen(id)), IV),
                () -> desk.take(id, IV),
                () -> desk.finish(seen(id), Outcome.GENUINE, "", IV),
                () -> desk.note(id, "x", IV),
                () -> desk.take(new EventKey(SystemId.CUSTODIA, 1, 999), IV))) {
            assertThatThrownBy(each).isInstanceOf(AlarmException.class);
        }
        // One that was on its way already changes nothing any more.
        log.record(Event.of(new EventKey(SystemId.CUSTODIA, 1, 0), Kinds.ALARM_FINISHED, now)
                        .operator("ba")
                        .detail("alarm", id.text())
                        .detail("outcome", "genuine"))
                .join();
        assertThat(desk.finished(IV).get(0).finished().orElseThrow().outcome()).isEqualTo(Outcome.FAULT);
    }

    @Test
    void what_a_system_claims_of_alarms_is_not_believed() {
        log.store(make.event(Kinds.HELD, VAULT, 110).build());
        EventKey id = only().id();
        log.store(make.event(Kinds.ALARM_FINISHED, VAULT, 111)
                .detail("alarm", id.text())
                .detail("outcome", "harmless")
                .build());
        log.store(make.event(Kinds.ALARM_RAISED, VAULT, 111)
                .detail("rule", "x")
                .detail("about", "DOOR tidewater/vault")
                .build());
        assertThat(only().open()).isTrue();
    }

    @Test
    void each_may_do_what_is_permitted_where_it_is() {
        log.store(make.event(Kinds.HELD, VAULT, 110).build());
        EventKey id = only().id();
        for (Roles.Role role : Roles.all(List.of(Happening.HARBOUR, Happening.YARD))) {
            Actor actor = role.actor();
            boolean sees = role.has(Set.of(Permission.HANDLE_ALARMS), Actor.Level.LOOK, Happening.HARBOUR);
            boolean acts = role.has(Set.of(Permission.HANDLE_ALARMS), Actor.Level.CHANGE, Happening.HARBOUR);
            assertThat(desk.open(actor)).as(role.toString()).hasSize(sees ? 1 : 0);
            for (ThrowingCallable each : List.<ThrowingCallable>of(
                    () -> desk.acknowledge(List.of(seen(id)), actor).join(),
                    () -> desk.take(id, actor).join(),
                    () -> desk.note(id, "x", actor).join(),
                    () -> desk.shelve(id, now.plusSeconds(9), "x", actor).join(),
                    () -> desk.back(id, actor).join())) {
                if (acts) {
                    assertThatCode(each).as(role.toString()).doesNotThrowAnyException();
                } else {
                    assertThatThrownBy(each).as(role.toString()).isInstanceOf(NotPermittedException.class);
                }
            }
            if (!acts) {
                assertThatThrownBy(() -> desk.finish(seen(id), Outcome.DRILL, "", actor))
                        .isInstanceOf(NotPermittedException.class);
            }
        }
    }

    @Test
    void a_flood_loses_nothing_and_joins_what_belongs_together() {
        List<Event> flood = new ArrayList<>();
        for (int i = 0; i < 30_000; i++) {
            // Most of them matter to no rule; every hundredth does.
            flood.add(make.event(i % 100 == 0 ? Kinds.HELD : Kinds.CLOSED, i % 200 == 0 ? VAULT : GATE, 110 + i * 0.001)
                    .build());
        }
        log.feed(TIDEWATER).accept(EventIntake.Batch.of(flood, false)).join();
        soon().until(() -> open_().stream().mapToInt(Alarm::times).sum() == 300);
        assertThat(open_()).hasSize(2);
    }

    private long evaluated() {
        return snapshots
                .load("rules", AlarmWatch.SNAPSHOT_VERSION, Detector.State.class)
                .map(Snapshots.Snapshot::position)
                .orElse(0L);
    }

    /** However much was stored and not looked at any more when the process was killed. */
    @Test
    void what_was_stored_and_not_looked_at_is_looked_at_by_whoever_begins_again() {
        log.store(make.event(Kinds.HELD, GATE, 101).build());
        soon().until(() -> open_().size() == 1);
        desk.close();
        assertThat(evaluated()).isGreaterThan(0);
        List<Event> stored = new ArrayList<>();
        stored.add(make.event(Kinds.FORCED, VAULT, 110).build());
        for (int i = 0; i < 12_000; i++) {
            stored.add(make.event(Kinds.READER_ON, VAULT, 111 + i * 0.001).build());
        }
        log.feed(TIDEWATER).accept(EventIntake.Batch.of(stored, false)).join();
        begin();
        soon().until(() -> open_().size() == 2);
        // And what was looked at is not raised again.
        soon().until(() -> {
            now = now.plusSeconds(31);
            return evaluated() > 12_000;
        });
        desk.close();
        int before = log.events.size();
        begin();
        log.store(make.event(Kinds.DURESS, GATE, 200).build());
        soon().until(() -> open_().size() == 3);
        // Time has passed, so that an escalation may be due as well; raised is only what is new.
        assertThat(log.events.subList(before, log.events.size()))
                .filteredOn(event -> event.kind().equals(Kinds.ALARM_RAISED))
                .hasSize(1);
    }

    @Test
    void the_most_urgent_come_first_and_then_the_oldest() {
        log.store(make.event(Kinds.HELD, VAULT, 110).build());
        only();
        now = now.plusSeconds(5);
        log.store(
                make.event(Kinds.HELD, GATE, 111).build(),
                make.event(Kinds.FORCED, GATE, 112).build());
        soon().until(() -> open_().size() == 3);
        assertThat(open_())
                .extracting(a -> a.origin().name() + " " + a.origin().subject().id())
                .containsExactly("Forced open tidewater/gate", "Held open tidewater/vault", "Held open tidewater/gate");
    }

    // ---- Whom it is about, and what an operator saw

    private static final PersonId ANA = new PersonId("tidewater/ana");
    private static final PersonId ODO = new PersonId("tidewater/odo");

    @Test
    void a_second_persons_duress_calls_though_the_first_is_in_hand_or_shelved() {
        log.store(make.event(Kinds.DURESS, VAULT, 110).person(ANA).build());
        Alarm anas = only();
        assertThat(anas.origin().person()).contains(ANA);
        desk.shelve(anas.id(), now.plus(Duration.ofDays(1)), "Training with Ana.", IV)
                .join();
        log.store(make.event(Kinds.DURESS, VAULT, 112).person(ANA).build());
        soon().until(() -> only().times() == 2);
        assertThat(only().state(now)).isEqualTo(Alarm.State.SHELVED);
        log.store(make.event(Kinds.DURESS, VAULT, 113).person(ODO).build());
        soon().until(() -> open_().size() == 2);
        assertThat(open_().get(0).calling().person()).contains(ODO);
        assertThat(open_().get(0).state(now)).isEqualTo(Alarm.State.NEW);
        // The same after a restart.
        desk.close();
        begin();
        log.store(make.event(Kinds.DURESS, VAULT, 114).person(ANA).build());
        soon().until(() -> open_().stream().anyMatch(a -> a.times() == 3));
        assertThat(open_()).hasSize(2);
    }

    @Test
    void what_calls_again_is_shown_as_it_happened_then() {
        log.store(make.event(Kinds.DURESS, VAULT, 110).build());
        Alarm first = only();
        desk.acknowledge(List.of(first.seen()), IV).join();
        now = at(900);
        Event second = make.event(Kinds.DURESS, VAULT, 900).build();
        log.store(second);
        soon().until(() -> only().state(now) == Alarm.State.NEW);
        assertThat(only().calling().cause()).isEqualTo(second.key());
        assertThat(only().calling().at()).isEqualTo(at(900));
        assertThat(only().origin().cause()).isNotEqualTo(second.key());
    }

    /** The operator finishes what is on the screen; meanwhile it happens again, before or after that is stored. */
    @ParameterizedTest
    @ValueSource(booleans = {true, false})
    void what_happens_in_the_moment_an_alarm_is_finished_is_not_lost(boolean before) {
        log.store(make.event(Kinds.HELD, VAULT, 110).build());
        Alarm seen = only();
        Event again = make.event(Kinds.HELD, VAULT, 112).build();
        if (before) {
            log.store(again);
            soon().until(() -> only().times() == 2);
            desk.finish(seen.seen(), Outcome.HARMLESS, "", IV).join();
        } else {
            // Found as a repetition of the open alarm, and stored after its end.
            desk.finish(seen.seen(), Outcome.HARMLESS, "", IV).join();
            log.record(Event.of(new EventKey(SystemId.CUSTODIA, 1, 0), Kinds.ALARM_AGAIN, now)
                            .detail("alarm", seen.id().text())
                            .detail("about", "DOOR " + VAULT.value())
                            .detail("of", again.key().text())
                            .detail("since", again.time().toString()))
                    .join();
            log.store(again);
        }
        soon().until(() -> open_().size() == 1 && !open_().get(0).id().equals(seen.id()));
        assertThat(only().origin().cause()).isEqualTo(again.key());
        assertThat(only().state(now)).isEqualTo(Alarm.State.NEW);
        assertThat(desk.finished(IV)).hasSize(1);
        desk.close();
        begin();
        desk.settled();
        assertThat(open_()).hasSize(1);
        assertThat(facts(Kinds.ALARM_RAISED)).isEqualTo(2);
    }

    @Test
    void an_acknowledgement_covers_what_its_operator_saw() {
        log.store(make.event(Kinds.FORCED, VAULT, 110).build());
        Alarm seen = only();
        // It goes on while the operator aims: that is the same call.
        log.store(make.event(Kinds.FORCED, VAULT, 111).build());
        soon().until(() -> only().times() == 2);
        desk.acknowledge(List.of(seen.seen()), IV).join();
        assertThat(only().state(now)).isEqualTo(Alarm.State.ACKNOWLEDGED);
        // It ends and begins anew while another operator aims at what was there before: that is not covered.
        desk.finish(only().seen(), Outcome.DRILL, "", IV).join();
        log.store(make.event(Kinds.FORCED, GATE, 120).build());
        Alarm gate = only();
        log.store(
                make.event(Kinds.CLOSED, GATE, 121).build(),
                make.event(Kinds.FORCED, GATE, 122).build());
        soon().until(() -> only().times() == 2);
        desk.acknowledge(List.of(gate.seen()), IV).join();
        assertThat(only().state(now)).isEqualTo(Alarm.State.NEW);
        desk.acknowledge(List.of(only().seen()), IV).join();
        assertThat(only().state(now)).isEqualTo(Alarm.State.ACKNOWLEDGED);
    }

    @Test
    void what_a_system_finished_finishes_nothing_that_happened_since() {
        Event first = make.event(Kinds.DURESS, VAULT, 110).build();
        log.store(first);
        only();
        Event second = make.event(Kinds.DURESS, VAULT, 120).build();
        log.store(second);
        soon().until(() -> only().times() == 2);
        log.store(make.event(Kinds.FINISHED_THERE, VAULT, 121)
                .detail("of", first.key().epoch() + ":" + first.key().sequence())
                .build());
        soon().until(() -> facts(Kinds.ALARM_FINISHED) == 1);
        soon().until(() -> open_().size() == 1);
        assertThat(only().origin().cause()).isEqualTo(second.key());
        assertThat(only().state(now)).isEqualTo(Alarm.State.NEW);
    }

    @Test
    void a_system_whose_id_begins_like_anothers_does_not_speak_for_it() {
        SystemId other = new SystemId("tidewater:1");
        log.store(Event.of(new EventKey(other, 1, 7), Kinds.DURESS, at(110))
                .door(GATE)
                .build());
        only();
        // As text both would read "tidewater:1:1:7".
        log.store(make.event(Kinds.FINISHED_THERE, VAULT, 120)
                .detail("of", "1:1:7")
                .build());
        desk.settled();
        assertThat(facts(Kinds.ALARM_FINISHED)).isZero();
        assertThat(only().state(now)).isEqualTo(Alarm.State.NEW);
    }

    // ---- What held when it happened

    @Test
    void an_alarm_belongs_to_the_sites_where_it_was_when_it_was_raised() {
        SiteModel without = new SiteModel(Happening.SITES.sites(), List.of(), List.of(), List.of());
        log.store(
                make.event(Kinds.FORCED, VAULT, 110).build(),
                Event.of(new EventKey(TIDEWATER, 1, 900), Kinds.CONTROLLER_LOST, at(111))
                        .controller(new ControllerId("tidewater/c1"))
                        .build(),
                Event.of(new EventKey(SystemId.CUSTODIA, 1, 900), Kinds.CAMERA_LOST, at(112))
                        .detail("camera", "quayside/nobody-knows")
                        .build());
        soon().until(() -> open_().size() == 3);
        desk.close();
        // The doors leave the register; whose the alarms are does not change.
        desk = new AlarmDesk(log, log, snapshots, Known.of(() -> without), (door, command, rule) -> {}, clock);
        watch(Rule.shipped().toArray(Rule[]::new));
        Actor harbour = operatorAt(Happening.HARBOUR);
        Actor yard = operatorAt(Happening.YARD);
        assertThat(desk.open(harbour)).extracting(a -> a.origin().rule()).containsExactly("forced", "controller");
        assertThat(desk.open(yard)).extracting(a -> a.origin().rule()).containsExactly("controller");
        Alarm forced = alarmOf("forced");
        assertThatThrownBy(() -> desk.finish(forced.seen(), Outcome.DRILL, "", yard))
                .isInstanceOf(NotPermittedException.class);
        desk.finish(forced.seen(), Outcome.DRILL, "", harbour).join();
        assertThatThrownBy(() -> desk.take(alarmOf("camera").id(), harbour)).isInstanceOf(NotPermittedException.class);
        desk.take(alarmOf("camera").id(), IV).join();
    }

    private static Actor operatorAt(SiteId site) {
        return Actor.with("x", "X", "desk", List.of(Permission.HANDLE_ALARMS), SiteScope.at(site));
    }

    @Test
    void an_edit_silences_nothing_that_happened_before_it_and_is_stored_after_it() {
        Rule forced = Rule.shipped().stream()
                .filter(r -> r.id().equals("forced"))
                .findFirst()
                .orElseThrow();
        Rule renamed = new Rule(
                forced.id(),
                1,
                "Break-in",
                true,
                forced.when(),
                forced.where(),
                forced.who(),
                forced.during(),
                Priority.LOW,
                forced.then());
        desk.watch(List.of(new RuleTimeline(
                "forced",
                List.of(
                        new RuleTimeline.Version(Instant.MIN, Optional.of(forced)),
                        new RuleTimeline.Version(at(150), Optional.of(renamed)),
                        new RuleTimeline.Version(
                                at(170), Optional.of(renamed.version(2).on(false))),
                        new RuleTimeline.Version(at(190), Optional.empty())))));
        now = at(200);
        log.store(make.event(Kinds.FORCED, VAULT, 140).late(true).build());
        assertThat(only().origin().name()).isEqualTo(forced.name());
        assertThat(only().origin().priority()).isEqualTo(Priority.URGENT);
        log.store(
                make.event(Kinds.FORCED, GATE, 180).late(true).build(),
                make.event(Kinds.FORCED, GATE, 195).build(),
                make.event(Kinds.FORCED, GATE, 160).late(true).build());
        soon().until(() -> open_().size() == 2);
        assertThat(open_().get(1).origin().name()).isEqualTo("Break-in");
        assertThat(open_().get(1).times()).isEqualTo(1);
    }

    @Test
    void a_rule_that_was_made_later_judges_what_happened_before_there_was_any() {
        Rule gate = new Rule(
                "gate",
                1,
                "Gate",
                true,
                new Rule.Once(Set.of(Kinds.RELEASED), Set.of(), Set.of()),
                Rule.Where.ANYWHERE,
                Rule.Who.ANYBODY,
                Hours.ALWAYS,
                Priority.LOW,
                Rule.Then.QUIET);
        log.store(make.event(Kinds.RELEASED, VAULT, 120).build());
        desk.settled();
        desk.watch(List.of(new RuleTimeline("gate", List.of(new RuleTimeline.Version(at(150), Optional.of(gate))))));
        log.store(make.event(Kinds.RELEASED, GATE, 121).late(true).build());
        assertThat(only().origin().subject().door()).contains(GATE);
    }

    /** An alarm as it stands. */
    private Alarm.Seen seen(EventKey id) {
        return desk.atHand(id).map(Alarm::seen).orElse(new Alarm.Seen(id, 1));
    }
}
