package org.custodia.core.workplace;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import java.io.IOException;
import java.lang.reflect.Method;
import java.lang.reflect.Modifier;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CopyOnWriteArrayList;
import org.custodia.core.access.OnFile;
import org.custodia.core.access.Person;
import org.custodia.core.access.PersonRegister;
import org.custodia.core.access.Verdict;
import org.custodia.core.access.Verdicts;
import org.custodia.core.alarm.AlarmDesk;
import org.custodia.core.alarm.Known;
import org.custodia.core.alarm.ProcedureDesk;
import org.custodia.core.alarm.ProceduresInHand;
import org.custodia.core.alarm.RuleDesk;
import org.custodia.core.alarm.RulesInHand;
import org.custodia.core.command.CommandProgress;
import org.custodia.core.command.DoorDesk;
import org.custodia.core.door.CommandAnswer;
import org.custodia.core.door.DoorBoard;
import org.custodia.core.door.DoorCheckpoints;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventField;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventLog.Facet;
import org.custodia.core.event.EventLog.Slice;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Filter;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.event.Snapshots;
import org.custodia.core.evidence.ClockMender;
import org.custodia.core.evidence.EvidenceSearch;
import org.custodia.core.evidence.Findings;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.link.AccessLink;
import org.custodia.core.message.MessageDesk;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.Actor.Level;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.operator.Permission;
import org.custodia.core.operator.Roles;
import org.custodia.core.operator.Roles.Role;
import org.custodia.core.operator.SiteScope;
import org.custodia.core.setup.ChangeDesk;
import org.custodia.core.setup.DeviceDesk;
import org.custodia.core.setup.DevicesInHand;
import org.custodia.core.setup.LookoutDesk;
import org.custodia.core.setup.PairDesk;
import org.custodia.core.setup.SentInHand;
import org.custodia.core.setup.SetupDesk;
import org.custodia.core.setup.SetupInHand;
import org.custodia.core.setup.TransferDesk;
import org.custodia.core.setup.TranslationDesk;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.Reader;
import org.custodia.core.site.ReaderId;
import org.custodia.core.site.Side;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.Sites;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** Every way into what there is, with every role, at every site. */
class WorkplaceTest {
    private static final Instant NOW = Instant.parse("2026-11-24T14:00:00Z");
    private static final Instant BEFORE = NOW.minusSeconds(3_600);
    private static final Clock CLOCK = Clock.fixed(NOW, ZoneOffset.UTC);
    private static final SystemId SYSTEM = new SystemId("tidewater");
    private static final PersonId PERSON = new PersonId("tidewater/p1");

    /** A site with a door, a reader and a camera, and a door that is gone. */
    private record Place(SiteId site, Door door, Camera camera) {
        static Place of(String name) {
            SiteId site = new SiteId(name);
            Door door = new Door(
                    new DoorId("tidewater/" + name),
                    SYSTEM,
                    new ControllerId("tidewater/c-" + name),
                    name,
                    site,
                    "0",
                    "outside",
                    "inside",
                    Duration.ofSeconds(30),
                    Set.of(DoorCapability.values()));
            return new Place(
                    site, door, new Camera(new CameraId("quayside/" + name), new SystemId("quayside"), name, site));
        }

        DoorId gone() {
            return new DoorId("tidewater/" + site.value() + "-gone");
        }
    }

    private static final Place HARBOUR = Place.of("harbour");
    private static final Place YARD = Place.of("yard");
    private static final List<Place> PLACES = List.of(HARBOUR, YARD);
    private static final List<SiteId> SITE_IDS = List.of(HARBOUR.site(), YARD.site());

    private static final Sites SITES = new Sites() {
        private final SiteModel model = new SiteModel(
                PLACES.stream()
                        .map(p -> new Site(p.site(), p.site().value(), ZoneOffset.UTC))
                        .toList(),
                PLACES.stream().map(Place::door).toList(),
                PLACES.stream().map(Place::camera).toList(),
                List.of(),
                PLACES.stream()
                        .map(p -> new Reader(
                                new ReaderId(p.door().id().value() + "-r"),
                                p.door().id(),
                                Side.ENTRY,
                                "r"))
                        .toList());

        @Override
        public SiteModel get() {
            return model;
        }

        @Override
        public Map<DoorId, SiteId> everyDoor() {
            Map<DoorId, SiteId> every = Sites.super.everyDoor();
            PLACES.forEach(p -> every.put(p.gone(), p.site()));
            return every;
        }
    };

