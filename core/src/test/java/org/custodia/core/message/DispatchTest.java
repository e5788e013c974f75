package org.custodia.core.message;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.custodia.core.alarm.Happening.GATE;
import static org.custodia.core.alarm.Happening.VAULT;
import static org.custodia.core.message.PostRig.IV;
import static org.custodia.core.message.PostRig.no;
import static org.custodia.core.message.PostRig.rule;
import static org.custodia.core.message.PostRig.soon;
import static org.custodia.core.message.PostRig.start;

import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import org.assertj.core.api.ThrowableAssert.ThrowingCallable;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.alarm.Escalation;
import org.custodia.core.alarm.Outcome;
import org.custodia.core.alarm.Rule;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Priority;
import org.custodia.core.message.NotSentException.Why;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.operator.Permission;
import org.custodia.core.operator.SiteScope;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.DoorId;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** Whatever posts do, each receiver is told of each alarm: once where that can be known, and never silently not. */
class DispatchTest {
    private static Actor only(Permission permission) {
        return Actor.with("x", "Somebody", "desk", List.of(permission), SiteScope.everywhere());
    }

    private static final Rule FORCED = rule("forced", Kinds.FORCED, start("duty"), start("phones"));

    @Test
    void one_message_for_each_alarm_and_receiver_however_often_it_happens() {
        try (PostRig rig = new PostRig(rule(
                        "forced", Kinds.FORCED, start("duty"), start("phones"), new Rule.Tell(Rule.At.END, "duty")))
                .both()) {
            rig.happens(Kinds.FORCED, 101);
            rig.happens(Kinds.FORCED, 102);
            soon().until(() -> rig.came.size() == 2);
            rig.happens(Kinds.CLOSED, 110);
            soon().until(() -> rig.came.size() == 3);
            // It begins again, while the alarm is still open, and ends again.
            rig.happens(Kinds.FORCED, 120);
            rig.happens(Kinds.CLOSED, 125);
            soon().until(() -> rig.alarms.open(IV).get(0).times() == 3);
            rig.happens(Kinds.FORCED, VAULT, 130);
            soon().until(() -> rig.came.size() == 5);
            assertThat(rig.to("duty"))
                    .extracting(Message::occasion)
                    .containsExactlyInAnyOrder(Occasion.RAISED, Occasion.ENDED, Occasion.RAISED);
            assertThat(rig.to("phones")).hasSize(2).allMatch(m -> m.attempt() == 1 && !m.maybeBefore());
            assertThat(rig.came).extracting(c -> c.message().id()).doesNotHaveDuplicates();
            soon().until(() -> rig.log.events.stream()
                            .filter(e -> e.kind().equals(Kinds.ALARM_TOLD))
                            .count()
                    == 5);
        }
    }

    /** What calls anew after somebody had seen it is told anew, and goes on to others anew. */
    @Test
    void each_call_of_an_alarm_that_was_left_open_is_told_once() {
        try (PostRig rig = new PostRig(rule("duress", Kinds.DURESS, start("duty"))).both()) {
            rig.desk.keep(
                    new Escalation(
                            0,
                            Map.of(
                                    Priority.URGENT,
                                    List.of(new Escalation.Step(Duration.ofSeconds(60), List.of("phones"))))),
                    rig.desk.escalation(IV).version(),
                    IV);
            for (int call = 1; call <= 3; call++) {
                int told = call;
                rig.happens(Kinds.DURESS, 101 + (call - 1) * 1_000);
                rig.happens(Kinds.DURESS, 102 + (call - 1) * 1_000);
                soon().until(() -> rig.to("duty").size() == told);
                rig.later(Duration.ofSeconds(61));
                soon().until(() -> rig.to("phones").size() == told);
                var alarm = rig.alarms.open(IV).get(0);
                assertThat(alarm.call().number()).isEqualTo(call);
                rig.alarms.acknowledge(List.of(alarm.seen()), IV).join();
                rig.later(Duration.ofSeconds(900));
            }
            assertThat(rig.alarms.open(IV)).hasSize(1);
            assertThat(rig.came).extracting(c -> c.message().id()).doesNotHaveDuplicates();
            rig.again();
            // Nothing of it comes once more.
            rig.happens(Kinds.DURESS, VAULT, 9_000);
            soon().until(() -> rig.came.size() == 7);
        }
    }

