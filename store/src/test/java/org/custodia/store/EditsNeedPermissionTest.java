package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatCode;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.lang.reflect.Field;
import java.lang.reflect.Modifier;
import java.net.URI;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import org.custodia.core.access.AccessLevel;
import org.custodia.core.access.CardFormat;
import org.custodia.core.access.Credential;
import org.custodia.core.access.Holiday;
import org.custodia.core.access.Person;
import org.custodia.core.access.Timetable;
import org.custodia.core.alarm.Escalation;
import org.custodia.core.alarm.Procedure;
import org.custodia.core.alarm.Rule;
import org.custodia.core.message.MailServer;
import org.custodia.core.message.Receiver;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.Actor.Level;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.operator.Permission;
import org.custodia.core.operator.Roles;
import org.custodia.core.operator.Roles.Role;
import org.custodia.core.operator.SiteScope;
import org.custodia.core.setup.LinkSetup;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Crop;
import org.custodia.core.site.Device;
import org.custodia.core.site.DeviceId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Lookout;
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
import org.custodia.core.site.Walk;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Every register, with every role, at every site. */
class EditsNeedPermissionTest {
    private static final SystemId SYSTEM = new SystemId("tidewater");
    private static final Instant START = Instant.parse("2026-11-20T08:00:00Z");
    private static final SiteId HARBOUR = new SiteId("harbour");
    private static final SiteId YARD = new SiteId("yard");
    private static final List<SiteId> SITES = List.of(HARBOUR, YARD);
    private static final PersonId PERSON = new PersonId("tidewater/p1");

    @TempDir
    Path path;

    private StoreFixture store;
    private Registers registers;

    @BeforeEach
    void open() {
        store = new StoreFixture(path);
        registers = new Registers(store.database, store.intake);
        for (SiteId site : SITES) {
            replace(RegisterForm.DOOR, door(site).id().value(), door(site));
            replace(RegisterForm.CAMERA, camera(site).id().value(), camera(site));
            replace(RegisterForm.DEVICE, device(site).id().value(), device(site));
        }
    }

    @AfterEach
    void close() {
        store.close();
    }

    private <T> void replace(RegisterForm<T> form, String id, T value) {
        registers.replace(form, SYSTEM, Map.of(id, value), false, START);
    }

    private static Door door(SiteId site) {
        return new Door(
                new DoorId("tidewater/" + site.value()),
                SYSTEM,
                new ControllerId("tidewater/c"),
                "Door",
                site,
                "0",
                "outside",
                "inside",
                Duration.ofSeconds(30),
                Set.of());
    }

    private static Camera camera(SiteId site) {
        return new Camera(new CameraId("quayside/" + site.value()), new SystemId("quayside"), "Camera", site);
    }

    private static Device device(SiteId site) {
        return new Device(
                new DeviceId("tidewater/" + site.value()),
                SYSTEM,
                Optional.empty(),
                "panic-button",
                "Button",
                site,
                Optional.empty());
    }

    private static RegisterForm.Placed pair(SiteId door, SiteId camera) {
        Pairing pairing = new Pairing(
                door(door).id(),
                camera(camera).id(),
                Side.ENTRY,
                Pairing.View.OUTSIDE,
                Duration.ofSeconds(10),
                Crop.WHOLE,
                Duration.ZERO);
        return new RegisterForm.Placed(pairing, 0);
    }

    /**
     * A record to write.
     *
     * @param sites where it takes the permission; empty where that is everywhere
     */
    private record Wanted<T>(RegisterForm<T> form, T value, Permission permission, Set<SiteId> sites) {}