    private final MemoryLog log = new MemoryLog();
    private final PersonRegister people = mock(PersonRegister.class);
    private final AccessLink link = mock(AccessLink.class);
    private DoorBoard board;
    private DoorDesk desk;
    private Verdicts verdicts;
    private Workplace.Behind behind;
    private final Map<Place, Event> badges =
            new TreeMap<>((a, b) -> a.site().value().compareTo(b.site().value()));

    @BeforeEach
    void open() {
        board = new DoorBoard(log, DoorCheckpoints.NONE, log, SITES, CLOCK);
        desk = new DoorDesk(log, log, board, SITES, s -> Optional.of(link), CLOCK);
        when(link.current()).thenReturn(true);
        when(link.command(any(), any(), any())).thenReturn(new CompletableFuture<CommandAnswer>());
        when(people.person(any(), any(), any())).thenReturn(OnFile.notThen());
        when(people.credential(any(), any(), any(), any(), any())).thenReturn(OnFile.notThen());
        when(people.photo(any())).thenReturn(Optional.empty());
        for (Place place : PLACES) {
            Event badge = event(Kinds.GRANTED, SYSTEM)
                    .door(place.door().id())
                    .person(PERSON)
                    .credential("1")
                    .build();
            badges.put(place, badge);
            log.store(badge);
        }
        verdicts = new Verdicts(log, log, Snapshots.inMemory(), SITES, CLOCK);
        behind = new Workplace.Behind(
                SITES,
                log,
                log,
                board,
                desk,
                people,
                verdicts,
                setup(),
                pairs(),
                devices(),
                lookouts(),
                translations(),
                changes(),
                transfer(),
                alarms,
                rules,
                procedures,
                mock(MessageDesk.class),
                CLOCK);
    }

    private final EvidenceSearch evidence = new EvidenceSearch(
            log,
            SITES,
            (camera, at) -> {
                throw new IOException("no picture");
            },
            Findings.inMemory(),
            CLOCK);

    private SetupDesk setup() {
        SetupInHand hand = new SetupInHand(log);
        return new SetupDesk(hand, hand, hand, log, CLOCK);
    }

    private final AlarmDesk alarms =
            new AlarmDesk(log, log, Snapshots.inMemory(), Known.of(SITES::get), (d, c, r) -> {}, CLOCK);
    private final ProcedureDesk procedures =
            new ProcedureDesk(new ProceduresInHand(), alarms, new ProceduresInHand(), CLOCK);
    private final RuleDesk rules =
            new RuleDesk(new RulesInHand(), alarms, log, Known.of(SITES::get), new RulesInHand(), CLOCK);

    private TransferDesk transfer() {
        SetupInHand hand = new SetupInHand(log);
        DevicesInHand devices = new DevicesInHand(log);
        SetupDesk setup = new SetupDesk(hand, hand, hand, log, CLOCK);
        return new TransferDesk(setup, hand, devices, devices, log, hand.files, CLOCK);
    }

    private DeviceDesk devices() {
        return new DeviceDesk(new DevicesInHand(log), SITES, log, CLOCK);
    }

    private LookoutDesk lookouts() {
        return new LookoutDesk(new DevicesInHand(log), SITES, pairs(), log, CLOCK);
    }

    private TranslationDesk translations() {
        return new TranslationDesk(new SentInHand(), log, log);
    }

    private ChangeDesk changes() {
        return new ChangeDesk(new DevicesInHand(log), most -> List.of(), ChangeDesk.Others.none(), setup(), CLOCK);
    }

    private PairDesk pairs() {
        return new PairDesk(
                new SetupInHand(log),
                SITES,
                log,
                log,
                Snapshots.inMemory(),
                evidence,
                new ClockMender(new ClockBook(), e -> {}),
                new SetupInHand(log),
                CLOCK);
    }

    @AfterEach
    void close() {
        alarms.close();
        evidence.close();
        verdicts.close();
        desk.close();
        board.close();
    }

    private int number;

