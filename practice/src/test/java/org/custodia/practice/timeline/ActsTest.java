package org.custodia.practice.timeline;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.time.LocalDate;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.IntStream;
import org.custodia.core.access.Pin;
import org.custodia.practice.place.Installation;
import org.custodia.practice.place.PracticePerson;
import org.custodia.wire.WireEvent;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What the controllers do when something is done to the site, in the quiet of the night so that nobody interferes. */
class ActsTest {
    private static final LocalDate DAY = LocalDate.of(2026, 11, 24);
    private static final Instant NIGHT = Instant.parse("2026-11-24T02:00:00Z");

    @TempDir
    Path directory;

    private Timeline timeline;
    private Instant now = NIGHT;
    private long seen;

    @BeforeEach
    void open() {
        timeline = timeline();
        timeline.advanceTo(now);
        seen = timeline.system("tidewater").orElseThrow().lastSeq();
    }

    private Timeline timeline() {
        return new Timeline(
                7, DAY, NIGHT, Installation.sternwick(), Incidents.none(), new Journal(directory.resolve("journal")));
    }

    @AfterEach
    void close() {
        timeline.close();
    }

    private Optional<String> act(Act act) {
        return timeline.act(act, now);
    }

    /** Lets time pass, and gives what has happened at a door since the last call. */
    private List<WireEvent> after(int seconds, String door) {
        now = now.plusSeconds(seconds);
        timeline.advanceTo(now);
        List<WireEvent> fresh = timeline.system("tidewater").orElseThrow().after(seen, 10_000);
        seen += fresh.size();
        return fresh.stream().filter(e -> door.equals(e.door())).toList();
    }

    private static List<String> kinds(List<WireEvent> events) {
        return events.stream().map(WireEvent::kind).toList();
    }

    @Test
    void a_badge_that_is_good_opens_and_the_leaf_falls_shut() {
        act(Act.of("present").door("roof-store").badge("20144", null, null, false));
        List<WireEvent> events = after(30, "roof-store");
        assertThat(kinds(events)).containsExactly("access.granted", "door.opened", "door.closed");
        assertThat(events.get(0).side()).isEqualTo("entry");
        assertThat(events.get(0).person()).isEqualTo("p009");
        assertThat(events.get(0).credentialKind()).isEqualTo("card");
    }

    @Test
    void the_same_badge_from_inside_is_an_exit() {
        act(Act.of("present").door("roof-store").badge("20144", null, null, true));
        assertThat(after(30, "roof-store").get(0).side()).isEqualTo("exit");
    }

    @Test
    void letting_through_releases_once_and_whoever_waits_goes_in() {
        act(Act.of("caller").door("loading-bay").millis(60_000));
        assertThat(kinds(after(5, "loading-bay"))).containsExactly("call.started");
        assertThat(act(Act.of("command").door("loading-bay").command("let-through", "k")))
                .isEmpty();
        List<WireEvent> events = after(20, "loading-bay");
        assertThat(kinds(events)).containsExactly("door.released", "door.opened", "door.closed");
        assertThat(events.get(0).cause()).isEqualTo("k");
        act(Act.of("command").door("loading-bay").command("let-through", "k2"));
        assertThat(kinds(after(20, "loading-bay"))).containsExactly("door.released");
    }

    @Test
    void an_unlock_until_a_time_is_held_by_the_controller_and_goes_back_by_itself() {
        long until = now.plusSeconds(120).toEpochMilli();
        act(Act.of("command").door("vault").command("leave-unlocked", "k").millis(until));
        WireEvent unlocked = after(1, "vault").get(0);
        assertThat(unlocked.details())
                .containsEntry("mode", "unlocked")
                .containsEntry("by", "command")
                .containsKey("until");
        List<WireEvent> back = after(200, "vault");
        assertThat(kinds(back)).containsExactly("door.mode");
        assertThat(back.get(0).details()).containsEntry("mode", "locked").containsEntry("by", "timetable");
    }

    @Test
    void a_later_command_outlives_an_earlier_until() {
        act(Act.of("command")
                .door("vault")
                .command("leave-unlocked", "a")
                .millis(now.plusSeconds(60).toEpochMilli()));
        act(Act.of("command").door("vault").command("lock", "b"));
        assertThat(kinds(after(120, "vault"))).containsExactly("door.mode", "door.mode");
        assertThat(timeline.snapshot("tidewater", now).doors().get("vault")).containsEntry("by", "command");
    }

    @Test
    void a_blocked_door_opens_for_nobody() {
        act(Act.of("command").door("roof-store").command("block", "k"));
        act(Act.of("present").door("roof-store").badge("20144", null, null, false));
        List<WireEvent> events = after(30, "roof-store");
        assertThat(kinds(events)).containsExactly("door.mode", "access.refused");
        assertThat(events.get(1).reason()).isEqualTo("door-blocked");
        assertThat(events.get(1).details().get("explanation")).endsWith(".");
    }

    @Test
    void a_leaf_that_moves_without_leave_is_forced_and_one_that_stays_is_held() {
        act(Act.of("force").door("strongroom-corr").millis(90_000));
        List<WireEvent> events = after(60, "strongroom-corr");
        assertThat(kinds(events)).containsExactly("door.opened", "door.forced", "door.held");
        Map<String, String> report = timeline.snapshot("tidewater", now).doors().get("strongroom-corr");
        assertThat(report).containsEntry("position", "open").containsKeys("forced-since", "held-since");
        act(Act.of("shut").door("strongroom-corr"));
        assertThat(kinds(after(1, "strongroom-corr"))).containsExactly("door.closed");
        assertThat(timeline.snapshot("tidewater", now).doors().get("strongroom-corr"))
                .containsEntry("position", "closed")
                .doesNotContainKey("forced-since");
    }