    @Test
    void whoever_was_not_told_is_told_when_nobody_comes() {
        try (PostRig rig = new PostRig(rule("forced", Kinds.FORCED, start("duty"))).both()) {
            Escalation before = rig.desk.escalation(IV);
            rig.desk.keep(
                    new Escalation(
                            0,
                            Map.of(
                                    Priority.URGENT,
                                    List.of(
                                            new Escalation.Step(Duration.ofSeconds(60), List.of("duty")),
                                            new Escalation.Step(Duration.ofSeconds(90), List.of("duty", "phones"))))),
                    before.version(),
                    IV);
            rig.happens(Kinds.FORCED, 101);
            rig.happens(Kinds.FORCED, VAULT, 101);
            soon().until(() -> rig.to("duty").size() == 2);
            rig.alarms
                    .acknowledge(
                            rig.alarms.open(IV).stream()
                                    .filter(a -> a.origin().subject().door().equals(Optional.of(VAULT)))
                                    .map(Alarm::seen)
                                    .toList(),
                            IV)
                    .join();
            // Late enough for both steps at once: nobody is left out.
            rig.later(Duration.ofSeconds(200));
            soon().until(() -> rig.to("phones").size() == 1);
            assertThat(rig.to("phones")
                            .get(0)
                            .alarm()
                            .orElseThrow()
                            .origin()
                            .subject()
                            .door())
                    .contains(GATE);
            assertThat(rig.to("duty")).hasSize(2);
        }
    }

    @Test
    void a_post_that_takes_nothing_is_tried_less_and_less_and_holds_up_nobody_else() {
        try (PostRig rig = new PostRig(FORCED).both()) {
            AtomicInteger tried = new AtomicInteger();
            rig.fates.put("phones.custodia.test", m -> {
                tried.incrementAndGet();
                return Optional.of(no(Why.NOBODY_TAKES_ANY));
            });
            for (int i = 0; i < 5; i++) {
                rig.happens(Kinds.FORCED, new DoorId("tidewater/d" + i), 101 + i);
            }
            soon().until(() -> rig.to("duty").size() == 5);
            soon().until(() -> tried.get() == 1);
            assertThat(rig.dispatch.trouble()).isEmpty();
            rig.later(Duration.ofSeconds(5));
            soon().until(() -> tried.get() == 2);
            // Ten seconds from there, and so on.
            rig.later(Duration.ofSeconds(9));
            rig.later(Duration.ofMillis(1_001));
            soon().until(() -> tried.get() == 3);
            rig.later(Duration.ofMinutes(3));
            soon().until(() -> tried.get() == 4);
            soon().until(() -> rig.dispatch.trouble().isPresent());
            Saying late = rig.dispatch.trouble().orElseThrow();
            assertThat(late.code()).isEqualTo("message.late");
            assertThat(late.of()).startsWith(5L, "By web: phones");
            assertThat(rig.desk.messages(100, IV).stream().filter(MessageDesk.Sent::late))
                    .hasSize(5);
            rig.fates.clear();
            rig.desk.tryNow(IV);
            soon().until(() -> rig.to("phones").size() == 5);
            soon().until(() -> rig.dispatch.trouble().isEmpty());
            // A clock that is set back does not have them wait until it has caught up.
            rig.fates.put("phones.custodia.test", m -> Optional.of(no(Why.NOBODY_TAKES_ANY)));
            rig.happens(Kinds.FORCED, new DoorId("tidewater/d9"), 190);
            soon().until(() -> rig.to("duty").size() == 6);
            soon().until(() -> rig.outbox.all(100).stream()
                    .anyMatch(e -> e.attempts() == 1 && !e.maybe() && e.said().isPresent()));
            rig.fates.clear();
            rig.later(Duration.ofDays(-2));
            soon().until(() -> rig.to("phones").size() == 6);
            // None of them can have arrived before.
            assertThat(rig.to("phones")).noneMatch(Message::maybeBefore);
        }
    }

    @Test
    void one_that_is_refused_keeps_no_other_waiting() {
        try (PostRig rig = new PostRig(FORCED).both()) {
            rig.fates.put(
                    "duty@custodia.test",
                    m -> m.door().filter(d -> d.id().equals(VAULT)).map(d -> no(Why.REFUSED)));
            rig.happens(Kinds.FORCED, VAULT, 101);
            rig.happens(Kinds.FORCED, GATE, 102);
            soon().until(() -> rig.to("duty").size() == 1);
            assertThat(rig.to("duty").get(0).door().orElseThrow().id()).isEqualTo(GATE);
        }
    }