    private Event.Builder event(EventKind kind, SystemId by) {
        number++;
        return Event.of(new EventKey(by, 7, number), kind, BEFORE.plusSeconds(number));
    }

    /** Whether a way led to what is at a place; being stopped is the other answer. */
    private interface Way {
        boolean leads(Workplace at, Place place) throws Exception;
    }

    /** One method that operators reach. */
    private record Entry(String name, Set<Permission> opens, Level level, boolean anySite, Way way) {}

    private static final Set<Permission> PAST_OR_AUDIT = EnumSet.of(Permission.LOOK_BACK, Permission.AUDIT);
    private static final Set<Permission> ANYTHING = EnumSet.allOf(Permission.class);

    private final List<Entry> ways = new ArrayList<>();

    private void at(String name, Set<Permission> opens, Way way) {
        ways.add(new Entry(name, opens, Level.LOOK, false, way));
    }

    private void change(String name, Permission opens, Way way) {
        ways.add(new Entry(name, EnumSet.of(opens), Level.CHANGE, false, way));
    }

    /** What is open as soon as it is permitted at any site. */
    private void anywhere(String name, Set<Permission> opens, Way way) {
        ways.add(new Entry(name, opens, Level.LOOK, true, way));
    }

    private EventQuery hour() {
        return EventQuery.all().between(BEFORE, NOW);
    }

    private static Filter atDoor(Place p) {
        return Filter.is(EventField.DOOR, p.door().id());
    }

    private static CommandProgress progress(Place p, String key) {
        return new CommandProgress(
                key, p.door().id(), new DoorCommand.LetThrough(), CommandProgress.Stage.SENT, NOW, Optional.empty());
    }

    private static boolean accepted(CompletableFuture<?> done) {
        return !done.isCompletedExceptionally();
    }

