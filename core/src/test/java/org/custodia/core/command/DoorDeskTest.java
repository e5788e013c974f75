package org.custodia.core.command;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.never;
import static org.mockito.Mockito.timeout;
import static org.mockito.Mockito.verify;
import static org.mockito.Mockito.when;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.TimeUnit;
import org.custodia.core.command.CommandProgress.Stage;
import org.custodia.core.door.CommandAnswer;
import org.custodia.core.door.CommandAnswer.Result;
import org.custodia.core.door.DoorBoard;
import org.custodia.core.door.DoorCheckpoints;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.door.DoorEvents;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.link.AccessLink;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.operator.Permission;
import org.custodia.core.operator.SiteScope;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.SiteModel;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

class DoorDeskTest {
    private final MemoryLog log = new MemoryLog();
    private final AccessLink link = mock(AccessLink.class);
    private final Actor operator = Actor.withAll("iv", "I. Vantongeren", "desk");
    private Instant now = DoorEvents.at(100);
    private final Clock clock = new Clock() {
        @Override
        public ZoneOffset getZone() {
            return ZoneOffset.UTC;
        }

        @Override
        public Clock withZone(java.time.ZoneId zone) {
            return this;
        }

        @Override
        public Instant instant() {
            return now;
        }
    };
    private Door door = DoorEvents.door();
    private DoorDesk desk;
    private SiteModel sites;
    private DoorBoard board;

    @org.junit.jupiter.api.AfterEach
    void close() {
        desk.close();
    }

    @BeforeEach
    void make() {
        sites = new SiteModel(List.of(), List.of(door), List.of(), List.of());
        board = new DoorBoard(log, DoorCheckpoints.NONE, log, () -> sites, clock);
        desk = new DoorDesk(log, log, board, () -> sites, s -> Optional.of(link), clock);
        when(link.current()).thenReturn(true);
        when(link.command(any(), any(), any()))
                .thenReturn(
                        CompletableFuture.completedFuture(new CommandAnswer(Result.DONE, Saying.of("command.done"))));
    }

    private CompletableFuture<CommandProgress> letThrough() {
        return desk.act(operator, door.id(), new DoorCommand.LetThrough(), Optional.of("parcel"));
    }

    private void doorConfirms() {
        String key = log.events.stream()
                .filter(e -> e.kind().equals(Kinds.COMMAND_SENT))
                .findFirst()
                .orElseThrow()
                .cause()
                .orElseThrow();
        log.store(Event.of(new EventKey(DoorEvents.SYSTEM, 1, 7), Kinds.RELEASED, now)
                .door(door.id())
                .cause(key)
                .build());
    }

    @Test
    void the_intent_is_in_the_log_before_it_is_sent_and_only_the_door_confirms() {
        when(link.command(any(), any(), any())).thenAnswer(i -> {
            assertThat(log.kinds()).containsExactly("command.sent");
            return CompletableFuture.completedFuture(new CommandAnswer(Result.DONE, Saying.of("command.done")));
        });
        CompletableFuture<CommandProgress> done = letThrough();
        assertThat(done).isNotDone();
        doorConfirms();
        assertThat(done.join().stage()).isEqualTo(Stage.CONFIRMED);
        Event sent = log.events.get(0);
        assertThat(sent.operator()).contains("iv");
        assertThat(sent.reason()).contains("parcel");
        assertThat(log.kinds()).containsExactly("command.sent", "door.released", "command.done");
    }

    @Test
    void a_door_out_of_reach_is_refused_at_once_and_nothing_is_sent() {
        log.store(Event.of(new EventKey(DoorEvents.SYSTEM, 1, 1), Kinds.CONTROLLER_LOST, DoorEvents.at(50))
                .controller(door.controller())
                .build());
        CommandProgress end = letThrough().join();
        assertThat(end.stage()).isEqualTo(Stage.FAILED);
        assertThat(end.why()).contains(Saying.of("command.out-of-reach"));
        assertThat(end.now().orElseThrow().outOfReachSince()).isPresent();
        verify(link, never()).command(any(), any(), any());
        assertThat(log.kinds()).contains("command.sent", "command.failed");
    }

