package org.custodia.desktop.desk;

import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.anyInt;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import java.io.IOException;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.Callable;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.TimeoutException;
import org.custodia.core.Patience;
import org.custodia.core.access.OnFile;
import org.custodia.core.access.PersonRegister;
import org.custodia.core.access.Verdicts;
import org.custodia.core.alarm.AlarmDesk;
import org.custodia.core.alarm.Known;
import org.custodia.core.alarm.ProcedureDesk;
import org.custodia.core.alarm.ProceduresInHand;
import org.custodia.core.alarm.Rule;
import org.custodia.core.alarm.RuleDesk;
import org.custodia.core.alarm.RulesInHand;
import org.custodia.core.command.DoorDesk;
import org.custodia.core.door.DoorBoard;
import org.custodia.core.door.MemoryCheckpoints;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.event.Snapshots;
import org.custodia.core.evidence.ClockMender;
import org.custodia.core.evidence.EvidenceSearch;
import org.custodia.core.evidence.Findings;
import org.custodia.core.evidence.Peeks;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.message.MessagesInHand;
import org.custodia.core.operator.Actor;
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
import org.custodia.core.site.Crop;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Side;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.Sites;
import org.custodia.core.site.SystemId;
import org.custodia.core.workplace.Workplace;
import org.custodia.desktop.Services;
import org.custodia.desktop.Work;
import org.custodia.desktop.call.Outside;
import org.custodia.desktop.settings.Settings;
import org.custodia.video.Pictures;
import org.testfx.api.FxToolkit;
import org.testfx.util.WaitForAsyncUtils;

/** A desk on a log in memory, with two doors, a camera and a clock that is set by hand. */
public final class DeskInHand implements AutoCloseable {
    public static final Instant NOW = Instant.parse("2026-11-24T14:20:00Z");
    public static final SystemId SYSTEM = new SystemId("tidewater");
    public static final DoorId VAULT = new DoorId("tidewater/vault");
    public static final DoorId STORE = new DoorId("tidewater/map-store");
    private static final SiteId HARBOUR = new SiteId("harbour");
    private static final CameraId CAMERA = new CameraId("quayside/vault-outside");

    public final MemoryLog log = new MemoryLog();
    public final PersonRegister people = mock(PersonRegister.class);
    public final Pictures pictures = mock(Pictures.class);
    public final SetupInHand setup = new SetupInHand(log);
    public final SentInHand sent = new SentInHand();
    public final DevicesInHand devices = new DevicesInHand(log);
    public final DoorDesk doorDesk = mock(DoorDesk.class);
    /** What was played and told beyond the window. */
    public final List<String> reached = new CopyOnWriteArrayList<>();
    /** While it is so no sound is played. */
    public volatile boolean mute;

    public final Desk desk;
    public final Peeks peeks = mock(Peeks.class);
    public final EvidenceSearch evidence;
    public final AlarmDesk alarms;
    public final RulesInHand ruleBook;
    public final MessagesInHand messages;
    public final ProceduresInHand procedures = new ProceduresInHand();
    private final DoorBoard board;
    private final Work work = new Work("desk in hand", 2);
    private volatile Instant now = NOW;

    /** One whose log holds nothing but what a test puts there. */
    public DeskInHand(Path directory) {
        this(directory, List.of());
    }

