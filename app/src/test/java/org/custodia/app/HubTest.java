package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.door.DoorState;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.setup.LinkBook;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Placing;
import org.custodia.core.site.Thing;
import org.custodia.core.workplace.PermittedAlarms;
import org.custodia.core.workplace.Workplace;
import org.custodia.practice.timeline.Timeline;
import org.custodia.store.DataDirectoryException;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The headless part as a whole, on the practice site. */
class HubTest {
    private static final List<String> DOORS = List.of("vault", "roof-store", "loading-bay", "map-store", "staff-lobby");

    @TempDir
    Path directory;

    private Rig rig;

    @BeforeEach
    void open() {
        rig = new Rig(directory);
    }

    @AfterEach
    void close() {
        rig.close();
    }

    private static Set<String> threads() {
        return Thread.getAllStackTraces().keySet().stream()
                .filter(Thread::isAlive)
                .map(Thread::getName)
                .filter(n -> n.startsWith("link ")
                        || n.startsWith("live ")
                        || n.startsWith("playback")
                        || n.startsWith("stills")
                        || n.startsWith("video ")
                        || n.startsWith("event intake")
                        || n.startsWith("door ")
                        || n.startsWith("log readers"))
                .collect(Collectors.toSet());
    }

    @Test
    void a_setup_that_was_exported_is_the_same_in_an_empty_console_once_its_tokens_are_entered() {
        rig.withHub().connected();
        Workplace here = rig.hub.workplace(Rig.OPERATOR);
        DoorId vault = new DoorId("tidewater/vault");
        here.devices()
                .place(
                        List.of(Placing.none(Thing.of(vault)).name(Optional.of("Strongroom"))),
                        here.devices().found());
        byte[] file = here.setup().write("Sternwick Museum", List.of());
        assertThat(new String(file, StandardCharsets.UTF_8)).doesNotContain("rig-token");
        assertThat(here.setup().plan(file).changes()).isZero();
        try (Hub other =
                new Hub(directory.resolve("other"), Optional.empty(), Optional.empty(), rig.clock, Rig.OPERATOR)) {
            other.connect(Optional.empty(), status -> {});
            Workplace there = other.workplace(Rig.OPERATOR);
            there.setup().carryOut(there.setup().plan(file));
            assertThat(there.setup().plan(file).changes()).isZero();
            Rig.await().until(() -> other.links().size() == rig.hub.links().size());
            assertThat(other.links())
                    .allSatisfy(
                            s -> assertThat(s.problem().orElseThrow().code()).isEqualTo("link.token-missing"));
            for (LinkBook.Kept kept : there.setup().links()) {
                there.setup().change(kept.link(), Optional.of("rig-token"), kept.version());
            }
            Rig.await().until(() -> other.links().stream().allMatch(s -> s.state() == LinkStatus.State.UP));
            assertThat(other.sites().get().door(vault).orElseThrow().name()).isEqualTo("Strongroom");
            Map<DoorId, List<Pairing>> ours = pairs(rig.hub);
            assertThat(ours).hasSizeGreaterThan(40);
            assertThat(pairs(other)).isEqualTo(ours);
        }
    }

    @Test
    void alarms_stand_after_a_restart_as_they_did_and_nothing_is_raised_twice() {
        rig.withHub().connected();
        rig.happen("{'act':'force','door':'strongroom-corr','seconds':200}");
        rig.happen("{'act':'trip','target':'panic-reading','seconds':1}");
        Rig.await().until(() -> alarms().open().size() == 2);
        Alarm forced = alarm("forced");
        alarms().take(forced.id()).join();
        alarms().note(forced.id(), "Patrol sent.").join();
        Rig.await().until(() -> alarm("panic").condition() == Alarm.Condition.ENDED);
        List<Alarm> before = alarms().open();
        rig.hub.close();
        rig.withHub().connected();
        assertThat(alarms().open()).isEqualTo(before);
        rig.happen("{'act':'trip','target':'panic-reading','seconds':1}");
        Rig.await().until(() -> alarm("panic").times() == 2);
        assertThat(rig.hub.log().find(EventQuery.all().kinds(Kinds.ALARM_RAISED)))
                .hasSize(2);
        assertThat(rig.hub.log().find(EventQuery.all().kinds(Kinds.ALARM_RULES)))
                .hasSize(1);
    }

    private Alarm alarm(String rule) {
        return alarms().open().stream()
                .filter(a -> a.origin().rule().equals(rule))
                .findFirst()
                .orElseThrow();
    }

    private PermittedAlarms alarms() {
        return rig.hub.workplace(Rig.OPERATOR).alarms();
    }

    private static Map<DoorId, List<Pairing>> pairs(Hub hub) {
        Map<DoorId, List<Pairing>> all = new HashMap<>();
        hub.sites().get().doors().forEach(d -> all.put(d.id(), hub.sites().get().pairings(d.id())));
        all.values().removeIf(List::isEmpty);
        return all;
    }

    @Test
    void closing_ends_every_thread_and_gives_the_directory_back() {
        rig.withHub().connected();
        Door lobby =
                rig.hub.sites().get().door(new DoorId("tidewater/staff-lobby")).orElseThrow();
        var pairing = rig.hub.sites().get().pairings(lobby.id()).get(0);
        var camera = rig.hub.sites().get().camera(pairing.camera()).orElseThrow();
        var look = rig.hub.video().live(camera.id(), camera.recorder(), () -> 160, p -> {}, s -> {});
        Rig.await().until(() -> rig.site.recorders().get(0).encoding() == 1);
        assertThat(threads()).isNotEmpty();
        assertThat(look).isNotNull();
        rig.hub.close();
        rig.hub = null;
        Rig.await().untilAsserted(() -> assertThat(threads()).isEmpty());
        rig.withHub().connected();
    }

