package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.EnumSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.access.Credential;
import org.custodia.core.access.Person;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Crop;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.Side;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class RegistersTest {
    private static final SystemId SYSTEM = StoreFixture.SYSTEM;
    private static final PersonId TOVE = new PersonId("tidewater/p1");
    private static final PersonId ODO = new PersonId("tidewater/p2");

    /** Where the log lies, unless it lies in a file; the same throughout a test. */
    Optional<ServerAddress> server() {
        return Optional.empty();
    }

    @TempDir
    Path path;

    private Instant now = StoreFixture.START;
    private final Clock clock = new Clock() {
        @Override
        public ZoneId getZone() {
            return ZoneOffset.UTC;
        }

        @Override
        public Clock withZone(ZoneId zone) {
            return this;
        }

        @Override
        public Instant instant() {
            return now;
        }
    };

    private static Person person(PersonId id, String name) {
        return new Person(id, name, "Sternwick Museum", "staff", Optional.empty(), false, Optional.of("1"));
    }

    private static Credential card(PersonId person) {
        return new Credential(
                "20266",
                Credential.Kind.CARD,
                person,
                Credential.Status.ACTIVE,
                Optional.empty(),
                Optional.empty(),
                Optional.empty());
    }

    @Test
    void every_change_makes_a_version_and_what_did_not_change_makes_none() {
        try (StoreFixture store = new StoreFixture(path, server())) {
            Registers registers = new Registers(store.database);
            assertThat(registers.replace("note", "a/", Map.of("a/1", "one", "a/2", "two"), now))
                    .isEqualTo(2);
            registers.replace("note", "b/", Map.of("b/1", "other source"), now);
            assertThat(registers.replace("note", "a/", Map.of("a/1", "one", "a/2", "two"), now))
                    .isZero();
            now = now.plusSeconds(60);
            assertThat(registers.replace("note", "a/", Map.of("a/1", "changed"), now))
                    .isEqualTo(2);
            assertThat(registers.current("note", String.class)).containsExactly("changed", "other source");
            List<Registers.Version<String>> versions = registers.versions("note", String.class);
            assertThat(versions.get(0).to()).contains(now);
            assertThat(versions.get(1).version()).isEqualTo(2);
        }
    }

    @Test
    void a_badge_is_resolved_to_whoever_had_it_then() {
        try (StoreFixture store = new StoreFixture(path, server())) {
            Registers registers = new Registers(store.database);
            SqlPersonRegister people = new SqlPersonRegister(registers, store.database, clock);
            people.replace(
                    SYSTEM,
                    List.of(person(TOVE, "Tove Ingleholm"), person(ODO, "Odo Castellane")),
                    List.of(card(TOVE)));
            Instant first = now;
            now = now.plus(Duration.ofDays(2));
            people.replace(
                    SYSTEM, List.of(person(TOVE, "Tove Ingleholm"), person(ODO, "Odo Castellane")), List.of(card(ODO)));
            assertThat(people.credential("20266", first.plusSeconds(5))
                            .orElseThrow()
                            .person())
                    .isEqualTo(TOVE);
            assertThat(people.credential("20266", now.plusSeconds(5))
                            .orElseThrow()
                            .person())
                    .isEqualTo(ODO);
            SqlPersonRegister again = new SqlPersonRegister(registers, store.database, clock);
            assertThat(again.credential("20266", first.plusSeconds(5))
                            .orElseThrow()
                            .person())
                    .isEqualTo(TOVE);
            assertThat(again.search("odo", 5)).extracting(Person::name).containsExactly("Odo Castellane");
            assertThat(again.search("20266 odo", 5)).hasSize(1);
            assertThat(again.search("museum", 1)).hasSize(1);
            again.keepPhoto(ODO, "1", new byte[] {1});
            again.keepPhoto(ODO, "2", new byte[] {2});
            assertThat(again.photo(ODO).orElseThrow()).containsExactly(2);
            assertThat(again.photoVersion(ODO)).contains("2");
        }
    }

    @Test
    void places_and_pairings_are_there_after_a_restart() {
        Door door = new Door(
                new DoorId("tidewater/vault"),
                SYSTEM,
                new ControllerId("tidewater/c5"),
                "Vault",
                new SiteId("harbour"),
                "0",
                "Vault ante-room",
                "Vault",
                Duration.ofSeconds(90),
                EnumSet.of(DoorCapability.CONTACT, DoorCapability.LOCK));
        Camera camera = new Camera(
                new CameraId("quayside/vault-outside"),
                new SystemId("quayside"),
                "Vault outside",
                new SiteId("harbour"));
        Pairing pairing = new Pairing(
                door.id(),
                camera.id(),
                Side.ENTRY,
                Pairing.View.OUTSIDE,
                Duration.ofSeconds(10),
                new Crop(0.5, 0.1, 0.2, 0.4),
                Duration.ofMillis(2_900));
        try (StoreFixture store = new StoreFixture(path, server())) {
            SiteRegister sites = new SiteRegister(new Registers(store.database), clock);
            int[] told = {0};
            sites.listen(() -> told[0]++);
            sites.places(
                    SYSTEM,
                    List.of(new Site(new SiteId("harbour"), "Harbour House", ZoneId.of("Europe/London"))),
                    List.of(door));
            sites.cameras(new SystemId("quayside"), List.of(camera));
            sites.pairings(List.of(pairing));
            sites.pairings(List.of(pairing));
            assertThat(told[0]).isEqualTo(3);
        }
        try (StoreFixture store = new StoreFixture(path, server())) {
            SiteRegister sites = new SiteRegister(new Registers(store.database), clock);
            assertThat(sites.get().door(door.id())).contains(door);
            assertThat(sites.get().pairing(door.id(), Side.EXIT)).contains(pairing);
            assertThat(sites.get().zoneOf(door.id())).isEqualTo(ZoneId.of("Europe/London"));
            ClockReadings readings = new ClockReadings(store.database);
            Duration sure = Duration.ofMillis(4);
            readings.keep(new ClockBook.Estimate(SYSTEM, now, Duration.ofMillis(1_700), sure));
            readings.keep(new ClockBook.Estimate(SYSTEM, now, Duration.ofMillis(1_800), sure));
            assertThat(readings.load().estimate(SYSTEM, now))
                    .contains(new ClockBook.Estimate(SYSTEM, now, Duration.ofMillis(1_800), sure));
        }
    }

    @Test
    void what_one_system_says_does_not_reach_another_whose_name_is_alike() {
        try (StoreFixture store = new StoreFixture(path, server())) {
            Registers registers = new Registers(store.database);
            for (String id : new String[] {"tide/a", "TIDE/a", "tide_/a", "tide-2/a", "tid/a", "tidex/a"}) {
                registers.replace("door", id.substring(0, id.indexOf('/') + 1), java.util.Map.of(id, id), now);
            }
            assertThat(registers.current("door", String.class)).hasSize(6);
            registers.replace("door", "tide/", java.util.Map.<String, String>of(), now.plusSeconds(1));
            assertThat(registers.current("door", String.class))
                    .containsExactlyInAnyOrder("TIDE/a", "tide_/a", "tide-2/a", "tid/a", "tidex/a");
        }
    }
}
