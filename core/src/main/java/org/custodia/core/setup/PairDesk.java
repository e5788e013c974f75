package org.custodia.core.setup;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.OnRecord;
import org.custodia.core.event.Snapshots;
import org.custodia.core.evidence.Candidate;
import org.custodia.core.evidence.ClockMender;
import org.custodia.core.evidence.EvidenceSearch;
import org.custodia.core.evidence.PictureLag;
import org.custodia.core.mishap.Threads;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.operator.Permission;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PairId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.Sites;
import org.custodia.core.site.SystemId;

/**
 * Where doors are paired with cameras, by hand or by what evidence proposes, and where it is kept whether somebody has tried a
 * pair. Each change is a version in the book and a line in the log. Two that set out from the same version do not both get
 * through.
 */
public final class PairDesk implements AutoCloseable {
    /** By then links are up, and whoever starts Custodia has what they came for. */
    private static final Duration FIRST_CHECK = Duration.ofMinutes(15);

    private static final Duration EACH = Duration.ofDays(1);
    /** By so many pairs a recorder's clock is compared with an access system's. */
    private static final int PAIRS_FOR_CLOCKS = 3;

    private final PairBook pairs;
    private final Sites sites;
    private final EventIntake intake;
    private final EvidenceSearch evidence;
    private final ClockMender mender;
    private final PairSheets sheets;
    private final Clock clock;
    private final PairJudgements judgements;
    private Optional<ScheduledExecutorService> daily = Optional.empty();

    /**
     * @param evidence looks for cameras; whoever made it closes it
     * @param mender corrects past clocks by measurements from pictures
     */
    public PairDesk(
            PairBook pairs,
            Sites sites,
            EventLog log,
            EventIntake intake,
            Snapshots snapshots,
            EvidenceSearch evidence,
            ClockMender mender,
            PairSheets sheets,
            Clock clock) {
        this.pairs = pairs;
        this.sites = sites;
        this.intake = intake;
        this.evidence = evidence;
        this.sheets = sheets;
        this.clock = clock;
        this.judgements = new PairJudgements(log, intake, snapshots);
        this.mender = mender;
        evidence.onCheck(this::judge);
        evidence.onMeasured(this::measured);
    }

    /** Looks once a day whether all pairs still hold, beginning after a while. */
    public synchronized void watch() {
        if (daily.isEmpty()) {
            ScheduledExecutorService clockwork =
                    Executors.newSingleThreadScheduledExecutor(Threads.factory("pairs, once a day"));
            clockwork.scheduleAtFixedRate(this::daily, FIRST_CHECK.toSeconds(), EACH.toSeconds(), TimeUnit.SECONDS);
            daily = Optional.of(clockwork);
        }
    }

    private void daily() {
        evidence.check(all());
        measureClocks();
    }

    private List<Pairing> all() {
        SiteModel model = sites.get();
        return model.doors().stream()
                .flatMap(d -> model.pairings(d.id()).stream())
                .toList();
    }

    /**
     * The pairs of a door, the most telling first.
     *
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not see what is set up there
     */
    public List<PairBook.Kept> pairs(DoorId door, Actor actor) {
        requireToLook(door, actor);
        SiteModel model = sites.get();
        // A camera that is gone belongs to no site any more.
        return pairs.of(door).stream()
                .filter(k -> maySee(k.pairing().camera(), actor)
                        || model.camera(k.pairing().camera()).isEmpty())
                .toList();
    }

    private void requireToLook(DoorId door, Actor actor) {
        if (!actor.mayLook(Permission.SET_UP, door(door).site())) {
            throw NotPermittedException.here(actor.name(), Permission.SET_UP.saying());
        }
    }

    private Door door(DoorId id) {
        return sites.get().door(id).orElseThrow(() -> new SetupException(Saying.of("setup.no-door", id.value())));
    }

