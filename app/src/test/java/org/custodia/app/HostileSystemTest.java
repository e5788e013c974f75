package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.command.CommandProgress;
import org.custodia.core.door.DoorBoard;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.door.DoorState;
import org.custodia.core.door.GrantOutcome;
import org.custodia.core.door.LockMode;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.operator.Actor;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SystemId;
import org.custodia.link.rig.ScriptedSystem;
import org.custodia.wire.LinksFile;
import org.custodia.wire.LinksFileForm;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** A whole hub on a system that is not kind. */
class HostileSystemTest {
    private static final SystemId SYSTEM = new SystemId("tidewater");
    private static final DoorId VAULT = new DoorId("tidewater/vault");
    private static final String AT_VAULT = "\"door\":\"vault\",\"controller\":\"c5\"";
    private static final Actor OPERATOR = Actor.withAll("iv", "I. Vantongeren", "desk");

    @TempDir
    Path directory;

    private final ScriptedSystem system = new ScriptedSystem("tidewater");
    private Hub hub;

    private Hub open() {
        LinksFile.Link link = new LinksFile.Link("access", null, "tidewater", "Tidewater", system.address(), "token");
        hub = new Hub(
                directory,
                new LinksFileForm().content(new LinksFile("x", List.of(link), List.of(), List.of())),
                Clock.systemUTC(),
                OPERATOR);
        Rig.await().until(() -> hub.links().get(0).state() == LinkStatus.State.UP && system.streams() > 0);
        Rig.await().until(() -> hub.sites().get().door(VAULT).isPresent());
        return hub;
    }

    @AfterEach
    void close() {
        if (hub != null) {
            hub.close();
        }
        system.close();
    }

    private void settled(long number) {
        Rig.await().until(() -> hub.intake().coverage(SYSTEM, 1).settled() == number);
    }

    private List<Event> stored() {
        return hub.log().find(EventQuery.all().system(SYSTEM));
    }

    private void says(String kind, String more) {
        long seq = system.last() + 1;
        system.has(seq, system.event(seq, kind, AT_VAULT + (more.isEmpty() ? "" : "," + more)));
    }

    @Test
    void a_forced_door_shows_at_once_whatever_its_clock_says() {
        open();
        says("door.mode", "\"details\":{\"mode\":\"locked\",\"by\":\"timetable\"}");
        says("door.closed", "");
        for (String time : List.of(
                Instant.now().plus(Duration.ofHours(1)).toString(), "1970-01-01T00:00:00Z", "2500-01-01T00:00:00Z")) {
            long seq = system.last() + 1;
            system.has(
                    seq,
                    "{\"epoch\":1,\"seq\":" + seq + ",\"time\":\"" + time + "\",\"kind\":\"door.forced\"," + AT_VAULT
                            + "}");
            settled(seq);
            DoorState state = hub.board().now(VAULT);
            assertThat(state.open()).as(time).isTrue();
            says("door.closed", "");
            settled(system.last());
            assertThat(hub.board().now(VAULT).open()).as(time).isFalse();
        }
        assertThat(stored()).allSatisfy(e -> assertThat(e.time()).isBeforeOrEqualTo(e.received()));
    }

    @Test
    void a_slow_answer_between_a_badge_and_its_door_does_not_force_the_door() {
        open();
        says("door.mode", "\"details\":{\"mode\":\"locked\",\"by\":\"timetable\"}");
        says("door.closed", "");
        says("access.granted", "\"credential\":\"20266\"");
        system.slow = Duration.ofMillis(400);
        // A clock that is said to be a little off makes a console measure again, this time slowly.
        long asked = system.askedFor("time");
        system.ahead = Duration.ofMillis(200);
        system.beat();
        Rig.await().until(() -> system.askedFor("time") > asked);
        system.ahead = Duration.ZERO;
        says("door.opened", "");
        settled(4);
        DoorState state = hub.board().now(VAULT);
        assertThat(state.open()).isTrue();
        assertThat(state.forcedSince()).isEmpty();
        Event grant = stored().stream()
                .filter(e -> e.kind().equals(Kinds.GRANTED))
                .findFirst()
                .orElseThrow();
        Map<?, GrantOutcome> outcomes = hub.board()
                .stretch(VAULT, grant.time().minusSeconds(1), Instant.now())
                .map(DoorBoard.Stretch::outcomes)
                .orElseThrow();
        assertThat(outcomes.get(grant.key())).isEqualTo(GrantOutcome.WENT_THROUGH);
    }

    @Test
    void what_a_restored_system_sends_moves_its_doors() {
        for (int i = 0; i < 10; i++) {
            says(i % 2 == 0 ? "door.opened" : "door.closed", "");
        }
        open();
        settled(10);
        assertThat(hub.board().now(VAULT).open()).isFalse();
        system.forgetAfter(4);
        system.cutStreams();
        Rig.await().until(() -> !hub.log()
                .find(EventQuery.all().kinds(Kinds.COUNTS_AGAIN))
                .isEmpty());
        Rig.await().until(() -> hub.links().get(0).state() == LinkStatus.State.UP && system.streams() > 0);
        says("door.opened", "\"code\":\"after the restore\"");
        settled(5);
        assertThat(hub.board().now(VAULT).open()).isTrue();
        // Away for a while, past the numbers that were taken before.
        system.tellsStreams = false;
        for (int i = 0; i < 9; i++) {
            says(i % 2 == 0 ? "door.closed" : "door.opened", "\"code\":\"after the restore\"");
        }
        hub.close();
        system.tellsStreams = true;
        open();
        settled(14);
        assertThat(stored()).hasSize(20);
        assertThat(hub.board().now(VAULT).open()).isFalse();
        assertThat(hub.log().find(EventQuery.all().kinds(Kinds.CONFLICT))).isEmpty();
        assertThat(hub.log().find(EventQuery.all().kinds(Kinds.COUNTS_AGAIN))).hasSize(1);
    }

