package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.IntStream;
import org.custodia.core.event.EventLogException;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.operator.Permission;
import org.custodia.core.operator.SiteScope;
import org.custodia.core.setup.ChangeBook.Change;
import org.custodia.core.setup.DeviceBook;
import org.custodia.core.setup.DeviceBook.PlacingEdit;
import org.custodia.core.setup.DeviceBook.WalkEdit;
import org.custodia.core.setup.Found;
import org.custodia.core.setup.Found.News;
import org.custodia.core.setup.WholeSetup;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Device;
import org.custodia.core.site.DeviceId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Lookout;
import org.custodia.core.site.Placing;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SystemId;
import org.custodia.core.site.Thing;
import org.custodia.core.site.Walk;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mockito.Mockito;

/** What is said here of what systems have, beside what they say of it themselves. */
class PlacingsTest {
    private static final SystemId SYSTEM = new SystemId("tidewater");
    private static final SystemId RECORDER = new SystemId("quayside");
    private static final SiteId HARBOUR = new SiteId("harbour");
    private static final SiteId YARD = new SiteId("yard");
    private static final Actor ANA = Actor.withAll("ana", "Ana", "Desk 1");
    private static final Thing VAULT = Thing.of(new DoorId("tidewater/vault"));
    private static final Thing GATE = Thing.of(new DoorId("tidewater/gate"));

    @TempDir
    Path path;

    private StoreFixture store;
    private Registers registers;
    private SiteRegister sites;
    private Instant now = Instant.parse("2026-11-20T08:00:00Z");
    private final Clock clock = Mockito.mock(Clock.class);

    @BeforeEach
    void open() {
        Mockito.when(clock.instant()).thenAnswer(i -> now);
        store = new StoreFixture(path, Optional.empty());
        registers = new Registers(store.database, store.intake);
        sites = new SiteRegister(registers, clock);
        says(door("vault", "Vault", 30), door("gate", "Gate", 30));
    }

    @AfterEach
    void close() {
        store.close();
    }

    private void later() {
        now = now.plusSeconds(60);
    }

    private void says(Door... doors) {
        sites.places(
                SYSTEM,
                List.of(new Site(HARBOUR, "Harbour", ZoneOffset.UTC), new Site(YARD, "Yard", ZoneOffset.UTC)),
                List.of(doors),
                List.of(),
                List.of(panic()));
        later();
    }

    private static Device panic() {
        return new Device(
                new DeviceId("tidewater/vault"),
                SYSTEM,
                Optional.of(new ControllerId("tidewater/c1")),
                "panic-button",
                "Panic button",
                HARBOUR,
                Optional.of(new DoorId("tidewater/vault")));
    }

    private static Door door(String id, String name, int limit) {
        return new Door(
                new DoorId("tidewater/" + id),
                SYSTEM,
                new ControllerId("tidewater/c1"),
                name,
                HARBOUR,
                "0",
                "Corridor",
                id,
                Duration.ofSeconds(limit),
                Set.of(DoorCapability.CONTACT));
    }

    private Found found(Thing thing) {
        return sites.found().stream()
                .filter(f -> f.thing().equals(thing))
                .findFirst()
                .orElseThrow();
    }

    private Door vault() {
        return sites.get().door(new DoorId("tidewater/vault")).orElseThrow();
    }

    private void place(Placing placing) {
        sites.place(
                List.of(new PlacingEdit(placing, found(placing.thing()).version())), ANA, List.of(StoreFixture.fact()));
        later();
    }

    private static WholeSetup file(List<Placing> placings, List<Walk> walks, List<Lookout> lookouts, List<Site> own) {
        return new WholeSetup("Sternwick", List.of(), own, List.of(), placings, walks, lookouts, Map.of(), List.of());
    }