    private void allWays() {
        Cancellation not = new Cancellation();
        Set<Permission> past = Sight.PAST.openedBy();
        at(
                "PermittedLog.find",
                past,
                (w, p) -> w.log().find(hour().where(atDoor(p))).size() == 1);
        at("PermittedLog.find/2", past, (w, p) -> w.log().find(EventQuery.all(), not).stream()
                .anyMatch(e -> e.door().equals(Optional.of(p.door().id()))));
        at("PermittedLog.count", past, (w, p) -> w.log().count(hour().where(atDoor(p))) == 1);
        at("PermittedLog.count/2", past, (w, p) -> w.log().count(hour().where(atDoor(p)), not) == 1);
        at("PermittedLog.facets/4", past, (w, p) -> w.log().facets(EventField.DOOR, hour(), 9, not).stream()
                .map(Facet::value)
                .anyMatch(p.door().id()::equals));
        at(
                "PermittedLog.histogram/3",
                past,
                (w, p) -> w.log().histogram(hour().where(atDoor(p)), Duration.ofHours(1), not).values().stream()
                                .mapToLong(n -> n)
                                .sum()
                        == 1);
        at(
                "PermittedLog.slices/3",
                past,
                (w, p) -> w.log().slices(hour().where(atDoor(p)), Duration.ofHours(1), not).values().stream()
                                .mapToInt(Slice::events)
                                .sum()
                        == 1);
        at("PermittedLog.byKey", past, (w, p) -> w.log()
                .byKey(badges.get(p).key())
                .isPresent());
        at("PermittedLog.storedAfter/2", past, (w, p) -> w.log().storedAfter(0, 100).stream()
                .anyMatch(e -> e.key().equals(badges.get(p).key())));
        at("PermittedLog.subscribe", Sight.ARRIVALS.openedBy(), (w, p) -> {
            List<Event> told = new ArrayList<>();
            EventIntake.Subscription subscription = w.log().subscribe(told::addAll);
            Event later = event(Kinds.OPENED, SYSTEM).door(p.door().id()).build();
            log.store(later);
            subscription.close();
            log.store(event(Kinds.CLOSED, SYSTEM).door(p.door().id()).build());
            assertThat(told).hasSizeLessThan(2);
            return told.size() == 1;
        });
        // How much there is, of which nothing follows.
        ways.add(new Entry(
                "PermittedLog.newestPosition",
                null,
                null,
                true,
                (w, p) -> w.log().newestPosition() > 0));
        ways.add(new Entry(
                "PermittedLog.unreadCount", null, null, true, (w, p) -> w.log().unreadCount() == 0));

        at("Sites.get", ANYTHING, (w, p) -> {
            SiteModel seen = w.sites().get();
            boolean door = seen.door(p.door().id()).isPresent();
            assertThat(seen.camera(p.camera().id()).isPresent()).isEqualTo(door);
            assertThat(seen.reader(new ReaderId(p.door().id().value() + "-r")).isPresent())
                    .isEqualTo(door);
            assertThat(seen.sites().stream().anyMatch(s -> s.id().equals(p.site())))
                    .isEqualTo(door);
            return door;
        });
        at(
                "Sites.at",
                ANYTHING,
                (w, p) -> w.sites().at(BEFORE).door(p.door().id()).isPresent());
        at("Sites.everyDoor", ANYTHING, (w, p) -> w.sites().everyDoor().containsKey(p.gone()));

        Set<Permission> states = Sight.STATES.openedBy();
        at("PermittedDoors.now", states, (w, p) -> w.doors()
                .now(PLACES.stream().map(x -> x.door().id()).toList())
                .containsKey(p.door().id()));
        at("PermittedDoors.at/2", past, (w, p) -> w.doors().at(p.door().id(), BEFORE) != null);
        at("PermittedDoors.at/2", states, (w, p) -> w.doors().at(p.door().id(), NOW) != null);
        at("PermittedDoors.all", past, (w, p) -> w.doors()
                .all(BEFORE)
                .containsKey(p.door().id()));
        at("PermittedDoors.stretch/3", past, (w, p) -> w.doors()
                .stretch(p.door().id(), BEFORE, NOW)
                .isPresent());
        at("PermittedDoors.onChange", states, (w, p) -> {
            board.now(p.door().id());
            List<Set<DoorId>> told = new ArrayList<>();
            EventIntake.Subscription subscription = w.doors().onChange(told::add);
            log.store(event(Kinds.FORCED, SYSTEM).door(p.door().id()).build());
            subscription.close();
            log.store(event(Kinds.CLOSED, SYSTEM).door(p.door().id()).build());
            assertThat(told).hasSizeLessThan(2);
            return told.equals(List.of(Set.of(p.door().id())));
        });
        at("PermittedDoors.onProgress", states, (w, p) -> {
            List<CommandProgress> told = new CopyOnWriteArrayList<>();
            EventIntake.Subscription subscription = w.doors().onProgress(told::add);
            Actor another = Actor.withAll("ana" + number++, "Ana", "desk");
            desk.act(another, p.door().id(), new DoorCommand.LockNow(), Optional.empty());
            subscription.close();
            // Other threads report events of another door at the same time.
            return told.stream().anyMatch(c -> c.door().equals(p.door().id()));
        });
        change("PermittedDoors.offered", Permission.ACT_ON_DOORS, (w, p) -> !w.doors()
                .offered(p.door())
                .isEmpty());
        change(
                "PermittedDoors.act/3",
                Permission.ACT_ON_DOORS,
                (w, p) -> accepted(w.doors().act(p.door().id(), new DoorCommand.LetThrough(), Optional.empty())));
        change("PermittedDoors.note/3", Permission.ACT_ON_DOORS, (w, p) -> {
            log.store(event(Kinds.COMMAND_SENT, SystemId.CUSTODIA)
                    .door(p.door().id())
                    .cause("k" + number)
                    .build());
            return accepted(w.doors().note(progress(p, "k" + number), "a courier", "parcel"));
        });

        Set<Permission> names = Sight.NAMES.openedBy();
        Set<Permission> file = Sight.PEOPLE.openedBy();
        anywhere("PersonRegister.person/2", names, (w, p) -> w.people().person(PERSON, NOW) != null);
        anywhere(
                "PersonRegister.credential/4",
                names,
                (w, p) -> w.people().credential(SYSTEM, "1", Optional.empty(), NOW) != null);
        anywhere("PersonRegister.person/3", names, (w, p) -> w.people().person(PERSON, NOW, NOW) != null);
        anywhere(
                "PersonRegister.credential/5",
                names,
                (w, p) -> w.people().credential(SYSTEM, "1", Optional.empty(), NOW, NOW) != null);
        anywhere("PersonRegister.photo", names, (w, p) -> w.people().photo(PERSON) != null);
        anywhere("PersonRegister.search/2", file, (w, p) -> w.people().search("a", 1) != null);
        anywhere("PersonRegister.credentialsOf", file, (w, p) -> w.people().credentialsOf(PERSON) != null);
        anywhere("PersonRegister.size", file, (w, p) -> w.people().size() >= 0);
        anywhere("PersonRegister.companies", file, (w, p) -> w.people().companies() != null);

        at(
                "PermittedVerdicts.of",
                Sight.ARRIVALS.openedBy(),
                (w, p) -> w.verdicts().of(badges.get(p)) != null);
        change(
                "PermittedVerdicts.give/2",
                Permission.SEE_LIVE,
                (w, p) -> accepted(w.verdicts().give(badges.get(p), Verdict.SAME)));

        for (Sight sight : Sight.values()) {
            at("Permit.sees/2", sight.openedBy(), (w, p) -> w.permit().sees(sight, p.site()));
            at("Permit.sees/2", sight.openedBy(), (w, p) -> w.permit()
                    .sees(sight, p.door().id()));
            at("Permit.sees/2", sight.openedBy(), (w, p) -> w.permit().sees(sight, p.gone()));
            at("Permit.require/2", sight.openedBy(), (w, p) -> {
                w.permit().require(sight, p.door().id());
                return true;
            });
            anywhere("Permit.seesSomewhere", sight.openedBy(), (w, p) -> w.permit()
                    .seesSomewhere(sight));
            anywhere("Permit.requireSomewhere", sight.openedBy(), (w, p) -> {
                w.permit().requireSomewhere(sight);
                return true;
            });
        }
        at("Permit.seesLive", Set.of(Permission.SEE_LIVE), (w, p) -> w.permit()
                .seesLive(p.camera().id()));
        at("Permit.seesPictures/2", past, (w, p) -> w.permit()
                .seesPictures(p.camera().id(), BEFORE));
        at("Permit.seesPictures/2", EnumSet.of(Permission.SEE_LIVE, Permission.LOOK_BACK), (w, p) -> w.permit()
                .seesPictures(p.camera().id(), NOW.minusSeconds(60)));
        at("Permit.past", past, (w, p) -> w.permit().past().test(badges.get(p)));
        at("Permit.arrives", Sight.ARRIVALS.openedBy(), (w, p) -> w.permit().arrives(badges.get(p)));
    }

