package org.custodia.practice.timeline;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.time.LocalDate;
import java.util.List;
import org.custodia.practice.place.Installation;
import org.custodia.wire.WireEvent;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Devices that are no doors. */
class UnitsTest {
    private static final Instant NIGHT = Instant.parse("2026-11-24T02:00:00Z");

    @TempDir
    Path directory;

    private Timeline timeline;
    private Instant now = NIGHT;
    private long seen;

    @BeforeEach
    void open() {
        timeline = timeline(Installation.sternwick());
        timeline.advanceTo(now);
        seen = timeline.system("tidewater").orElseThrow().lastSeq();
    }

    private Timeline timeline(Installation installation) {
        return new Timeline(
                7,
                LocalDate.of(2026, 11, 24),
                NIGHT,
                installation,
                Incidents.none(),
                new Journal(directory.resolve("journal")));
    }

    @AfterEach
    void close() {
        timeline.close();
    }

    private List<String> after(int seconds, String unit) {
        now = now.plusSeconds(seconds);
        timeline.advanceTo(now);
        List<WireEvent> fresh = timeline.system("tidewater").orElseThrow().after(seen, 10_000);
        seen += fresh.size();
        return fresh.stream()
                .filter(e -> unit.equals(e.unit()))
                .map(WireEvent::kind)
                .toList();
    }

    private void act(Act act) {
        assertThat(timeline.act(act, now)).isEmpty();
    }

    private String state(String unit) {
        return timeline.snapshot("tidewater", now).units().get(unit).get("state");
    }

    @Test
    void an_input_trips_once_and_comes_back_to_rest_by_itself() {
        assertThat(state("panic-shop")).isEqualTo("off");
        act(Act.of("trip").target("panic-shop").millis(30_000));
        act(Act.of("trip").target("panic-shop").millis(30_000));
        assertThat(after(10, "panic-shop")).containsExactly("input.on");
        assertThat(state("panic-shop")).isEqualTo("on");
        assertThat(after(60, "panic-shop")).containsExactly("input.off");
        act(Act.of("trip").target("fire-harbour"));
        act(Act.of("restore").target("fire-harbour"));
        assertThat(after(1, "fire-harbour")).containsExactly("input.on", "input.off");
    }

    /** Half of the five minutes that the loading bay may stand open, and not a second time for one opening. */
    @Test
    void a_prop_alarm_sounds_before_the_door_is_held_and_until_it_is_shut_or_hushed() {
        assertThat(timeline.act(Act.of("hush").target("prop-bay"), now)).contains("the prop alarm does not sound");
        act(Act.of("force").door("loading-bay").millis(400_000));
        assertThat(after(149, "prop-bay")).isEmpty();
        assertThat(after(2, "prop-bay")).containsExactly("door.prop-on");
        assertThat(state("prop-bay")).isEqualTo("sounds");
        act(Act.of("shut").door("loading-bay"));
        assertThat(after(1, "prop-bay")).containsExactly("door.prop-off");
        act(Act.of("force").door("loading-bay").millis(400_000));
        assertThat(after(160, "prop-bay")).containsExactly("door.prop-on");
        act(Act.of("hush").target("prop-bay"));
        assertThat(after(300, "prop-bay")).containsExactly("door.prop-off");
        // A door that is shut in time says nothing.
        act(Act.of("force").door("loading-bay").millis(60_000));
        assertThat(after(400, "prop-bay")).isEmpty();
    }

    private List<WireEvent> handled() {
        return timeline.system("tidewater").orElseThrow().after(0, 1_000_000).stream()
                .filter(e -> e.kind().startsWith("event."))
                .toList();
    }

    @Test
    void a_systems_list_of_alarms_takes_each_word_once_and_no_step_back() {
        String list = "tidewater" + AlarmList.SUFFIX;
        assertThat(timeline.act(Act.of("acknowledged").target(list), now)).isPresent();
        act(Act.of("trip").target("panic-shop").millis(1_000));
        long alarm = timeline.system("tidewater").orElseThrow().lastSeq();
        act(Act.of("acknowledged")
                .target(list)
                .badge(null, null, "I. Vantongeren", false)
                .command(alarm + ",3", "key-1"));
        act(Act.of("acknowledged").target(list).command(alarm + ",3", "key-1"));
        act(Act.of("acknowledged").target(list).command(String.valueOf(alarm), "key-2"));
        assertThat(handled()).singleElement().satisfies(e -> {
            assertThat(e.kind()).isEqualTo("event.acknowledged");
            assertThat(e.cause()).isEqualTo("key-1");
            assertThat(e.details()).containsEntry("of", "1:" + alarm).containsEntry("by", "I. Vantongeren");
        });
        act(Act.of("finished").target(list).command(String.valueOf(alarm), "key-3"));
        act(Act.of("acknowledged").target(list).command(String.valueOf(alarm), "key-4"));
        assertThat(handled()).extracting(WireEvent::kind).containsExactly("event.acknowledged", "event.finished");
        assertThat(timeline.act(Act.of("finished").target(list).command("3", "key-5"), now))
                .contains("these events are no alarms here");
    }