    @Test
    void what_may_have_arrived_says_so_when_it_is_sent_again() {
        try (PostRig rig = new PostRig(FORCED).both()) {
            Set<String> ids = new HashSet<>();
            rig.fates.put("phones.custodia.test", m -> {
                ids.add(m.id());
                // No answer, then a definite no, which does not make up for the first.
                return m.attempt() == 1
                        ? Optional.of(no(Why.NOT_KNOWN))
                        : m.attempt() == 2 ? Optional.of(no(Why.NOBODY_TAKES_ANY)) : Optional.empty();
            });
            rig.happens(Kinds.FORCED, 101);
            soon().until(() -> ids.size() == 1);
            soon().until(() -> {
                rig.later(Duration.ofSeconds(30));
                return rig.to("phones").size() == 1;
            });
            Message again = rig.to("phones").get(0);
            assertThat(again.attempt()).isEqualTo(3);
            assertThat(again.maybeBefore()).isTrue();
            assertThat(ids).containsExactly(again.id());
        }
    }

    /** Killed while it is sent: nothing is closed, the outbox and the snapshots are as they were. */
    @Test
    void whoever_is_killed_while_sending_sends_it_again_and_says_so() throws Exception {
        try (PostRig rig = new PostRig(FORCED).both()) {
            CountDownLatch sending = new CountDownLatch(1);
            CountDownLatch over = new CountDownLatch(1);
            rig.fates.put("phones.custodia.test", m -> {
                sending.countDown();
                try {
                    over.await(60, TimeUnit.SECONDS);
                } catch (InterruptedException e) {
                    Thread.currentThread().interrupt();
                }
                throw new IllegalStateException("killed");
            });
            rig.happens(Kinds.FORCED, 101);
            assertThat(sending.await(60, TimeUnit.SECONDS)).isTrue();
            String id = rig.outbox.of(rig.alarms.open(IV).get(0).id()).stream()
                    .filter(e -> e.slip().receiver().equals("phones"))
                    .findFirst()
                    .orElseThrow()
                    .id();
            soon().until(() -> rig.to("duty").size() == 1);
            // What has not been closed writes no more: it is as good as dead.
            rig.outbox.full = true;
            over.countDown();
            Dispatch dead = rig.dispatch;
            dead.close();
            rig.outbox.full = false;
            rig.fates.clear();
            rig.again();
            soon().until(() -> rig.to("phones").size() == 1);
            Message again = rig.to("phones").get(0);
            assertThat(again.id()).isEqualTo(id);
            assertThat(again.maybeBefore()).isTrue();
            assertThat(rig.to("duty")).as("what arrived is not sent again").hasSize(1);
        }
    }

    /** More than waits in memory, while the outbox cannot be written, and then again once it is read from the log. */
    @Test
    void what_does_not_fit_while_nothing_can_be_written_is_not_lost() {
        int many = 10_050;
        try (PostRig rig = new PostRig(FORCED).both()) {
            rig.outbox.full = true;
            for (int i = 0; i < many; i++) {
                rig.happens(Kinds.FORCED, new DoorId("tidewater/d" + i), 101);
            }
            soon().until(() -> rig.alarms.open(IV).size() == many);
            rig.outbox.fillAfter = 700;
            rig.outbox.full = false;
            soon().until(() -> rig.outbox.fillAfter < 0);
            rig.outbox.full = false;
            soon().until(() -> rig.outbox.all(4 * many).size() == 2 * many);
        }
    }

    @Test
    void what_was_stored_while_nobody_sent_is_sent_later() {
        try (PostRig rig = new PostRig(FORCED).both()) {
            rig.happens(Kinds.FORCED, 101);
            soon().until(() -> rig.came.size() == 2);
            // The outbox cannot be written for a while, and the process ends in it.
            rig.outbox.full = true;
            rig.happens(Kinds.FORCED, VAULT, 102);
            soon().until(() -> rig.alarms.open(IV).size() == 2);
            rig.end();
            rig.outbox.full = false;
            rig.begin();
            soon().until(() -> rig.came.size() == 4);
            rig.again();
            rig.happens(Kinds.FORCED, new DoorId("tidewater/other"), 103);
            soon().until(() -> rig.came.size() == 6);
        }
    }