    @Test
    void every_way_leads_as_far_as_it_is_permitted_and_no_further() throws Exception {
        allWays();
        for (Entry way : ways) {
            for (Role role : Roles.all(SITE_IDS)) {
                Workplace workplace = new Workplace(role.actor(), behind);
                for (Place place : PLACES) {
                    boolean expected = way.opens() == null
                            || (way.anySite()
                                    ? role.hasSomewhere(way.opens())
                                    : role.has(way.opens(), way.level(), place.site()));
                    boolean led;
                    try {
                        led = way.way().leads(workplace, place);
                    } catch (NotPermittedException e) {
                        assertThat(e.saying().code()).startsWith("permit.not");
                        assertThat(e.saying().of()).contains("Somebody");
                        led = false;
                    }
                    assertThat(led)
                            .as("%s, %s, %s", way.name(), role, place.site())
                            .isEqualTo(expected);
                }
            }
        }
    }

    /** A way that is added here is added to what is tried, or this fails. */
    @Test
    void no_way_in_is_left_out() {
        allWays();
        Set<String> named = new TreeSet<>();
        ways.forEach(w -> named.add(w.name()));
        Set<String> there = new TreeSet<>();
        for (Class<?> type : List.of(
                PermittedLog.class,
                PermittedDoors.class,
                PermittedVerdicts.class,
                Permit.class,
                PersonRegister.class,
                Sites.class)) {
            for (Method method : type.getMethods()) {
                if (Modifier.isPublic(method.getModifiers())
                        && !method.getDeclaringClass().equals(Object.class)
                        && !method.isBridge()) {
                    int count = method.getParameterCount();
                    there.add(type.getSimpleName() + "." + method.getName() + (count > 1 ? "/" + count : ""));
                }
            }
        }
        // What says nothing of any place.
        there.removeAll(Set.of("Permit.actor", "Permit.refusal", "Permit.seesEverywhere"));
        assertThat(named).containsExactlyElementsOf(there);
        Set<String> parts = new TreeSet<>();
        for (Method method : Workplace.class.getDeclaredMethods()) {
            if (Modifier.isPublic(method.getModifiers())) {
                parts.add(method.getName());
            }
        }
        assertThat(parts)
                .containsExactly(
                        "actor",
                        "alarms",
                        "devices",
                        "doors",
                        "log",
                        "messages",
                        "pairs",
                        "people",
                        "permit",
                        "procedures",
                        "rules",
                        "setup",
                        "sites",
                        "translations",
                        "verdicts");
    }

