package org.custodia.core.alarm;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.custodia.core.alarm.Happening.GATE;
import static org.custodia.core.alarm.Happening.VAULT;
import static org.custodia.core.alarm.Happening.at;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import java.nio.charset.StandardCharsets;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CancellationException;
import java.util.concurrent.CopyOnWriteArrayList;
import org.assertj.core.api.ThrowableAssert.ThrowingCallable;
import org.awaitility.core.ConditionFactory;
import org.custodia.core.Patience;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.event.Priority;
import org.custodia.core.event.Snapshots;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.operator.Permission;
import org.custodia.core.operator.Roles;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.DoorId;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** Rules that are changed while they are watched, tried on what is past, and taken from one place to another. */
class RuleDeskTest {
    private static final Actor IV = Actor.withAll("iv", "I. Vantongeren", "Desk 1");

    private final MemoryLog log = new MemoryLog();
    private final Snapshots snapshots = Snapshots.inMemory();
    private final Happening make = new Happening();
    private final Clock clock = mock(Clock.class);
    private final RulesInHand file = new RulesInHand();
    private final List<String> told = new CopyOnWriteArrayList<>();
    private volatile Instant now = at(100);
    private AlarmDesk alarms;
    private RuleDesk desk;

    @BeforeEach
    void open() {
        when(clock.instant()).thenAnswer(i -> now);
        begin();
    }

    private void begin() {
        file.log = log;
        file.now = () -> now;
        Known known = Known.of(() -> Happening.SITES);
        alarms = new AlarmDesk(
                log, log, snapshots, known, (door, c, rule) -> told.add(rule + ": " + door + " " + c.word()), clock);
        desk = new RuleDesk(file, alarms, log, known, file, clock);
    }

    @AfterEach
    void close() {
        alarms.close();
    }

    private static ConditionFactory soon() {
        return Patience.await();
    }

    private static Rule own(String id, Rule.When when, Rule.Then then) {
        return new Rule(
                id,
                0,
                "Of the site: " + id,
                true,
                when,
                Rule.Where.ANYWHERE,
                Rule.Who.ANYBODY,
                Hours.ALWAYS,
                Priority.CAUTION,
                then);
    }

    private static final Rule.Once RELEASED = new Rule.Once(Set.of(Kinds.RELEASED), Set.of(), Set.of());

    private RuleDesk.Standing standing(String id) {
        return desk.rules(IV).stream()
                .filter(s -> s.rule().id().equals(id))
                .findFirst()
                .orElseThrow();
    }

    private List<String> open_() {
        return alarms.open(IV).stream().map(a -> a.origin().rule()).toList();
    }

    @Test
    void a_rule_is_watched_from_when_it_was_made_and_no_more_once_it_is_taken_off() {
        log.store(make.event(Kinds.RELEASED, VAULT, 101).build());
        now = at(105);
        // Versions in hand are made at the beginning of time; this one as it would be on file.
        desk.keep(own("let-through", RELEASED, Rule.Then.CALLS), 0, IV);
        assertThat(standing("let-through").version()).isEqualTo(1);
        log.store(make.event(Kinds.RELEASED, GATE, 110).build());
        soon().until(() -> open_().contains("let-through"));
        RuleDesk.Standing forced = standing("forced");
        assertThat(forced.shipped()).isTrue();
        desk.keep(forced.rule().on(false), 0, IV);
        assertThatThrownBy(() -> desk.keep(forced.rule(), 0, IV)).isInstanceOf(EventLogException.class);
        log.store(
                make.event(Kinds.FORCED, VAULT, 111).build(),
                make.event(Kinds.DURESS, VAULT, 112).build());
        soon().until(() -> open_().contains("duress"));
        assertThat(open_()).doesNotContain("forced");
        desk.takeOff("let-through", 1, IV);
        assertThat(desk.rules(IV)).noneMatch(s -> s.rule().id().equals("let-through"));
        // On again, and it is watched again.
        desk.keep(forced.rule(), 1, IV);
        log.store(
                make.event(Kinds.RELEASED, VAULT, 115).build(),
                make.event(Kinds.FORCED, GATE, 116).build());
        soon().until(() -> open_().contains("forced"));
        assertThat(open_().stream().filter("let-through"::equals)).hasSizeLessThan(2);
        assertThat(desk.versions("forced", IV))
                .extracting(Versions.Said::version)
                .containsExactly(2L, 1L, 0L);
        assertThat(log.events).filteredOn(e -> e.kind().equals(Kinds.SET_UP)).hasSize(4);
    }