    @Test
    void what_a_links_file_says_of_places_is_taken_over_and_what_an_operator_says_outlives_its_next_reading() {
        Placing strongroom = Placing.none(VAULT).name(Optional.of("Strongroom"));
        Walk walk = new Walk(new DoorId(VAULT.id()), new DoorId(GATE.id()), Duration.ofSeconds(12));
        Lookout lookout =
                new Lookout(new CameraId("quayside/k"), new Lookout.OfDevice(panic().id()), Duration.ofSeconds(5));
        Site own = new Site(new SiteId("here Boathouse"), "Boathouse", ZoneOffset.UTC);
        sites.cameras(RECORDER, List.of(new Camera(new CameraId("quayside/k"), RECORDER, "Vault outside", HARBOUR)));
        WholeSetup all = file(List.of(strongroom), List.of(walk), List.of(lookout), List.of(own));
        Instant before = now;
        later();
        sites.ofFile(all);
        later();
        assertThat(sites.get().door(new DoorId(VAULT.id())).orElseThrow().name())
                .isEqualTo("Strongroom");
        assertThat(sites.at(before).door(new DoorId(VAULT.id())).orElseThrow().name())
                .isEqualTo("Vault");
        assertThat(sites.get().walks()).containsExactly(walk);
        assertThat(sites.get().lookouts()).containsExactly(lookout);
        // Sites that a system has are not our own.
        assertThat(sites.ownSites()).containsExactly(own);
        assertThat(sites.allWalks()).containsExactly(walk);
        assertThat(sites.allLookouts()).containsExactly(lookout);
        assertThat(sites.placings()).extracting(DeviceBook.PlacingEdit::placing).containsExactly(strongroom);
        sites.place(
                List.of(new DeviceBook.PlacingEdit(strongroom.name(Optional.of("Safe")), sites.placingVersion(VAULT))),
                ANA,
                List.of(StoreFixture.fact()));
        later();
        sites.ofFile(all);
        later();
        assertThat(sites.get().door(new DoorId(VAULT.id())).orElseThrow().name())
                .isEqualTo("Safe");
        // What the file has no more ends; of what it never said nothing does.
        sites.place(
                List.of(new DeviceBook.PlacingEdit(Placing.none(GATE).name(Optional.of("Water gate")), 0)),
                ANA,
                List.of(StoreFixture.fact()));
        later();
        sites.ofFile(file(List.of(), List.of(), List.of(), List.of()));
        later();
        assertThat(sites.get().walks()).isEmpty();
        assertThat(sites.get().lookouts()).isEmpty();
        assertThat(sites.ownSites()).isEmpty();
        assertThat(sites.get().door(new DoorId(GATE.id())).orElseThrow().name()).isEqualTo("Water gate");
        SiteRegister again = new SiteRegister(registers, clock);
        assertThat(again.placings()).isEqualTo(sites.placings());
        assertThat(again.get().walks()).isEmpty();
    }

    @Test
    void what_is_said_here_holds_whatever_the_system_says_next_and_after_a_restart() {
        Instant before = now;
        place(Placing.none(VAULT).name(Optional.of("Strongroom")).site(Optional.of(YARD)));
        says(door("vault", "Vault A", 90), door("gate", "Gate", 30));
        for (int round = 0; round < 2; round++) {
            assertThat(vault().name()).isEqualTo("Strongroom");
            assertThat(vault().site()).isEqualTo(YARD);
            assertThat(vault().heldLimit()).isEqualTo(Duration.ofSeconds(90));
            assertThat(vault().inside()).isEqualTo("vault");
            assertThat(sites.everyDoor()).containsEntry(vault().id(), YARD);
            assertThat(sites.at(before.minusSeconds(1))
                            .door(vault().id())
                            .orElseThrow()
                            .name())
                    .isEqualTo("Vault");
            // A door and a device of one name are two things.
            assertThat(sites.get().device(panic().id())).contains(panic());
            store.close();
            store = new StoreFixture(path, Optional.empty());
            registers = new Registers(store.database, store.intake);
            sites = new SiteRegister(registers, clock);
        }
        place(Placing.none(VAULT));
        assertThat(vault().name()).isEqualTo("Vault A");
        assertThat(found(VAULT).placing().saysNothing()).isTrue();
    }

    @Test
    void what_is_left_out_is_not_there_until_it_is_taken_in() {
        place(Placing.none(VAULT).leftOut(true));
        assertThat(sites.get().doors()).extracting(Door::name).containsExactly("Gate");
        assertThat(found(VAULT).placing().leftOut()).isTrue();
        sites.cameras(RECORDER, List.of(new Camera(new CameraId("quayside/a"), RECORDER, "A", HARBOUR)));
        later();
        place(Placing.none(Thing.of(new CameraId("quayside/a"))).leftOut(true));
        assertThat(sites.get().cameras()).isEmpty();
        place(Placing.none(Thing.of(panic().id())).leftOut(true));
        assertThat(sites.get().devices()).isEmpty();
        place(Placing.none(VAULT));
        assertThat(sites.get().doors()).hasSize(2);
    }