    private static List<Wanted<?>> records() {
        List<Wanted<?>> all = new ArrayList<>();
        for (SiteId site : SITES) {
            Set<SiteId> here = Set.of(site);
            all.add(new Wanted<>(RegisterForm.SITE, new Site(site, "Site", ZoneOffset.UTC), Permission.SET_UP, here));
            all.add(new Wanted<>(RegisterForm.DOOR, door(site), Permission.SET_UP, here));
            all.add(new Wanted<>(RegisterForm.CAMERA, camera(site), Permission.SET_UP, here));
            all.add(new Wanted<>(
                    RegisterForm.READER,
                    new Reader(new ReaderId("tidewater/r"), door(site).id(), Side.ENTRY, "Reader"),
                    Permission.SET_UP,
                    here));
            all.add(new Wanted<>(RegisterForm.PAIR, pair(site, site), Permission.SET_UP, here));
            SiteId other = site.equals(YARD) ? HARBOUR : YARD;
            all.add(new Wanted<>(RegisterForm.PAIR, pair(site, other), Permission.SET_UP, Set.of(site, other)));
            Thing door = Thing.of(door(site).id());
            all.add(new Wanted<>(RegisterForm.DEVICE, device(site), Permission.SET_UP, here));
            all.add(new Wanted<>(RegisterForm.PLACING, Placing.none(door).leftOut(true), Permission.SET_UP, here));
            all.add(new Wanted<>(
                    RegisterForm.PLACING,
                    Placing.none(door).site(Optional.of(other)),
                    Permission.SET_UP,
                    Set.of(site, other)));
            all.add(new Wanted<>(RegisterForm.SEEN, new RegisterForm.Seen(door, 1), Permission.SET_UP, here));
            all.add(new Wanted<>(
                    RegisterForm.WALK,
                    new Walk(door(site).id(), door(other).id(), Duration.ofSeconds(9)),
                    Permission.SET_UP,
                    Set.of(site, other)));
            all.add(new Wanted<>(
                    RegisterForm.LOOKOUT,
                    new Lookout(camera(site).id(), new Lookout.OfZone(other, "Stairs"), Duration.ZERO),
                    Permission.SET_UP,
                    Set.of(site, other)));
            all.add(new Wanted<>(
                    RegisterForm.LOOKOUT,
                    new Lookout(
                            camera(site).id(),
                            new Lookout.OfDevice(device(other).id()),
                            Duration.ZERO),
                    Permission.SET_UP,
                    Set.of(site, other)));
        }
        all.add(new Wanted<>(
                RegisterForm.READER,
                new Reader(new ReaderId("tidewater/r"), new DoorId("tidewater/unknown"), Side.ENTRY, "Reader"),
                Permission.SET_UP,
                Set.of()));
        all.add(new Wanted<>(
                RegisterForm.PERSON,
                new Person(PERSON, "Tove Aldane", "Museum", "staff", Optional.empty(), false, Optional.empty()),
                Permission.EDIT_PEOPLE,
                Set.of()));
        all.add(new Wanted<>(
                RegisterForm.CREDENTIAL,
                new Credential(
                        "1",
                        Credential.Kind.CARD,
                        PERSON,
                        Credential.Status.ACTIVE,
                        Optional.empty(),
                        Optional.empty(),
                        Optional.empty()),
                Permission.EDIT_PEOPLE,
                Set.of()));
        all.add(new Wanted<>(
                RegisterForm.LEVEL, new AccessLevel("l", "Level", Map.of()), Permission.EDIT_TIMETABLES, Set.of()));
        all.add(new Wanted<>(
                RegisterForm.TIMETABLE, new Timetable("t", "Always", List.of()), Permission.EDIT_TIMETABLES, Set.of()));
        all.add(new Wanted<>(
                RegisterForm.HOLIDAY,
                new Holiday("h", "Founders", LocalDate.of(2026, 12, 1), LocalDate.of(2026, 12, 1)),
                Permission.EDIT_TIMETABLES,
                Set.of()));
        all.add(new Wanted<>(RegisterForm.FORMAT, new CardFormat("f", "Six", 6), Permission.SET_UP, Set.of()));
        all.add(new Wanted<>(
                RegisterForm.LINK,
                new LinkSetup("tidewater", "access", "link-protocol", "T", URI.create("https://a.test/"), false, false),
                Permission.SET_UP,
                Set.of()));
        all.add(new Wanted<>(RegisterForm.PROCEDURE, Procedure.shipped().get(0), Permission.EDIT_RULES, Set.of()));
        all.add(new Wanted<>(RegisterForm.ALARM_RULE, Rule.shipped().get(0), Permission.EDIT_RULES, Set.of()));
        all.add(new Wanted<>(
                RegisterForm.RECEIVER,
                new Receiver("duty", 0, "Duty", true, new Receiver.Mail(List.of("duty@custodia.test"), true)),
                Permission.EDIT_RULES,
                Set.of()));
        all.add(new Wanted<>(
                RegisterForm.MAIL_SERVER,
                new MailServer(
                        0,
                        "mail.custodia.test",
                        587,
                        MailServer.Security.STARTTLS,
                        Optional.empty(),
                        "a@custodia.test"),
                Permission.SET_UP,
                Set.of()));
        all.add(new Wanted<>(RegisterForm.ESCALATION, Escalation.USUAL, Permission.EDIT_RULES, Set.of()));
        return all;
    }

