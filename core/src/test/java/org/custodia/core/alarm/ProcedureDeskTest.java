package org.custodia.core.alarm;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.custodia.core.alarm.Happening.GATE;
import static org.custodia.core.alarm.Happening.VAULT;
import static org.custodia.core.alarm.Happening.at;

import java.time.Clock;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Random;
import java.util.Set;
import org.awaitility.core.ConditionFactory;
import org.custodia.core.Patience;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.event.Priority;
import org.custodia.core.event.Snapshots;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.operator.Permission;
import org.custodia.core.operator.Roles;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** What is to be done about an alarm: the closest, ticked step by step, and kept from being finished too soon. */
class ProcedureDeskTest {
    private static final Actor IV = Actor.withAll("iv", "I. Vantongeren", "Desk 1");
    private static final Actor BA = Actor.withAll("ba", "B. Achterberg", "Desk 2");
    private static final Clock CLOCK = Clock.fixed(at(100), ZoneOffset.UTC);
    private static final PersonId ANA = new PersonId("tidewater/ana");

    private final MemoryLog log = new MemoryLog();
    private final Happening make = new Happening();
    private final ProceduresInHand kept = new ProceduresInHand();
    private AlarmDesk alarms;
    private ProcedureDesk desk;

    @BeforeEach
    void open() {
        kept.log = log;
        alarms = new AlarmDesk(log, log, Snapshots.inMemory(), Known.of(() -> Happening.SITES), (d, c, r) -> {}, CLOCK);
        alarms.watch(Rule.shipped().stream().map(RuleTimeline::always).toList());
        desk = new ProcedureDesk(kept, alarms, kept, CLOCK);
    }

    @AfterEach
    void close() {
        alarms.close();
    }

    private static ConditionFactory soon() {
        return Patience.await();
    }

    private static Procedure procedure(String id, Procedure.Of of) {
        return new Procedure(
                id,
                0,
                "Of " + id,
                of,
                List.of(new Procedure.Step("Look.", false), new Procedure.Step("Send somebody.", true)));
    }

    private Alarm forced() {
        log.store(make.event(Kinds.FORCED, VAULT, 110).person(ANA).build());
        soon().until(() -> alarms.open(IV).size() == 1);
        return alarms.open(IV).get(0);
    }

    @Test
    void the_closest_of_those_that_fit_is_the_one_whatever_their_order() {
        Procedure.Of all = Procedure.Of.ALL;
        List<Procedure> closer = List.of(
                procedure("all", all),
                procedure("urgent", new Procedure.Of(Set.of(Priority.URGENT), Set.of(), Rule.Where.ANYWHERE, Set.of())),
                procedure("rule", new Procedure.Of(Set.of(), Set.of("forced"), Rule.Where.ANYWHERE, Set.of())),
                procedure(
                        "site",
                        new Procedure.Of(
                                Set.of(),
                                Set.of(),
                                new Rule.Where(Set.of(), Set.of(), Set.of(Happening.HARBOUR), Set.of(), Set.of()),
                                Set.of())),
                procedure("door", new Procedure.Of(Set.of(), Set.of(), Rule.Where.at(Set.of(VAULT)), Set.of())),
                procedure("person", new Procedure.Of(Set.of(), Set.of(), Rule.Where.ANYWHERE, Set.of(ANA))));
        List<Procedure> misses = List.of(
                procedure("x1", new Procedure.Of(Set.of(), Set.of(), Rule.Where.at(Set.of(GATE)), Set.of())),
                procedure(
                        "x2", new Procedure.Of(Set.of(Priority.LOW), Set.of(), Rule.Where.at(Set.of(VAULT)), Set.of())),
                procedure("x3", new Procedure.Of(Set.of(), Set.of("held"), Rule.Where.ANYWHERE, Set.of(ANA))));
        Alarm alarm = forced();
        assertThat(alarm.origin().person()).contains(ANA);
        for (int n = 1; n <= closer.size(); n++) {
            List<Procedure> some = new ArrayList<>(closer.subList(0, n));
            some.addAll(misses);
            Collections.shuffle(some, new Random(n));
            assertThat(Procedure.of(alarm, some, Happening.SITES).orElseThrow().id())
                    .isEqualTo(closer.get(n - 1).id());
        }
        assertThat(Procedure.of(alarm, misses, Happening.SITES)).isEmpty();
        assertThat(Procedure.of(alarm, List.of(procedure("b", all), procedure("a", all)), Happening.SITES)
                        .orElseThrow()
                        .id())
                .isEqualTo("a");
    }