    /**
     * Pairs a door with a camera that it is not paired with in that way.
     *
     * @return its version
     * @throws SetupException if door or camera are not there, or they are paired so already
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up where both are
     */
    public synchronized long pair(Pairing pairing, Actor actor) {
        Camera camera = mayPair(pairing, actor);
        if (pairs.of(pairing.door()).stream().anyMatch(k -> k.pairing().id().equals(pairing.id()))) {
            throw new SetupException(Saying.of("setup.pair-there", camera.name()));
        }
        return pairs.keep(pairing, pairs.version(pairing.id()), actor, change("added", pairing, actor));
    }

    /**
     * Changes a pair.
     *
     * @param basedOn the version that was looked at
     * @throws SetupException if door or camera are not there any more, or it is about another door or camera than it was
     * @throws org.custodia.core.event.EventLogException if somebody has changed it meanwhile
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up where both are
     */
    public synchronized long change(Pairing pairing, long basedOn, Actor actor) {
        mayPair(pairing, actor);
        Pairing before = thereIn(pairing.door(), pairing.id());
        if (!before.camera().equals(pairing.camera())) {
            throw new SetupException(Saying.of("setup.pair-other"));
        }
        return pairs.keep(pairing, basedOn, actor, change("changed", pairing, actor));
    }

    /**
     * Puts a pair before all others of its door: it is the one that is shown first.
     *
     * @throws SetupException if it is not there any more
     * @throws org.custodia.core.event.EventLogException if somebody has changed one of them meanwhile
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up where all of them are
     */
    public synchronized void first(Pairing pairing, Actor actor) {
        mayPair(pairing, actor);
        thereIn(pairing.door(), pairing.id());
        List<PairBook.Kept> order = new ArrayList<>(pairs.of(pairing.door()));
        order.sort(Comparator.comparing(k -> !k.pairing().id().equals(pairing.id())));
        pairs.order(order, actor, change("first", pairing, actor));
    }

    /**
     * Takes a pair off; what was paired then stays so for what is past.
     *
     * @throws SetupException if there is none
     * @throws org.custodia.core.event.EventLogException if somebody has changed it meanwhile
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up where both are
     */
    public synchronized void unpair(Pairing pairing, long basedOn, Actor actor) {
        Pairing before = thereIn(pairing.door(), pairing.id());
        actor.require(Permission.SET_UP, door(pairing.door()).site());
        pairs.end(before.id(), basedOn, actor, change("removed", before, actor));
    }

    private Pairing thereIn(DoorId door, PairId pair) {
        return pairs.of(door).stream()
                .map(PairBook.Kept::pairing)
                .filter(p -> p.id().equals(pair))
                .findFirst()
                .orElseThrow(() -> new SetupException(Saying.of("setup.no-pair")));
    }

    private Camera mayPair(Pairing pairing, Actor actor) {
        Camera camera = sites.get()
                .camera(pairing.camera())
                .orElseThrow(() -> new SetupException(
                        Saying.of("setup.no-camera", pairing.camera().value())));
        actor.require(Permission.SET_UP, door(pairing.door()).site());
        actor.require(Permission.SET_UP, camera.site());
        return camera;
    }

    private Event.Builder change(String change, Pairing pairing, Actor actor) {
        return change(change, pairing, actor, clock.instant());
    }

    /** The event recording what an operator did with a pair. */
    static Event.Builder change(String change, Pairing pairing, Actor actor, Instant now) {
        return OnRecord.setUp("pair", change, actor, now)
                .door(pairing.door())
                .detail("camera", pairing.camera().value())
                .detail("side", pairing.side().name())
                .detail("view", pairing.view().name());
    }

    // ---- Sheets

    /**
     * All pairs as a sheet, as far as the operator may see what is set up.
     *
     * @throws org.custodia.core.operator.NotPermittedException if that is nowhere
     */
    public byte[] sheet(PairSheets.Form form, Actor actor) {
        if (!actor.mayLookSomewhere(Permission.SET_UP)) {
            throw NotPermittedException.anywhere(actor.name(), Permission.SET_UP.saying());
        }
        SiteModel model = sites.get();
        List<PairSheets.Row> rows = new ArrayList<>();
        for (PairBook.Kept kept : there(actor)) {
            rows.add(PairPlan.row(rows.size() + 1, kept.pairing(), model));
        }
        return sheets.write(rows, form);
    }