    @Test
    void what_is_counted_may_have_begun_before_the_rule_was_changed() {
        log.store(
                make.event(Kinds.REFUSED, VAULT, 101).build(),
                make.event(Kinds.REFUSED, VAULT, 102).build());
        RuleDesk.Standing often = standing("refused-often");
        desk.keep(often.rule(), 0, IV);
        log.store(make.event(Kinds.REFUSED, VAULT, 103).build());
        soon().until(() -> open_().equals(List.of("refused-often")));
        // And what happened before a restart counts too, and is raised once.
        alarms.close();
        begin();
        log.store(make.event(Kinds.DURESS, GATE, 104).build());
        soon().until(() -> open_().size() == 2);
        assertThat(alarms.open(IV).get(1).times()).isEqualTo(1);
    }

    @Test
    void doors_are_told_at_the_start_and_at_the_end_once_each() {
        Rule.Then then = new Rule.Then(
                true,
                true,
                List.of(
                        new Rule.Order(Rule.At.START, Optional.empty(), new DoorCommand.LockNow()),
                        new Rule.Order(Rule.At.START, Optional.of(GATE), new DoorCommand.LockNow()),
                        new Rule.Order(Rule.At.END, Optional.of(GATE), new DoorCommand.BackToTimetable())),
                List.of());
        desk.keep(own("held-here", new Rule.Once(Set.of(Kinds.HELD), Set.of(), Set.of(Kinds.CLOSED)), then), 0, IV);
        Event held = make.event(Kinds.HELD, VAULT, 110).build();
        log.store(held);
        soon().until(() -> told.size() == 2);
        log.store(make.event(Kinds.HELD, VAULT, 112).build());
        log.store(make.event(Kinds.CLOSED, VAULT, 120).build());
        soon().until(() -> told.size() == 3);
        assertThat(told)
                .containsExactly(
                        "Of the site: held-here: tidewater/vault lock",
                        "Of the site: held-here: tidewater/gate lock",
                        "Of the site: held-here: tidewater/gate timetable");
        // It begins anew.
        log.store(make.event(Kinds.HELD, VAULT, 130).build());
        soon().until(() -> told.size() == 5);
        // What was told is not told again when it begins once more.
        alarms.close();
        begin();
        log.store(make.event(Kinds.DURESS, GATE, 131).build());
        soon().until(() -> open_().contains("duress"));
        assertThat(told).hasSize(5);
    }

    @Test
    void a_rule_that_goes_in_a_circle_is_stopped() {
        Rule.Then then = new Rule.Then(
                true,
                true,
                List.of(new Rule.Order(Rule.At.START, Optional.empty(), new DoorCommand.LetThrough())),
                List.of());
        desk.keep(own("circle", RELEASED, then), 0, IV);
        for (int i = 0; i < 3 * AlarmWatch.MOST_ORDERS_A_MINUTE; i++) {
            double t = 110 + i * 0.01;
            log.store(make.event(Kinds.RELEASED, VAULT, t).build());
            soon().until(() -> open_().equals(List.of("circle")));
            // What it does is done after it is there.
            int orders = Math.min(i + 1, AlarmWatch.MOST_ORDERS_A_MINUTE);
            soon().until(() -> told.size() == orders);
            alarms.finish(alarms.open(IV).get(0).seen(), Outcome.DRILL, "", IV).join();
            soon().until(() -> open_().isEmpty());
        }
        assertThat(told).hasSize(AlarmWatch.MOST_ORDERS_A_MINUTE);
        now = now.plusSeconds(61);
        log.store(make.event(Kinds.RELEASED, VAULT, 200).build());
        soon().until(() -> told.size() == AlarmWatch.MOST_ORDERS_A_MINUTE + 1);
    }