    @Test
    void an_intent_that_cannot_be_logged_is_not_sent() {
        log.full = true;
        assertThat(letThrough().join().stage()).isEqualTo(Stage.FAILED);
        verify(link, never()).command(any(), any(), any());
    }

    @Test
    void a_command_is_sent_and_ends_though_the_doors_state_cannot_be_read_and_whoever_shows_it_fails() {
        DoorBoard unreadable = mock(DoorBoard.class);
        when(unreadable.now(any())).thenThrow(new EventLogException(Saying.of("store.not-read"), null));
        try (DoorDesk other = new DoorDesk(log, log, unreadable, () -> sites, s -> Optional.of(link), clock)) {
            other.listen(progress -> {
                throw new IllegalStateException("cannot be shown");
            });
            CompletableFuture<CommandProgress> done =
                    other.act(operator, door.id(), new DoorCommand.LetThrough(), Optional.empty());
            verify(link, timeout(10_000)).command(any(), any(), any());
            doorConfirms();
            assertThat(done.orTimeout(10, TimeUnit.SECONDS).join().stage()).isEqualTo(Stage.CONFIRMED);
        }
    }

    @Test
    void a_double_press_acts_once_and_a_later_one_again() {
        CompletableFuture<CommandProgress> first = letThrough();
        CompletableFuture<CommandProgress> same = letThrough();
        assertThat(same).isSameAs(first);
        now = now.plus(Duration.ofSeconds(2));
        letThrough();
        verify(link, timeout(10_000).times(2)).command(any(), any(), any());
    }

    @Test
    void no_answer_is_not_known_and_a_refusal_says_what_the_door_is_doing() {
        when(link.command(any(), any(), any()))
                .thenReturn(CompletableFuture.completedFuture(
                        new CommandAnswer(Result.NOT_KNOWN, Saying.quoted("no answer in time"))));
        assertThat(letThrough().join().stage()).isEqualTo(Stage.NOT_KNOWN);
        now = now.plusSeconds(5);
        when(link.command(any(), any(), any()))
                .thenReturn(CompletableFuture.completedFuture(
                        new CommandAnswer(Result.REFUSED, Saying.quoted("the lock is jammed"))));
        CommandProgress end = letThrough().join();
        assertThat(end.stage()).isEqualTo(Stage.FAILED);
        assertThat(end.why()).contains(Saying.quoted("the lock is jammed"));
        assertThat(end.now()).isPresent();
    }

    @Test
    void who_may_not_act_is_stopped_here_and_the_attempt_is_on_record() {
        Actor looker = Actor.with("x", "Somebody", "desk", Set.of(Permission.SEE_LIVE), SiteScope.everywhere());
        assertThat(desk.offered(looker, door)).isEmpty();
        assertThatThrownBy(() -> desk.act(looker, door.id(), new DoorCommand.LockNow(), Optional.empty()))
                .isInstanceOf(NotPermittedException.class)
                .hasMessage("permit.not-here \"Somebody\" (permission.act-on-doors)");
        assertThat(log.kinds()).containsExactly("operator.not-permitted");
        verify(link, never()).command(any(), any(), any());
    }

    @Test
    void only_what_the_door_can_do_is_offered_or_taken() {
        Door plain = DoorEvents.door(DoorCapability.LEAVE_UNLOCKED, DoorCapability.UNTIL);
        assertThat(desk.offered(operator, plain).stream().map(DoorCommand::word))
                .containsExactly("let-through", "lock", "timetable");
        assertThat(new DoorCommand.LeaveUnlocked(Optional.of(now)).supportedBy(DoorEvents.door(DoorCapability.UNTIL)))
                .isFalse();
    }

    @Test
    void what_an_earlier_run_left_unanswered_is_put_down_as_not_known() {
        log.store(Event.of(new EventKey(new org.custodia.core.site.SystemId("custodia"), 1, 1), Kinds.COMMAND_SENT, now)
                .door(door.id())
                .cause("old")
                .build());
        desk.closeUnanswered();
        desk.closeUnanswered();
        assertThat(log.kinds()).containsExactly("command.sent", "command.unknown");
        verify(link, never()).command(any(), any(), any());
    }