    @Test
    void what_is_new_changed_or_gone_is_news_until_somebody_has_seen_it() {
        assertThat(sites.found()).hasSize(3).allMatch(f -> f.news() == News.NEW);
        seen(VAULT, GATE, Thing.of(panic().id()));
        assertThat(sites.found()).allMatch(f -> f.news() == News.NONE);
        // The same again is no news.
        says(door("vault", "Vault", 30), door("gate", "Gate", 30));
        assertThat(sites.found()).allMatch(f -> f.news() == News.NONE);
        long looked = found(VAULT).saidVersion();
        says(door("vault", "Safe", 45));
        assertThat(found(VAULT).news()).isEqualTo(News.CHANGED);
        assertThat(found(VAULT).changes())
                .containsExactly(
                        new Found.Difference(Found.Part.NAME, "Vault", "Safe"),
                        new Found.Difference(Found.Part.HELD_LIMIT, "30", "45"));
        assertThat(found(GATE).news()).isEqualTo(News.GONE);
        assertThat(found(GATE).said().name()).isEqualTo("Gate");
        // Whoever has looked before that has not seen it.
        sites.seen(Map.of(VAULT, looked), ANA, StoreFixture.fact());
        later();
        assertThat(found(VAULT).news()).isEqualTo(News.CHANGED);
        seen(VAULT, GATE);
        assertThat(sites.found()).extracting(Found::thing).doesNotContain(GATE);
        assertThat(found(VAULT).news()).isEqualTo(News.NONE);
        says(door("vault", "Safe", 45), door("gate", "Gate", 30));
        assertThat(found(GATE).news()).isEqualTo(News.NEW);
        // There and back to what was seen is no news.
        says(door("vault", "Other", 45), door("gate", "Gate", 30));
        says(door("vault", "Safe", 45), door("gate", "Gate", 30));
        assertThat(found(VAULT).news()).isEqualTo(News.NONE);
        // What came and went without anybody having looked is nothing to look at.
        says(door("vault", "Safe", 45), door("gate", "Gate", 30), door("van", "Van", 30));
        says(door("vault", "Safe", 45), door("gate", "Gate", 30));
        assertThat(sites.found()).noneMatch(f -> f.thing().id().endsWith("van"));
    }

    private void seen(Thing... things) {
        Map<Thing, Long> versions = new HashMap<>();
        List.of(things).forEach(t -> versions.put(t, found(t).saidVersion()));
        sites.seen(versions, ANA, StoreFixture.fact());
        later();
    }

    @Test
    void of_two_who_set_out_from_the_same_only_one_gets_through_and_all_or_none() {
        PlacingEdit first = new PlacingEdit(Placing.none(VAULT).name(Optional.of("A")), 0);
        sites.place(List.of(first), ANA, List.of(StoreFixture.fact()));
        later();
        PlacingEdit gate = new PlacingEdit(Placing.none(GATE).name(Optional.of("B")), 0);
        assertThatThrownBy(() -> sites.place(List.of(gate, first), ANA, List.of(StoreFixture.fact())))
                .isInstanceOf(EventLogException.class);
        later();
        assertThat(sites.get().doors()).extracting(Door::name).containsExactlyInAnyOrder("A", "Gate");
    }

    @Test
    void nobody_places_anything_where_they_may_not_set_up_nor_into_or_out_of_it() {
        Actor yard = Actor.with("y", "Y", "desk", Set.of(Permission.SET_UP), SiteScope.at(YARD));
        Actor harbour = Actor.with("h", "H", "desk", Set.of(Permission.SET_UP), SiteScope.at(HARBOUR));
        Placing moved = Placing.none(VAULT).site(Optional.of(YARD));
        for (Actor one : List.of(yard, harbour)) {
            assertThatThrownBy(() -> sites.place(List.of(new PlacingEdit(moved, 0)), one, List.of(StoreFixture.fact())))
                    .isInstanceOf(NotPermittedException.class);
        }
        place(moved);
        // Where it is now counts, not where its system has it.
        assertThatThrownBy(() -> sites.place(
                        List.of(new PlacingEdit(moved.leftOut(true), 1)), harbour, List.of(StoreFixture.fact())))
                .isInstanceOf(NotPermittedException.class);
        assertThatThrownBy(() -> sites.seen(Map.of(VAULT, 1L), harbour, StoreFixture.fact()))
                .isInstanceOf(NotPermittedException.class);
        sites.place(List.of(new PlacingEdit(moved.leftOut(true), 1)), yard, List.of(StoreFixture.fact()));
        Walk walk = new Walk(new DoorId("tidewater/vault"), new DoorId("tidewater/gate"), Duration.ofSeconds(20));
        assertThatThrownBy(() -> sites.walks(
                        List.of(new WalkEdit(walk.key(), Optional.of(walk), 0)), yard, List.of(StoreFixture.fact())))
                .isInstanceOf(NotPermittedException.class);
    }