    @Test
    void what_nobody_sees_to_goes_on_to_others_and_stops_when_somebody_has_seen_it() {
        log.store(make.event(Kinds.FORCED, VAULT, 101).build());
        soon().until(() -> open_().equals(List.of("forced")));
        Alarm alarm = alarms.open(IV).get(0);
        assertThat(alarms.escalation().next(alarm, now)).contains(at(220));
        now = at(221);
        soon().until(() -> alarms.open(IV).get(0).call().steps() == 1);
        assertThat(alarms.escalation().next(alarms.open(IV).get(0), now)).contains(at(340));
        now = at(2_000);
        soon().until(() -> alarms.open(IV).get(0).call().steps() == Escalation.MOST_STEPS);
        assertThat(alarms.escalation().next(alarms.open(IV).get(0), now)).isEmpty();
        alarms.shelve(alarm.id(), at(2_100), "repair", IV).join();
        now = at(2_101);
        // It calls again as from the beginning.
        soon().until(() -> alarms.open(IV).get(0).shelved().isEmpty());
        assertThat(alarms.open(IV).get(0).call()).isEqualTo(new Alarm.Call(at(2_101), 0, 2));
        alarms.acknowledge(List.of(seen(alarm.id())), IV).join();
        now = at(9_000);
        log.store(make.event(Kinds.DURESS, GATE, 9_000).build());
        soon().until(() -> open_().contains("duress"));
        assertThat(alarms.open(IV)).allMatch(a -> a.call().steps() == 0);
        assertThat(log.events.stream().filter(e -> e.kind().equals(Kinds.ALARM_ESCALATED)))
                .hasSize(2);
    }

    @Test
    void a_rule_is_tried_on_what_is_past_as_if_it_had_been_finished_when_it_was_over() {
        now = at(86_400);
        List<Event> past = new ArrayList<>();
        for (int i = 0; i < 12; i++) {
            // Every twenty minutes, twice, at the vault; closed in between.
            past.add(make.event(Kinds.HELD, VAULT, 1_000 + i * 1_200).build());
            past.add(make.event(Kinds.HELD, VAULT, 1_010 + i * 1_200).build());
            past.add(make.event(Kinds.CLOSED, VAULT, 1_030 + i * 1_200).build());
        }
        past.add(make.event(Kinds.REFUSED, GATE, 1_500).build());
        past.add(make.event(Kinds.REFUSED, GATE, 3_200).build());
        past.add(make.event(Kinds.REFUSED, GATE, 5_100).build());
        past.forEach(log::store);
        Rule held = standing("held").rule();
        List<Double> progress = new ArrayList<>();
        RuleTrial trial =
                desk.tryOut(List.of(held.on(false)), Duration.ofDays(1), progress::add, new Cancellation(), IV);
        assertThat(trial.total()).isEqualTo(12);
        assertThat(trial.called()).allMatch(c -> c.times() == 2).hasSize(12);
        assertThat(trial.places()).containsOnly(java.util.Map.entry(new Subject(Subject.Sort.DOOR, VAULT.value()), 12));
        assertThat(trial.worstTen()).isEqualTo(1);
        assertThat(trial.aDay()).isEqualTo(12);
        assertThat(progress).last().isEqualTo(1.0);
        // What is over at once is one until half an hour after the last.
        Rule refused = own("refused", new Rule.Once(Set.of(Kinds.REFUSED), Set.of(), Set.of()), Rule.Then.QUIET);
        RuleTrial two = desk.tryOut(List.of(refused), Duration.ofDays(1), p -> {}, new Cancellation(), IV);
        assertThat(two.called()).extracting(RuleTrial.Called::times).containsExactly(2, 1);
        RuleTrial both = desk.tryOut(List.of(refused, held), Duration.ofDays(1), p -> {}, new Cancellation(), IV);
        assertThat(both.total()).isEqualTo(14);
        assertThat(both.worstTen()).isEqualTo(2);
        // Nothing of it was raised.
        assertThat(log.events.stream()
                        .filter(e -> e.kind().equals(Kinds.ALARM_RAISED))
                        .count())
                .isLessThanOrEqualTo(2);
        Cancellation cancelled = new Cancellation();
        cancelled.cancel();
        assertThatThrownBy(() -> desk.tryOut(List.of(held), Duration.ofDays(1), p -> {}, cancelled, IV))
                .isInstanceOf(CancellationException.class);
        RuleTrial none = desk.tryOut(List.of(), Duration.ofDays(1), p -> {}, new Cancellation(), IV);
        assertThat(none.total()).isZero();
        assertThat(none.worst()).isEmpty();
    }

