package org.custodia.core.message;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.core.alarm.Happening.GATE;
import static org.custodia.core.alarm.Happening.TIDEWATER;
import static org.custodia.core.alarm.Happening.VAULT;
import static org.custodia.core.message.PostRig.IV;
import static org.custodia.core.message.PostRig.rule;
import static org.custodia.core.message.PostRig.soon;

import java.time.Duration;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.stream.Collectors;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.alarm.Outcome;
import org.custodia.core.door.CommandAnswer;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.link.AccessLink;
import org.custodia.core.link.Handled;
import org.custodia.core.saying.Saying;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.mockito.Mockito;

/** What is done here is told to the system, what is done there is known here, and neither goes in a circle. */
class PassingTest {
    private final PostRig rig = new PostRig(rule("forced", Kinds.FORCED));
    private final AccessLink link = Mockito.mock(AccessLink.class);
    private final List<Handled> told = new CopyOnWriteArrayList<>();
    /** Keys that the system knows. */
    private final Set<String> known = new HashSet<>();

    private volatile boolean up = true;
    private volatile CommandAnswer.Result answer = CommandAnswer.Result.DONE;
    private volatile boolean echo = true;

    @BeforeEach
    void open() {
        Mockito.when(link.keepsAlarms()).thenAnswer(i -> Optional.of(true));
        Mockito.when(link.current()).thenAnswer(i -> up);
        Mockito.when(link.tell(Mockito.any())).thenAnswer(i -> heard(i.getArgument(0)));
        rig.links.put(TIDEWATER, link);
    }

    @AfterEach
    void close() {
        rig.close();
    }

    /** As the system takes it: once by its key, and tells it as an event. */
    private CommandAnswer heard(Handled handled) {
        told.add(handled);
        if (answer != CommandAnswer.Result.REFUSED && answer != CommandAnswer.Result.NOT_REACHED) {
            boolean first;
            synchronized (known) {
                first = known.add(handled.key());
            }
            if (first && echo) {
                EventKind kind = handled.what() == Handled.What.FINISHED ? Kinds.FINISHED_THERE : Kinds.SEEN_THERE;
                handled.events().forEach(e -> there(kind, e, handled.by(), 150));
            }
        }
        return new CommandAnswer(answer, Saying.of("command.done"));
    }

    private void there(EventKind kind, EventKey of, String by, double seconds) {
        rig.log.store(rig.make
                .event(kind, GATE, seconds)
                .detail("of", of.systemsEpoch() + ":" + of.sequence())
                .detail("by", by)
                .build());
    }

    private Alarm alarm() {
        return rig.alarms.open(IV).get(0);
    }

    private Alarm forced(double seconds) {
        rig.happens(Kinds.FORCED, seconds);
        soon().until(() -> !rig.alarms.open(IV).isEmpty()
                && alarm().latest().equals(org.custodia.core.alarm.Happening.at(seconds)));
        return alarm();
    }

    private long facts(EventKind kind) {
        return rig.log.events.stream().filter(e -> e.kind().equals(kind)).count();
    }

    private Alarm.State state() {
        return alarm().state(rig.now());
    }

    /** Whoever takes one in hand or puts it aside has seen it. */
    @Test
    void what_is_taken_or_put_aside_is_seen_at_the_system_too() {
        Alarm alarm = forced(101);
        rig.alarms.take(alarm.id(), IV).join();
        soon().until(() -> told.size() == 1);
        assertThat(told.get(0).what()).isEqualTo(Handled.What.ACKNOWLEDGED);
        // Seen already, it is not told again, whoever has it in hand.
        rig.alarms.hand(alarm.id(), "ana", "A. Vermeulen", IV).join();
        rig.alarms.acknowledge(List.of(seen(alarm.id())), IV).join();
        rig.happens(Kinds.FORCED, VAULT, 160);
        soon().until(() -> rig.alarms.open(IV).size() == 2);
        EventKey other = rig.alarms.open(IV).stream()
                .map(Alarm::id)
                .filter(i -> !i.equals(alarm.id()))
                .findFirst()
                .orElseThrow();
        rig.alarms
                .shelve(other, rig.now().plusSeconds(600), "damper repair", IV)
                .join();
        soon().until(() -> told.size() == 2);
        assertThat(told.get(1).what()).isEqualTo(Handled.What.ACKNOWLEDGED);
        assertThat(told.get(1).events()).doesNotContainAnyElementsOf(told.get(0).events());
        assertThat(facts(Kinds.ALARM_ACKNOWLEDGED)).isZero();
    }