    @Test
    void whoever_is_gone_or_switched_off_is_not_told_and_that_is_on_record() {
        try (PostRig rig = new PostRig(rule("forced", Kinds.FORCED, start("nobody"), start("duty"))).both()) {
            Receiver duty = PostRig.mail("duty");
            rig.desk.keep(new Receiver("duty", 0, duty.name(), false, duty.way()), 1, Optional.empty(), IV);
            rig.happens(Kinds.FORCED, 101);
            soon().until(() -> rig.states().equals(List.of(Outbox.State.GIVEN_UP)));
            Event fact = rig.log.events.stream()
                    .filter(e -> e.kind().equals(Kinds.ALARM_NOT_TOLD))
                    .findFirst()
                    .orElseThrow();
            assertThat(fact.detail("receiver")).contains("nobody");
            assertThat(fact.detail("said")).contains("message.receiver-gone");
            assertThat(rig.directory.odd(List.of("duty", "gone", "phones")))
                    .extracting(Saying::code)
                    .containsExactly("rule.receiver-off", "rule.receiver-gone");
            assertThat(rig.came).isEmpty();
        }
    }

    @Test
    void after_a_day_a_message_is_given_up_and_one_that_is_not_wanted_at_once() {
        try (PostRig rig = new PostRig(FORCED).both()) {
            rig.fates.put("phones.custodia.test", m -> Optional.of(no(Why.NOBODY_TAKES_ANY)));
            rig.fates.put("duty@custodia.test", m -> Optional.of(no(Why.NOT_KNOWN)));
            rig.happens(Kinds.FORCED, 101);
            soon().until(() -> rig.outbox.all(9).stream().allMatch(e -> e.said().isPresent() && e.attempts() == 1)
                    && rig.outbox.all(9).size() == 2);
            long number = rig.outbox.all(9).stream()
                    .filter(e -> e.slip().receiver().equals("duty"))
                    .findFirst()
                    .orElseThrow()
                    .number();
            soon().until(() -> {
                try {
                    rig.desk.drop(number, IV);
                    return true;
                } catch (MessageException e) {
                    return false;
                }
            });
            assertThatThrownBy(() -> rig.desk.drop(number, IV)).isInstanceOf(MessageException.class);
            assertThat(rig.outbox.entry(number).orElseThrow().said()).contains(Saying.of("message.dropped", IV.name()));
            rig.later(Dispatch.GIVEN_UP_AFTER.plusSeconds(1));
            soon().until(() -> rig.states().equals(List.of(Outbox.State.GIVEN_UP, Outbox.State.GIVEN_UP)));
        }
    }

    /** A flood: nobody reads a thousand mails, and nobody is to miss one. */
    @Test
    void many_at_once_go_together_by_mail_and_one_by_one_to_programs() {
        try (PostRig rig = new PostRig(FORCED).both()) {
            for (int i = 0; i < 300; i++) {
                rig.happens(Kinds.FORCED, new DoorId("tidewater/d" + i), 101 + i * 0.01);
            }
            soon().until(() -> rig.to("phones").size() == 300);
            soon().until(() -> rig.states().stream().allMatch(s -> s == Outbox.State.SENT));
            List<PostRig.Came> mails = rig.came.stream()
                    .filter(c -> c.to() instanceof Receiver.Mail)
                    .toList();
            assertThat(mails).hasSizeLessThan(50);
            String all = mails.stream()
                    .map(c -> c.words().subject() + "\n" + c.words().text())
                    .reduce("", (a, b) -> a + "\n" + b + "\n");
            for (int i = 0; i < 300; i++) {
                assertThat(all).contains("tidewater/d" + i + "\n");
            }
        }
    }

    @Test
    void after_ten_mails_within_ten_minutes_the_next_go_together() {
        for (int before : new int[] {9, 10}) {
            try (PostRig rig = new PostRig(FORCED).both()) {
                for (int i = 1; i <= before; i++) {
                    rig.happens(Kinds.FORCED, new DoorId("tidewater/d" + i), 101 + i);
                    int all = i;
                    soon().until(() -> mails(rig) == all);
                }
                rig.fates.put("duty@custodia.test", m -> Optional.of(no(Why.NOBODY_TAKES_ANY)));
                rig.happens(Kinds.FORCED, new DoorId("tidewater/d11"), 121);
                rig.happens(Kinds.FORCED, new DoorId("tidewater/d12"), 122);
                soon().until(() -> rig.outbox.all(100).size() == 2 * before + 4);
                rig.fates.remove("duty@custodia.test");
                soon().until(() -> {
                    rig.later(Duration.ofSeconds(6));
                    return rig.states().stream().allMatch(s -> s == Outbox.State.SENT);
                });
                assertThat(mails(rig)).isEqualTo(before < 10 ? before + 2 : before + 1);
            }
        }
    }