    private List<PairBook.Kept> there(Actor actor) {
        return sites.get().doors().stream()
                .filter(d -> actor.mayLook(Permission.SET_UP, d.site()))
                .flatMap(d -> pairs.of(d.id()).stream())
                .toList();
    }

    /**
     * Says what a sheet would change, and changes nothing.
     *
     * @throws SetupException if it is no sheet
     * @throws org.custodia.core.operator.NotPermittedException if the operator may set up nowhere
     */
    public PairPlan plan(byte[] sheet, Actor actor) {
        requireSomewhere(actor);
        return PairPlan.of(sheets.read(sheet), there(actor), sites.get());
    }

    /**
     * Does what a plan says, all of it or nothing.
     *
     * @param alsoAbsent whether pairs that are not on the sheet are taken off
     * @return how many pairs were changed
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up where all of them are
     * @throws org.custodia.core.event.EventLogException if somebody has changed one meanwhile, or it cannot be written
     */
    public synchronized int carryOut(PairPlan plan, boolean alsoAbsent, Actor actor) {
        List<PairBook.Edit> edits = new ArrayList<>();
        List<Event.Builder> facts = new ArrayList<>();
        for (Pairing p : plan.added()) {
            mayPair(p, actor);
            edits.add(new PairBook.Edit(p.id(), Optional.of(p), pairs.version(p.id())));
            facts.add(change("added", p, actor));
        }
        for (Pairing p : plan.changed()) {
            mayPair(p, actor);
            edits.add(new PairBook.Edit(p.id(), Optional.of(p), plan.versions().get(p.id())));
            facts.add(change("changed", p, actor));
        }
        for (Pairing p : alsoAbsent ? plan.absent() : List.<Pairing>of()) {
            actor.require(Permission.SET_UP, door(p.door()).site());
            edits.add(
                    new PairBook.Edit(p.id(), Optional.empty(), plan.versions().get(p.id())));
            facts.add(change("removed", p, actor));
        }
        if (!edits.isEmpty()) {
            pairs.keepAll(edits, actor, facts);
        }
        return edits.size();
    }

    // ---- By evidence

    /**
     * Looks for the cameras of doors, in the background.
     *
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up where the doors are
     */
    public void look(Collection<DoorId> doors, Actor actor) {
        doors.forEach(d -> actor.require(Permission.SET_UP, door(d).site()));
        evidence.look(doors);
    }

    /**
     * Asks recorders for nothing more, until it goes on.
     *
     * @throws org.custodia.core.operator.NotPermittedException if the operator may set up nowhere
     */
    public void pauseLooking(boolean paused, Actor actor) {
        requireSomewhere(actor);
        if (paused) {
            evidence.pause();
        } else {
            evidence.resume();
        }
    }

    /** Looks for nothing more; what was found stays. Otherwise the same. */
    public void stopLooking(Actor actor) {
        requireSomewhere(actor);
        evidence.stop();
    }

    private void requireSomewhere(Actor actor) {
        if (sites.get().sites().stream().noneMatch(s -> actor.may(Permission.SET_UP, s.id()))) {
            throw NotPermittedException.anywhere(actor.name(), Permission.SET_UP.saying());
        }
    }

    /** How far looking for cameras has come, as far as the operator may see where. */
    public EvidenceSearch.Progress looking(Actor actor) {
        EvidenceSearch.Progress all = evidence.progress();
        return new EvidenceSearch.Progress(
                all.running(),
                all.paused(),
                all.doors(),
                all.ofDoors(),
                all.stills(),
                all.now().filter(d -> sites.get()
                        .door(d)
                        .filter(x -> actor.mayLook(Permission.SET_UP, x.site()))
                        .isPresent()),
                all.cameras(),
                all.ofCameras(),
                all.left());
    }