    private List<String> seenBy(Actor actor) {
        return new Workplace(actor, behind)
                .log().find(EventQuery.all()).stream()
                        .map(e -> e.detail("name")
                                .orElse("badge at "
                                        + e.door().map(DoorId::value).orElse("?")))
                        .sorted()
                        .toList();
    }

    private static Actor with(SiteScope where, Permission... some) {
        return Actor.with("x", "X", "desk", Set.of(some), where);
    }

    /** What belongs to no door: shown where its controller is, where it concerns everybody, or to who may see all. */
    @Test
    void what_belongs_to_no_door_is_seen_by_those_it_concerns() {
        log.events.clear();
        log.store(
                event(Kinds.CONTROLLER_LOST, SYSTEM)
                        .controller(HARBOUR.door().controller())
                        .detail("name", "harbour controller")
                        .build(),
                event(Kinds.LINK_LOST, SystemId.CUSTODIA).detail("name", "link").build(),
                // Nobody else writes such a thing; what claims to be one is not shown as one.
                event(Kinds.LINK_LOST, SYSTEM).detail("name", "forged link").build(),
                event(Kinds.CONFLICT, SystemId.CUSTODIA)
                        .detail("name", "conflict")
                        .detail("other-door", HARBOUR.door().id().value())
                        .build(),
                event(Kinds.REPORT, SYSTEM)
                        .door(new DoorId("tidewater/never"))
                        .detail("name", "door nobody knows")
                        .build(),
                event(Kinds.OPENED, SYSTEM)
                        .door(YARD.gone())
                        .detail("name", "gone in the yard")
                        .build(),
                event(Kinds.SIGNED_IN, SystemId.CUSTODIA)
                        .detail("name", "sign-in")
                        .build(),
                event(Kinds.REFUSED_TO_OPERATOR, SystemId.CUSTODIA)
                        .door(YARD.door().id())
                        .detail("name", "tried in the yard")
                        .build());
        SiteScope yard = SiteScope.at(YARD.site());
        SiteScope harbour = SiteScope.at(HARBOUR.site());
        SiteScope all = SiteScope.everywhere();
        assertThat(seenBy(with(yard, Permission.LOOK_BACK))).containsExactly("gone in the yard", "link");
        assertThat(seenBy(with(harbour, Permission.LOOK_BACK))).containsExactly("harbour controller", "link");
        assertThat(seenBy(with(all, Permission.LOOK_BACK)))
                .containsExactly(
                        "conflict",
                        "door nobody knows",
                        "forged link",
                        "gone in the yard",
                        "harbour controller",
                        "link");
        assertThat(seenBy(with(yard, Permission.LOOK_BACK, Permission.AUDIT)))
                .containsExactly("gone in the yard", "link", "tried in the yard");
        assertThat(seenBy(with(yard, Permission.AUDIT))).containsExactly("tried in the yard");
        assertThat(seenBy(with(harbour, Permission.AUDIT))).isEmpty();
        assertThat(seenBy(with(all, Permission.AUDIT))).containsExactly("sign-in", "tried in the yard");
        assertThat(seenBy(with(all, Permission.values()))).hasSize(8);
    }

