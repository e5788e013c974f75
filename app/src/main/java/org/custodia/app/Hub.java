package org.custodia.app;

import java.io.IOException;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZonedDateTime;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Consumer;
import org.custodia.core.access.Credential;
import org.custodia.core.access.DecisionExplainer;
import org.custodia.core.access.Person;
import org.custodia.core.access.RuleBook;
import org.custodia.core.access.Timetable;
import org.custodia.core.access.Verdicts;
import org.custodia.core.alarm.AlarmDesk;
import org.custodia.core.alarm.AlarmReplay;
import org.custodia.core.alarm.Known;
import org.custodia.core.alarm.ProcedureDesk;
import org.custodia.core.alarm.Rule;
import org.custodia.core.alarm.RuleDesk;
import org.custodia.core.command.DoorDesk;
import org.custodia.core.command.NoSuchCommandException;
import org.custodia.core.door.CheckpointKeeper;
import org.custodia.core.door.DoorBoard;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Snapshots;
import org.custodia.core.event.Translation;
import org.custodia.core.evidence.ClockMender;
import org.custodia.core.evidence.EvidenceSearch;
import org.custodia.core.evidence.Peeks;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.footage.ClockWatch;
import org.custodia.core.link.AccessLink;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.link.RecorderLink;
import org.custodia.core.link.SystemLink;
import org.custodia.core.message.Composer;
import org.custodia.core.message.Dispatch;
import org.custodia.core.message.MessageDesk;
import org.custodia.core.message.Outbox;
import org.custodia.core.message.Passing;
import org.custodia.core.message.Receivers;
import org.custodia.core.mishap.Mishaps;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.Permission;
import org.custodia.core.operator.SiteScope;
import org.custodia.core.saying.Saying;
import org.custodia.core.setup.ChangeDesk;
import org.custodia.core.setup.DeviceDesk;
import org.custodia.core.setup.LinkBook;
import org.custodia.core.setup.LinkSetup;
import org.custodia.core.setup.LookoutDesk;
import org.custodia.core.setup.PairDesk;
import org.custodia.core.setup.SetupDesk;
import org.custodia.core.setup.TransferDesk;
import org.custodia.core.setup.TranslationDesk;
import org.custodia.core.site.Camera;
import org.custodia.core.site.Device;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.Reader;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;
import org.custodia.core.workplace.Workplace;
import org.custodia.desktop.message.MessageWords;
import org.custodia.link.Inventory;
import org.custodia.link.Pace;
import org.custodia.link.Surroundings;
import org.custodia.link.message.MessageSender;
import org.custodia.store.BatchIntake;
import org.custodia.store.ClockReadings;
import org.custodia.store.DataDirectory;
import org.custodia.store.Database;
import org.custodia.store.LinkRegister;
import org.custodia.store.Registers;
import org.custodia.store.RuleRegister;
import org.custodia.store.SealedSecrets;
import org.custodia.store.ServerAddress;
import org.custodia.store.SiteRegister;
import org.custodia.store.SqlDoorCheckpoints;
import org.custodia.store.SqlEventLog;
import org.custodia.store.SqlFindings;
import org.custodia.store.SqlOutbox;
import org.custodia.store.SqlPersonRegister;
import org.custodia.store.SqlSentWords;
import org.custodia.store.SqlSnapshots;
import org.custodia.store.VersionedRegister;
import org.custodia.video.Glimpses;
import org.custodia.video.VideoDesk;
import org.custodia.wire.LinksFileForm;
import org.custodia.wire.PairSheetForms;
import org.custodia.wire.ProceduresFileForm;
import org.custodia.wire.RulesFileForm;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * The headless part: the log, the links and the services over them. One hub has a data directory to itself. Everything that
 * is started here is ended in {@link #close}.
 */
public final class Hub implements AutoCloseable {
    private final Mishaps mishaps;
    private final Clock clock;
    private volatile List<DoorId> firstWatch = List.of();
    private final ClockReadings readings;
    private final DataDirectory directory;
    private final DiagnosticLog diagnostics;
    private final Database database;
    private final SqlEventLog log;
    private final BatchIntake intake;
    private final SiteRegister sites;
    private final SqlPersonRegister people;
    private final RuleRegister rules;
    private final ClockBook clocks;
    private final DoorBoard board;
    private final CheckpointKeeper checkpoints;
    private final DoorDesk doorDesk;
    private final Verdicts verdicts;
    private final VideoDesk video;
    private final RunningLinks links;
    private final SetupDesk setup;
    private final EvidenceSearch evidence;
    private final PairDesk pairs;
    private final DeviceDesk devices;
    private final ChangeDesk changes;
    /** Who started it. */
    private final Actor actor;

    private final LookoutDesk lookouts;
    private final TransferDesk transfer;
    private final AlarmDesk alarms;
    private final RuleDesk alarmRules;
    private final Known known;
    private final ProcedureDesk procedures;
    private final Dispatch dispatch;
    private final MessageDesk messages;
    private final TranslationDesk translations;
    private static final Logger LOG = LoggerFactory.getLogger(Hub.class);
    /** Who acts where a rule does. */
    private static final Actor RULES = Actor.with(
            "custodia", "Custodia, by a rule", "hub", Set.of(Permission.ACT_ON_DOORS), SiteScope.everywhere());

    /** Pixels of a picture that goes with a message. */
    private static final int PICTURE_WIDTH = 960;

    private static final String REPLAY_SNAPSHOT = "past-alarms";
    private static final int REPLAY_SNAPSHOT_VERSION = 1;

    private final Snapshots snapshots;
    private volatile Consumer<LinkStatus> statusTold = status -> {};

    /**
     * Opens everything and begins to connect.
     *
     * @throws org.custodia.store.DataDirectoryException if the data directory cannot be used
     */
    public Hub(java.nio.file.Path data, LinksFileForm.Content links, Clock clock, Actor actor) {
        this(data, links, clock, actor, status -> {});
    }

    /**
     * The same.
     *
     * @param told of each change of a link's status, on any thread; must return quickly
     */
    Hub(java.nio.file.Path data, LinksFileForm.Content links, Clock clock, Actor actor, Consumer<LinkStatus> told) {
        this(data, Optional.empty(), links, clock, actor, told);
    }

    /**
     * The same.
     *
     * @param server where the log is, unless it is a file of the data directory
     */
    Hub(
            java.nio.file.Path data,
            Optional<ServerAddress> server,
            LinksFileForm.Content links,
            Clock clock,
            Actor actor,
            Consumer<LinkStatus> told) {
        this(data, server, Optional.empty(), clock, actor);
        try {
            connect(Optional.of(links), told);
        } catch (RuntimeException e) {
            close();
            throw e;
        }
    }

    /**
     * One that has not connected to anything yet.
     *
     * @param passphrase that opens the secrets, instead of a key file
     */
    Hub(
            java.nio.file.Path data,
            Optional<ServerAddress> server,
            Optional<char[]> passphrase,
            Clock clock,
            Actor actor) {
        this.mishaps = Ending.mishaps();
        this.clock = clock;
        this.actor = actor;
        this.directory = DataDirectory.claim(data);
        this.diagnostics = DiagnosticLog.in(data);
        try {
            this.database = Database.open(directory, server, new NewForm(System.out));
        } catch (RuntimeException e) {
            diagnostics.close();
            directory.close();
            throw e;
        }
        this.readings = new ClockReadings(database);
        this.log = new SqlEventLog(database);
        this.intake = new BatchIntake(database, log, clock);
        Registers registers = new Registers(database, intake);
        this.sites = new SiteRegister(registers, clock);
        this.people = new SqlPersonRegister(registers, database, clock);
        this.rules = new RuleRegister(registers, people, clock);
        this.clocks = readings.load();
        SqlDoorCheckpoints kept = new SqlDoorCheckpoints(database);
        this.board = new DoorBoard(log, kept, intake, sites, clock);
        this.checkpoints = new CheckpointKeeper(log, kept, intake, sites, clock);
        Surroundings around = new Surroundings(
                intake,
                log,
                clocks,
                readings::keep,
                inventory(),
                board::news,
                clock,
                Pace.USUAL,
                status -> statusTold.accept(status));
        this.links = new RunningLinks(around, sites::systemGone);
        LinkRegister registered = new LinkRegister(registers, clock);
        SealedSecrets secrets = new SealedSecrets(data, passphrase);
        this.setup = new SetupDesk(registered, secrets, links, intake, clock);
        this.doorDesk = new DoorDesk(intake, log, board, sites, s -> link(s, AccessLink.class), clock);
        this.snapshots = new SqlSnapshots(database);
        this.verdicts = new Verdicts(log, intake, snapshots, sites, clock);
        this.video = new VideoDesk(s -> link(s, RecorderLink.class), clocks, clock);
        this.evidence = new EvidenceSearch(log, sites, peeks(), new SqlFindings(database), clock);
        evidence.historyRead(system ->
                links().stream().anyMatch(l -> l.system().equals(system) && l.state() == LinkStatus.State.UP));
        this.pairs = new PairDesk(
                sites,
                sites,
                log,
                intake,
                snapshots,
                evidence,
                new ClockMender(clocks, readings::keep),
                new PairSheetForms(),
                clock);
        this.devices = new DeviceDesk(sites, sites, log, clock);
        this.translations = new TranslationDesk(new SqlSentWords(database), log, intake);
        this.lookouts = new LookoutDesk(sites, sites, pairs, intake, clock);
        this.transfer = new TransferDesk(setup, sites, sites, sites, intake, new LinksFileForm(), clock);
        Receivers receivers = new Receivers(
                VersionedRegister.ofReceivers(registers, clock), VersionedRegister.ofMailServers(registers, clock));
        this.known = new Known() {
            @Override
            public SiteModel sites() {
                return sites.get();
            }

            @Override
            public SiteModel sitesAt(Instant at) {
                return sites.at(at);
            }

            @Override
            public Optional<PersonId> personOf(Event event) {
                return event.person().or(() -> event.credential().flatMap(c -> people.credential(
                                event.key().system(),
                                c,
                                event.detail("credential-kind").map(Credential.Kind::of),
                                event.time())
                        .value()
                        .map(Credential::person)));
            }

            @Override
            public Optional<String> companyOf(PersonId person, Instant at) {
                return people.person(person, at).value().map(Person::company).filter(c -> !c.isBlank());
            }

            @Override
            public Optional<String> kindOf(PersonId person, Instant at) {
                return people.person(person, at).value().map(Person::kind);
            }

            @Override
            public List<Timetable> timetables() {
                return rules.timetables();
            }

            @Override
            public Optional<Boolean> timetableOn(String id, ZonedDateTime there) {
                return rules.timetableOn(id, there);
            }

            @Override
            public boolean inReach(SystemId system) {
                return system.equals(SystemId.CUSTODIA)
                        || links().stream()
                                .anyMatch(s -> s.system().equals(system) && s.state() == LinkStatus.State.UP);
            }

            @Override
            public List<Saying> oddReceivers(List<String> some) {
                return receivers.odd(some);
            }

            @Override
            public boolean holiday(SystemId system, LocalDate day) {
                return rules.holiday(system, day);
            }
        };
        this.alarms = new AlarmDesk(log, intake, snapshots, known, this::tell, clock);
        // Before anything is watched, so that nothing that is raised goes untold.
        Outbox outbox = new SqlOutbox(database, intake);
        MessageWords words = new MessageWords(sites::get, this::links, pairs::doubted);
        Composer composer = new Composer(alarms, sites::get, people, this::still, words, clock);
        Passing passing = new Passing(log, s -> link(s, AccessLink.class), s -> registered.all().stream()
                .anyMatch(l -> l.link().system().equals(s)));
        this.dispatch = new Dispatch(
                outbox, receivers, secrets, composer, passing, new MessageSender(), log, intake, snapshots, clock);
        this.messages = new MessageDesk(
                receivers,
                VersionedRegister.ofEscalations(registers, clock),
                alarms,
                outbox,
                dispatch,
                secrets,
                intake,
                clock);
        this.alarmRules = new RuleDesk(
                VersionedRegister.ofRules(registers, clock), alarms, log, known, new RulesFileForm(), clock);
        this.procedures = new ProcedureDesk(
                VersionedRegister.ofProcedures(registers, clock), alarms, new ProceduresFileForm(), clock);
        this.changes = new ChangeDesk(
                sites, registered, new OtherChanges(registers, clock, alarmRules, procedures, messages), setup, clock);
        clocks.onMeasured(new ClockWatch(log, intake, system -> limit(registered, system), clock)::measured);
        doorDesk.closeUnanswered();
    }

    /** That past alarms were recorded, up to an instant. */
    record AlarmsReplayed(Instant to) {}

    /**
     * Records the alarms that the rules would have raised before they were enabled, with what made-up operators did about them. A
     * replay that was interrupted is completed.
     *
     * @param pause is run again and again meanwhile; it may wait
     * @return how many; none where all of that was done before
     * @throws java.util.concurrent.CancellationException if it was cancelled
     */
    int replayAlarms(AlarmReplay.Operators operators, Runnable pause, Cancellation cancellation) {
        Optional<Instant> enabled = log
                .find(EventQuery.all().kinds(Kinds.ALARM_RULES).oldest(1))
                .stream()
                .map(Event::time)
                .findFirst();
        Optional<Instant> oldest =
                log.find(EventQuery.all().oldest(1)).stream().map(Event::time).findFirst();
        boolean done = snapshots
                .load(REPLAY_SNAPSHOT, REPLAY_SNAPSHOT_VERSION, AlarmsReplayed.class)
                .isPresent();
        if (done || enabled.isEmpty() || oldest.isEmpty()) {
            return 0;
        }
        List<Rule> rules =
                alarmRules.rules(actor).stream().map(RuleDesk.Standing::rule).toList();
        int recorded = AlarmReplay.record(
                rules, oldest.get(), enabled.get(), log, intake, known, operators, pause, cancellation);
        snapshots.save(
                REPLAY_SNAPSHOT, REPLAY_SNAPSHOT_VERSION, log.newestPosition(), new AlarmsReplayed(enabled.get()));
        return recorded;
    }

    /** What rules tell doors is done as Custodia itself; what comes of it is in the log. */
    private void tell(DoorId door, DoorCommand command, String rule) {
        try {
            doorDesk.act(RULES, door, command, Optional.of(rule));
        } catch (NoSuchCommandException e) {
            LOG.warn("A rule could not tell a door: {}", e.getMessage());
        }
    }

    private RecorderLink.Still still(Camera camera, Instant at) throws IOException {
        return link(camera.recorder(), RecorderLink.class)
                .orElseThrow(() -> new IOException("no link to " + camera.recorder()))
                .still(camera.id(), at, PICTURE_WIDTH);
    }

    private static Optional<Duration> limit(LinkRegister links, SystemId system) {
        return links.all().stream()
                .map(LinkBook.Kept::link)
                .filter(l -> l.id().equals(system.value()))
                .findFirst()
                .map(LinkSetup::clockLimit);
    }

    /**
     * Takes over what a links file has, if there is one, and connects to all that is set up; done once.
     *
     * @param told of each change of a link's status, on any thread; must return quickly
     */
    void connect(Optional<LinksFileForm.Content> file, Consumer<LinkStatus> told) {
        statusTold = told;
        file.ifPresent(f -> {
            firstWatch = f.setup().watch();
            setup.take(f.setup().links(), f.tokens());
            sites.ofFile(f.setup());
            f.setup().meanings().forEach((system, rules) -> firstMeanings(system, rules, actor));
        });
        setup.begin();
        pairs.watch();
    }

    /** A file's meanings hold where nobody has said any here: what somebody says here outlives its next reading. */
    private void firstMeanings(SystemId system, List<Translation.Rule> rules, Actor actor) {
        if (intake.translation(system).version() == 0) {
            intake.translate(system, 0, rules, actor).join();
        }
    }

    private <L extends SystemLink> Optional<L> link(SystemId system, Class<L> kind) {
        return links.link(system).filter(kind::isInstance).map(kind::cast);
    }

    /** Small pictures to compare, whoever asks for them. */
    public Peeks peeks() {
        return new Glimpses(s -> link(s, RecorderLink.class));
    }

    private Inventory inventory() {
        return new Inventory() {
            @Override
            public synchronized void places(
                    SystemId system, List<Site> some, List<Door> doors, List<Reader> readers, List<Device> devices) {
                sites.places(system, some, doors, readers, devices);
            }

            @Override
            public synchronized void rules(SystemId system, RuleBook book) {
                rules.replace(system, book);
            }

            @Override
            public synchronized void people(SystemId system, List<Person> some, List<Credential> credentials) {
                people.replace(system, some, credentials);
            }

            @Override
            public synchronized void cameras(SystemId recorder, List<Camera> cameras) {
                sites.cameras(recorder, cameras);
            }

            @Override
            public boolean wantsPhoto(PersonId person, String version) {
                return !people.photoVersion(person).equals(Optional.of(version));
            }

            @Override
            public void photo(PersonId person, String version, byte[] jpeg) {
                people.keepPhoto(person, version, jpeg);
            }
        };
    }

    /** How each link is doing, access systems first. */
    public List<LinkStatus> links() {
        return links.statuses();
    }

    /** Where systems are connected to and taken off. */
    public SetupDesk setup() {
        return setup;
    }

    /** What somebody has to do something about; nothing while all is well. */
    public Optional<Saying> trouble() {
        return intake.trouble().or(database::damage).or(mishaps::sentence).or(dispatch::trouble);
    }

    /** What went wrong inside Custodia, each part once. */
    public List<Mishaps.Seen> mishaps() {
        return mishaps.seen();
    }

    /**
     * Writes one file for whoever looks for a fault.
     *
     * @throws IOException if it cannot be written
     */
    public void saveDiagnostics(java.nio.file.Path to) throws IOException {
        Diagnostics.write(directory.path(), Optional.of(this), to);
    }

    public SqlEventLog log() {
        return log;
    }

    public BatchIntake intake() {
        return intake;
    }

    public SiteRegister sites() {
        return sites;
    }

    public SqlPersonRegister people() {
        return people;
    }

    /** What somebody may see and do of all this. */
    public Workplace workplace(Actor actor) {
        return new Workplace(
                actor,
                new Workplace.Behind(
                        sites,
                        log,
                        intake,
                        board,
                        doorDesk,
                        people,
                        verdicts,
                        setup,
                        pairs,
                        devices,
                        lookouts,
                        translations,
                        changes,
                        transfer,
                        alarms,
                        alarmRules,
                        procedures,
                        messages,
                        clock));
    }

    /** Explains decisions at readers by what was on file then. */
    public DecisionExplainer explainer() {
        return new DecisionExplainer(rules, sites);
    }

    public ClockBook clocks() {
        return clocks;
    }

    public DoorBoard board() {
        return board;
    }

    public DoorDesk doorDesk() {
        return doorDesk;
    }

    public Verdicts verdicts() {
        return verdicts;
    }

    public VideoDesk video() {
        return video;
    }

    /** Doors to have on watch until an operator chooses; may be empty. */
    public List<DoorId> firstWatch() {
        return firstWatch;
    }

    public Clock clock() {
        return clock;
    }

    public java.nio.file.Path data() {
        return directory.path();
    }

    /** Who is told of alarms. */
    public MessageDesk messages() {
        return messages;
    }

    /** Where doors are paired with cameras. */
    public PairDesk pairs() {
        return pairs;
    }

    /** Where what systems have is put in its place. */
    public DeviceDesk devices() {
        return devices;
    }

    /** Looks for the cameras of doors. */
    public EvidenceSearch evidence() {
        return evidence;
    }

    @Override
    public void close() {
        pairs.close();
        evidence.close();
        video.close();
        links.close();
        alarms.close();
        dispatch.close();
        verdicts.close();
        doorDesk.close();
        board.close();
        checkpoints.close();
        intake.close();
        database.close();
        diagnostics.close();
        directory.close();
    }
}
