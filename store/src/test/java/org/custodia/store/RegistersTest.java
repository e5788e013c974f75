package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.net.URI;
import java.nio.file.Path;
import java.time.Clock;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.ZonedDateTime;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import org.custodia.core.access.AccessLevel;
import org.custodia.core.access.AccessRules;
import org.custodia.core.access.CardFormat;
import org.custodia.core.access.Credential;
import org.custodia.core.access.Holiday;
import org.custodia.core.access.OnFile;
import org.custodia.core.access.OnFile.Standing;
import org.custodia.core.access.Person;
import org.custodia.core.access.RuleBook;
import org.custodia.core.access.Timetable;
import org.custodia.core.alarm.Escalation;
import org.custodia.core.alarm.Versions;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.operator.Permission;
import org.custodia.core.operator.SiteScope;
import org.custodia.core.setup.DeviceBook;
import org.custodia.core.setup.LinkBook;
import org.custodia.core.setup.LinkSetup;
import org.custodia.core.setup.PairBook;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Crop;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorAsk;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.Placing;
import org.custodia.core.site.Reader;
import org.custodia.core.site.ReaderId;
import org.custodia.core.site.Side;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SystemId;
import org.custodia.core.site.Thing;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mockito.Mockito;

/** Registers with two times: what was so when, and what was known of it when. */
class RegistersTest {
    private static final SystemId SYSTEM = new SystemId("tidewater");
    private static final SystemId OTHER = new SystemId("larkspur");
    private static final PersonId TOVE = new PersonId("tidewater/p1");
    private static final PersonId ODO = new PersonId("tidewater/p2");
    private static final Actor ANA = Actor.withAll("ana", "Ana", "Desk 1");
    private static final Instant START = Instant.parse("2026-11-20T08:00:00Z");

    /** Where the log lies, unless it lies in a file; the same throughout a test. */
    Optional<ServerAddress> server() {
        return Optional.empty();
    }

    @TempDir
    Path path;

    private StoreFixture store;
    private Registers registers;
    private Instant now = START;
    private final Clock clock = Mockito.mock(Clock.class);

    @BeforeEach
    void open() {
        Mockito.when(clock.instant()).thenAnswer(i -> now);
        Mockito.when(clock.getZone()).thenReturn(ZoneOffset.UTC);
        store = new StoreFixture(path, server());
        registers = new Registers(store.database, store.intake);
    }

    @AfterEach
    void close() {
        store.close();
    }

    private void again() {
        store.close();
        store = new StoreFixture(path, server());
        registers = new Registers(store.database, store.intake);
    }

    private void days(long days) {
        now = now.plus(Duration.ofDays(days));
    }

    private static Person person(PersonId id, String name) {
        return new Person(
                id,
                name,
                "Sternwick Museum",
                "staff",
                Optional.empty(),
                false,
                Optional.of("1"),
                List.of("tidewater/l"));
    }

    private static Credential card(String number, PersonId person) {
        return credential(number, Credential.Kind.CARD, person);
    }

    private static Credential credential(String number, Credential.Kind kind, PersonId person) {
        return new Credential(
                number,
                kind,
                person,
                Credential.Status.ACTIVE,
                Optional.of(START),
                Optional.of(START.plus(Duration.ofDays(900))),
                Optional.empty());
    }

    private static Door door(String id, String name) {
        return new Door(
                new DoorId("tidewater/" + id),
                SYSTEM,
                new ControllerId("tidewater/c5"),
                name,
                new SiteId("harbour"),
                "0",
                "Vault ante-room",
                "Vault",
                Duration.ofSeconds(90),
                EnumSet.of(DoorCapability.CONTACT, DoorCapability.LOCK),
                Optional.of(Set.of(DoorAsk.PIN)));
    }

    private static Site site(String name) {
        return new Site(new SiteId("harbour"), name, ZoneId.of("Europe/London"));
    }

    private static Reader reader(String door) {
        return new Reader(
                new ReaderId("tidewater/" + door + ".in"), new DoorId("tidewater/" + door), Side.EXIT, "Reader of it");
    }

    // ---- versions

    private int names(SystemId source, boolean whole, String... idsAndNames) {
        Map<String, Site> all = new LinkedHashMap<>();
        for (int i = 0; i < idsAndNames.length; i += 2) {
            all.put(idsAndNames[i], new Site(new SiteId(idsAndNames[i]), idsAndNames[i + 1], ZoneOffset.UTC));
        }
        return registers.replace(RegisterForm.SITE, source, all, whole, now);
    }

    private String name(String id, Instant at, Instant known) {
        OnFile<Site> found = registers.timeline(RegisterForm.SITE).at(id, SYSTEM, at, known);
        return found.value().map(Site::name).orElse("-") + " " + found.standing();
    }

    private String name(String id, Instant at) {
        return name(id, at, Instant.MAX);
    }

    @Test
    void every_change_makes_a_version_and_what_did_not_change_makes_none() {
        assertThat(names(SYSTEM, true, "a", "one", "b", "two")).isEqualTo(2);
        assertThat(names(OTHER, true, "c", "other source")).isEqualTo(1);
        assertThat(names(SYSTEM, true, "a", "one", "b", "two")).isZero();
        days(1);
        assertThat(names(SYSTEM, true, "a", "changed")).isEqualTo(2);
        days(1);
        assertThat(names(SYSTEM, true, "a", "changed", "b", "two")).isEqualTo(1);
        again();
        assertThat(name("a", START)).isEqualTo("one THEN");
        assertThat(name("a", START.plus(Duration.ofDays(1)).minusNanos(1000))).isEqualTo("one THEN");
        assertThat(name("a", START.plus(Duration.ofDays(1)))).isEqualTo("changed THEN");
        assertThat(name("b", START)).isEqualTo("two THEN");
        assertThat(name("b", START.plus(Duration.ofDays(1)))).isEqualTo("- NOT_THEN");
        assertThat(name("b", now)).isEqualTo("two THEN");
        assertThat(name("c", now)).isEqualTo("other source THEN");
        var versions = registers.timeline(RegisterForm.SITE).versions("b");
        assertThat(versions).extracting(Registers.Version::version).containsExactly(1L, 2L, 3L);
        assertThat(versions).extracting(Registers.Version::source).containsOnly(SYSTEM);
        assertThat(versions).extracting(Registers.Version::madeBy).containsOnly(Optional.empty());
    }