    @Test
    void what_ends_a_command_after_a_restart_names_the_operator_who_gave_it() {
        log.store(
                sentByAnn(1, "lost"),
                sentByAnn(2, "confirmed"),
                fromTheDoorOf("confirmed", "locked"),
                sentByAnn(3, "late"));
        desk.closeUnanswered();
        log.store(fromTheDoorOf("late", "locked"));
        org.awaitility.Awaitility.await()
                .until(() -> log.kinds().stream().filter("command.done"::equals).count() == 2);
        assertThat(log.events)
                .filteredOn(e -> e.kind().id().startsWith("command."))
                .hasSize(7)
                .allSatisfy(e -> {
                    assertThat(e.operator()).contains("ann");
                    assertThat(e.detail("operator-name")).contains("Ann Esterling");
                    assertThat(e.detail("desk")).contains("Desk 2");
                });
    }

    private Event sentByAnn(long number, String key) {
        return Event.of(new EventKey(org.custodia.core.site.SystemId.CUSTODIA, 1, number), Kinds.COMMAND_SENT, now)
                .door(door.id())
                .detail("command", "lock")
                .operator("ann")
                .detail("operator-name", "Ann Esterling")
                .detail("desk", "Desk 2")
                .cause(key)
                .build();
    }

    @Test
    void a_command_counts_as_sent_only_once_it_is_stored_and_sent() {
        List<Stage> stages = new CopyOnWriteArrayList<>();
        desk.listen(p -> stages.add(p.stage()));
        CompletableFuture<Event> storing = new CompletableFuture<>();
        MemoryLog slow = new MemoryLog() {
            @Override
            public synchronized CompletableFuture<Event> record(Event.Builder event) {
                return storing;
            }
        };
        try (DoorDesk waiting = new DoorDesk(slow, slow, board, () -> sites, s -> Optional.of(link), clock)) {
            waiting.listen(p -> stages.add(p.stage()));
            waiting.act(operator, door.id(), new DoorCommand.LetThrough(), Optional.empty());
            assertThat(stages).containsExactly(Stage.ACCEPTED);
            storing.complete(sentByAnn(1, "key"));
            verify(link, timeout(10_000)).command(any(), any(), any());
            org.awaitility.Awaitility.await().until(() -> stages.contains(Stage.SENT));
        }
    }

    private Event.Builder fromTheDoor(org.custodia.core.event.EventKind kind) {
        String key = log.events.stream()
                .filter(e -> e.kind().equals(Kinds.COMMAND_SENT))
                .reduce((a, b) -> b)
                .orElseThrow()
                .cause()
                .orElseThrow();
        return Event.of(new EventKey(DoorEvents.SYSTEM, 1, 100 + log.events.size()), kind, now)
                .door(door.id())
                .cause(key);
    }

    private CompletableFuture<CommandProgress> act(DoorCommand command) {
        return desk.act(operator, door.id(), command, Optional.empty());
    }

    @Test
    void nothing_but_what_the_command_makes_this_door_do_confirms_it() {
        CompletableFuture<CommandProgress> done = act(new DoorCommand.LockNow());
        log.store(fromTheDoor(Kinds.REFUSED).build());
        log.store(fromTheDoor(Kinds.RELEASED).build());
        log.store(fromTheDoor(Kinds.MODE).build());
        log.store(fromTheDoor(Kinds.MODE).detail("mode", "unlocked").build());
        log.store(fromTheDoor(Kinds.MODE)
                .detail("mode", "locked")
                .door(new org.custodia.core.site.DoorId("tidewater/other"))
                .build());
        log.store(fromTheDoor(Kinds.MODE)
                .detail("mode", "locked")
                .key(new EventKey(new org.custodia.core.site.SystemId("tide"), 1, 7))
                .build());
        assertThat(done).isNotDone();
        log.store(fromTheDoor(Kinds.MODE).detail("mode", "locked").build());
        assertThat(done.join().stage()).isEqualTo(Stage.CONFIRMED);
        assertThat(log.kinds()).containsOnlyOnce("command.done");
    }