    /**
     * What was found for a door, without what somebody refused or what is paired; nothing where it was not looked for.
     *
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not see what is set up there
     */
    public Optional<EvidenceSearch.Result> found(DoorId door, Actor actor) {
        List<CameraId> known =
                pairs(door, actor).stream().map(k -> k.pairing().camera()).toList();
        return evidence.of(door)
                .map(r -> r.with(
                        r.cameras().stream()
                                .filter(c -> !known.contains(c.camera()) && !judgements.refused(door, c.camera()))
                                .filter(c -> maySee(c.camera(), actor))
                                .toList(),
                        r.cameras().stream()
                                .filter(c -> known.contains(c.camera()))
                                .filter(c -> c.confidence() == Candidate.Confidence.SURE
                                        || c.confidence() == Candidate.Confidence.LIKELY)
                                .map(Candidate::camera)
                                .toList()));
    }

    /**
     * A camera that evidence found for a door and that no operator has paired or refused yet.
     *
     * @param candidate sure or likely
     */
    public record Proposal(DoorId door, Candidate candidate) {}

    /**
     * Undecided proposals at sites that the operator may set up; for each door sure ones first.
     */
    public List<Proposal> proposed(Actor actor) {
        SiteModel model = sites.get();
        List<Proposal> all = new ArrayList<>();
        evidence.found().forEach((id, candidates) -> {
            Optional<Door> door = model.door(id).filter(d -> actor.may(Permission.SET_UP, d.site()));
            if (door.isPresent()) {
                List<CameraId> paired =
                        model.pairings(id).stream().map(Pairing::camera).toList();
                candidates.stream()
                        .filter(c -> c.confidence() == Candidate.Confidence.SURE
                                || c.confidence() == Candidate.Confidence.LIKELY)
                        .filter(c -> !paired.contains(c.camera()) && !judgements.refused(id, c.camera()))
                        .filter(c -> model.camera(c.camera())
                                .filter(x -> actor.may(Permission.SET_UP, x.site()))
                                .isPresent())
                        .forEach(c -> all.add(new Proposal(id, c)));
            }
        });
        return all;
    }

    /**
     * Pairs all sure proposals in one commit. A camera whose side of the door is unknown becomes an overview.
     *
     * @return how many pairs were made
     * @throws org.custodia.core.operator.NotPermittedException if the operator may set up nowhere
     * @throws org.custodia.core.event.EventLogException if it cannot be written; nothing is paired then
     */
    public synchronized int takeSure(Actor actor) {
        requireSomewhere(actor);
        List<PairBook.Edit> edits = new ArrayList<>();
        List<Event.Builder> facts = new ArrayList<>();
        for (Proposal proposal : proposed(actor)) {
            Candidate candidate = proposal.candidate();
            if (candidate.confidence() == Candidate.Confidence.SURE) {
                Pairing.View view = candidate.view().orElse(Pairing.View.OVERVIEW);
                Pairing pairing = Pairing.of(proposal.door(), candidate.camera(), view);
                edits.add(new PairBook.Edit(pairing.id(), Optional.of(pairing), pairs.version(pairing.id())));
                facts.add(change("added", pairing, actor));
            }
        }
        if (!edits.isEmpty()) {
            pairs.keepAll(edits, actor, facts);
        }
        return edits.size();
    }

    private boolean maySee(CameraId camera, Actor actor) {
        return sites.get()
                .camera(camera)
                .filter(c -> actor.mayLook(Permission.SET_UP, c.site()))
                .isPresent();
    }

    /**
     * Keeps that a camera that was proposed does not show a door, so that it is not proposed again.
     *
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up there
     */
    public CompletableFuture<Event> refuse(DoorId door, CameraId camera, Actor actor) {
        actor.require(Permission.SET_UP, door(door).site());
        return intake.record(OnRecord.setUp("pair", PairJudgements.REFUSED, actor, clock.instant())
                .door(door)
                .detail("camera", camera.value()));
    }