    private <T> long edit(Wanted<T> wanted, String id, long basedOn, Actor actor) {
        return registers.edit(
                wanted.form(),
                id,
                basedOn,
                Optional.of(wanted.value()),
                START,
                Optional.empty(),
                actor,
                START,
                List.of(StoreFixture.fact()));
    }

    @Test
    void every_record_is_written_by_those_who_may_and_by_nobody_else() {
        int number = 0;
        for (Wanted<?> wanted : records()) {
            for (Role role : Roles.all(SITES)) {
                // An id of its own: what is there already does not count.
                String id = "new-" + number++;
                boolean may = wanted.sites().isEmpty()
                        ? role.has(Set.of(wanted.permission()), Level.CHANGE, null)
                        : wanted.sites().stream().allMatch(s -> role.has(Set.of(wanted.permission()), Level.CHANGE, s));
                if (may) {
                    assertThat(edit(wanted, id, 0, role.actor())).isEqualTo(1);
                } else {
                    assertThatThrownBy(() -> edit(wanted, id, 0, role.actor()))
                            .as("%s by %s", wanted, role)
                            .isInstanceOf(NotPermittedException.class);
                    assertThat(registers.timeline(wanted.form()).versions(id)).isEmpty();
                }
            }
        }
    }

    @Test
    void no_register_is_left_out() throws IllegalAccessException {
        Set<String> there = new TreeSet<>();
        for (Field field : RegisterForm.class.getDeclaredFields()) {
            if (Modifier.isStatic(field.getModifiers()) && field.getType().equals(RegisterForm.class)) {
                there.add(((RegisterForm<?>) field.get(null)).kind());
            }
        }
        Set<String> tried = new TreeSet<>();
        records().forEach(r -> tried.add(r.form().kind()));
        assertThat(tried).isEqualTo(there);
    }

    private static Actor setUp(SiteId... sites) {
        return Actor.with("ana", "Ana", "desk", Set.of(Permission.SET_UP), SiteScope.at(sites));
    }

    private long edit(String id, long basedOn, Optional<Door> value, int from, int to, Actor actor) {
        return registers.edit(
                RegisterForm.DOOR,
                id,
                basedOn,
                value,
                START.plus(Duration.ofDays(from)),
                to == 0 ? Optional.empty() : Optional.of(START.plus(Duration.ofDays(to))),
                actor,
                START.plus(Duration.ofDays(20)),
                List.of(StoreFixture.fact()));
    }

    /** A door that is moved, or taken away, is touched at every site where it is in the time spoken of. */
    @Test
    void a_door_is_moved_by_those_who_may_at_both_ends() {
        String id = door(HARBOUR).id().value();
        Optional<Door> there = Optional.of(door(HARBOUR));
        Optional<Door> moved = Optional.of(door(YARD));
        assertThatThrownBy(() -> edit(id, 1, moved, 10, 0, setUp(YARD))).isInstanceOf(NotPermittedException.class);
        assertThatThrownBy(() -> edit(id, 1, moved, 10, 0, setUp(HARBOUR))).isInstanceOf(NotPermittedException.class);
        assertThatThrownBy(() -> edit(id, 1, Optional.empty(), 10, 0, setUp(YARD)))
                .isInstanceOf(NotPermittedException.class);
        edit(id, 1, moved, 10, 0, setUp(HARBOUR, YARD));
        // From then on it is the yard's; before, it is the harbour's, and so is a time that reaches into that.
        edit(id, 2, moved, 12, 0, setUp(YARD));
        edit(id, 3, there, 1, 9, setUp(HARBOUR));
        assertThatThrownBy(() -> edit(id, 4, moved, 9, 11, setUp(YARD))).isInstanceOf(NotPermittedException.class);
        assertThatThrownBy(() -> edit(id, 4, there, 9, 11, setUp(HARBOUR))).isInstanceOf(NotPermittedException.class);
        assertThatThrownBy(() -> edit(id, 4, moved, 0, 1, setUp(YARD))).isInstanceOf(NotPermittedException.class);
        edit(id, 4, Optional.empty(), 11, 12, setUp(YARD));
        // What is not there any more belongs to nobody.
        assertThatThrownBy(() -> edit("tidewater/none", 0, Optional.empty(), 0, 0, setUp(HARBOUR, YARD)))
                .isInstanceOf(NotPermittedException.class);
        assertThatCode(() -> edit("tidewater/none", 0, Optional.empty(), 0, 0, Actor.withAll("a", "A", "desk")))
                .doesNotThrowAnyException();
    }
}