    @Test
    void before_a_register_was_read_nothing_is_known_and_what_was_there_then_is_told_as_such() {
        assertThat(name("a", now)).isEqualTo("- NOT_KNOWN_YET");
        names(SYSTEM, true, "a", "one");
        days(1);
        names(SYSTEM, true, "a", "changed", "b", "new");
        Instant before = START.minus(Duration.ofDays(9));
        assertThat(name("a", before)).isEqualTo("one AS_READ_LATER");
        assertThat(name("b", before)).isEqualTo("- NOT_KNOWN_YET");
        assertThat(name("b", START)).isEqualTo("- NOT_THEN");
        assertThat(name("z", before)).isEqualTo("- NOT_KNOWN_YET");
        assertThat(name("z", now)).isEqualTo("- NOT_THEN");
        assertThat(registers.timeline(RegisterForm.SITE).all(before).keySet()).containsExactly("a");
    }

    @Test
    void what_was_known_then_is_told_from_what_is_known_now() {
        names(SYSTEM, true, "a", "one");
        days(5);
        Instant learned = now;
        // An operator finds out that it had another name for two days of the past.
        registers.edit(
                RegisterForm.SITE,
                "a",
                1,
                Optional.of(new Site(new SiteId("a"), "really", ZoneOffset.UTC)),
                START.plus(Duration.ofDays(1)),
                Optional.of(START.plus(Duration.ofDays(3))),
                ANA,
                now,
                List.of(StoreFixture.fact()));
        Instant within = START.plus(Duration.ofDays(2));
        assertThat(name("a", within)).isEqualTo("really THEN");
        assertThat(name("a", within, learned.minusSeconds(1))).isEqualTo("one THEN");
        assertThat(name("a", START.plus(Duration.ofDays(3)))).isEqualTo("one THEN");
        assertThat(name("a", START)).isEqualTo("one THEN");
        assertThat(name("a", START, START.minusSeconds(1))).isEqualTo("- NOT_KNOWN_YET");
        var edit = registers.timeline(RegisterForm.SITE).versions("a").get(1);
        assertThat(edit.madeBy()).contains("ana");
        assertThat(edit.source()).isEqualTo(SystemId.CUSTODIA);
        assertThat(edit.recorded()).isEqualTo(learned);
    }

    @Test
    void an_edit_of_what_is_not_current_any_more_is_refused_and_one_that_is_outlives_the_next_reading() {
        names(SYSTEM, true, "a", "one");
        Optional<Site> mine = Optional.of(new Site(new SiteId("a"), "mine", ZoneOffset.UTC));
        assertThat(registers.edit(
                        RegisterForm.SITE, "a", 1, mine, now, Optional.empty(), ANA, now, List.of(StoreFixture.fact())))
                .isEqualTo(2);
        assertThatThrownBy(() -> registers.edit(
                        RegisterForm.SITE, "a", 1, mine, now, Optional.empty(), ANA, now, List.of(StoreFixture.fact())))
                .isInstanceOf(EventLogException.class)
                .hasMessageContaining("store.changed-meanwhile")
                .hasMessageContaining("n2 n1");
        assertThatThrownBy(() -> registers.edit(
                        RegisterForm.SITE,
                        "new",
                        1,
                        mine,
                        now,
                        Optional.empty(),
                        ANA,
                        now,
                        List.of(StoreFixture.fact())))
                .hasMessageContaining("n0 n1");
        days(1);
        assertThat(names(SYSTEM, true, "a", "one")).isZero();
        assertThat(name("a", now)).isEqualTo("mine THEN");
        registers.edit(
                RegisterForm.SITE,
                "a",
                2,
                Optional.empty(),
                now,
                Optional.empty(),
                ANA,
                now,
                List.of(StoreFixture.fact()));
        assertThat(name("a", now)).isEqualTo("- NOT_THEN");
        assertThat(names(SYSTEM, true, "a", "renamed there")).isEqualTo(1);
        assertThat(name("a", now)).isEqualTo("renamed there THEN");
    }

    @Test
    void what_one_system_says_does_not_reach_another_whose_name_is_alike() {
        for (String id : new String[] {"tide", "TIDE", "tide_", "tide-2", "tid", "tidex"}) {
            names(new SystemId(id), true, id, id);
        }
        days(1);
        names(new SystemId("tide"), true);
        assertThat(registers.timeline(RegisterForm.SITE).all(now).keySet())
                .containsExactlyInAnyOrder("TIDE", "tide_", "tide-2", "tid", "tidex");
    }

    @Test
    void two_systems_that_name_one_site_in_two_ways_do_not_take_turns() {
        names(SYSTEM, false, "a", "Harbour");
        names(OTHER, false, "a", "The Harbour");
        for (int i = 0; i < 3; i++) {
            days(1);
            assertThat(names(SYSTEM, false, "a", "Harbour")).isZero();
            assertThat(names(OTHER, false, "a", "The Harbour")).isZero();
        }
        assertThat(name("a", now)).isEqualTo("The Harbour THEN");
    }

    /** Whatever is said in whatever order, what holds is what the newest word on that instant says. */
    @Test
    void what_holds_is_the_newest_word_on_the_instant() {
        Random random = new Random(4);
        for (int round = 0; round < 8; round++) {
            String id = "r" + round;
            List<Object[]> said = new ArrayList<>();
            for (int i = 0; i < 12; i++) {
                int from = random.nextInt(50);
                Optional<Integer> to =
                        random.nextInt(3) == 0 ? Optional.empty() : Optional.of(from + 1 + random.nextInt(20));
                Optional<Site> value = random.nextInt(4) == 0
                        ? Optional.empty()
                        : Optional.of(new Site(new SiteId(id), "n" + i, ZoneOffset.UTC));
                registers.edit(
                        RegisterForm.SITE,
                        id,
                        i,
                        value,
                        START.plusSeconds(from),
                        to.map(t -> START.plusSeconds(t)),
                        ANA,
                        START.plusSeconds(100 + i),
                        List.of(StoreFixture.fact()));
                said.add(new Object[] {from, to.orElse(Integer.MAX_VALUE), value.map(Site::name)});
            }
            Timeline<Site> timeline = registers.timeline(RegisterForm.SITE);
            for (int known = 0; known < 12; known++) {
                for (int at = 0; at < 70; at += 3) {
                    Optional<Object> expected = Optional.empty();
                    for (int i = 0; i <= known; i++) {
                        if (at >= (int) said.get(i)[0] && at < (int) said.get(i)[1]) {
                            expected = ((Optional<?>) said.get(i)[2]).map(Object.class::cast);
                        }
                    }
                    OnFile<Site> found = timeline.at(id, SYSTEM, START.plusSeconds(at), START.plusSeconds(100 + known));
                    if (found.standing() == Standing.THEN || found.standing() == Standing.NOT_THEN) {
                        assertThat(found.value().map(Site::name).map(Object.class::cast))
                                .as("%s at %s known %s", id, at, known)
                                .isEqualTo(expected);
                    } else {
                        assertThat(expected).isEmpty();
                    }
                }
            }
        }
    }

