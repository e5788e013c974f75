package org.custodia.core.alarm;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatExceptionOfType;
import static org.custodia.core.alarm.Happening.GATE;
import static org.custodia.core.alarm.Happening.VAULT;
import static org.custodia.core.alarm.Happening.at;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CancellationException;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CopyOnWriteArrayList;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.event.Snapshots;
import org.custodia.core.operator.Actor;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** Replayed alarms: raised, acknowledged and finished with the times of the past. */
class AlarmReplayTest {
    private static final Actor IV = Actor.withAll("iv", "I. Vantongeren", "Desk 1");
    private static final Actor THEN = Actor.withAll("okettle", "O. Kettle", "Desk 1");
    private static final AlarmReplay.Handling HANDLING = new AlarmReplay.Handling(
            THEN, Duration.ofSeconds(20), Duration.ofSeconds(60), Outcome.FAULT, "Closer is slow.");
    private static final Known KNOWN = Known.of(() -> Happening.SITES);

    private final MemoryLog log = new MemoryLog();
    private final Happening make = new Happening();
    private final Clock clock = mock(Clock.class);
    private final Instant now = at(100_000);
    private Optional<AlarmDesk> desk = Optional.empty();

    private AlarmDesk desk() {
        when(clock.instant()).thenReturn(now);
        AlarmDesk made = new AlarmDesk(log, log, Snapshots.inMemory(), KNOWN, (door, c, rule) -> {}, clock);
        desk = Optional.of(made);
        return made;
    }

    @AfterEach
    void close() {
        desk.ifPresent(AlarmDesk::close);
    }

    private int replay(AlarmReplay.Operators operators) {
        return AlarmReplay.record(
                Rule.shipped(), at(0), at(50_000), log, log, KNOWN, operators, () -> {}, new Cancellation());
    }

    @Test
    void alarms_of_the_past_are_as_they_would_have_been_and_nothing_is_open() {
        pastOfThreeAlarms();
        assertThat(replay((rule, cause) -> Optional.of(HANDLING))).isEqualTo(3);
        List<Alarm> all = desk().raised(at(0), at(50_000), IV);
        assertThat(all).hasSize(3).allSatisfy(a -> {
            assertThat(a.condition()).isEqualTo(Alarm.Condition.ENDED);
            assertThat(a.acknowledged().orElseThrow().name()).isEqualTo("O. Kettle");
            assertThat(a.finished().orElseThrow().outcome()).isEqualTo(Outcome.FAULT);
        });
        Alarm first = all.get(2);
        assertThat(first.origin().raised()).isEqualTo(at(100));
        assertThat(first.times()).isEqualTo(2);
        assertThat(first.acknowledged().orElseThrow().when()).isEqualTo(at(120));
        // It is not finished while the door stands open.
        assertThat(first.finished().orElseThrow().by().when()).isEqualTo(at(400));
        assertThat(all.get(1).finished().orElseThrow().by().when()).isEqualTo(at(1_080));
        assertThat(desk.orElseThrow().open(IV)).isEmpty();
    }

    @Test
    void nobody_is_notified_and_nothing_calls() {
        log.store(make.event(Kinds.DURESS, GATE, 100).build());
        replay((rule, cause) -> Optional.of(HANDLING));
        List<Event> facts = log.events.stream()
                .filter(e -> e.kind().id().startsWith("alarm."))
                .toList();
        assertThat(facts).isNotEmpty().noneMatch(e -> e.detail(AlarmDesk.TELL).isPresent());
        assertThat(facts.get(0).detail("sound")).contains("no");
        assertThat(facts.get(0).detail("forward")).contains("no");
    }

    /** Between its first fact and its last an alarm of the past would ring, be counted and escalate. */
    @Test
    void while_it_is_recorded_no_alarm_of_the_past_is_open() {
        for (int i = 0; i < 20; i++) {
            log.store(make.event(Kinds.FORCED, VAULT, 1_000 + i * 1_000).build());
            log.store(make.event(Kinds.CLOSED, VAULT, 1_005 + i * 1_000).build());
        }
        AlarmDesk made = desk();
        List<Alarm> seen = new CopyOnWriteArrayList<>();
        made.listen(a -> seen.addAll(made.open(IV)));
        assertThat(replay((rule, cause) -> Optional.of(HANDLING))).isEqualTo(20);
        assertThat(seen).isEmpty();
        assertThat(made.raised(at(0), at(50_000), IV)).hasSize(20);
        assertThat(made.open(IV)).isEmpty();
    }

    @Test
    void what_was_not_over_in_the_end_or_is_left_out_is_not_recorded() {
        log.store(make.event(Kinds.HELD, GATE, 100).build());
        log.store(make.event(Kinds.DURESS, VAULT, 49_990).build());
        assertThat(replay((rule, cause) -> Optional.of(HANDLING))).isZero();
        log.store(make.event(Kinds.CLOSED, GATE, 400).build());
        assertThat(replay((rule, cause) -> Optional.empty())).isZero();
        assertThat(desk().raised(at(0), now, IV)).isEmpty();
    }

    /** The same past, found by a desk that watches: the rules find the same. */
    @Test
    void what_is_replayed_is_not_raised_once_more_by_the_rules() {
        log.store(make.event(Kinds.FORCED, VAULT, 1_000).build());
        log.store(make.event(Kinds.CLOSED, VAULT, 1_005).build());
        replay((rule, cause) -> Optional.of(HANDLING));
        when(clock.instant()).thenReturn(at(0));
        AlarmDesk made = new AlarmDesk(log, log, Snapshots.inMemory(), KNOWN, (door, c, rule) -> {}, clock);
        desk = Optional.of(made);
        made.watch(Rule.shipped().stream().map(RuleTimeline::always).toList());
        made.settled();
        assertThat(made.open(IV)).isEmpty();
        assertThat(log.events.stream().filter(e -> e.kind().equals(Kinds.ALARM_RAISED)))
                .hasSize(1);
    }