    @Test
    void the_first_step_takes_it_in_hand_and_it_is_finished_once_what_must_be_done_is() {
        desk.keep(procedure("mine", Procedure.Of.ALL), 0, IV);
        EventKey id = forced().id();
        assertThatThrownBy(() -> alarms.finish(seen(id), Outcome.GENUINE, "", IV))
                .hasMessageContaining("steps-left");
        assertThatThrownBy(() -> alarms.tick(id, "Dance.", true, IV)).hasMessageContaining("no-such-step");
        alarms.tick(id, "Look.", true, IV).join();
        Alarm one = alarms.open(IV).get(0);
        assertThat(one.owner().orElseThrow().operator()).isEqualTo("iv");
        assertThat(one.ticks())
                .containsExactly(new Alarm.Tick("Look.", one.ticks().get(0).by()));
        // Somebody else does the rest, once more, and not after all; it stays with whoever began.
        alarms.tick(id, "Send somebody.", true, BA).join();
        alarms.tick(id, "Send somebody.", false, BA).join();
        assertThat(alarms.left(alarms.open(IV).get(0))).containsExactly("Send somebody.");
        alarms.tick(id, "Send somebody.", true, BA).join();
        alarms.tick(id, "Send somebody.", true, BA).join();
        Alarm two = alarms.open(IV).get(0);
        assertThat(two.ticks()).hasSize(2);
        assertThat(two.owner()).isEqualTo(one.owner());
        alarms.finish(seen(id), Outcome.GENUINE, "", IV).join();
        assertThatThrownBy(() -> alarms.tick(id, "Look.", true, IV)).isInstanceOf(AlarmException.class);
        // Another desk's fold of the same facts is the same.
        AlarmBook again = new AlarmBook();
        log.events.forEach(again::take);
        assertThat(again.finished()).isEqualTo(alarms.finished(IV));
    }

    @Test
    void one_that_is_changed_meanwhile_is_not_overwritten_and_holds_at_once() {
        desk.keep(procedure("mine", Procedure.Of.ALL), 0, IV);
        Alarm alarm = forced();
        assertThatThrownBy(() -> desk.keep(procedure("mine", Procedure.Of.ALL), 0, BA))
                .isInstanceOf(EventLogException.class);
        byte[] file = desk.write(IV);
        desk.takeOff("mine", 1, IV);
        assertThat(alarms.procedure(alarm)).isEmpty();
        assertThat(desk.take(file, IV)).isEqualTo(1);
        assertThat(desk.take(file, IV)).isZero();
        assertThat(alarms.procedure(alarm).orElseThrow().version()).isEqualTo(3);
        assertThat(log.events.stream().filter(e -> e.kind().equals(Kinds.SET_UP)))
                .hasSize(3);
    }

    @Test
    void what_a_system_claims_was_done_was_not() {
        desk.keep(procedure("mine", Procedure.Of.ALL), 0, IV);
        Alarm alarm = forced();
        log.store(make.event(Kinds.ALARM_TICKED, VAULT, 120)
                .detail("alarm", alarm.id().text())
                .detail("step", "Send somebody.")
                .build());
        log.record(Event.of(new EventKey(SystemId.CUSTODIA, 1, 0), Kinds.ALARM_TICKED, at(121))
                        .detail("alarm", alarm.id().text()))
                .join();
        assertThat(alarms.open(IV).get(0).ticks()).isEmpty();
    }