    /** A log that was restored from a backup ends before the position up to which messages are known to be sent. */
    @Test
    void what_happens_in_a_log_that_begins_again_before_the_snapshot_is_told() {
        try (PostRig rig = new PostRig(FORCED).both()) {
            rig.end();
            rig.snapshots.save("messages", 1, 1_000_000, new Dispatch.State(rig.now()));
            rig.begin();
            rig.happens(Kinds.FORCED, new DoorId("tidewater/d1"), 101);
            soon().until(() -> rig.to("phones").size() == 1);
        }
    }

    private static long mails(PostRig rig) {
        return rig.came.stream().filter(c -> c.to() instanceof Receiver.Mail).count();
    }

    @Test
    void a_message_is_late_after_two_minutes_and_given_up_after_a_day() {
        Instant made = Instant.parse("2026-11-24T13:00:00Z");
        Instant day = made.plus(Duration.ofHours(24));
        assertThat(Dispatch.isTooOld(made, day)).isFalse();
        assertThat(Dispatch.isTooOld(made, day.plusNanos(1))).isTrue();
        assertThat(Dispatch.isLate(made, made.plusSeconds(120))).isFalse();
        assertThat(Dispatch.isLate(made, made.plusSeconds(120).plusNanos(1))).isTrue();
    }

    /** Posts that fail at random, in every way, with the process ending now and then. */
    @ParameterizedTest
    @ValueSource(longs = {1, 2, 3, 4, 5, 6})
    void whatever_posts_do_everybody_is_told_of_everything(long seed) {
        Random random = new Random(seed);
        try (PostRig rig = new PostRig(FORCED).both()) {
            Map<String, Integer> arrivedUnsaid = new HashMap<>();
            PostRig.Fate fate = m -> {
                synchronized (random) {
                    switch (random.nextInt(6)) {
                        case 0:
                            return Optional.of(no(Why.NOBODY_TAKES_ANY));
                        case 1:
                            return Optional.of(no(Why.REFUSED));
                        case 2:
                            return Optional.of(no(Why.NOT_KNOWN));
                        case 3:
                            // It takes it, and nobody hears of that.
                            arrivedUnsaid.merge(m.id(), 1, Integer::sum);
                            return Optional.of(no(Why.NOT_KNOWN));
                        default:
                            return Optional.empty();
                    }
                }
            };
            rig.fates.put("duty@custodia.test", fate);
            rig.fates.put("phones.custodia.test", fate);
            int alarms = 25;
            for (int i = 0; i < alarms; i++) {
                rig.happens(Kinds.FORCED, new DoorId("tidewater/d" + i), 101 + i);
                rig.later(Duration.ofSeconds(random.nextInt(20)));
                if (random.nextInt(8) == 0) {
                    rig.again();
                }
            }
            soon().until(() -> {
                rig.later(Duration.ofMinutes(2));
                return rig.outbox.all(1_000).size() == 2 * alarms
                        && rig.states().stream().allMatch(s -> s == Outbox.State.SENT);
            });
            assertThat(rig.to("phones")).hasSize(alarms);
            assertThat(rig.to("phones")).extracting(Message::id).doesNotHaveDuplicates();
            // Whatever came twice says so, the second time.
            assertThat(rig.came)
                    .filteredOn(c -> arrivedUnsaid.containsKey(c.message().id()))
                    .allMatch(c -> c.message().maybeBefore());
        }
    }

    @Test
    void a_trial_is_sent_at_once_and_says_what_came_of_it() throws Exception {
        try (PostRig rig = new PostRig(FORCED).both()) {
            assertThat(rig.desk.trial("duty", IV)).isEmpty();
            assertThat(rig.to("duty").get(0).occasion()).isEqualTo(Occasion.TRIAL);
            rig.fates.put("phones.custodia.test", m -> Optional.of(no(Why.NOBODY_TAKES_ANY)));
            assertThatThrownBy(() -> rig.desk.trial("phones", IV)).isInstanceOf(NotSentException.class);
            assertThatThrownBy(() -> rig.desk.trial("gone", IV)).isInstanceOf(MessageException.class);
            assertThat(rig.outbox.all(10)).isEmpty();
        }
    }