    @Test
    void kinds_of_the_sites_own_begin_and_end_in_a_trial_as_well() {
        now = at(86_400);
        EventKind on = new EventKind("pump.on");
        EventKind off = new EventKind("pump.off");
        for (int i = 0; i < 3; i++) {
            log.store(
                    make.event(on, VAULT, 1_000 + i * 100).build(),
                    make.event(off, VAULT, 1_050 + i * 100).build());
        }
        Rule pump = own("pump", new Rule.Once(Set.of(on), Set.of(), Set.of(off)), Rule.Then.QUIET);
        RuleTrial trial = desk.tryOut(List.of(pump), Duration.ofDays(1), p -> {}, new Cancellation(), IV);
        assertThat(trial.total()).isEqualTo(3);
        Rule dry = own("dry", new Rule.Unfollowed(Set.of(on), Set.of(off), Duration.ofSeconds(60)), Rule.Then.QUIET);
        assertThat(desk.tryOut(List.of(dry), Duration.ofDays(1), p -> {}, new Cancellation(), IV)
                        .total())
                .isZero();
    }

    @Test
    void the_queue_of_any_instant_and_the_alarms_of_any_period_are_read_from_the_log() {
        log.store(make.event(Kinds.FORCED, VAULT, 101).build());
        soon().until(() -> open_().equals(List.of("forced")));
        now = at(200);
        log.store(make.event(Kinds.DURESS, GATE, 200).build());
        soon().until(() -> open_().size() == 2);
        now = at(300);
        Alarm forced = alarms.open(IV).get(0);
        alarms.take(forced.id(), IV).join();
        now = at(400);
        alarms.finish(seen(forced.id()), Outcome.GENUINE, "Somebody.", IV).join();
        // Nobody came to the other, which goes on to its next step by itself.
        soon().until(() -> alarms.open(IV).get(0).call().steps() == 1);
        assertThat(alarms.openAt(at(50), IV)).isEmpty();
        assertThat(alarms.openAt(at(150), IV)).singleElement().satisfies(a -> assertThat(a.state(at(150)))
                .isEqualTo(Alarm.State.NEW));
        assertThat(alarms.openAt(at(350), IV))
                .extracting(a -> a.state(at(350)))
                .containsExactly(Alarm.State.NEW, Alarm.State.IN_HAND);
        assertThat(alarms.openAt(at(400), IV)).hasSize(1);
        assertThat(alarms.openAt(now, IV)).isEqualTo(alarms.open(IV));
        assertThat(alarms.raised(at(0), at(150), IV))
                .singleElement()
                .satisfies(a -> assertThat(a.finished().orElseThrow().outcome()).isEqualTo(Outcome.GENUINE));
        assertThat(alarms.raised(at(0), at(1_000), IV)).hasSize(2);
        assertThat(alarms.raised(at(150), at(200), IV)).isEmpty();
    }