    @Test
    void a_snapshot_holds_as_of_its_number_and_no_further() {
        says("door.mode", "\"details\":{\"mode\":\"locked\",\"by\":\"timetable\"}");
        says("door.closed", "");
        says("door.opened", "");
        String old = Instant.now().minusSeconds(60).toString();
        // Taken before the door opened, and told as if it were of now.
        system.answers(
                "snapshot",
                exchange -> ScriptedSystem.send(
                        exchange,
                        200,
                        "{\"epoch\":1,\"seq\":2,\"time\":\"" + Instant.now().plusSeconds(5)
                                + "\",\"doors\":[{\"door\":\"vault\",\"details\":{\"mode\":\"locked\",\"position\":\"closed\",\"position-since\":\""
                                + old + "\"}}]}"));
        open();
        settled(3);
        assertThat(hub.board().now(VAULT).open()).isTrue();
        system.answers(
                "snapshot",
                exchange -> ScriptedSystem.send(
                        exchange,
                        200,
                        "{\"epoch\":1,\"seq\":3,\"time\":\"" + Instant.now()
                                + "\",\"doors\":[{\"door\":\"vault\",\"details\":{\"mode\":\"unlocked\",\"by\":\"command\",\"position\":\"open\"}}]}"));
        system.cutStreams();
        Rig.await().until(() -> hub.board().now(VAULT).lock() == LockMode.UNLOCKED);
        assertThat(hub.board().now(VAULT).open()).isTrue();
        long reports = hub.log().count(EventQuery.all().kinds(Kinds.REPORT));
        system.cutStreams();
        long streams = system.askedFor("stream");
        Rig.await().until(() -> system.askedFor("stream") > streams);
        Rig.await().until(() -> hub.links().get(0).state() == LinkStatus.State.UP);
        assertThat(hub.log().count(EventQuery.all().kinds(Kinds.REPORT))).isEqualTo(reports);
    }

    @Test
    void a_lie_about_a_command_is_not_believed_and_a_late_truth_is() {
        system.answers("commands", 504, "{\"problem\":\"the gateway gave up\"}");
        open();
        CommandProgress end = hub.doorDesk()
                .act(OPERATOR, VAULT, new DoorCommand.LockNow(), Optional.empty())
                .join();
        assertThat(end.stage()).isEqualTo(CommandProgress.Stage.NOT_KNOWN);
        says("command.done", "\"cause\":\"" + end.key() + "\"");
        says("door.released", "\"cause\":\"" + end.key() + "\"");
        says("door.mode", "\"cause\":\"" + end.key() + "\",\"details\":{\"mode\":\"unlocked\"}");
        settled(3);
        assertThat(hub.log().find(EventQuery.all().kinds(Kinds.COMMAND_DONE))).isEmpty();
        hub.close();
        says("door.mode", "\"cause\":\"" + end.key() + "\",\"details\":{\"mode\":\"locked\",\"by\":\"command\"}");
        open();
        Rig.await().until(() -> hub.log().count(EventQuery.all().kinds(Kinds.COMMAND_DONE)) == 1);
        hub.close();
        open();
        settled(4);
        assertThat(hub.log().count(EventQuery.all().kinds(Kinds.COMMAND_DONE))).isEqualTo(1);
    }

    @Test
    void forged_facts_of_our_own_and_broken_verdicts_keep_nothing_from_starting() {
        says("operator.verdict", "\"details\":{\"about\":\"nonsense\",\"verdict\":\"same\"}");
        says("link.lost", "\"details\":{\"system\":\"tidewater\"}");
        says("log.gap", "\"details\":{\"system\":\"tidewater\",\"from\":\"1\",\"to\":\"9\"}");
        for (int run = 0; run < 2; run++) {
            open();
            settled(3);
            assertThat(hub.board().now(VAULT).outOfReachSince()).isEmpty();
            assertThat(stored()).isEmpty();
            assertThat(hub.log().unreadCount()).isEqualTo(3);
            hub.close();
            hub = null;
        }
    }

    @Test
    void large_events_and_many_of_them_are_all_stored() {
        String filler = "x".repeat(8_800);
        for (int i = 1; i <= 4_000; i++) {
            system.has(i, system.event(i, "note.left", "\"details\":{\"text\":\"" + filler + "\"}"));
        }
        open();
        settled(4_000);
        assertThat(hub.log().count(EventQuery.all().system(SYSTEM))).isEqualTo(4_000);
        assertThat(hub.links().get(0).notices()).isEmpty();
    }
}