    @ParameterizedTest
    @ValueSource(ints = {1, 2, 5})
    void whom_to_tell_is_looked_up_again_if_it_cannot_be_read_for_a_moment(int times) {
        Alarm alarm = forced(101);
        rig.unreadable.set(times);
        rig.alarms.acknowledge(List.of(seen(alarm.id())), IV).join();
        rig.alarms.finish(seen(alarm.id()), Outcome.HARMLESS, "wind", IV).join();
        soon().until(() -> {
            rig.later(Duration.ofSeconds(1));
            return told.size() == 2;
        });
        assertThat(told).extracting(Handled::what).containsExactly(Handled.What.ACKNOWLEDGED, Handled.What.FINISHED);
    }

    @Test
    void what_is_done_here_is_told_once_and_its_echo_does_nothing() {
        Alarm alarm = forced(101);
        rig.happens(Kinds.FORCED, 102);
        soon().until(() -> alarm().times() == 2);
        rig.alarms.acknowledge(List.of(seen(alarm.id())), IV).join();
        soon().until(() -> told.size() == 1);
        Handled first = told.get(0);
        assertThat(first.what()).isEqualTo(Handled.What.ACKNOWLEDGED);
        assertThat(first.by()).isEqualTo(IV.name());
        assertThat(first.events()).extracting(EventKey::sequence).containsExactly(1L, 2L);
        rig.alarms.finish(seen(alarm.id()), Outcome.HARMLESS, "", IV).join();
        soon().until(() -> told.size() == 2);
        assertThat(told.get(1).what()).isEqualTo(Handled.What.FINISHED);
        // The echoes are in the log by now; a new alarm shows that they have been looked at.
        rig.happens(Kinds.FORCED, VAULT, 160);
        soon().until(() -> rig.alarms.open(IV).size() == 1);
        assertThat(facts(Kinds.ALARM_ACKNOWLEDGED)).isEqualTo(1);
        assertThat(facts(Kinds.ALARM_FINISHED)).isEqualTo(1);
        assertThat(told).hasSize(2);
    }

    @Test
    void what_is_done_there_is_known_here_and_not_told_back() {
        Alarm alarm = forced(101);
        there(Kinds.SEEN_THERE, alarm.origin().cause(), "Guard at the gate", 105);
        soon().until(() -> state() == Alarm.State.ACKNOWLEDGED);
        assertThat(alarm().acknowledged().orElseThrow().name()).isEqualTo("Guard at the gate");
        there(Kinds.SEEN_THERE, alarm.origin().cause(), "Somebody else", 106);
        there(Kinds.FINISHED_THERE, alarm.origin().cause(), "Guard at the gate", 110);
        soon().until(() -> rig.alarms.open(IV).isEmpty());
        assertThat(facts(Kinds.ALARM_ACKNOWLEDGED)).isEqualTo(1);
        rig.happens(Kinds.FORCED, VAULT, 160);
        soon().until(() -> rig.alarms.open(IV).size() == 1);
        assertThat(told).isEmpty();
        assertThat(rig.outbox.receiversDue(rig.now())).isEmpty();
    }