    @Test
    void an_alarm_that_calls_again_in_a_period_belongs_to_it_also_where_it_was_raised_before() {
        log.store(make.event(Kinds.FORCED, VAULT, 101).build());
        soon().until(() -> open_().equals(List.of("forced")));
        now = at(110);
        Alarm forced = alarms.open(IV).get(0);
        alarms.acknowledge(List.of(seen(forced.id())), IV).join();
        log.store(make.event(Kinds.CLOSED, VAULT, 120).build());
        soon().until(() -> alarms.open(IV).get(0).condition() == Alarm.Condition.ENDED);
        now = at(5_000);
        assertThat(alarms.raised(at(4_000), at(6_000), IV)).isEmpty();
        log.store(make.event(Kinds.FORCED, VAULT, 5_000).build());
        soon().until(() -> alarms.open(IV).get(0).times() == 2);
        assertThat(alarms.raised(at(4_000), at(6_000), IV)).singleElement().satisfies(a -> assertThat(a.id())
                .isEqualTo(forced.id()));
        assertThat(alarms.raised(at(200), at(4_000), IV)).isEmpty();
    }

    private List<String> problems(Rule rule) {
        return desk.problems(rule).stream().map(Saying::code).toList();
    }

    @Test
    void what_is_odd_about_a_rule_is_said() {
        Rule.shipped().forEach(r -> assertThat(problems(r)).as(r.id()).isEmpty());
        Rule.Once forced = new Rule.Once(Set.of(Kinds.FORCED), Set.of("wrong-pin"), Set.of());
        DoorId gone = new DoorId("tidewater/gone");
        Rule odd = new Rule(
                "odd",
                0,
                "Odd",
                true,
                forced,
                Rule.Where.at(Set.of(gone)),
                new Rule.Who(Set.of(), Set.of("staff"), false),
                new Hours(List.of(), Hours.Holidays.ALL_DAY),
                Priority.LOW,
                new Rule.Then(
                        true,
                        true,
                        List.of(
                                new Rule.Order(Rule.At.END, Optional.of(gone), new DoorCommand.LockNow()),
                                new Rule.Order(Rule.At.START, Optional.of(GATE), new DoorCommand.LockNow())),
                        List.of()));
        assertThat(problems(odd))
                .containsExactly(
                        "rule.door-gone",
                        "rule.reasons-of-nothing",
                        "rule.nobody-in-it",
                        "rule.always-anyway",
                        "rule.door-gone",
                        "rule.never-ends",
                        "rule.door-cannot");
        Rule.Then through = new Rule.Then(
                true,
                true,
                List.of(new Rule.Order(Rule.At.START, Optional.empty(), new DoorCommand.LetThrough())),
                List.of());
        assertThat(problems(own("c", RELEASED, through))).containsExactly("rule.circle");
        assertThat(problems(own("c", new Rule.Once(Set.of(Kinds.DURESS), Set.of(), Set.of()), through)))
                .isEmpty();
    }

    /** A tells the vault to lock, which B looks at; B lets somebody through at the gate, which A looks at. */
    @Test
    void rules_that_set_each_other_off_are_said_before_they_are_switched_on() {
        Rule.Where vault = Rule.Where.at(Set.of(VAULT));
        Rule.Where gate = Rule.Where.at(Set.of(GATE));
        Rule first = placed(gate, own("first", RELEASED, orders(VAULT, new DoorCommand.LockNow())));
        Rule.Once moded = new Rule.Once(Set.of(Kinds.MODE), Set.of(), Set.of());
        Rule second = placed(vault, own("second", moded, orders(GATE, new DoorCommand.LetThrough())));
        assertThat(problems(second)).isEmpty();
        desk.keep(first, 0, IV);
        assertThat(problems(second)).containsExactly("rule.circle-through");
        assertThat(desk.problems(second).get(0).of()).containsExactly(1L, first.name());
        // Not where the other looks elsewhere, or is switched off.
        assertThat(problems(placed(gate, second))).isEmpty();
        desk.keep(first.on(false), 1, IV);
        assertThat(problems(second)).isEmpty();
        // Round three corners.
        desk.keep(first, 2, IV);
        Rule between = placed(
                vault,
                own(
                        "between",
                        moded,
                        Rule.Then.QUIET.orders(List.of(
                                new Rule.Order(Rule.At.END, Optional.empty(), new DoorCommand.ShowText("wait"))))));
        desk.keep(between, 0, IV);
        Rule last = placed(
                vault,
                own(
                        "last",
                        new Rule.Once(Set.of(Kinds.DISPLAY_TEXT), Set.of(), Set.of()),
                        orders(GATE, new DoorCommand.LetThrough())));
        assertThat(desk.problems(last).stream()
                        .filter(p -> p.code().equals("rule.circle-through"))
                        .map(p -> p.of().get(0)))
                .containsExactly(2L);
    }