    @Test
    void a_key_is_long_enough_a_password_goes_nowhere_else_and_nobody_changes_what_they_may_not() {
        try (PostRig rig = new PostRig(FORCED).both()) {
            assertThatThrownBy(() -> rig.desk.keep(PostRig.web("new"), 0, Optional.empty(), IV))
                    .hasMessageContaining("message.key-missing");
            assertThatThrownBy(() -> rig.desk.keep(PostRig.web("new"), 0, Optional.of("short"), IV))
                    .hasMessageContaining("message.key-odd");
            MailServer signs = new MailServer(
                    0, "a.test", 587, MailServer.Security.STARTTLS, Optional.of("us"), "us@custodia.test");
            assertThatThrownBy(() -> rig.desk.keep(signs, 1, Optional.empty(), IV))
                    .hasMessageContaining("message.password-missing");
            rig.desk.keep(signs, 1, Optional.of("secret"), IV);
            assertThat(rig.secrets.get(Keys.password(signs))).contains("secret");
            MailServer from = new MailServer(
                    0, "a.test", 587, MailServer.Security.STARTTLS, Optional.of("us"), "desk@custodia.test");
            rig.desk.keep(from, 2, Optional.empty(), IV);
            MailServer elsewhere = new MailServer(
                    0, "b.test", 587, MailServer.Security.STARTTLS, Optional.of("us"), "desk@custodia.test");
            assertThatThrownBy(() -> rig.desk.keep(elsewhere, 3, Optional.empty(), IV))
                    .hasMessageContaining("message.password-missing");
            assertThat(rig.log.events)
                    .noneMatch(
                            e -> e.toString().contains("secret") || e.toString().contains(PostRig.KEY));
            var may = only(Permission.HANDLE_ALARMS);
            assertThat(rig.desk.receivers(may)).hasSize(2);
            assertThatThrownBy(() -> rig.desk.keep(PostRig.mail("x"), 0, Optional.empty(), may))
                    .isInstanceOf(NotPermittedException.class);
            assertThatThrownBy(() -> rig.desk.keep(from, 3, Optional.empty(), may))
                    .isInstanceOf(NotPermittedException.class);
            assertThatThrownBy(() -> rig.desk.keep(Escalation.USUAL, 0, may)).isInstanceOf(NotPermittedException.class);
            assertThatThrownBy(() -> rig.desk.takeOff("duty", 1, may)).isInstanceOf(NotPermittedException.class);
            assertThatThrownBy(() -> rig.desk.trial("duty", may)).isInstanceOf(NotPermittedException.class);
            assertThatThrownBy(() -> rig.desk.drop(1, may)).isInstanceOf(NotPermittedException.class);
            rig.happens(Kinds.FORCED, 101);
            soon().until(() -> rig.alarms.open(IV).size() == 1);
            Alarm alarm = rig.alarms.open(IV).get(0);
            var none = only(Permission.SEE_LIVE);
            for (ThrowingCallable each : List.<ThrowingCallable>of(
                    () -> rig.desk.messages(9, none),
                    () -> rig.desk.about(alarm, none),
                    () -> rig.desk.receivers(none),
                    () -> rig.desk.names(none),
                    () -> rig.desk.server(none),
                    () -> rig.desk.escalation(none),
                    () -> rig.desk.tryNow(none))) {
                assertThatThrownBy(each).isInstanceOf(NotPermittedException.class);
            }
            assertThat(rig.desk.names(may)).containsOnlyKeys("duty", "phones");
            // Whoever only looks has nothing sent.
            Actor looks = new Actor(
                    "x",
                    "X",
                    "desk",
                    Map.of(Permission.HANDLE_ALARMS, new Actor.Grant(SiteScope.everywhere(), Actor.Level.LOOK)));
            assertThat(rig.desk.messages(9, looks)).isNotNull();
            assertThatThrownBy(() -> rig.desk.tryNow(looks)).isInstanceOf(NotPermittedException.class);
            // What is no longer signed in with, or signed with, is not kept.
            rig.desk.keep(
                    new MailServer(
                            0, "a.test", 587, MailServer.Security.STARTTLS, Optional.empty(), "us@custodia.test"),
                    3,
                    Optional.empty(),
                    IV);
            assertThat(rig.secrets.names()).noneMatch(n -> n.startsWith(Keys.PASSWORDS));
            assertThat(rig.secrets.get(Keys.of("phones"))).isPresent();
            rig.desk.takeOff("phones", 1, IV);
            assertThat(rig.secrets.get(Keys.of("phones"))).isEmpty();
        }
    }