    @Test
    void what_is_said_of_an_earlier_time_says_nothing_of_an_alarm_that_began_anew() {
        Alarm alarm = forced(101);
        EventKey first = alarm.origin().cause();
        rig.happens(Kinds.CLOSED, 110);
        soon().until(() -> alarm().condition() == Alarm.Condition.ENDED);
        forced(120);
        there(Kinds.SEEN_THERE, first, "Guard", 125);
        there(Kinds.FINISHED_THERE, first, "Guard", 126);
        // Nor does what is said of nothing, of something odd, or of another system's.
        there(Kinds.SEEN_THERE, new EventKey(TIDEWATER, 1, 999), "Guard", 127);
        rig.log.store(
                rig.make.event(Kinds.SEEN_THERE, GATE, 127).detail("of", "1:x").build());
        rig.log.store(rig.make.event(Kinds.FINISHED_THERE, GATE, 127).build());
        EventKey raised = alarm.id();
        rig.log.store(rig.make
                .event(Kinds.FINISHED_THERE, GATE, 127)
                .detail("of", raised.text())
                .build());
        rig.happens(Kinds.FORCED, VAULT, 160);
        soon().until(() -> rig.alarms.open(IV).size() == 2);
        assertThat(rig.alarms.open(IV)).allMatch(a -> a.state(rig.now()) == Alarm.State.NEW);
        // It is the same after a restart, which goes through the last of the log again.
        rig.again();
        rig.happens(Kinds.FORCED, VAULT, 161);
        soon().until(() -> rig.alarms.open(IV).stream()
                .anyMatch(a -> a.times() == 2 && a.origin().subject().door().equals(Optional.of(VAULT))));
        assertThat(rig.alarms.open(IV)).allMatch(a -> a.state(rig.now()) == Alarm.State.NEW);
    }

    @Test
    void over_a_cut_and_a_restart_it_is_told_as_soon_as_the_link_is_back() {
        up = false;
        Alarm alarm = forced(101);
        rig.alarms.acknowledge(List.of(seen(alarm.id())), IV).join();
        rig.later(Duration.ofMinutes(90));
        rig.again();
        rig.later(Duration.ofMinutes(10));
        assertThat(told).isEmpty();
        assertThat(rig.dispatch.trouble())
                .as("that the link is down is said elsewhere")
                .isEmpty();
        up = true;
        soon().until(() -> {
            rig.later(Duration.ofSeconds(6));
            return told.size() == 1;
        });
        soon().until(() -> state() == Alarm.State.ACKNOWLEDGED);
        // No answer: it is told again under the same key.
        answer = CommandAnswer.Result.NOT_KNOWN;
        rig.alarms.finish(seen(alarm.id()), Outcome.HARMLESS, "", IV).join();
        soon().until(() -> told.size() == 2);
        answer = CommandAnswer.Result.DONE;
        soon().until(() -> {
            rig.later(Duration.ofSeconds(10));
            return told.size() == 3;
        });
        assertThat(told.get(2).key()).isEqualTo(told.get(1).key());
        assertThat(rig.desk.messages(100, IV))
                .as("these are no messages to people")
                .isEmpty();
    }

    @Test
    void a_system_that_refuses_or_keeps_no_alarms_is_left_alone() {
        answer = CommandAnswer.Result.REFUSED;
        Alarm alarm = forced(101);
        rig.alarms.acknowledge(List.of(seen(alarm.id())), IV).join();
        soon().until(() -> told.size() == 1);
        rig.later(Duration.ofHours(1));
        Mockito.when(link.keepsAlarms()).thenAnswer(i -> Optional.of(false));
        rig.alarms.finish(seen(alarm.id()), Outcome.HARMLESS, "", IV).join();
        rig.happens(Kinds.FORCED, VAULT, 160);
        soon().until(() -> rig.alarms.open(IV).size() == 1);
        rig.later(Duration.ofHours(1));
        assertThat(told).hasSize(1);
    }