    // ---- forms

    @Test
    void a_field_more_or_less_does_not_stop_the_start_and_what_cannot_be_read_is_left_out() {
        names(SYSTEM, true, "a", "one", "b", "two", "c", "three");
        store.database.write(dsl -> {
            dsl.execute(
                    "UPDATE register SET payload = '{\"id\":{\"value\":\"a\"},\"colour\":{\"x\":[1]}}' WHERE id = 'a'");
            dsl.execute("UPDATE register SET payload = '{\"name\":7}' WHERE id = 'b'");
            dsl.execute("UPDATE register SET payload = 'not json' WHERE id = 'c'");
        });
        Map<String, Site> there = registers.timeline(RegisterForm.SITE).all(now);
        assertThat(there.keySet()).containsExactly("a");
        assertThat(there.get("a")).isEqualTo(new Site(new SiteId("a"), "a", ZoneOffset.UTC));
        // What is said next is a version like any other.
        assertThat(names(SYSTEM, true, "a", "one", "b", "two")).isGreaterThan(0);
        assertThat(registers.timeline(RegisterForm.SITE).all(now).keySet()).containsExactly("a", "b");
    }

    @Test
    void every_kind_of_record_is_written_and_read_the_same() {
        same(RegisterForm.SITE, site("Harbour House"));
        same(RegisterForm.DOOR, door("vault", "Vault"));
        same(RegisterForm.READER, reader("vault"));
        same(RegisterForm.CAMERA, camera());
        same(RegisterForm.PAIR, new RegisterForm.Placed(pairing(), 7));
        same(RegisterForm.PERSON, person(TOVE, "Tove Ingleholm"));
        same(RegisterForm.PERSON, new Person(ODO, "O", "", "", Optional.of(START), true, Optional.empty(), List.of()));
        same(RegisterForm.CREDENTIAL, card("20266", TOVE));
        same(
                RegisterForm.LEVEL,
                new AccessLevel("tidewater/l", "Level", Map.of(new DoorId("tidewater/vault"), "tidewater/t")));
        same(RegisterForm.TIMETABLE, timetable());
        same(RegisterForm.HOLIDAY, holiday());
        same(RegisterForm.FORMAT, new CardFormat("tidewater/f", "Five", 5));
        assertThat(RegisterForm.HOLIDAY.read("{\"id\":\"x\",\"from\":\"never\"}"))
                .isEmpty();
        assertThat(RegisterForm.DOOR.read("{\"id\":\"x/y\",\"system\":\"x\"}")).isEmpty();
    }

    private static <T> void same(RegisterForm<T> form, T value) {
        assertThat(form.read(form.write(value))).contains(value);
    }

    private static Timetable timetable() {
        return new Timetable(
                "tidewater/t",
                "Nights",
                List.of(
                        new Timetable.Span(Set.of(DayOfWeek.MONDAY), true, LocalTime.of(22, 0), LocalTime.of(6, 0)),
                        new Timetable.Span(Set.of(), false, LocalTime.MIN, LocalTime.MAX)));
    }

    private static Holiday holiday() {
        return new Holiday("tidewater/h", "Closed", LocalDate.of(2026, 12, 25), LocalDate.of(2026, 12, 26));
    }

    // ---- people

    private SqlPersonRegister people() {
        return new SqlPersonRegister(registers, store.database, clock);
    }

    private static Optional<PersonId> whose(SqlPersonRegister people, String number, Instant at) {
        return people.credential(SYSTEM, number, Optional.empty(), at).value().map(Credential::person);
    }

    @Test
    void a_badge_is_resolved_to_whoever_had_it_then() {
        SqlPersonRegister people = people();
        List<Person> both = List.of(person(TOVE, "Tove Ingleholm"), person(ODO, "Odo Castellane"));
        people.replace(SYSTEM, both, List.of(card("20266", TOVE)));
        days(2);
        people.replace(SYSTEM, both, List.of(card("20266", ODO)));
        for (SqlPersonRegister register : List.of(people, people())) {
            assertThat(whose(register, "20266", START.plusSeconds(5))).contains(TOVE);
            assertThat(whose(register, "20266", now.plusSeconds(5))).contains(ODO);
            assertThat(register.search("odo", 5)).extracting(Person::name).containsExactly("Odo Castellane");
            assertThat(register.search("20266 odo", 5)).hasSize(1);
            assertThat(register.search("museum", 1)).hasSize(1);
            assertThat(register.credentialsOf(ODO)).hasSize(1);
            assertThat(register.credentialsOf(TOVE)).isEmpty();
            assertThat(register.size()).isEqualTo(2);
        }
        people.keepPhoto(ODO, "1", new byte[] {1});
        people.keepPhoto(ODO, "2", new byte[] {2});
        assertThat(people.photo(ODO).orElseThrow()).containsExactly(2);
        assertThat(people.photoVersion(ODO)).contains("2");
    }