    @Test
    void a_certificate_is_confirmed_by_those_who_may_change_where_it_is_shown() {
        String print = "0f".repeat(32);
        try (PostRig rig = new PostRig(FORCED).both()) {
            var rules = only(Permission.EDIT_RULES);
            var setUp = Actor.with(
                    "x", "X", "desk", Set.of(Permission.SET_UP, Permission.HANDLE_ALARMS), SiteScope.everywhere());
            assertThatThrownBy(() -> rig.desk.confirm("phones", print, setUp))
                    .isInstanceOf(NotPermittedException.class);
            assertThatThrownBy(() -> rig.desk.confirm("duty", print, rules)).isInstanceOf(NotPermittedException.class);
            assertThatThrownBy(() -> rig.desk.confirm("nobody", print, IV))
                    .hasMessageContaining("message.receiver-gone");
            assertThatThrownBy(() -> rig.desk.confirm("phones", "not hexadecimal", IV))
                    .isInstanceOf(IllegalArgumentException.class);
            rig.desk.confirm("phones", print, rules);
            rig.desk.confirm("duty", print, setUp);
            assertThat(rig.desk.server(IV).orElseThrow().certificate()).contains(print);
            assertThat(rig.desk.receivers(IV).stream()
                            .map(s -> s.receiver().way())
                            .filter(Receiver.Web.class::isInstance)
                            .map(w -> ((Receiver.Web) w).certificate()))
                    .containsExactly(Optional.of(print));
            // Its key is kept, and nothing else has changed.
            assertThat(rig.secrets.get(Keys.of("phones"))).contains(PostRig.KEY);
        }
    }

    @Test
    void a_password_goes_with_a_certificate_that_somebody_confirms_and_with_no_other() {
        String print = "0f".repeat(32);
        MailServer server =
                new MailServer(0, "a.test", 587, MailServer.Security.STARTTLS, Optional.of("us"), "us@custodia.test");
        MailServer pinned = server.certificate(Optional.of(print));
        MailServer other = server.certificate(Optional.of("1e".repeat(32)));
        try (PostRig rig = new PostRig(FORCED).both()) {
            rig.desk.keep(server, 1, Optional.of("secret"), IV);
            assertThatThrownBy(() -> rig.desk.keep(pinned, 2, Optional.empty(), IV))
                    .hasMessageContaining("message.password-missing");
            rig.desk.confirm("duty", print, IV);
            assertThat(rig.secrets.get(Keys.password(pinned))).contains("secret");
            assertThat(rig.secrets.get(Keys.password(server))).isEmpty();
            assertThatThrownBy(() -> rig.desk.keep(other, 3, Optional.empty(), IV))
                    .hasMessageContaining("message.password-missing");
            // Whoever changes what was changed meanwhile does not leave a password behind either.
            assertThatThrownBy(() -> rig.desk.keep(other, 2, Optional.of("theirs"), IV))
                    .isInstanceOf(EventLogException.class);
            assertThatThrownBy(() -> rig.desk.keep(PostRig.web("phones"), 0, Optional.of("t".repeat(32)), IV))
                    .isInstanceOf(EventLogException.class);
            assertThat(rig.secrets.names()).doesNotContain(Keys.password(other));
            assertThat(rig.secrets.get(Keys.of("phones"))).contains(PostRig.KEY);
            rig.desk.keep(server, 3, Optional.empty(), IV);
            assertThat(rig.secrets.get(Keys.password(server))).contains("secret");
            assertThat(rig.secrets.names()).doesNotContain(Keys.password(pinned));
            // A change is stored even if an old secret cannot be removed.
            rig.secrets.secretsFail = true;
            rig.desk.takeOff("phones", 1, IV);
            assertThat(rig.desk.receivers(IV)).hasSize(1);
            rig.secrets.secretsFail = false;
            rig.desk.keep(other, 4, Optional.of("theirs"), IV);
            assertThat(rig.secrets.names()).contains(Keys.password(other)).doesNotContain(Keys.password(server));
        }
    }