    @Test
    void what_was_stored_is_read_on_past_all_that_cannot_be_seen() {
        log.events.clear();
        List<Long> expected = new ArrayList<>();
        for (int i = 0; i < 5_000; i++) {
            boolean yard = i % 701 == 0;
            log.store(event(Kinds.OPENED, SYSTEM)
                    .door((yard ? YARD : HARBOUR).door().id())
                    .build());
            if (yard) {
                expected.add(log.newestPosition());
            }
        }
        PermittedLog seen = new Workplace(with(SiteScope.at(YARD.site()), Permission.LOOK_BACK), behind).log();
        List<Long> read = new ArrayList<>();
        long position = 0;
        List<Event> page;
        do {
            page = seen.storedAfter(position, 3);
            page.forEach(e -> read.add(e.position()));
            position = page.isEmpty() ? position : page.get(page.size() - 1).position();
        } while (page.size() == 3);
        assertThat(read).isEqualTo(expected);
    }

    @Test
    void a_camera_at_another_site_is_not_named_whichever_door_it_looks_at() {
        SiteModel model = new SiteModel(
                SITES.get().sites(),
                SITES.get().doors(),
                SITES.get().cameras(),
                List.of(pair(YARD.door(), HARBOUR.camera().id()), pair(HARBOUR.door(), new CameraId("quayside/none"))));
        SiteModel yard = model.only(YARD.site()::equals, YARD.door().id()::equals);
        assertThat(yard.pairings(YARD.door().id())).isEmpty();
        assertThat(yard.unheardCamera(YARD.door().id())).isEmpty();
        assertThat(yard.unheardCamera(HARBOUR.door().id())).isEmpty();
        SiteModel harbour = model.only(HARBOUR.site()::equals, HARBOUR.door().id()::equals);
        assertThat(harbour.unheardCamera(HARBOUR.door().id())).contains(new CameraId("quayside/none"));
        assertThat(model.only(s -> true, d -> true).pairings(YARD.door().id())).hasSize(1);
    }

    private static org.custodia.core.site.Pairing pair(Door door, CameraId camera) {
        return new org.custodia.core.site.Pairing(
                door.id(),
                camera,
                Side.ENTRY,
                org.custodia.core.site.Pairing.View.OUTSIDE,
                Duration.ofSeconds(10),
                org.custodia.core.site.Crop.WHOLE,
                Duration.ZERO);
    }

    @Test
    void places_that_change_change_what_is_permitted() {
        SiteModel[] model = {SITES.get()};
        Sites moving = () -> model[0];
        Permit permit = new Permit(with(SiteScope.at(YARD.site()), Permission.LOOK_BACK), moving, CLOCK);
        assertThat(permit.sees(Sight.PAST, HARBOUR.door().id())).isFalse();
        Door door = HARBOUR.door();
        Door moved = new Door(
                door.id(),
                door.system(),
                door.controller(),
                door.name(),
                YARD.site(),
                door.level(),
                door.outside(),
                door.inside(),
                door.heldLimit(),
                door.capabilities());
        model[0] = new SiteModel(SITES.get().sites(), List.of(moved), List.of(), List.of());
        assertThat(permit.sees(Sight.PAST, door.id())).isTrue();
        assertThat(permit.past().test(badges.get(HARBOUR))).isTrue();
        assertThat(permit.past().test(badges.get(YARD))).isFalse();
        // What it was called then, and by which clock, goes with it.
        Sites then = new Sites() {
            @Override
            public SiteModel get() {
                return model[0];
            }

            @Override
            public SiteModel at(Instant instant) {
                return SITES.get();
            }
        };
        SiteModel past = new PermittedPlaces(permit, then).at(BEFORE);
        assertThat(past.door(door.id())).contains(door);
        assertThat(past.siteOf(door.id())).isPresent();
        assertThat(past.cameras()).extracting(Camera::site).containsOnly(YARD.site());
    }

    @Test
    void who_may_see_everything_sees_what_is_there() {
        Workplace all = new Workplace(with(SiteScope.everywhere(), Permission.values()), behind);
        assertThat(all.sites().get()).isSameAs(SITES.get());
        assertThat(all.doors().now(List.of(HARBOUR.door().id())))
                .containsOnly(
                        Map.entry(HARBOUR.door().id(), board.now(HARBOUR.door().id())));
        assertThat(all.actor().name()).isEqualTo("X");
        Person found = mock(Person.class);
        when(people.search("a", 3)).thenReturn(List.of(found));
        assertThat(all.people().search("a", 3)).containsExactly(found);
    }
}