    @Test
    void the_name_on_a_past_event_stays_when_a_person_is_renamed_or_taken_off_the_file() {
        SqlPersonRegister people = people();
        people.replace(SYSTEM, List.of(person(TOVE, "Tove Ingleholm"), person(ODO, "Odo")), List.of(card("1", TOVE)));
        days(1);
        people.replace(SYSTEM, List.of(person(TOVE, "Tove Vantongeren"), person(ODO, "Odo")), List.of(card("1", TOVE)));
        days(1);
        people.replace(SYSTEM, List.of(person(ODO, "Odo")), List.of());
        assertThat(people.person(TOVE, START).value().orElseThrow().name()).isEqualTo("Tove Ingleholm");
        assertThat(people.person(TOVE, START.plus(Duration.ofDays(1)))
                        .value()
                        .orElseThrow()
                        .name())
                .isEqualTo("Tove Vantongeren");
        assertThat(people.person(TOVE, now).standing()).isEqualTo(Standing.NOT_THEN);
        assertThat(people.credential(SYSTEM, "1", Optional.empty(), now).standing())
                .isEqualTo(Standing.NOT_THEN);
        assertThat(whose(people, "1", START)).contains(TOVE);
        assertThat(people.size()).isEqualTo(1);
        assertThat(people.search("tove", 5)).isEmpty();
    }

    @Test
    void a_number_belongs_to_its_system_and_card_and_phone_under_one_number_stay_two() {
        SqlPersonRegister people = people();
        PersonId far = new PersonId("larkspur/p9");
        people.replace(
                SYSTEM,
                List.of(person(TOVE, "Tove"), person(ODO, "Odo")),
                List.of(card("77", TOVE), credential("77", Credential.Kind.PHONE, ODO), card("88", TOVE)));
        people.replace(OTHER, List.of(person(far, "Runa")), List.of(card("77", far)));
        assertThat(people.credential(OTHER, "77", Optional.empty(), now)
                        .value()
                        .orElseThrow()
                        .person())
                .isEqualTo(far);
        assertThat(people.credential(SYSTEM, "77", Optional.of(Credential.Kind.PHONE), now)
                        .value()
                        .orElseThrow()
                        .person())
                .isEqualTo(ODO);
        assertThat(people.credential(SYSTEM, "77", Optional.of(Credential.Kind.CARD), now)
                        .value()
                        .orElseThrow()
                        .person())
                .isEqualTo(TOVE);
        // Where nobody says which, it is nobody's; and a word for the kind that is not on file is no kind.
        assertThat(people.credential(SYSTEM, "77", Optional.empty(), now).value())
                .isEmpty();
        assertThat(people.credential(SYSTEM, "88", Optional.of(Credential.Kind.FINGERPRINT), now)
                        .value())
                .isPresent();
        assertThat(people.credential(OTHER, "88", Optional.empty(), now).standing())
                .isEqualTo(Standing.NOT_THEN);
    }

    @Test
    void before_people_were_read_for_the_first_time_it_is_not_known_whose_a_badge_is() {
        SqlPersonRegister people = people();
        assertThat(people.credential(SYSTEM, "1", Optional.empty(), now).standing())
                .isEqualTo(Standing.NOT_KNOWN_YET);
        assertThat(people.person(TOVE, now).standing()).isEqualTo(Standing.NOT_KNOWN_YET);
        people.replace(SYSTEM, List.of(person(TOVE, "Tove")), List.of());
        assertThat(people.credential(SYSTEM, "1", Optional.empty(), now).standing())
                .isEqualTo(Standing.NOT_THEN);
        days(1);
        people.replace(SYSTEM, List.of(person(TOVE, "Tove"), person(ODO, "Odo")), List.of(card("1", TOVE)));
        Instant before = START.minusSeconds(1);
        assertThat(people.person(TOVE, before).standing()).isEqualTo(Standing.AS_READ_LATER);
        assertThat(people.person(ODO, before).standing()).isEqualTo(Standing.NOT_KNOWN_YET);
        assertThat(people.credential(OTHER, "1", Optional.empty(), now).standing())
                .isEqualTo(Standing.NOT_KNOWN_YET);
    }

    // ---- places

    private static Camera camera() {
        return new Camera(
                new CameraId("quayside/vault-outside"),
                new SystemId("quayside"),
                "Vault outside",
                new SiteId("harbour"));
    }

    private static Pairing pairing() {
        return new Pairing(
                new DoorId("tidewater/vault"),
                camera().id(),
                Side.ENTRY,
                Pairing.View.OUTSIDE,
                Duration.ofSeconds(10),
                new Crop(0.5, 0.1, 0.2, 0.4),
                Duration.ofMillis(2_900));
    }

    @Test
    void places_and_pairings_are_there_after_a_restart_as_they_are_and_as_they_were() {
        SiteRegister sites = new SiteRegister(registers, clock);
        int[] told = {0};
        sites.listen(() -> told[0]++);
        sites.places(
                SYSTEM,
                List.of(site("Harbour House")),
                List.of(door("vault", "Vault")),
                List.of(reader("vault")),
                List.of());
        sites.cameras(new SystemId("quayside"), List.of(camera()));
        sites.ofFile(StoreFixture.file(List.of(pairing())));
        sites.ofFile(StoreFixture.file(List.of(pairing())));
        assertThat(told[0]).isEqualTo(3);
        days(1);
        sites.places(
                SYSTEM,
                List.of(site("Harbour House")),
                List.of(door("vault", "Old vault"), door("new", "New door")),
                List.of(),
                List.of());
        days(1);
        sites.places(SYSTEM, List.of(), List.of(door("new", "New door")), List.of(), List.of());
        sites.ofFile(StoreFixture.file(List.of()));
        for (int round = 0; round < 2; round++) {
            DoorId vault = new DoorId("tidewater/vault");
            assertThat(sites.get().door(vault)).isEmpty();
            assertThat(sites.get().doors()).hasSize(1);
            assertThat(sites.get().pairings(vault)).isEmpty();
            assertThat(sites.at(START).door(vault)).contains(door("vault", "Vault"));
            assertThat(sites.at(START).pairing(vault, Side.EXIT)).contains(pairing());
            assertThat(sites.at(START).zoneOf(vault)).isEqualTo(ZoneId.of("Europe/London"));
            assertThat(sites.at(START).reader(reader("vault").id())).contains(reader("vault"));
            assertThat(sites.at(START).doors()).hasSize(1);
            Instant next = START.plus(Duration.ofDays(1));
            assertThat(sites.at(next).door(vault).orElseThrow().name()).isEqualTo("Old vault");
            assertThat(sites.at(next).reader(reader("vault").id())).isEmpty();
            // Before anything was known: as it was read first.
            assertThat(sites.at(Instant.EPOCH).door(vault)).contains(door("vault", "Vault"));
            again();
            sites = new SiteRegister(registers, clock);
        }
        ClockReadings readings = new ClockReadings(store.database);
        Duration sure = Duration.ofMillis(4);
        readings.keep(new ClockBook.Estimate(SYSTEM, now, Duration.ofMillis(1_700), sure));
        readings.keep(new ClockBook.Estimate(SYSTEM, now, Duration.ofMillis(1_800), sure));
        assertThat(readings.load().estimate(SYSTEM, now))
                .contains(new ClockBook.Estimate(SYSTEM, now, Duration.ofMillis(1_800), sure));
    }