    @Test
    void each_command_is_confirmed_by_its_own_kind_and_mode() {
        record Case(DoorCommand command, org.custodia.core.event.EventKind kind, String mode, String by) {}
        for (Case c : List.of(
                new Case(new DoorCommand.LetThrough(), Kinds.RELEASED, "x", "x"),
                new Case(new DoorCommand.LeaveUnlocked(Optional.empty()), Kinds.MODE, "unlocked", "command"),
                new Case(new DoorCommand.LockNow(), Kinds.MODE, "locked", "command"),
                new Case(new DoorCommand.BackToTimetable(), Kinds.MODE, "unlocked", "timetable"))) {
            now = now.plusSeconds(10);
            CompletableFuture<CommandProgress> done = act(c.command());
            if (c.command() instanceof DoorCommand.BackToTimetable) {
                log.store(fromTheDoor(c.kind())
                        .detail("mode", "unlocked")
                        .detail("by", "command")
                        .build());
                assertThat(done).isNotDone();
            }
            log.store(fromTheDoor(c.kind())
                    .detail("mode", c.mode())
                    .detail("by", c.by())
                    .build());
            assertThat(done.join().stage()).as(c.command().word()).isEqualTo(Stage.CONFIRMED);
        }
    }

    @Test
    void another_operator_or_desk_or_command_is_another_press() {
        CompletableFuture<CommandProgress> first = letThrough();
        doorConfirms();
        assertThat(first.join().stage()).isEqualTo(Stage.CONFIRMED);
        now = now.plusMillis(300);
        CompletableFuture<CommandProgress> second = desk.act(
                Actor.withAll("ob", "O. Brandvold", "desk"), door.id(), new DoorCommand.LetThrough(), Optional.empty());
        assertThat(second).isNotSameAs(first).isNotDone();
        CompletableFuture<CommandProgress> third = desk.act(
                Actor.withAll("iv", "I. Vantongeren", "other desk"),
                door.id(),
                new DoorCommand.LetThrough(),
                Optional.empty());
        assertThat(third).isNotSameAs(second);
        assertThat(act(new DoorCommand.LockNow())).isNotSameAs(third);
        verify(link, timeout(10_000).times(4)).command(any(), any(), any());
    }

    @Test
    void two_threads_that_press_at_once_send_once() throws Exception {
        for (int i = 0; i < 200; i++) {
            now = now.plusSeconds(10);
            var start = new java.util.concurrent.CountDownLatch(1);
            var pressed = new java.util.ArrayList<CompletableFuture<CompletableFuture<CommandProgress>>>();
            for (int t = 0; t < 2; t++) {
                pressed.add(CompletableFuture.supplyAsync(() -> {
                    try {
                        start.await();
                    } catch (InterruptedException e) {
                        throw new IllegalStateException(e);
                    }
                    return letThrough();
                }));
            }
            start.countDown();
            assertThat(pressed.get(0).get()).isSameAs(pressed.get(1).get());
        }
        verify(link, timeout(10_000).times(200)).command(any(), any(), any());
        assertThat(log.kinds().stream().filter("command.sent"::equals)).hasSize(200);
    }

    @Test
    void a_confirmation_counts_however_late_it_comes() {
        when(link.command(any(), any(), any()))
                .thenReturn(CompletableFuture.completedFuture(
                        new CommandAnswer(Result.NOT_KNOWN, Saying.quoted("no answer in time"))));
        List<CommandProgress> told = new java.util.concurrent.CopyOnWriteArrayList<>();
        desk.listen(told::add);
        assertThat(letThrough().join().stage()).isEqualTo(Stage.NOT_KNOWN);
        now = now.plusSeconds(600);
        log.store(fromTheDoor(Kinds.RELEASED).build());
        log.store(fromTheDoor(Kinds.RELEASED).build());
        verify(link, timeout(10_000)).command(any(), any(), any());
        org.awaitility.Awaitility.await().until(() -> told.size() == 4);
        assertThat(told)
                .extracting(CommandProgress::stage)
                .containsExactly(Stage.ACCEPTED, Stage.SENT, Stage.NOT_KNOWN, Stage.CONFIRMED);
        assertThat(log.kinds()).containsOnlyOnce("command.done");
    }