    private void pastOfThreeAlarms() {
        log.store(make.event(Kinds.HELD, GATE, 100).build());
        log.store(make.event(Kinds.HELD, GATE, 130).build());
        log.store(make.event(Kinds.CLOSED, GATE, 400).build());
        log.store(make.event(Kinds.FORCED, VAULT, 1_000).build());
        log.store(make.event(Kinds.CLOSED, VAULT, 1_005).build());
        log.store(make.event(Kinds.HELD, GATE, 2_000).build());
        log.store(make.event(Kinds.CLOSED, GATE, 2_010).build());
    }

    /** Has a replay end after so many facts, as by a kill. */
    private void replayOnly(int facts) {
        EventIntake ends = mock(EventIntake.class);
        int[] left = {facts};
        when(ends.record(any()))
                .thenAnswer(call -> left[0]-- > 0
                        ? log.record(call.getArgument(0))
                        : CompletableFuture.failedFuture(new CancellationException()));
        assertThatExceptionOfType(CancellationException.class)
                .isThrownBy(() -> AlarmReplay.record(
                        Rule.shipped(),
                        at(0),
                        at(50_000),
                        log,
                        ends,
                        KNOWN,
                        (rule, cause) -> Optional.of(HANDLING),
                        () -> {},
                        new Cancellation()));
    }

    private static List<String> told(List<Alarm> alarms) {
        return alarms.stream()
                .map(a -> a.origin().raised() + " " + a.times() + " "
                        + a.acknowledged().orElseThrow() + " " + a.condition() + " "
                        + a.finished().orElseThrow())
                .toList();
    }

    /** 3 alarms, 11 facts; killed after each of them. */
    @ParameterizedTest
    @ValueSource(ints = {0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12})
    void a_replay_that_was_interrupted_is_completed_by_the_next(int facts) {
        pastOfThreeAlarms();
        replayOnly(facts);
        replay((rule, cause) -> Optional.of(HANDLING));
        List<String> completed = told(desk().raised(at(0), at(50_000), IV));
        long stored = log.events.size();
        assertThat(replay((rule, cause) -> Optional.of(HANDLING))).isZero();
        assertThat(log.events).hasSize((int) stored);

        AlarmReplayTest whole = new AlarmReplayTest();
        whole.pastOfThreeAlarms();
        whole.replay((rule, cause) -> Optional.of(HANDLING));
        try {
            assertThat(completed).isEqualTo(told(whole.desk().raised(at(0), at(50_000), IV)));
        } finally {
            whole.close();
        }
        assertThat(log.events).hasSize(whole.log.events.size());
    }

    /** What a kill left of an alarm of the past takes in nothing of today and is not open, also after a restart. */
    @Test
    void half_of_a_replayed_alarm_hides_nothing_that_happens_now() {
        log.store(make.event(Kinds.FORCED, VAULT, 1_000).build());
        log.store(make.event(Kinds.CLOSED, VAULT, 1_005).build());
        replayOnly(1);
        Snapshots snapshots = Snapshots.inMemory();
        when(clock.instant()).thenReturn(at(60_000));
        for (int start = 0; start < 3; start++) {
            try (AlarmDesk one = new AlarmDesk(log, log, snapshots, KNOWN, (door, c, rule) -> {}, clock)) {
                one.watch(Rule.shipped().stream().map(RuleTimeline::always).toList());
                one.settled();
                if (start == 1) {
                    log.store(make.event(Kinds.FORCED, VAULT, 60_010).build());
                    one.settled();
                }
                assertThat(one.open(IV)).hasSize(start == 0 ? 0 : 1);
            }
        }
    }

    /** Beside an alarm of today at the same door, which is not finished. */
    @Test
    void an_alarm_of_now_is_still_joined_after_one_of_the_past_was_recorded_at_its_door() {
        log.store(make.event(Kinds.FORCED, VAULT, 1_000).build());
        log.store(make.event(Kinds.CLOSED, VAULT, 1_005).build());
        when(clock.instant()).thenReturn(at(60_000));
        AlarmDesk made = new AlarmDesk(log, log, Snapshots.inMemory(), KNOWN, (door, c, rule) -> {}, clock);
        desk = Optional.of(made);
        made.watch(Rule.shipped().stream().map(RuleTimeline::always).toList());
        made.settled();
        log.store(make.event(Kinds.FORCED, VAULT, 60_010).build());
        made.settled();
        assertThat(replay((rule, cause) -> Optional.of(HANDLING))).isEqualTo(1);
        log.store(make.event(Kinds.FORCED, VAULT, 60_020).build());
        made.settled();
        assertThat(made.open(IV)).singleElement().satisfies(a -> assertThat(a.times())
                .isEqualTo(2));
    }

    @Test
    void a_look_back_shows_what_was_open_then() {
        pastOfThreeAlarms();
        replay((rule, cause) -> Optional.of(HANDLING));
        assertThat(desk().openAt(at(300), IV)).singleElement().satisfies(a -> {
            assertThat(a.origin().raised()).isEqualTo(at(100));
            assertThat(a.acknowledged()).isPresent();
        });
        assertThat(desk.orElseThrow().openAt(at(500), IV)).isEmpty();
    }
}