    @Test
    void a_damaged_password_or_key_can_be_entered_again() {
        MailServer server =
                new MailServer(0, "a.test", 587, MailServer.Security.STARTTLS, Optional.of("us"), "us@custodia.test");
        try (PostRig rig = new PostRig(FORCED).both()) {
            rig.desk.keep(server, 1, Optional.of("secret"), IV);
            rig.secrets.unreadable.addAll(List.of(Keys.password(server), Keys.of("phones")));
            rig.desk.keep(server, 2, Optional.of("again"), IV);
            rig.desk.keep(PostRig.web("phones"), 1, Optional.of("k".repeat(32)), IV);
            assertThat(rig.secrets.get(Keys.password(server))).contains("again");
            assertThat(rig.secrets.get(Keys.of("phones"))).contains("k".repeat(32));
        }
    }

    @Test
    void a_finished_alarm_is_told_as_it_stands() {
        try (PostRig rig = new PostRig(FORCED).both()) {
            rig.fates.put("duty@custodia.test", m -> Optional.of(no(Why.NOBODY_TAKES_ANY)));
            rig.happens(Kinds.FORCED, 101);
            soon().until(() -> rig.to("phones").size() == 1);
            rig.alarms
                    .finish(rig.alarms.open(IV).get(0).seen(), Outcome.HARMLESS, "wind", IV)
                    .join();
            rig.fates.clear();
            rig.desk.tryNow(IV);
            soon().until(() -> {
                rig.later(Duration.ofSeconds(1));
                return rig.to("duty").size() == 1;
            });
            assertThat(rig.to("duty").get(0).alarm().orElseThrow().finished()).isPresent();
        }
    }

    @Test
    void an_address_that_was_not_taken_now_is_tried_again_by_itself() {
        try (PostRig rig = new PostRig(rule("forced", Kinds.FORCED, start("desk"))).both()) {
            rig.desk.keep(
                    new Receiver(
                            "desk",
                            0,
                            "Desk",
                            true,
                            new Receiver.Mail(List.of("a@custodia.test", "b@custodia.test"), false)),
                    0,
                    Optional.empty(),
                    IV);
            rig.deliveries.put(
                    List.of("a@custodia.test", "b@custodia.test"),
                    new Sender.MailDelivery(List.of(), List.of("b@custodia.test"), "450 full"));
            rig.happens(Kinds.FORCED, 101);
            soon().until(() -> rig.came.size() == 1);
            soon().until(() -> rig.outbox.all(10).get(0).remaining().equals(List.of("b@custodia.test")));
            assertThat(rig.states()).containsExactly(Outbox.State.WAITING);
            assertThat(facts(rig, Kinds.ALARM_TOLD)).isZero();
            soon().until(() -> {
                rig.later(Duration.ofSeconds(5));
                return rig.states().equals(List.of(Outbox.State.SENT));
            });
            assertThat(rig.came)
                    .extracting(c -> ((Receiver.Mail) c.to()).to())
                    .containsExactly(List.of("a@custodia.test", "b@custodia.test"), List.of("b@custodia.test"));
            assertThat(facts(rig, Kinds.ALARM_TOLD)).isEqualTo(1);
        }
    }

    private static long facts(PostRig rig, org.custodia.core.event.EventKind kind) {
        return rig.log.events.stream().filter(e -> e.kind().equals(kind)).count();
    }

    /** That it was sent and what records it are one: it waits for the log, and is not sent again meanwhile. */
    @Test
    void what_was_sent_while_nothing_could_be_stored_is_recorded_once_it_can_be() {
        try (PostRig rig = new PostRig(FORCED).both()) {
            rig.fates.put("duty@custodia.test", m -> {
                rig.log.full = true;
                return Optional.empty();
            });
            rig.happens(Kinds.FORCED, 101);
            soon().until(() -> rig.to("duty").size() == 1);
            rig.later(Duration.ofMinutes(5));
            rig.log.full = false;
            soon().until(() -> facts(rig, Kinds.ALARM_TOLD) == 2);
            assertThat(rig.to("duty")).hasSize(1);
            assertThat(rig.states()).containsOnly(Outbox.State.SENT);
        }
    }
}