    @Test
    void rules_are_kept_as_they_were() {
        SqlPersonRegister people = people();
        RuleRegister rules = new RuleRegister(registers, people, clock);
        assertThat(rules.at(SYSTEM, now).standing()).isEqualTo(Standing.NOT_KNOWN_YET);
        AccessLevel level = new AccessLevel("tidewater/l", "Level", Map.of(new DoorId("tidewater/a"), "tidewater/t"));
        CardFormat format = new CardFormat("tidewater/f", "Five", 5);
        rules.replace(SYSTEM, new RuleBook(List.of(level), List.of(timetable()), List.of(holiday()), List.of(format)));
        people.replace(SYSTEM, List.of(person(TOVE, "Tove")), List.of(card("20001", TOVE)));
        // A Friday that is a holiday, on which the night of Mondays is on as well; the day before it is not.
        assertThat(rules.timetables()).containsExactly(timetable());
        ZonedDateTime night = LocalDate.of(2026, 12, 25).atTime(23, 0).atZone(ZoneId.of("Europe/London"));
        assertThat(rules.timetableOn("tidewater/t", night)).contains(true);
        assertThat(rules.timetableOn("tidewater/t", night.minusDays(1))).contains(false);
        assertThat(rules.timetableOn("tidewater/gone", night)).isEmpty();
        days(1);
        rules.replace(SYSTEM, new RuleBook(List.of(), List.of(timetable()), List.of(), List.of()));
        people.replace(SYSTEM, List.of(person(TOVE, "Tove")), List.of());
        for (RuleRegister register : List.of(rules, new RuleRegister(registers, people(), clock))) {
            assertThat(register.at(START, SYSTEM).levels()).containsExactly(level);
            assertThat(register.at(START, SYSTEM).holidays()).containsExactly(holiday());
            assertThat(register.at(START, SYSTEM).formats()).containsExactly(format);
            assertThat(register.at(START, OTHER).levels()).isEmpty();
            assertThat(register.at(now, SYSTEM).levels()).isEmpty();
            assertThat(register.at(now, SYSTEM).timetables()).containsExactly(timetable());
            OnFile<AccessRules> then = register.at(SYSTEM, START);
            assertThat(then.standing()).isEqualTo(Standing.THEN);
            assertThat(then.value().orElseThrow().credential("20001")).isPresent();
            assertThat(register.at(SYSTEM, START.minusSeconds(1)).standing()).isEqualTo(Standing.AS_READ_LATER);
            assertThat(register.at(SYSTEM, now).value().orElseThrow().credential("20001"))
                    .isEmpty();
            assertThat(register.at(OTHER, now).standing()).isEqualTo(Standing.NOT_KNOWN_YET);
        }
    }

    /** Versions recorded after the instant of knowledge are left out. */
    @Test
    void rules_and_people_are_given_as_they_were_known_at_an_instant() {
        SqlPersonRegister people = people();
        RuleRegister rules = new RuleRegister(registers, people, clock);
        AccessLevel level = new AccessLevel("tidewater/l", "Level", Map.of(new DoorId("tidewater/a"), "tidewater/t"));
        Instant first = now;
        rules.replace(SYSTEM, new RuleBook(List.of(level), List.of(timetable()), List.of(), List.of()));
        people.replace(SYSTEM, List.of(person(TOVE, "Tove Ingleholm")), List.of(card("20001", TOVE)));
        days(1);
        rules.replace(SYSTEM, new RuleBook(List.of(), List.of(timetable()), List.of(), List.of()));
        people.replace(SYSTEM, List.of(person(TOVE, "Tove Vantongeren")), List.of());
        Instant later = now.plusSeconds(5);
        for (RuleRegister register : List.of(rules, new RuleRegister(registers, people(), clock))) {
            AccessRules before = register.at(SYSTEM, later, first).value().orElseThrow();
            assertThat(before.credential("20001")).isPresent();
            AccessRules after = register.at(SYSTEM, later, later).value().orElseThrow();
            assertThat(after.credential("20001")).isEmpty();
            assertThat(register.at(SYSTEM, later, first.minusSeconds(1)).standing())
                    .isEqualTo(Standing.NOT_KNOWN_YET);
            // The same question after another answer is not answered from that one.
            assertThat(register.at(SYSTEM, later, first).value().orElseThrow().credential("20001"))
                    .isPresent();
        }
        assertThat(people.person(TOVE, later, first).value().orElseThrow().name())
                .isEqualTo("Tove Ingleholm");
        assertThat(people.person(TOVE, later).value().orElseThrow().name()).isEqualTo("Tove Vantongeren");
        assertThat(people.credential(SYSTEM, "20001", Optional.empty(), later, first)
                        .value()
                        .map(Credential::person))
                .contains(TOVE);
        assertThat(people.person(TOVE, later, first.minusSeconds(1)).standing()).isEqualTo(Standing.NOT_KNOWN_YET);
    }