    @Test
    void changes_are_told_in_one_go_as_they_were_made_and_are_taken_back_newest_first() {
        sites.place(
                List.of(
                        new PlacingEdit(Placing.none(VAULT).name(Optional.of("A")), 0),
                        new PlacingEdit(Placing.none(GATE).name(Optional.of("B")), 0)),
                ANA,
                List.of(StoreFixture.fact()));
        later();
        place(Placing.none(VAULT).name(Optional.of("AA")));
        Walk walk = new Walk(new DoorId("tidewater/vault"), new DoorId("tidewater/gate"), Duration.ofSeconds(20));
        sites.walks(List.of(new WalkEdit(walk.key(), Optional.of(walk), 0)), ANA, List.of(StoreFixture.fact()));
        later();
        assertThat(sites.get().walks(walk.first())).containsExactly(walk);
        assertThat(sites.get().walks(walk.second())).containsExactly(walk);
        List<Change> changes = sites.changes(10);
        assertThat(changes).hasSize(3);
        assertThat(changes.get(0).parts().get(0).after()).contains(walk);
        Change renamed = changes.get(1);
        assertThat(renamed.parts().get(0).before()).contains(Placing.none(VAULT).name(Optional.of("A")));
        Change both = changes.get(2);
        assertThat(both.parts()).hasSize(2);
        assertThat(both.stands()).isFalse();
        assertThatThrownBy(() -> sites.takeBack(both, ANA, StoreFixture.fact())).isInstanceOf(EventLogException.class);
        sites.takeBack(renamed, ANA, StoreFixture.fact());
        later();
        assertThat(vault().name()).isEqualTo("A");
        assertThatThrownBy(() -> sites.takeBack(renamed, ANA, StoreFixture.fact()))
                .isInstanceOf(EventLogException.class);
        sites.takeBack(changes.get(0), ANA, StoreFixture.fact());
        later();
        assertThat(sites.get().walks()).isEmpty();
        // Taking back is a change of its own, that can be taken back too.
        Change again = sites.changes(10).get(1);
        assertThat(again.stands()).isTrue();
        sites.takeBack(again, ANA, StoreFixture.fact());
        later();
        assertThat(vault().name()).isEqualTo("AA");
    }

    @Test
    void a_camera_that_shows_a_device_or_a_zone_is_kept_and_taken_back() {
        CameraId camera = new CameraId("quayside/a");
        sites.cameras(RECORDER, List.of(new Camera(camera, RECORDER, "A", HARBOUR)));
        later();
        Lookout button = new Lookout(camera, new Lookout.OfDevice(panic().id()), Duration.ofSeconds(10));
        Lookout stairs = new Lookout(camera, new Lookout.OfZone(YARD, "North stair"), Duration.ofSeconds(4));
        for (Lookout one : List.of(button, stairs)) {
            sites.keepLookout(one.key(), Optional.of(one), 0, ANA, StoreFixture.fact());
            later();
        }
        for (SiteRegister register : List.of(sites, new SiteRegister(registers, clock))) {
            assertThat(register.get().lookouts()).containsExactlyInAnyOrder(button, stairs);
            assertThat(register.get().lookouts(button.of())).containsExactly(button);
        }
        assertThatThrownBy(() -> sites.keepLookout(button.key(), Optional.empty(), 0, ANA, StoreFixture.fact()))
                .isInstanceOf(EventLogException.class);
        Actor harbour = Actor.with("h", "H", "desk", Set.of(Permission.SET_UP), SiteScope.at(HARBOUR));
        assertThatThrownBy(() -> sites.keepLookout(stairs.key(), Optional.empty(), 1, harbour, StoreFixture.fact()))
                .isInstanceOf(NotPermittedException.class);
        sites.takeBack(sites.changes(9).get(0), ANA, StoreFixture.fact());
        later();
        assertThat(sites.get().lookouts()).containsExactly(button);
        // What shows nothing that is there is not told, and comes back with it.
        place(Placing.none(Thing.of(panic().id())).leftOut(true));
        assertThat(sites.get().lookouts()).isEmpty();
        place(Placing.none(Thing.of(panic().id())));
        assertThat(sites.get().lookouts()).hasSize(1);
    }

    @Test
    void fifty_thousand_doors_are_found() {
        Door[] many = IntStream.range(0, 50_000)
                .mapToObj(i -> door("d" + i, "Door " + i, 30))
                .toArray(Door[]::new);
        says(many);
        assertThat(sites.found()).hasSize(50_001);
        Map<Thing, Long> all = new HashMap<>();
        sites.found().stream().limit(5_000).forEach(f -> all.put(f.thing(), f.saidVersion()));
        sites.seen(all, ANA, StoreFixture.fact());
        later();
        assertThat(sites.found())
                .filteredOn(f -> f.news() == News.NONE)
                .extracting(Found::thing)
                .containsExactlyInAnyOrderElementsOf(all.keySet());
    }
}