    @Test
    void each_may_see_and_change_what_is_permitted() {
        desk.keep(procedure("mine", Procedure.Of.ALL), 0, IV);
        for (Roles.Role role : Roles.all(List.of(Happening.HARBOUR, Happening.YARD))) {
            Actor actor = role.actor();
            boolean edits = role.has(Set.of(Permission.EDIT_RULES), Actor.Level.CHANGE, null);
            boolean looks = role.has(Set.of(Permission.EDIT_RULES), Actor.Level.LOOK, null);
            boolean handles = role.hasSomewhere(Set.of(Permission.HANDLE_ALARMS));
            tried(role, looks || handles, () -> desk.procedures(actor));
            tried(role, looks, () -> desk.write(actor));
            tried(role, edits, () -> desk.take(desk.write(IV), actor));
            long version = kept.versions("mine").get(0).version();
            tried(role, edits, () -> desk.keep(procedure("mine", Procedure.Of.ALL), version, actor));
            if (!edits) {
                tried(role, false, () -> desk.takeOff("mine", version, actor));
            }
        }
    }

    private static void tried(Roles.Role role, boolean may, Runnable act) {
        try {
            act.run();
            assertThat(may).as(role.toString()).isTrue();
        } catch (NotPermittedException e) {
            assertThat(may).as(role.toString()).isFalse();
        }
    }

    @Test
    void a_step_for_when_it_is_over_cannot_be_ticked_while_the_door_stands_open() {
        desk.keep(
                new Procedure(
                        "mine",
                        0,
                        "Mine",
                        Procedure.Of.ALL,
                        List.of(new Procedure.Step("Look.", true), new Procedure.Step("It is closed.", true, true))),
                0,
                IV);
        EventKey id = forced().id();
        assertThatThrownBy(() -> alarms.tick(id, "It is closed.", true, IV)).hasMessageContaining("still-so");
        alarms.tick(id, "Look.", true, IV).join();
        assertThat(alarms.left(alarms.open(IV).get(0))).containsExactly("It is closed.");
        log.store(make.event(Kinds.CLOSED, VAULT, 130).build());
        soon().until(() -> alarms.open(IV).get(0).condition() == Alarm.Condition.ENDED);
        alarms.tick(id, "It is closed.", true, IV).join();
        assertThat(alarms.left(alarms.open(IV).get(0))).isEmpty();
        // What was ticked can be taken back whenever that is.
        alarms.tick(id, "It is closed.", false, IV).join();
        assertThat(alarms.left(alarms.open(IV).get(0))).containsExactly("It is closed.");
    }

    @Test
    void what_makes_no_sense_is_no_procedure() {
        Procedure.Step look = new Procedure.Step("Look.", false);
        assertThatThrownBy(() -> new Procedure("a", 0, "A", Procedure.Of.ALL, List.of()))
                .hasMessageContaining("steps");
        assertThatThrownBy(() -> new Procedure("a", 0, "A", Procedure.Of.ALL, List.of(look, look)))
                .hasMessageContaining("twice");
        assertThatThrownBy(() -> new Procedure("a", 0, " ", Procedure.Of.ALL, List.of(look)))
                .hasMessageContaining("name");
        assertThatThrownBy(() -> new Procedure("A b", 0, "A", Procedure.Of.ALL, List.of(look)))
                .hasMessageContaining("small letters");
        assertThatThrownBy(() -> new Procedure.Step("x".repeat(Procedure.LONGEST_STEP + 1), true))
                .hasMessageContaining("step");
        assertThat(Procedure.shipped()).extracting(Procedure::id).doesNotHaveDuplicates();
        // Rules are split and renamed; what to do about them must not be lost by it.
        assertThat(Procedure.shipped().stream().flatMap(p -> p.of().rules().stream()))
                .contains("forced", "duress", "panic", "fire", "held")
                .isSubsetOf(Rule.shipped().stream().map(Rule::id).toList());
    }

    /** An alarm as it stands. */
    private Alarm.Seen seen(EventKey id) {
        return alarms.atHand(id).map(Alarm::seen).orElse(new Alarm.Seen(id, 1));
    }
}