    @Test
    void a_confirmation_that_is_in_the_log_at_the_start_or_comes_after_it_counts() {
        Event sent = Event.of(new EventKey(org.custodia.core.site.SystemId.CUSTODIA, 1, 1), Kinds.COMMAND_SENT, now)
                .door(door.id())
                .detail("command", "lock")
                .cause("old")
                .build();
        log.store(sent, fromTheDoorOf("old", "locked"));
        log.store(sent.toBuilder()
                .key(new EventKey(org.custodia.core.site.SystemId.CUSTODIA, 1, 2))
                .cause("older")
                .build());
        desk.closeUnanswered();
        org.awaitility.Awaitility.await().until(() -> log.kinds().contains("command.done"));
        assertThat(log.kinds()).contains("command.unknown");
        log.store(fromTheDoorOf("older", "locked"));
        org.awaitility.Awaitility.await()
                .until(() -> log.kinds().stream().filter("command.done"::equals).count() == 2);
        verify(link, never()).command(any(), any(), any());
    }

    private Event fromTheDoorOf(String key, String mode) {
        return Event.of(new EventKey(DoorEvents.SYSTEM, 1, 100 + log.events.size()), Kinds.MODE, now)
                .door(door.id())
                .detail("mode", mode)
                .cause(key)
                .build();
    }

    @Test
    void a_command_that_its_door_does_not_confirm_in_time_is_not_known() {
        var timer = mock(java.util.concurrent.ScheduledExecutorService.class);
        org.mockito.Mockito.doAnswer(i -> {
                    i.getArgument(0, Runnable.class).run();
                    return null;
                })
                .when(timer)
                .execute(any());
        SiteModel sites = new SiteModel(List.of(), List.of(door), List.of(), List.of());
        DoorBoard board = new DoorBoard(log, DoorCheckpoints.NONE, log, () -> sites, clock);
        try (DoorDesk mine = new DoorDesk(log, log, board, () -> sites, s -> Optional.of(link), clock, timer)) {
            CompletableFuture<CommandProgress> done =
                    mine.act(operator, door.id(), new DoorCommand.LetThrough(), Optional.empty());
            var end = org.mockito.ArgumentCaptor.forClass(Runnable.class);
            verify(timer)
                    .schedule(
                            end.capture(),
                            org.mockito.ArgumentMatchers.eq(DoorDesk.CONFIRM_WITHIN.toMillis()),
                            org.mockito.ArgumentMatchers.eq(java.util.concurrent.TimeUnit.MILLISECONDS));
            assertThat(done).isNotDone();
            end.getValue().run();
            assertThat(done.join().stage()).isEqualTo(Stage.NOT_KNOWN);
            assertThat(done.join().why()).contains(Saying.of("command.not-confirmed"));
        }
    }

    @Test
    void while_history_is_read_the_system_decides_what_it_can_reach() {
        log.store(Event.of(new EventKey(DoorEvents.SYSTEM, 1, 1), Kinds.CONTROLLER_LOST, DoorEvents.at(50))
                .controller(door.controller())
                .build());
        when(link.current()).thenReturn(false);
        letThrough();
        verify(link, timeout(10_000)).command(any(), any(), any());
    }

    private CommandProgress progress(org.custodia.core.site.DoorId id, String key) {
        return new CommandProgress(key, id, new DoorCommand.LetThrough(), Stage.SENT, now, Optional.empty());
    }

    @Test
    void who_was_let_through_is_noted_by_those_who_may() {
        letThrough();
        Event sent = log.events.get(0);
        CommandProgress about = progress(door.id(), sent.cause().orElseThrow());
        Event note = desk.note(operator, about, "a courier", "parcel").join();
        assertThat(note.kind()).isEqualTo(Kinds.NOTE);
        assertThat(note.detail("about")).contains(sent.key().text());
        assertThat(note.detail("who")).contains("a courier");
        assertThat(note.reason()).contains("parcel");
        assertThat(desk.note(operator, about, "somebody", " ").join().reason()).isEmpty();
        Actor looker = Actor.with("x", "Somebody", "desk", Set.of(Permission.SEE_LIVE), SiteScope.everywhere());
        assertThatThrownBy(() -> desk.note(looker, about, "x", "y")).isInstanceOf(NotPermittedException.class);
        assertThat(desk.note(operator, progress(door.id(), "another key"), "x", "y"))
                .isCompletedExceptionally();
        org.custodia.core.site.DoorId none = new org.custodia.core.site.DoorId("tidewater/none");
        assertThatThrownBy(() -> desk.note(operator, progress(none, about.key()), "x", "y"))
                .hasMessage("command.no-such-door \"tidewater/none\"");
        assertThatThrownBy(() -> desk.act(operator, none, new DoorCommand.LockNow(), Optional.empty()))
                .hasMessage("command.no-such-door \"tidewater/none\"");
    }