    @Test
    void an_intruder_panel_tells_of_intruders_while_it_is_armed() {
        assertThat(timeline.act(Act.of("trip").target("intruder-shop"), now))
                .contains("the intruder panel is not armed");
        act(Act.of("arm").target("intruder-shop"));
        act(Act.of("trip").target("intruder-shop"));
        assertThat(state("intruder-shop")).isEqualTo("alarm");
        act(Act.of("disarm").target("intruder-shop"));
        assertThat(after(1, "intruder-shop")).containsExactly("panel.armed", "panel.alarm", "panel.disarmed");
        assertThat(state("intruder-shop")).isEqualTo("disarmed");
    }

    @Test
    void whoever_waits_at_a_door_with_a_call_station_rings() {
        act(Act.of("caller").door("loading-bay").millis(60_000));
        assertThat(after(10, "call-bay")).containsExactly("call.started");
        assertThat(state("call-bay")).isEqualTo("calling");
        assertThat(after(90, "call-bay")).containsExactly("call.ended");
        act(Act.of("ring").target("call-quay").millis(40_000));
        after(1, "call-quay");
        act(Act.of("hang-up").target("call-quay"));
        assertThat(after(60, "call-quay")).containsExactly("call.ended");
    }

    @Test
    void a_display_shows_its_text_and_a_muster_reader_knows_whose_badge_it_was() {
        act(Act.of("text").target("display-lobby").command("Closed today", null));
        assertThat(timeline.snapshot("tidewater", now).units().get("display-lobby"))
                .containsEntry("text", "Closed today");
        act(Act.of("present").target("muster-quay").badge("20153", null, null, false));
        now = now.plusSeconds(1);
        timeline.advanceTo(now);
        List<WireEvent> fresh = timeline.system("tidewater").orElseThrow().after(seen, 100);
        assertThat(fresh)
                .filteredOn(e -> "muster-quay".equals(e.unit()))
                .singleElement()
                .satisfies(e -> {
                    assertThat(e.person()).isEqualTo("p001");
                    assertThat(e.credential()).isEqualTo("20153");
                });
    }

    @Test
    void what_a_device_does_not_understand_is_said_with_what_it_does() {
        assertThat(timeline.act(Act.of("ring").target("panic-shop"), now))
                .contains("a panic-button knows no ring; it knows restore, trip");
        assertThat(timeline.act(Act.of("trip").target("nothing"), now)).contains("there is no device nothing");
    }

    @Test
    void a_kind_of_device_that_nobody_knows_is_said() throws Exception {
        Path file = Files.writeString(
                directory.resolve("installation.json"),
                Files.readString(Path.of("src/main/resources/org/custodia/practice/place/sternwick.json"))
                        .replace("\"kind\": \"display\"", "\"kind\": \"oracle\""));
        Installation installation = Installation.read(file);
        assertThatThrownBy(() -> timeline(installation)).hasMessageContaining("of the kind oracle, which nobody knows");
    }

    @Test
    void incidents_that_name_what_is_not_there_are_refused_with_its_name() throws Exception {
        Path file = Files.writeString(
                directory.resolve("incidents.json"),
                Files.readString(Path.of("src/main/resources/org/custodia/practice/timeline/sternwick-incidents.json"))
                        .replace("\"technician\"", "\"alchemist\"")
                        .replace("\"tamper-c6\"", "\"tamper-c99\""));
        Incidents incidents = Incidents.read(file);
        assertThatThrownBy(() -> new Timeline(
                        7,
                        LocalDate.of(2026, 11, 24),
                        NIGHT,
                        Installation.sternwick(),
                        incidents,
                        new Journal(directory.resolve("other"))))
                .hasMessageContaining("alchemist of carrying")
                .hasMessageContaining("tamper-c99 of cabinet-opened");
        Files.writeString(file, Files.readString(file).replace("\"does\": \"holds\"", "\"does\": \"flies\""));
        assertThatThrownBy(() -> Incidents.read(file)).hasMessageContaining("nothing unfolds as flies");
    }
}