    @Test
    void an_unlocked_door_may_stand_open() {
        act(Act.of("command").door("map-store").command("leave-unlocked", "k"));
        act(Act.of("force").door("map-store").millis(120_000));
        assertThat(kinds(after(100, "map-store"))).containsExactly("door.mode", "door.opened");
    }

    @Test
    void two_persons_must_come_one_after_the_other() {
        now = Instant.parse("2026-11-24T06:50:00Z");
        timeline.advanceTo(now);
        seen = timeline.system("tidewater").orElseThrow().lastSeq();
        act(Act.of("present").door("strongroom").badge("20417", null, null, false));
        after(4, "strongroom");
        act(Act.of("present").door("strongroom").badge("20266", null, null, false));
        assertThat(kinds(after(30, "strongroom"))).startsWith("access.granted", "door.opened");
        act(Act.of("present").door("strongroom").badge("20417", null, null, false));
        List<WireEvent> alone = after(30, "strongroom");
        assertThat(alone).singleElement().satisfies(e -> assertThat(e.reason()).isEqualTo("second-person-missing"));
    }

    @Test
    void a_duress_pin_opens_the_vault_and_says_so() {
        now = Instant.parse("2026-11-24T10:00:00Z");
        timeline.advanceTo(now);
        after(0, "vault");
        PracticePerson curator = timeline.people().all().stream()
                .filter(p -> p.levels().contains("hh-vault")
                        && p.until().isEmpty()
                        && !p.stopped()
                        && p.badges().get(0).status().equals("active"))
                .findFirst()
                .orElseThrow();
        String forced = IntStream.range(0, 10_000)
                .mapToObj(n -> String.format("%04d", n))
                .filter(d -> Pin.of(d).equals(curator.pin().underDuress()))
                .findFirst()
                .orElseThrow();
        act(Act.of("present").door("vault").badge(curator.badge(), forced, null, false));
        List<WireEvent> events = after(20, "vault");
        assertThat(kinds(events)).startsWith("access.granted", "access.duress", "door.opened");
        assertThat(events.get(1).person()).isEqualTo(curator.id());
        assertThat(events.get(1).credential()).isEqualTo(curator.badge());
        assertThat(events.toString()).doesNotContain("\"" + forced + "\"");
    }

    @Test
    void a_badge_handed_back_through_the_turnstile_is_refused() {
        now = Instant.parse("2026-11-24T06:40:00Z");
        timeline.advanceTo(now);
        after(0, "staff-lobby");
        act(Act.of("present").door("staff-lobby").badge("20153", null, null, false));
        after(20, "staff-lobby");
        act(Act.of("present").door("staff-lobby").badge("20153", null, null, false));
        assertThat(after(10, "staff-lobby"))
                .anySatisfy(e -> assertThat(e.reason()).isEqualTo("already-inside"));
    }

    @Test
    void the_garden_gate_knows_its_code_and_nobody_by_name() {
        act(Act.of("code").door("cy-garden").badge("1482", null, null, false));
        List<WireEvent> right = after(20, "cy-garden");
        assertThat(kinds(right)).containsExactly("access.granted", "door.opened", "door.closed");
        assertThat(right.get(0).person()).isNull();
        assertThat(right.get(0).credentialKind()).isEqualTo("door-code");
        act(Act.of("code").door("cy-garden").badge("0000", null, null, false));
        assertThat(after(20, "cy-garden").get(0).reason()).isEqualTo("wrong-pin");
    }

    @Test
    void what_does_not_exist_is_said_and_leaves_no_trace() throws IOException {
        assertThat(act(Act.of("present").door("no-door").badge("1", null, null, false)))
                .isPresent();
        assertThat(act(Act.of("camera-lost").target("no-camera"))).isPresent();
        assertThat(Files.readString(directory.resolve("journal"))).isEmpty();
        assertThat(act(Act.of("dance"))).contains("the practice site knows no dance");
    }

    @Test
    void a_damaged_line_of_the_journal_is_left_out_and_the_rest_is_done() throws IOException {
        act(Act.of("command").door("vault").command("lock", "k"));
        timeline.close();
        Path file = directory.resolve("journal");
        Files.writeString(file, "{\"at\":12,\n" + Files.readString(file));
        timeline = timeline();
        timeline.advanceTo(now.plusSeconds(1));
        assertThat(timeline.snapshot("tidewater", now.plusSeconds(1)).doors().get("vault"))
                .containsEntry("by", "command");
    }

    @Test
    void a_lost_camera_is_lost_until_it_is_back() {
        act(Act.of("camera-lost").target("vault-outside"));
        long lost = now.toEpochMilli();
        assertThat(timeline.scenes().lostSince("vault-outside", lost + 5)).isEqualTo(lost);
        now = now.plusSeconds(60);
        act(Act.of("camera-back").target("vault-outside"));
        assertThat(timeline.scenes().lostSince("vault-outside", now.toEpochMilli() + 1))
                .isNegative();
        assertThat(timeline.scenes().lostSince("vault-outside", lost + 5)).isEqualTo(lost);
    }

    @Test
    void every_door_reports_itself_at_midnight() {
        now = Instant.parse("2026-11-25T00:00:10Z");
        timeline.advanceTo(now);
        long reports = timeline.systems().stream()
                .flatMap(s -> s.after(0, 100_000).stream())
                .filter(e -> e.kind().equals("door.report"))
                .count();
        assertThat(reports).isEqualTo(2L * timeline.place().doors().size());
    }
}