    @Test
    void after_a_restart_all_is_there_and_nothing_is_read_again() {
        rig.withHub().connected();
        List<Event> before = rig.stored("tidewater");
        int people = rig.hub.people().size();
        rig.hub.close();
        rig.hub = null;
        rig.happen("{'act':'force','door':'vault','seconds':5}");
        rig.withHub();
        assertThat(rig.hub.people().size()).isEqualTo(people);
        assertThat(rig.hub.sites().get().doors()).hasSize(49);
        assertThat(rig.stored("tidewater").subList(0, before.size())).isEqualTo(before);
        rig.connected();
        Rig.await().until(() -> rig.stored("tidewater").stream()
                .anyMatch(e -> e.kind().equals(Kinds.FORCED)));
        assertThat(rig.stored("tidewater").stream().map(Event::key)).doesNotHaveDuplicates();
    }

    @Test
    void unknown_doors_and_people_are_kept_as_they_came_and_the_rest_goes_on() {
        rig.withHub().connected();
        long last = rig.system("tidewater").lastSeq();
        rig.happen(
                "{'act':'message','target':'tidewater','message':'{\\'epoch\\':1,\\'seq\\':"
                        + (last + 1_000_000)
                        + ",\\'time\\':\\'2026-11-24T14:20:00Z\\',\\'kind\\':\\'access.granted\\',\\'door\\':\\'attic\\',\\'person\\':\\'p9999\\',\\'credential\\':\\'99999\\'}'}");
        Rig.await().until(() -> !rig.hub
                .log()
                .find(EventQuery.all().doors(Set.of(new DoorId("tidewater/attic"))))
                .isEmpty());
        rig.happen("{'act':'message','target':'tidewater','message':'no message at all'}");
        Rig.await().until(() -> rig.hub.log().unreadCount() == 1);
        assertThat(rig.hub.board().now(new DoorId("tidewater/attic"))).isNotNull();
        assertThat(rig.hub.links()).allSatisfy(s -> assertThat(s.state()).isEqualTo(LinkStatus.State.UP));
    }

    @Test
    void one_directory_has_one_hub() {
        rig.withHub().connected();
        assertThatThrownBy(() -> new Hub(rig.data, LinksFiles.read(rig.site.linksFile()), rig.clock, Rig.OPERATOR))
                .isInstanceOf(DataDirectoryException.class)
                .hasMessageContaining("Another Custodia");
    }

    @Test
    void a_hub_that_cannot_open_leaves_nothing_behind() throws Exception {
        Files.createDirectories(rig.data);
        Files.writeString(rig.data.resolve("custodia.db"), "no database ".repeat(900));
        assertThatThrownBy(rig::withHub).isInstanceOf(DataDirectoryException.class);
        Rig.await().untilAsserted(() -> assertThat(threads()).isEmpty());
        Files.delete(rig.data.resolve("custodia.db"));
        rig.withHub().connected();
    }

    /** What the console makes of the events must be what the controllers say of themselves. */
    @Test
    void after_any_acts_the_fold_agrees_with_what_the_controllers_report() {
        rig.withHub().connected();
        Random random = new Random(11);
        for (int i = 0; i < 40; i++) {
            String door = DOORS.get(random.nextInt(DOORS.size()));
            switch (random.nextInt(5)) {
                case 0 ->
                    rig.happen("{'act':'force','door':'" + door + "','seconds':" + (2 + random.nextInt(40)) + "}");
                case 1 -> rig.happen("{'act':'shut','door':'" + door + "'}");
                case 2 -> rig.happen("{'act':'present','door':'" + door + "','badge':'20144'}");
                case 3 -> command(door, "leave-unlocked", i);
                default -> command(door, "lock", i);
            }
        }
        Rig.await().untilAsserted(() -> assertThat(folded()).isEqualTo(reported()));
    }

    private void command(String door, String command, int number) {
        rig.site
                .timeline()
                .act(
                        org.custodia.practice.timeline.Act.of("command")
                                .door(door)
                                .command(command, "k" + number),
                        rig.clock.instant());
    }

    private Map<String, String> folded() {
        Map<String, String> all = new TreeMap<>();
        for (Door door : rig.hub.sites().get().doors()) {
            DoorState state = rig.hub.board().now(door.id());
            String open = door.can(DoorCapability.CONTACT) ? state.open() ? "open" : "closed" : "unknown";
            all.put(
                    door.id().value(),
                    open + " " + state.lock().name().toLowerCase(java.util.Locale.ROOT)
                            + (state.forcedSince().isPresent() ? " forced" : ""));
        }
        return all;
    }

    private Map<String, String> reported() {
        Map<String, String> all = new TreeMap<>();
        for (String system : List.of("tidewater", "larkspur")) {
            Timeline.StateOf state = rig.site.timeline().snapshot(system, rig.clock.instant());
            state.doors()
                    .forEach((door, details) -> all.put(
                            system + "/" + door,
                            details.getOrDefault("position", "unknown") + " " + details.get("mode")
                                    + (details.containsKey("forced-since") ? " forced" : "")));
        }
        return all;
    }
}