    /** Whatever of them changed, and nothing else. */
    @Test
    void a_change_of_any_rule_is_noticed() {
        RuleRegister rules = new RuleRegister(registers, people(), clock);
        AccessLevel level = new AccessLevel("tidewater/l", "Level", Map.of());
        Timetable always = new Timetable("tidewater/t", "Always", List.of());
        Holiday day = new Holiday("tidewater/h", "Founders", LocalDate.of(2026, 12, 1), LocalDate.of(2026, 12, 1));
        CardFormat six = new CardFormat("tidewater/f", "Six digits", 6);
        List<RuleBook> books = List.of(
                new RuleBook(List.of(level), List.of(), List.of(), List.of()),
                new RuleBook(List.of(level), List.of(always), List.of(), List.of()),
                new RuleBook(List.of(level), List.of(always), List.of(day), List.of()),
                new RuleBook(List.of(level), List.of(always), List.of(day), List.of(six)),
                new RuleBook(List.of(), List.of(always), List.of(day), List.of(six)));
        for (RuleBook book : books) {
            days(1);
            rules.replace(SYSTEM, book);
            assertThat(rules.at(now, SYSTEM)).isEqualTo(book);
        }
        assertThat(rules.at(START.plus(Duration.ofDays(2)), SYSTEM)).isEqualTo(books.get(1));
    }

    @Test
    void places_of_one_reading_are_told_apart() {
        SiteRegister sites = new SiteRegister(registers, clock);
        SystemId quayside = new SystemId("quayside");
        sites.places(
                SYSTEM,
                List.of(site("Harbour"), new Site(new SiteId("yard"), "Yard", ZoneOffset.UTC)),
                List.of(door("a", "A"), door("b", "B")),
                List.of(reader("a"), reader("b")),
                List.of());
        sites.cameras(
                quayside,
                List.of(
                        new Camera(new CameraId("quayside/a"), quayside, "A", new SiteId("harbour")),
                        new Camera(new CameraId("quayside/b"), quayside, "B", new SiteId("yard"))));
        for (SiteRegister register : List.of(sites, new SiteRegister(registers, clock))) {
            assertThat(register.get().sites()).hasSize(2);
            assertThat(register.get().doors()).hasSize(2);
            assertThat(register.get().cameras()).hasSize(2);
            assertThat(register.get().reader(reader("a").id())).contains(reader("a"));
            assertThat(register.get().reader(reader("b").id())).contains(reader("b"));
        }
        // A door that is gone is somewhere still.
        days(1);
        sites.places(SYSTEM, List.of(site("Harbour")), List.of(door("a", "A")), List.of(), List.of());
        assertThat(sites.get().door(door("b", "B").id())).isEmpty();
        assertThat(sites.everyDoor())
                .containsOnly(
                        Map.entry(door("a", "A").id(), new SiteId("harbour")),
                        Map.entry(door("b", "B").id(), new SiteId("harbour")));
    }

    @Test
    void who_is_looked_for_comes_before_who_is_only_called_alike() {
        SqlPersonRegister people = people();
        List<Person> all = List.of(
                person(new PersonId("tidewater/1"), "Zora Anaya"),
                person(new PersonId("tidewater/2"), "Ana Zell"),
                person(new PersonId("tidewater/3"), "Anabel Moor"),
                person(new PersonId("tidewater/4"), "Juliana Moor"),
                new Person(
                        new PersonId("tidewater/5"),
                        "Abe Court",
                        "Ana & Sons",
                        "visitor",
                        Optional.empty(),
                        false,
                        Optional.empty()));
        people.replace(SYSTEM, all, List.of(card("4711", new PersonId("tidewater/4"))));
        assertThat(people.search(" ana ", 9))
                .extracting(Person::name)
                .containsExactly("Ana Zell", "Anabel Moor", "Zora Anaya", "Abe Court", "Juliana Moor");
        assertThat(people.search("ana", 2)).extracting(Person::name).containsExactly("Ana Zell", "Anabel Moor");
        assertThat(people.search("ana moor", 9))
                .extracting(Person::name)
                .containsExactly("Anabel Moor", "Juliana Moor");
        assertThat(people.search("4711 moor", 9)).extracting(Person::name).containsExactly("Juliana Moor");
        assertThat(people.search("nobody", 9)).isEmpty();
    }

    private static LinkSetup link(String id, String name, String address) {
        return new LinkSetup(id, "access", "link-protocol", name, URI.create(address), false, true);
    }

    @Test
    void links_of_a_file_come_and_go_with_it_and_an_operators_word_outlives_the_next_reading() {
        LinkRegister links = new LinkRegister(registers, clock);
        LinkSetup harbour = link("tidewater", "Tidewater", "http://127.0.0.1:1/");
        LinkSetup yard = link("larkspur", "Larkspur", "http://127.0.0.1:2/");
        links.take(List.of(harbour, yard));
        assertThat(links.all()).extracting(LinkBook.Kept::link).containsExactly(yard, harbour);
        assertThat(links.all()).extracting(LinkBook.Kept::version).containsOnly(1L);
        now = now.plusSeconds(60);
        LinkSetup paused = harbour.paused(true);
        assertThat(links.keep(paused, 1, ANA, StoreFixture.fact())).isEqualTo(2);
        now = now.plusSeconds(60);
        links.take(List.of(harbour, yard));
        assertThat(links.all()).contains(new LinkBook.Kept(paused, 2));
        // A file that says something new is heard, and what it has no more is gone.
        now = now.plusSeconds(60);
        LinkSetup moved = link("tidewater", "Tidewater", "https://access.sternwick.test/");
        links.take(List.of(moved));
        again();
        links = new LinkRegister(registers, clock);
        assertThat(links.all()).containsExactly(new LinkBook.Kept(moved, 3));
        assertThat(links.version(new SystemId("larkspur"))).isEqualTo(2);
    }

    @Test
    void of_two_edits_of_a_link_the_second_is_refused_and_one_that_was_removed_comes_back() {
        LinkRegister links = new LinkRegister(registers, clock);
        LinkSetup harbour = link("tidewater", "Tidewater", "http://127.0.0.1:1/");
        assertThat(links.keep(harbour, 0, ANA, StoreFixture.fact())).isEqualTo(1);
        assertThatThrownBy(() -> links.keep(harbour, 0, ANA, StoreFixture.fact()))
                .isInstanceOf(EventLogException.class);
        now = now.plusSeconds(1);
        assertThat(links.end(SYSTEM, 1, ANA, StoreFixture.fact())).isEqualTo(2);
        assertThat(links.all()).isEmpty();
        assertThat(links.version(SYSTEM)).isEqualTo(2);
        now = now.plusSeconds(1);
        assertThat(links.keep(harbour, 2, ANA, StoreFixture.fact())).isEqualTo(3);
        assertThat(links.all()).containsExactly(new LinkBook.Kept(harbour, 3));
        Actor none = Actor.with("x", "X", "desk", Set.of(), SiteScope.everywhere());
        assertThatThrownBy(() -> links.keep(harbour.paused(true), 3, none, StoreFixture.fact()))
                .isInstanceOf(NotPermittedException.class);
    }