    /** Whether somebody said that a camera does not show a door. */
    boolean refused(DoorId door, CameraId camera) {
        return judgements.refused(door, camera);
    }

    // ---- Trials

    /**
     * Keeps what somebody said of a pair when they tried it.
     *
     * @throws SetupException if there is no such pair
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up there
     */
    public CompletableFuture<Event> tried(DoorId door, Trial trial, Actor actor) {
        actor.require(Permission.SET_UP, door(door).site());
        thereIn(door, trial.pair());
        return intake.record(
                trial.onRecord(OnRecord.by(actor, Trial.KIND, clock.instant()).door(door)));
    }

    /**
     * What came of the latest trial of a door's pair, if it was ever tried.
     *
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not see what is set up there
     */
    public Optional<Trial> trial(DoorId door, PairId pair, Actor actor) {
        requireToLook(door, actor);
        return judgements.trial(pair);
    }

    /** The latest trial of what is named as a pair, whatever it shows; nothing is asked of permissions. */
    Optional<Trial> trialOf(PairId pair) {
        return judgements.trial(pair);
    }

    // ---- Whether pairs still hold

    private void judge(EvidenceSearch.Check check) {
        boolean doubted = judgements.doubted(check.door(), check.camera());
        boolean paired = sites.get().pairings(check.door()).stream()
                .anyMatch(p -> p.camera().equals(check.camera()));
        if (paired && check.holds() == EvidenceSearch.Holds.NO && !doubted) {
            tell(Kinds.PAIR_IN_DOUBT, check);
        } else if (check.holds() == EvidenceSearch.Holds.YES && doubted) {
            tell(Kinds.PAIR_HOLDS, check);
        }
    }

    private void tell(EventKind kind, EvidenceSearch.Check check) {
        intake.record(Event.of(new EventKey(SystemId.CUSTODIA, 1, 0), kind, clock.instant())
                .door(check.door())
                .detail("camera", check.camera().value())
                .detail("looked", Integer.toString(check.openings().size()))
                .detail("moved", Integer.toString(check.moved())));
    }

    /**
     * Looks now whether all pairs still hold, where the operator may set up.
     *
     * @throws org.custodia.core.operator.NotPermittedException if that is nowhere
     */
    public void check(Actor actor) {
        requireSomewhere(actor);
        evidence.check(all().stream()
                .filter(p -> actor.may(Permission.SET_UP, door(p.door()).site()))
                .toList());
    }

    // ---- What pictures say of clocks

    /**
     * What the pictures of a camera say of its recorder's clock against that of an access system.
     *
     * @param lag how much later pictures show doors opening than their contacts say, both clocks corrected by what was measured
     *     over the network
     * @param pairs from so many pairs
     * @param when the latest of them was looked at
     */
    public record ClockLag(
            CameraId camera, SystemId recorder, SystemId access, PictureLag.Lag lag, int pairs, Instant when) {
        /** Pictures and doors may be this far apart, since doors move before contacts tell, and pictures come ten times a second. */
        public static final Duration AGREES = Duration.ofMillis(400);

        /** What follows from it. */
        public enum Agreement {
            /** All that it may be lies within what is allowed. */
            AGREES,
            /** All that it may be lies beyond. */
            DISAGREES,
            /** It may be either. */
            UNDECIDED
        }

        /** Whether pictures and network say the same, as far as that is proven. */
        public Agreement agreement() {
            Duration low = lag.low();
            Duration high = lag.high();
            if (low.compareTo(AGREES.negated()) >= 0 && high.compareTo(AGREES) <= 0) {
                return Agreement.AGREES;
            }
            return low.compareTo(AGREES) > 0 || high.compareTo(AGREES.negated()) < 0
                    ? Agreement.DISAGREES
                    : Agreement.UNDECIDED;
        }
    }

    /**
     * Compares clocks by pictures, in the background: by some pairs of each recorder and access system.
     *
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up everywhere
     */
    public void measureClocks(Actor actor) {
        actor.requireEverywhere(Permission.SET_UP);
        measureClocks();
    }