    @Test
    void a_link_that_fails_in_its_own_way_leaves_the_outcome_open() {
        when(link.command(any(), any(), any()))
                .thenReturn(CompletableFuture.failedFuture(new IllegalStateException("x")));
        assertThat(letThrough().join().stage()).isEqualTo(Stage.NOT_KNOWN);
        now = now.plusSeconds(10);
        when(link.command(any(), any(), any())).thenThrow(new IllegalStateException("x"));
        assertThat(letThrough().join().why()).contains(Saying.of("command.not-known"));
    }

    @Test
    void until_is_in_the_intent_and_survives_a_restart() {
        Instant until = now.plusSeconds(3_600);
        when(link.command(any(), any(), any()))
                .thenReturn(CompletableFuture.completedFuture(
                        new CommandAnswer(Result.NOT_KNOWN, Saying.quoted("no answer"))));
        act(new DoorCommand.LeaveUnlocked(Optional.of(until))).join();
        Event sent = log.events.stream()
                .filter(e -> e.kind().equals(Kinds.COMMAND_SENT))
                .findFirst()
                .orElseThrow();
        assertThat(sent.detail("until")).contains(until.toString());
        assertThat(DoorCommand.of("leave-unlocked", sent.detail("until"), Optional.empty()))
                .contains(new DoorCommand.LeaveUnlocked(Optional.of(until)));
        assertThat(DoorCommand.of("leave-unlocked", Optional.of("some day"), Optional.empty()))
                .contains(new DoorCommand.LeaveUnlocked(Optional.empty()));
        assertThat(DoorCommand.of("dance", Optional.empty(), Optional.empty())).isEmpty();
    }

    @Test
    void after_the_end_nothing_is_confirmed_and_the_timer_is_gone() {
        var timer = java.util.concurrent.Executors.newSingleThreadScheduledExecutor();
        SiteModel sites = new SiteModel(List.of(), List.of(door), List.of(), List.of());
        DoorBoard board = new DoorBoard(log, DoorCheckpoints.NONE, log, () -> sites, clock);
        DoorDesk mine = new DoorDesk(log, log, board, () -> sites, s -> Optional.of(link), clock, timer);
        CompletableFuture<CommandProgress> done =
                mine.act(operator, door.id(), new DoorCommand.LetThrough(), Optional.empty());
        verify(link, timeout(10_000)).command(any(), any(), any());
        mine.close();
        assertThat(timer.isTerminated()).isTrue();
        doorConfirms();
        assertThat(done).isNotDone();
    }

    @Test
    void what_each_command_needs_of_a_door() {
        assertThat(new DoorCommand.LetThrough().supportedBy(DoorEvents.door(DoorCapability.LET_THROUGH)))
                .isFalse();
        assertThat(new DoorCommand.LockNow().supportedBy(DoorEvents.door(DoorCapability.LOCK)))
                .isFalse();
        assertThat(new DoorCommand.LockNow().supportedBy(DoorEvents.door(DoorCapability.TIMETABLE)))
                .isTrue();
        assertThat(new DoorCommand.BackToTimetable().supportedBy(DoorEvents.door(DoorCapability.TIMETABLE)))
                .isFalse();
        assertThat(new DoorCommand.BackToTimetable().supportedBy(DoorEvents.door(DoorCapability.LOCK)))
                .isTrue();
        assertThat(new DoorCommand.LeaveUnlocked(Optional.empty()).supportedBy(DoorEvents.door(DoorCapability.UNTIL)))
                .isTrue();
        assertThat(new DoorCommand.LeaveUnlocked(Optional.empty())
                        .supportedBy(DoorEvents.door(DoorCapability.LEAVE_UNLOCKED)))
                .isFalse();
    }
}