    /** One that raises alarms. */
    public DeskInHand(Path directory, List<Rule> rules) {
        try {
            FxToolkit.registerPrimaryStage();
        } catch (TimeoutException e) {
            throw new IllegalStateException(e);
        }
        Clock clock = mock(Clock.class);
        when(clock.instant()).thenAnswer(i -> now);
        when(pictures.now()).thenAnswer(i -> now);
        when(pictures.still(any(), any(), any(), any(), anyInt()))
                .thenReturn(CompletableFuture.failedFuture(new IllegalStateException("no picture")));
        when(doorDesk.listen(any())).thenReturn(() -> {});
        // What asks for now asks for what is known by now.
        when(people.credential(any(), any(), any(), any())).thenCallRealMethod();
        when(people.person(any(), any())).thenCallRealMethod();
        when(people.credential(any(), any(), any(), any(), any())).thenReturn(OnFile.notThen());
        when(people.person(any(), any(), any())).thenReturn(OnFile.notThen());
        Sites sites = DeskInHand::sites;
        board = new DoorBoard(log, new MemoryCheckpoints(log), log, sites, clock);
        evidence = new EvidenceSearch(log, sites, peeks, Findings.inMemory(), clock);
        alarms = new AlarmDesk(log, log, Snapshots.inMemory(), Known.of(sites::get), (d, c, r) -> {}, clock);
        messages = new MessagesInHand(alarms, log, sites, people, clock);
        ruleBook = new RulesInHand(rules);
        ruleBook.log = log;
        procedures.log = log;
        RuleDesk ruleDesk = new RuleDesk(ruleBook, alarms, log, Known.of(sites::get), ruleBook, clock);
        Workplace workplace = new Workplace(
                Actor.withAll("iv", "I. Vantongeren", "desk"),
                new Workplace.Behind(
                        sites,
                        log,
                        log,
                        board,
                        doorDesk,
                        people,
                        new Verdicts(log, log, Snapshots.inMemory(), sites, clock),
                        new SetupDesk(setup, setup, setup, log, clock),
                        new PairDesk(
                                setup,
                                sites,
                                log,
                                log,
                                Snapshots.inMemory(),
                                evidence,
                                new ClockMender(new ClockBook(), e -> {}),
                                setup,
                                clock),
                        new DeviceDesk(devices, sites, log, clock),
                        new LookoutDesk(devices, sites, mock(PairDesk.class), log, clock),
                        new TranslationDesk(sent, log, log),
                        new ChangeDesk(
                                devices,
                                most -> List.of(),
                                ChangeDesk.Others.none(),
                                new SetupDesk(setup, setup, setup, log, clock),
                                clock),
                        new TransferDesk(
                                new SetupDesk(setup, setup, setup, log, clock),
                                setup,
                                devices,
                                devices,
                                log,
                                setup.files,
                                clock),
                        alarms,
                        ruleDesk,
                        new ProcedureDesk(procedures, alarms, procedures, clock),
                        messages.desk,
                        clock));
        Outside outside = new Outside(
                (sound, rate) -> {
                    if (mute) {
                        throw new IOException("no loudspeaker");
                    }
                    reached.add("sound " + sound.length);
                },
                (title, words) -> reached.add(title + ": " + words));
        Services services = new Services(
                workplace,
                pictures,
                "Sternwick",
                true,
                clock,
                new ClockBook(),
                List.of(),
                List::of,
                Optional::empty,
                () -> true,
                List::of,
                file -> {},
                outside);
        desk = onFx(() -> new Desk(services, Settings.load(directory), work));
    }

    private static SiteModel sites() {
        return new SiteModel(
                List.of(new Site(HARBOUR, "Harbour", ZoneId.of("Europe/London"))),
                List.of(door(VAULT, "Vault"), door(STORE, "Map store")),
                List.of(new Camera(CAMERA, new SystemId("quayside"), "Vault outside", HARBOUR)),
                List.of(new Pairing(
                        VAULT,
                        CAMERA,
                        Side.ENTRY,
                        Pairing.View.OUTSIDE,
                        Duration.ofSeconds(4),
                        Crop.WHOLE,
                        Duration.ZERO)));
    }

    private static Door door(DoorId id, String name) {
        return new Door(
                id,
                SYSTEM,
                new ControllerId("tidewater/c1"),
                name,
                HARBOUR,
                "0",
                "a",
                "b",
                Duration.ofSeconds(30),
                Set.of(DoorCapability.CONTACT));
    }

    /** Lets time pass. */
    public void pass(Duration time) {
        now = now.plus(time);
    }

    public Instant now() {
        return now;
    }

    /** An event at a door. */
    public static Event event(long sequence, EventKind kind, DoorId door, Instant at) {
        return Event.of(new EventKey(SYSTEM, 1, sequence), kind, at).door(door).build();
    }

    /** Does something on the JavaFX thread, and all that follows from it there. */
    public static <T> T onFx(Callable<T> task) {
        T result = WaitForAsyncUtils.waitForAsyncFx(60_000, task);
        WaitForAsyncUtils.waitForFxEvents();
        return result;
    }

    /** Waits until something is so on the JavaFX thread. */
    public static void until(Callable<Boolean> so) {
        Patience.await().until(() -> onFx(so));
    }

    public static void onFx(Runnable task) {
        onFx(() -> {
            task.run();
            return null;
        });
    }

    @Override
    public void close() {
        messages.close();
        alarms.close();
        evidence.close();
        onFx(desk::close);
        work.close();
        board.close();
    }
}