    @Test
    void many_pairs_are_kept_at_once_or_none_of_them() {
        SiteRegister sites = new SiteRegister(registers, clock);
        SystemId recorder = new SystemId("quayside");
        sites.places(
                SYSTEM,
                List.of(site("Harbour")),
                List.of(door("vault", "Vault"), door("gate", "Gate")),
                List.of(),
                List.of());
        List<Camera> cameras = new ArrayList<>();
        for (int i = 0; i < 40; i++) {
            cameras.add(new Camera(new CameraId("quayside/c" + i), recorder, "c" + i, new SiteId("harbour")));
        }
        sites.cameras(recorder, cameras);
        List<PairBook.Edit> edits = new ArrayList<>();
        for (Camera camera : cameras) {
            Pairing p = new Pairing(
                    new DoorId("tidewater/vault"),
                    camera.id(),
                    Side.ENTRY,
                    Pairing.View.OUTSIDE,
                    Duration.ofSeconds(5),
                    Crop.WHOLE,
                    Duration.ZERO);
            edits.add(new PairBook.Edit(p.id(), Optional.of(p), 0));
        }
        now = now.plusSeconds(1);
        sites.keepAll(edits.subList(0, 10), ANA, List.of(StoreFixture.fact()));
        assertThat(sites.of(new DoorId("tidewater/vault"))).hasSize(10);
        // One that somebody has changed meanwhile keeps all others out.
        now = now.plusSeconds(1);
        assertThatThrownBy(() -> sites.keepAll(edits, ANA, List.of(StoreFixture.fact())))
                .isInstanceOf(EventLogException.class);
        assertThat(sites.of(new DoorId("tidewater/vault"))).hasSize(10);
        sites.keepAll(edits.subList(10, 40), ANA, List.of(StoreFixture.fact()));
        now = now.plusSeconds(1);
        assertThat(sites.of(new DoorId("tidewater/vault")))
                .extracting(k -> k.pairing().camera())
                .containsExactlyElementsOf(cameras.stream().map(Camera::id).toList());
        sites.keepAll(
                edits.stream()
                        .map(e -> new PairBook.Edit(e.pair(), Optional.empty(), 1))
                        .toList(),
                ANA,
                List.of(StoreFixture.fact()));
        now = now.plusSeconds(1);
        assertThat(sites.of(new DoorId("tidewater/vault"))).isEmpty();
        assertThatThrownBy(() ->
                        sites.keepAll(edits.subList(0, 1), Actor.withAll("x", "X", "d"), List.of(StoreFixture.fact())))
                .isInstanceOf(EventLogException.class);
    }

    @Test
    void pairs_of_a_door_are_put_into_an_order() {
        SiteRegister sites = new SiteRegister(registers, clock);
        DoorId vault = new DoorId("tidewater/vault");
        sites.places(SYSTEM, List.of(site("Harbour")), List.of(door("vault", "Vault")), List.of(), List.of());
        SystemId recorder = new SystemId("quayside");
        List<Camera> cameras = new ArrayList<>();
        for (String id : List.of("a", "b", "c")) {
            cameras.add(new Camera(new CameraId("quayside/" + id), recorder, id, new SiteId("harbour")));
        }
        sites.cameras(recorder, cameras);
        for (Camera camera : cameras) {
            now = now.plusSeconds(1);
            sites.keep(
                    new Pairing(
                            vault,
                            camera.id(),
                            Side.ENTRY,
                            Pairing.View.OUTSIDE,
                            Duration.ofSeconds(5),
                            Crop.WHOLE,
                            Duration.ZERO),
                    0,
                    ANA,
                    StoreFixture.fact());
        }
        now = now.plusSeconds(1);
        List<PairBook.Kept> before = sites.of(vault);
        sites.order(List.of(before.get(2), before.get(0), before.get(1)), ANA, StoreFixture.fact());
        now = now.plusSeconds(1);
        assertThat(sites.get().pairings(vault))
                .extracting(p -> p.camera().value())
                .containsExactly("quayside/c", "quayside/a", "quayside/b");
        assertThatThrownBy(() -> sites.order(before, ANA, StoreFixture.fact())).isInstanceOf(EventLogException.class);
        // It is one change, which is taken back as one.
        assertThat(sites.changes(1).get(0).parts()).hasSize(3);
        sites.takeBack(sites.changes(1).get(0), ANA, StoreFixture.fact());
        now = now.plusSeconds(1);
        assertThat(sites.get().pairings(vault))
                .isEqualTo(before.stream().map(PairBook.Kept::pairing).toList());
    }