    /** Acts here and there in any order, with cuts, restarts and lost answers: both sides end up knowing the same. */
    @ParameterizedTest
    @ValueSource(longs = {1, 2, 3, 4, 5})
    void in_any_order_both_sides_end_up_knowing_the_same_and_nothing_goes_in_a_circle(long seed) {
        Random random = new Random(seed);
        for (int i = 0; i < 25; i++) {
            up = random.nextInt(3) > 0;
            answer = random.nextInt(4) == 0 ? CommandAnswer.Result.NOT_KNOWN : CommandAnswer.Result.DONE;
            double t = 101 + i * 10;
            switch (random.nextInt(6)) {
                case 0, 1 -> forced(t);
                case 2 -> {
                    if (!rig.alarms.open(IV).isEmpty() && state() == Alarm.State.NEW) {
                        rig.alarms.acknowledge(List.of(seen(alarm().id())), IV).join();
                    }
                }
                case 3 -> {
                    if (!rig.alarms.open(IV).isEmpty()) {
                        rig.alarms
                                .finish(seen(alarm().id()), Outcome.HARMLESS, "", IV)
                                .join();
                    }
                }
                case 4 -> {
                    if (!rig.alarms.open(IV).isEmpty()) {
                        there(Kinds.SEEN_THERE, alarm().origin().cause(), "Guard", t);
                    }
                }
                default -> rig.again();
            }
            rig.later(Duration.ofSeconds(random.nextInt(30)));
        }
        up = true;
        answer = CommandAnswer.Result.DONE;
        // An act on what the system reported as acknowledged in that moment is no act, hence no fact.
        Set<EventKey> acts = ownActs();
        assertThat(acts).isNotEmpty();
        soon().until(() -> {
            rig.later(Duration.ofMinutes(11));
            synchronized (known) {
                return known.size() >= acts.size()
                        && rig.outbox
                                .receiversDue(rig.now().plus(Duration.ofDays(1)))
                                .isEmpty();
            }
        });
        assertThat(known).hasSize(acts.size());
        assertThat(ownActs()).as("the echoes are no acts").isEqualTo(acts);
    }

    private Set<EventKey> ownActs() {
        return rig.log.events.stream()
                .filter(e ->
                        e.kind().equals(Kinds.ALARM_ACKNOWLEDGED) || e.kind().equals(Kinds.ALARM_FINISHED))
                .filter(e -> e.operator().isPresent())
                .map(Event::key)
                .collect(Collectors.toSet());
    }

    /** The act is stored, the process ends before anything is in the outbox, and at the next start no link is open yet. */
    @Test
    void what_was_done_just_before_the_process_ended_is_passed_on_once_the_link_is_open() {
        Alarm alarm = forced(101);
        rig.dispatch.close();
        rig.alarms.acknowledge(List.of(seen(alarm.id())), IV).join();
        rig.setUp.add(TIDEWATER);
        rig.links.clear();
        rig.again();
        soon().until(() -> rig.outbox.receiversDue(rig.now()).contains(Outbox.SYSTEM + TIDEWATER.value()));
        assertThat(told).isEmpty();
        rig.links.put(TIDEWATER, link);
        soon().until(() -> {
            rig.later(Duration.ofSeconds(5));
            return told.size() == 1;
        });
        assertThat(told.get(0).what()).isEqualTo(Handled.What.ACKNOWLEDGED);
    }

    @Test
    void a_system_that_turns_out_to_keep_no_alarms_is_not_notified() {
        Alarm alarm = forced(101);
        rig.dispatch.close();
        rig.alarms.acknowledge(List.of(seen(alarm.id())), IV).join();
        rig.setUp.add(TIDEWATER);
        rig.links.clear();
        rig.again();
        String receiver = Outbox.SYSTEM + TIDEWATER.value();
        soon().until(() -> rig.outbox.receiversDue(rig.now()).contains(receiver));
        Mockito.when(link.keepsAlarms()).thenReturn(Optional.of(false));
        rig.links.put(TIDEWATER, link);
        soon().until(() -> {
            rig.later(Duration.ofSeconds(5));
            return !rig.outbox.receiversDue(rig.now()).contains(receiver);
        });
        assertThat(told).isEmpty();
    }

    /** An alarm as it stands. */
    private Alarm.Seen seen(EventKey id) {
        return rig.alarms.atHand(id).map(Alarm::seen).orElse(new Alarm.Seen(id, 1));
    }
}