    private static Rule.Then orders(DoorId door, DoorCommand command) {
        return Rule.Then.QUIET.orders(List.of(new Rule.Order(Rule.At.START, Optional.of(door), command)));
    }

    private static Rule placed(Rule.Where where, Rule r) {
        return new Rule(
                r.id(), r.version(), r.name(), r.on(), r.when(), where, r.who(), r.during(), r.priority(), r.then());
    }

    @Test
    void a_file_changes_only_what_differs_all_or_nothing() {
        byte[] before = desk.write(IV);
        assertThat(desk.plan(before, IV)).isEmpty();
        desk.keep(own("mine", RELEASED, Rule.Then.QUIET), 0, IV);
        desk.keep(standing("held").rule().on(false), 0, IV);
        byte[] after = desk.write(IV);
        desk.takeOff("mine", 1, IV);
        desk.keep(standing("held").rule().on(true), 1, IV);
        List<RuleDesk.Change> changes = desk.plan(after, IV);
        assertThat(changes).extracting(c -> c.rule().id()).containsExactlyInAnyOrder("mine", "held");
        // Somebody changes one of them meanwhile.
        desk.keep(standing("held").rule(), 2, IV);
        assertThatThrownBy(() -> desk.take(changes, IV)).isInstanceOf(EventLogException.class);
        assertThat(desk.rules(IV)).noneMatch(s -> s.rule().id().equals("mine"));
        desk.take(desk.plan(after, IV), IV);
        assertThat(standing("held").rule().on()).isFalse();
        assertThat(standing("mine").version()).isEqualTo(3);
        assertThatThrownBy(() -> desk.plan("?".getBytes(StandardCharsets.UTF_8), IV))
                .isInstanceOf(AlarmException.class);
    }

    @Test
    void each_may_see_and_change_what_is_permitted() {
        Rule rule = standing("held").rule();
        for (Roles.Role role : Roles.all(List.of(Happening.HARBOUR, Happening.YARD))) {
            Actor actor = role.actor();
            boolean edits = role.has(Set.of(Permission.EDIT_RULES), Actor.Level.CHANGE, null);
            boolean looks = role.has(Set.of(Permission.EDIT_RULES), Actor.Level.LOOK, null);
            boolean handles = role.hasSomewhere(Set.of(Permission.HANDLE_ALARMS));
            tried(role, looks || handles, () -> desk.rules(actor));
            tried(role, looks || handles, () -> desk.versions("held", actor));
            tried(role, looks, () -> desk.write(actor));
            tried(
                    role,
                    false,
                    () -> desk.tryOut(List.of(rule), Duration.ofHours(1), p -> {}, new Cancellation(), actor));
            tried(role, edits, () -> desk.plan(desk.write(IV), actor));
            tried(role, edits, () -> desk.keep(rule, standing("held").version(), actor));
            tried(role, edits, () -> desk.take(List.of(), actor));
            if (!edits) {
                tried(role, false, () -> desk.takeOff("held", standing("held").version(), actor));
            }
        }
    }

    private static void tried(Roles.Role role, boolean may, ThrowingCallable act) {
        try {
            act.call();
            assertThat(may).as(role.toString()).isTrue();
        } catch (NotPermittedException e) {
            assertThat(may).as(role.toString()).isFalse();
        } catch (Throwable e) {
            throw new AssertionError(role.toString(), e);
        }
    }

    /** An alarm as it stands. */
    private Alarm.Seen seen(EventKey id) {
        return alarms.atHand(id).map(Alarm::seen).orElse(new Alarm.Seen(id, 1));
    }
}