    private void measureClocks() {
        Map<String, List<Pairing>> between = new TreeMap<>();
        for (Pairing pair : all()) {
            between(pair)
                    .ifPresent(b -> between.computeIfAbsent(b.recorder() + " " + b.access(), k -> new ArrayList<>())
                            .add(pair));
        }
        // From inside nobody stands before the door until it opens.
        SiteModel model = sites.get();
        between.values().forEach(all -> {
            List<Pairing> some = all.stream()
                    .sorted(Comparator.comparing(p -> p.view() != Pairing.View.INSIDE))
                    .limit(PAIRS_FOR_CLOCKS)
                    .toList();
            evidence.measure(some);
            model.camera(some.get(0).camera())
                    .flatMap(c -> mender.unmeasured(c.recorder(), clock.instant()))
                    .ifPresent(to -> evidence.measure(some, to.minus(EACH), to));
        });
    }

    /** Corrects a clock for the time before its first measurement by what pictures show. */
    private void measured(EvidenceSearch.Measured measured) {
        sites.get().camera(measured.camera()).ifPresent(c -> mender.take(c.recorder(), measured));
    }

    private record Between(SystemId recorder, SystemId access) {}

    private Optional<Between> between(Pairing pair) {
        SiteModel model = sites.get();
        return model.camera(pair.camera()).flatMap(c -> model.door(pair.door())
                .filter(d -> d.can(DoorCapability.CONTACT))
                .map(d -> new Between(c.recorder(), d.system())));
    }

    /**
     * What pictures said of clocks.
     *
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not see what is set up everywhere
     */
    public List<ClockLag> clockLags(Actor actor) {
        actor.requireToLookEverywhere(Permission.SET_UP);
        SiteModel model = sites.get();
        Map<String, List<EvidenceSearch.Measured>> by = new TreeMap<>();
        Map<String, Between> names = new TreeMap<>();
        for (EvidenceSearch.Measured m : evidence.measured()) {
            if (m.to().isBefore(m.when().minus(EACH))) {
                // It is about the time before the clock was measured.
                continue;
            }
            Optional<Pairing> pair = model.pairings(m.door()).stream()
                    .filter(p -> p.camera().equals(m.camera()))
                    .findFirst();
            pair.filter(p -> m.lag().isPresent()).flatMap(this::between).ifPresent(b -> {
                String key = b.recorder() + " " + b.access() + " " + m.camera();
                names.put(key, b);
                by.computeIfAbsent(key, k -> new ArrayList<>()).add(m);
            });
        }
        return by.entrySet().stream()
                .map(e -> new ClockLag(
                        e.getValue().get(0).camera(),
                        names.get(e.getKey()).recorder(),
                        names.get(e.getKey()).access(),
                        PictureLag.Lag.of(e.getValue().stream()
                                .map(m -> m.lag().orElseThrow())
                                .toList()),
                        e.getValue().size(),
                        e.getValue().stream()
                                .map(EvidenceSearch.Measured::when)
                                .max(Comparator.naturalOrder())
                                .orElseThrow()))
                .toList();
    }

    /** Whether nothing moves any more in a camera's picture when its door opens. */
    public boolean doubted(DoorId door, CameraId camera, Actor actor) {
        requireToLook(door, actor);
        return judgements.doubted(door, camera);
    }

    /** The same without a check of permissions. */
    public boolean doubted(DoorId door, CameraId camera) {
        return judgements.doubted(door, camera);
    }

    /** What the latest look at a pair said, if it was looked at since the start. */
    public Optional<EvidenceSearch.Check> checked(DoorId door, CameraId camera, Actor actor) {
        requireToLook(door, actor);
        return evidence.checked(door, camera);
    }

    @Override
    public synchronized void close() {
        evidence.onCheck(check -> {});
        evidence.onMeasured(measured -> {});
        daily.ifPresent(ExecutorService::shutdownNow);
        judgements.close();
    }
}