    @Test
    void pairs_are_made_changed_and_taken_off_by_hand_beside_those_of_a_file() {
        SiteRegister sites = new SiteRegister(registers, clock);
        DoorId vault = new DoorId("tidewater/vault");
        CameraId camera = new CameraId("quayside/vault-outside");
        sites.places(SYSTEM, List.of(site("Harbour")), List.of(door("vault", "Vault")), List.of(), List.of());
        SystemId recorder = new SystemId("quayside");
        sites.cameras(recorder, List.of(new Camera(camera, recorder, "Vault outside", new SiteId("harbour"))));
        Pairing byHand = new Pairing(
                vault, camera, Side.ENTRY, Pairing.View.OUTSIDE, Duration.ofSeconds(5), Crop.WHOLE, Duration.ZERO);
        Pairing ofFile = new Pairing(
                vault, camera, Side.EXIT, Pairing.View.OUTSIDE, Duration.ofSeconds(5), Crop.WHOLE, Duration.ZERO);
        now = now.plusSeconds(1);
        sites.ofFile(StoreFixture.file(List.of(ofFile)));
        now = now.plusSeconds(1);
        assertThat(sites.keep(byHand, 0, ANA, StoreFixture.fact())).isEqualTo(1);
        Instant both = now;
        assertThat(sites.get().pairings(vault)).containsExactly(ofFile, byHand);
        // A file that is read again takes off nothing that was paired by hand.
        now = now.plusSeconds(1);
        sites.ofFile(StoreFixture.file(List.of(ofFile)));
        assertThat(sites.of(vault)).extracting(PairBook.Kept::pairing).containsExactly(ofFile, byHand);
        assertThatThrownBy(() -> sites.keep(byHand, 0, ANA, StoreFixture.fact()))
                .isInstanceOf(EventLogException.class);
        now = now.plusSeconds(1);
        assertThat(sites.end(byHand.id(), 1, ANA, StoreFixture.fact())).isEqualTo(2);
        now = now.plusSeconds(1);
        assertThat(sites.get().pairings(vault)).containsExactly(ofFile);
        assertThat(sites.at(both).pairings(vault)).containsExactly(ofFile, byHand);
        // What was taken off comes back, and what the system had is gone with it.
        assertThat(sites.keep(byHand, 2, ANA, StoreFixture.fact())).isEqualTo(3);
        now = now.plusSeconds(1);
        sites.systemGone(SYSTEM);
        assertThat(sites.get().doors()).isEmpty();
        assertThat(sites.get().pairings(vault)).isEmpty();
        assertThat(sites.at(both).door(vault)).isPresent();
        Actor elsewhere = Actor.with("x", "X", "desk", Set.of(Permission.SET_UP), SiteScope.at(new SiteId("yard")));
        assertThatThrownBy(() -> sites.end(byHand.id(), 3, elsewhere, StoreFixture.fact()))
                .isInstanceOf(NotPermittedException.class);
    }

    /** An event that records an edit, too long for what is left of a disk that is all but full. */
    private static Event.Builder fact(String what) {
        return StoreFixture.fact().detail("what", what).raw(StoreFixture.noise(12_000));
    }

    private long factsStored() {
        return store.log.count(EventQuery.all().kinds(Kinds.SET_UP));
    }

    @Test
    void an_edit_and_the_event_recording_it_are_committed_together_or_not_at_all() {
        LinkRegister links = new LinkRegister(registers, clock);
        SiteRegister sites = new SiteRegister(registers, clock);
        VersionedRegister<Escalation> escalations = VersionedRegister.ofEscalations(registers, clock);
        sites.places(SYSTEM, List.of(site("Harbour")), List.of(door("vault", "Vault")), List.of(), List.of());
        LinkSetup harbour = link("tidewater", "Tidewater", "http://127.0.0.1:1/");
        links.keep(harbour, 0, ANA, fact("link"));
        assertThat(factsStored()).isEqualTo(1);
        Site yard = new Site(new SiteId("here Yard"), "Yard", ZoneOffset.UTC);
        Thing vault = Thing.of(new DoorId("tidewater/vault"));
        store.limitPages();
        assertThatThrownBy(() -> links.keep(harbour.paused(true), 1, ANA, fact("link")))
                .isInstanceOf(EventLogException.class);
        assertThatThrownBy(() -> links.end(SYSTEM, 1, ANA, fact("link"))).isInstanceOf(EventLogException.class);
        assertThatThrownBy(() -> sites.keepSite(yard, 0, ANA, fact("site"))).isInstanceOf(EventLogException.class);
        assertThatThrownBy(() -> sites.place(
                        List.of(new DeviceBook.PlacingEdit(Placing.none(vault).name(Optional.of("Strongroom")), 0)),
                        ANA,
                        List.of(fact("thing"))))
                .isInstanceOf(EventLogException.class);
        assertThatThrownBy(() -> sites.seen(Map.of(vault, 1L), ANA, fact("thing")))
                .isInstanceOf(EventLogException.class);
        assertThatThrownBy(() -> escalations.keep(
                        List.of(new Versions.Edit<>("escalation", Optional.of(Escalation.USUAL), 0)),
                        ANA,
                        List.of(fact("calling"))))
                .isInstanceOf(EventLogException.class);
        store.unlimitPages();
        again();
        assertThat(factsStored()).isEqualTo(1);
        assertThat(new LinkRegister(registers, clock).all()).containsExactly(new LinkBook.Kept(harbour, 1));
        SiteRegister after = new SiteRegister(registers, clock);
        assertThat(after.ownSites()).isEmpty();
        assertThat(after.placingVersion(vault)).isZero();
        assertThat(VersionedRegister.ofEscalations(registers, clock).newest()).isEmpty();
        after.place(
                List.of(new DeviceBook.PlacingEdit(Placing.none(vault).name(Optional.of("Strongroom")), 0)),
                ANA,
                List.of(fact("thing")));
        assertThat(after.placingVersion(vault)).isEqualTo(1);
        assertThat(factsStored()).isEqualTo(2);
    }

    @Test
    void an_edit_that_is_refused_records_nothing_and_costs_no_other_job_of_its_batch() {
        LinkRegister links = new LinkRegister(registers, clock);
        LinkSetup harbour = link("tidewater", "Tidewater", "http://127.0.0.1:1/");
        links.keep(harbour, 0, ANA, fact("link"));
        List<CompletableFuture<?>> jobs = new ArrayList<>();
        try (Database.Turn turn = store.database.turn()) {
            jobs.add(store.accept(StoreFixture.events(1, 30), false));
            jobs.add(CompletableFuture.runAsync(() -> links.keep(harbour, 0, ANA, fact("link"))));
            jobs.add(CompletableFuture.runAsync(() -> links.keep(harbour.paused(true), 1, ANA, fact("link"))));
            jobs.add(store.intake.record(fact("other")));
        }
        assertThat(jobs.get(0)).succeedsWithin(Duration.ofSeconds(30));
        assertThat(jobs.get(1))
                .failsWithin(Duration.ofSeconds(30))
                .withThrowableThat()
                .withCauseInstanceOf(EventLogException.class);
        assertThat(jobs.get(2)).succeedsWithin(Duration.ofSeconds(30));
        assertThat(jobs.get(3)).succeedsWithin(Duration.ofSeconds(30));
        assertThat(factsStored()).isEqualTo(3);
        assertThat(store.log.count(EventQuery.all())).isEqualTo(33);
        assertThat(links.all()).containsExactly(new LinkBook.Kept(harbour.paused(true), 2));
    }
}
