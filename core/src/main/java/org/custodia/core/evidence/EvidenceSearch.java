package org.custodia.core.evidence;

import java.io.IOException;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.Comparator;
import java.util.Deque;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.function.Consumer;
import java.util.function.Predicate;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventLogException;
import org.custodia.core.evidence.Candidate.Confidence;
import org.custodia.core.mishap.Threads;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.Sites;
import org.custodia.core.site.SystemId;

/**
 * Looks for the cameras of doors, in the background: asks recorders for stills of when a door opened, a few a second of each,
 * and stops with a camera as soon as it is decided. What came of it is kept beside the log.
 */
public final class EvidenceSearch implements AutoCloseable {
    /** From one question to the same recorder to the next. */
    public static final Duration PACE = Duration.ofMillis(160);

    /** So many of the latest openings tell whether a pair still holds. */
    private static final int CHECKED_OPENINGS = 6;

    private static final int CHECK_QUIETS = 4;
    /** A pair is in doubt only when its openings are this unlikely: hundreds are looked at each day, and cameras do miss some. */
    private static final double GONE = 1e-4;
    /** It holds when it is so many times likelier than not. */
    private static final double STILL_THERE = 20;
    /** By so many openings clocks are compared. */
    private static final int MEASURED_OPENINGS = 18;

    /** So many openings of a door are looked at, at most. */
    private static final int MOST_OPENINGS = 12;

    /** How often a camera is looked at when nothing opens, once something moved in it. */
    private static final int QUIETS = 10;

    /** How often, where it was looked at for other doors before. */
    private static final int SWEPT_QUIETS = 8;

    private static final int MORE_SWEPT_QUIETS = 15;

    /** How often, where openings alone leave it likely and no more. */
    private static final int MORE_QUIETS = 25;
    /** How far back openings are looked for. */
    private static final Duration BACK = Duration.ofDays(14);
    /** Footage of what is younger may not be there yet. */
    private static final Duration FRESH = Duration.ofSeconds(90);

    /** What came of a door. */
    public enum Outcome {
        /** It waits for its turn. */
        WAITING,
        /** It is being looked at. */
        LOOKING,
        /** All that there is was looked at. */
        DONE,
        /** It has no contact, so nobody knows when it opened. */
        NO_CONTACT,
        /** It did not open of late, as far as is known. */
        NO_OPENINGS,
        /** It did not open of late, but its system's history is still being read, or it cannot be reached. */
        NOT_READ_YET,
        /** No camera gave a picture of when it opened. */
        NO_PICTURES,
        /** It was stopped before. */
        STOPPED
    }

    /**
     * What is known of a door.
     *
     * @param cameras those that may show it, the likeliest first
     * @param asked of how many cameras there were pictures to look at
     * @param of how many could be asked
     * @param openings at how many openings was looked
     * @param paired those of the cameras that are paired with the door already and do show it
     * @param when it was told
     */
    public record Result(
            Outcome outcome,
            List<Candidate> cameras,
            int asked,
            int of,
            int openings,
            List<CameraId> paired,
            Instant when) {
        public Result {
            cameras = List.copyOf(cameras);
            paired = List.copyOf(paired);
        }

        /** The same with other cameras. */
        public Result with(List<Candidate> others, List<CameraId> alreadyPaired) {
            return new Result(outcome, others, asked, of, openings, alreadyPaired, when);
        }
    }

    /**
     * How far it has come.
     *
     * @param doors so many doors are done
     * @param ofDoors of so many
     * @param stills so many stills were asked for
     * @param now the door that is looked at
     * @param cameras of so many cameras it was looked which door they may show, before doors are looked at one by one
     * @param ofCameras of so many; none where that is not done
     * @param left how long it will take still, roughly; nothing while that cannot be told
     */
    public record Progress(
            boolean running,
            boolean paused,
            int doors,
            int ofDoors,
            long stills,
            Optional<DoorId> now,
            int cameras,
            int ofCameras,
            Optional<Duration> left) {}

    /** Whether a pair still shows what it did. */
    public enum Holds {
        /** Something moves in its picture when its door opens. */
        YES,
        /** Nothing does any more: it was turned, or its cable swapped, or its recorder mixes cameras up. */
        NO,
        /** Too little happened, or there were no pictures. */
        OPEN
    }

    /**
     * What a look at a pair's latest openings said.
     *
     * @param openings those that were looked at, the latest first
     * @param moved at how many of them something moved
     * @param before openings of the days before, to compare with, where it does not hold
     */
    public record Check(
            Holds holds,
            DoorId door,
            CameraId camera,
            List<KnownOpening> openings,
            int moved,
            List<KnownOpening> before,
            Instant when) {}

    /**
     * How much later a pair's camera shows its door opening than the door's contact says.
     *
     * @param lag nothing where too little was seen to tell
     * @param from openings were looked at from then on
     * @param to and until then
     */
    public record Measured(
            DoorId door, CameraId camera, Optional<PictureLag.Lag> lag, Instant from, Instant to, Instant when) {}

    /** Of so many doors at least it is first looked, for each camera, which of them it may show. */
    private static final int SWEPT_FROM = 8;
    /** So many cameras that seem to show another door, or none, are asked about a door all the same. */
    private static final int MOST_OTHERS = 150;
    /** So many cameras are tried for being late when no camera shows a door, at most. */
    private static final int MOST_LATE = 40;
    /** A camera with the name of more doors than this has no name that says something. */
    private static final int MOST_ALIKE = 3;
    /** So many stills of a camera and of a door are reckoned with, until some were looked at. */
    private static final double RECKONED_STILLS = 25;

    private record Couple(DoorId door, CameraId camera) {}

    private record Wanted(Couple couple, Instant from, Instant to) {}

    /**
     * How far it is with a door.
     *
     * @param then the cameras as they were when it was done with, also in a process before: what was seen of them may be
     *     forgotten since
     */
    private record Found(Outcome outcome, int asked, int of, int openings, Instant when, List<Candidate> then) {}

    private final Sites sites;
    private final Peeks peeks;
    private final Clock clock;
    private final Duration pace;
    private final boolean byNames;
    private final Openings openings;
    private final Findings findings;
    private final PairEvidence evidence = new PairEvidence();
    private final Map<DoorId, Found> found = new HashMap<>();
    /** Doors of which something else is known than is kept. */
    private final Set<DoorId> unkept = new LinkedHashSet<>();

    private final Map<SystemId, Long> nextAt = new HashMap<>();
    private final Deque<DoorId> waiting = new ArrayDeque<>();
    private final PairEvidence lately = new PairEvidence();
    private final Deque<Couple> toCheck = new ArrayDeque<>();
    private final Map<Couple, Check> checks = new HashMap<>();
    private volatile Consumer<Check> checked = check -> {};
    private final Deque<Wanted> toMeasure = new ArrayDeque<>();
    private final Map<Couple, Measured> measured = new HashMap<>();
    private volatile Consumer<Measured> onMeasured = one -> {};
    private volatile Predicate<SystemId> read = system -> true;
    /** How much later than doors cameras show what they see, where that was found. */
    private final Map<CameraId, Duration> late = new HashMap<>();

    private final Map<DoorId, List<CameraId>> leads = new ConcurrentHashMap<>();
    /** Pairs of which it was once tried whether their camera is late. */
    private final Set<Couple> unclearOnes = new HashSet<>();

    /** Cameras that show a door, or seem to. */
    private final Set<CameraId> led = ConcurrentHashMap.newKeySet();
    /** Doors whose leads were all wrong; they wait until the leads of all other doors have been followed. */
    private final Set<DoorId> postponed = new HashSet<>();

    private Optional<Sweep> sweep = Optional.empty();
    private final Set<DoorId> swept = ConcurrentHashMap.newKeySet();
    private final Thread thread;
    private Optional<DoorId> now = Optional.empty();
    private boolean paused;
    private boolean unwanted;
    private boolean closed;
    private int done;
    private int ofDoors;
    private int cameras;
    private int ofCameras;
    private long stills;
    /** When the last still was asked for, or waiting for the next began; 0 while nothing is under way. */
    private long began;
    /** How many stills were asked for, and how long that took, while cameras or doors were looked at one by one. */
    private final Pace perCamera = new Pace();

    private final Pace perDoor = new Pace();
    private long nanosBusy;

    /** Starts nothing yet. */
    public EvidenceSearch(EventLog log, Sites sites, Peeks peeks, Findings findings, Clock clock) {
        this(log, sites, peeks, findings, clock, PACE, true);
    }

    /**
     * The same.
     *
     * @param pace from one question to the same recorder to the next
     * @param byNames whether cameras of a like name are asked first
     */
    public EvidenceSearch(
            EventLog log, Sites sites, Peeks peeks, Findings findings, Clock clock, Duration pace, boolean byNames) {
        this.sites = sites;
        this.peeks = peeks;
        this.clock = clock;
        this.pace = pace;
        this.byNames = byNames;
        this.openings = new Openings(log);
        this.findings = findings;
        findings.all().forEach((door, r) -> found.put(door, ofBefore(r)));
        this.thread = Threads.daemon("evidence", this::run);
        thread.start();
    }

    /** What was under way when the process ended was stopped by that. */
    private static Found ofBefore(Result r) {
        boolean going = r.outcome() == Outcome.WAITING || r.outcome() == Outcome.LOOKING;
        return new Found(going ? Outcome.STOPPED : r.outcome(), r.asked(), r.of(), r.openings(), r.when(), r.cameras());
    }

    private void put(DoorId door, Outcome outcome, int asked, int of, int known) {
        found.put(door, new Found(outcome, asked, of, known, clock.instant(), List.of()));
        unkept.add(door);
    }

    /** Keeps what was found since the last time. What cannot be kept now is kept the next time. */
    private void keep() {
        Set<DoorId> doors;
        synchronized (this) {
            doors = new LinkedHashSet<>(unkept);
            unkept.clear();
        }
        if (doors.isEmpty()) {
            return;
        }
        Map<DoorId, Result> all = new LinkedHashMap<>();
        doors.forEach(d -> of(d).ifPresent(r -> all.put(d, r)));
        try {
            findings.keep(all);
        } catch (EventLogException e) {
            synchronized (this) {
                unkept.addAll(doors);
            }
            Threads.stumbled(e);
        }
    }

    /** Looks for the cameras of some doors, after those that are being looked for. */
    public synchronized void look(Collection<DoorId> doors) {
        if (waiting.isEmpty() && now.isEmpty()) {
            done = 0;
            ofDoors = 0;
            cameras = 0;
            ofCameras = 0;
            stills = 0;
            nanosBusy = 0;
        }
        for (DoorId door : doors) {
            if (!waiting.contains(door) && !now.equals(Optional.of(door))) {
                waiting.add(door);
                ofDoors++;
                swept.remove(door);
                postponed.remove(door);
                // Its cameras may show something else by now.
                Optional.ofNullable(leads.remove(door)).ifPresent(led::removeAll);
                evidence.forget(door);
                put(door, Outcome.WAITING, 0, 0, 0);
            }
        }
        notifyAll();
    }

    /**
     * Looks whether pairs still show their doors, by the openings of the last day, when there is nothing else to look for.
     */
    public synchronized void check(Collection<Pairing> pairs) {
        queue(pairs.stream().map(p -> new Couple(p.door(), p.camera())).toList(), toCheck);
    }

    /** Measures how much later pictures are than doors, by the openings of the last day, after all else. */
    public void measure(Collection<Pairing> pairs) {
        Instant to = clock.instant().minus(FRESH);
        measure(pairs, to.minus(Duration.ofDays(1)), to);
    }

    /** The same, by the openings of some span. */
    public synchronized void measure(Collection<Pairing> pairs, Instant from, Instant to) {
        queue(
                pairs.stream()
                        .map(p -> new Wanted(new Couple(p.door(), p.camera()), from, to))
                        .toList(),
                toMeasure);
    }

    private <T> void queue(Collection<T> some, Deque<T> behind) {
        some.stream().filter(c -> !behind.contains(c)).distinct().toList().forEach(behind::add);
        notifyAll();
    }

    /** Tells of each measurement, on a thread of its own. */
    public void onMeasured(Consumer<Measured> told) {
        onMeasured = told;
    }

    /**
     * Says of which systems all that they have stored is here.
     *
     * @param all must return quickly
     */
    public void historyRead(Predicate<SystemId> all) {
        read = all;
    }

    /** What was measured so. */
    public synchronized List<Measured> measured() {
        return List.copyOf(measured.values());
    }

    /** What the latest look at a pair said; nothing where it was not looked at. */
    public synchronized Optional<Check> checked(DoorId door, CameraId camera) {
        return Optional.ofNullable(checks.get(new Couple(door, camera)));
    }

    /** Tells of each look at a pair, on a thread of its own. */
    public void onCheck(Consumer<Check> told) {
        checked = told;
    }

    /** Asks nothing more until {@link #resume}. */
    public synchronized void pause() {
        paused = true;
    }

    public synchronized void resume() {
        paused = false;
        notifyAll();
    }

    /** Looks for nothing more. What was found stays. */
    public synchronized void stop() {
        waiting.forEach(d -> put(d, Outcome.STOPPED, 0, 0, 0));
        waiting.clear();
        toCheck.clear();
        toMeasure.clear();
        unwanted = now.isPresent();
        paused = false;
        notifyAll();
    }

    /** How far it has come. */
    public synchronized Progress progress() {
        return new Progress(
                now.isPresent() || !waiting.isEmpty() || !toCheck.isEmpty() || !toMeasure.isEmpty(),
                paused,
                done,
                ofDoors,
                stills,
                now,
                cameras,
                ofCameras,
                left());
    }

    private Optional<Duration> left() {
        if (now.isEmpty() && waiting.isEmpty() && cameras >= ofCameras) {
            return Optional.empty();
        }
        if (stills < RECKONED_STILLS) {
            return Optional.empty();
        }
        double more = Math.max(0, ofCameras - cameras) * perCamera.each(RECKONED_STILLS)
                + Math.max(0, ofDoors - done) * perDoor.each(RECKONED_STILLS);
        double each = Math.max(pace.toNanos(), nanosBusy / (double) stills);
        return Optional.of(Duration.ofNanos(Math.round(more * each)));
    }

    /** How many stills something takes, by what it took so far. */
    private static final class Pace {
        private long stills;
        private int times;

        void took(long some) {
            stills += some;
            times++;
        }

        double each(double reckoned) {
            return (stills + reckoned) / (times + 1);
        }
    }

    /** What came of a door; nothing where it was not looked for. */
    public Optional<Result> of(DoorId door) {
        Found here;
        synchronized (this) {
            here = found.get(door);
        }
        if (here == null) {
            return Optional.empty();
        }
        List<Candidate> cameras = Stream.concat(
                        evidence.candidates(door, here.of()).stream(),
                        here.then().stream().filter(c -> evidence.looked(door, c.camera()) == 0))
                .sorted(Candidate.LIKELIEST_FIRST)
                .toList();
        return Optional.of(
                new Result(here.outcome(), cameras, here.asked(), here.of(), here.openings(), List.of(), here.when()));
    }

    /** The cameras that were found for each door that was looked at to the end, the likeliest first. */
    public synchronized Map<DoorId, List<Candidate>> found() {
        Map<DoorId, List<Candidate>> all = new HashMap<>();
        found.forEach((door, f) -> {
            if (f.outcome() == Outcome.DONE && !f.then().isEmpty()) {
                all.put(door, f.then());
            }
        });
        return all;
    }

    private void run() {
        while (true) {
            Optional<DoorId> door;
            Optional<Couple> couple;
            Optional<Wanted> measurement;
            boolean sweeps;
            boolean ended = true;
            synchronized (this) {
                while (waiting.isEmpty() && toCheck.isEmpty() && toMeasure.isEmpty() && !closed) {
                    try {
                        wait();
                    } catch (InterruptedException e) {
                        return;
                    }
                }
                if (closed) {
                    return;
                }
                sweeps = waiting.stream().filter(d -> !swept.contains(d)).count() >= SWEPT_FROM;
                door = sweeps ? Optional.empty() : Optional.ofNullable(waiting.poll());
                couple = sweeps || door.isPresent() ? Optional.empty() : Optional.ofNullable(toCheck.poll());
                measurement = sweeps || door.isPresent() || couple.isPresent()
                        ? Optional.empty()
                        : Optional.of(toMeasure.poll());
                now = sweeps
                        ? Optional.of(waiting.peek())
                        : door.or(() ->
                                couple.or(() -> measurement.map(Wanted::couple)).map(Couple::door));
                unwanted = false;
                door.ifPresent(d -> put(d, Outcome.LOOKING, 0, 0, 0));
            }
            long before = stills();
            try {
                keep();
                if (sweeps) {
                    sweep();
                } else if (door.isPresent()) {
                    ended = new OneDoor(door.get()).look();
                } else if (couple.isPresent()) {
                    check(couple.get());
                } else {
                    measure(measurement.orElseThrow());
                }
            } catch (InterruptedException e) {
                door.ifPresent(d -> end(d, Outcome.STOPPED));
                synchronized (this) {
                    if (closed) {
                        return;
                    }
                }
            } catch (RuntimeException e) {
                door.ifPresent(d -> end(d, Outcome.STOPPED));
                Threads.stumbled(e);
            } finally {
                Optional<DoorId> settled = ended ? door : Optional.empty();
                settled.ifPresent(this::settle);
                couple.ifPresent(c -> lately.settle(c.door(), 1));
                synchronized (this) {
                    now = Optional.empty();
                    began = 0;
                    if (settled.isPresent()) {
                        done++;
                        perDoor.took(stills - before);
                    }
                }
            }
        }
    }

    private synchronized long stills() {
        return stills;
    }

    /** Looks for each camera which of the doors that wait it may show, so that these are asked first. */
    private void sweep() throws InterruptedException {
        SiteModel model = sites.get();
        List<Door> doors;
        synchronized (this) {
            doors = waiting.stream()
                    .filter(d -> !swept.contains(d))
                    .flatMap(d -> model.door(d).stream())
                    .filter(d -> d.can(DoorCapability.CONTACT))
                    .toList();
            swept.addAll(waiting);
        }
        Instant to = clock.instant().minus(FRESH);
        Map<DoorId, List<Openings.Span>> opened = openings.latest(doors, to.minus(BACK), to);
        Map<DoorId, List<KnownOpening>> known = new HashMap<>();
        Map<Instant, List<Instant>> quiet = new HashMap<>();
        Map<SiteId, List<DoorId>> bySite = doors.stream()
                .collect(Collectors.groupingBy(Door::site, Collectors.mapping(Door::id, Collectors.toList())));
        List<Camera> some = model.cameras().stream()
                .filter(c -> !led.contains(c.id()))
                .sorted(Comparator.comparing(c -> c.id().value()))
                .toList();
        Sweep all = new Sweep(
                opened,
                new Sweep.Known() {
                    @Override
                    public List<KnownOpening> best(DoorId door) {
                        return known.computeIfAbsent(
                                door, d -> known(model.door(d).orElseThrow()));
                    }

                    @Override
                    public KnownOpening at(DoorId door, Instant opened) {
                        return openings.known(model.door(door).orElseThrow(), opened);
                    }
                },
                at -> quiet.computeIfAbsent(at, x -> openings.quiet(doors.get(0), model, x, Sweep.USUAL)),
                this::glimpse,
                evidence);

        sweep = Optional.of(all);
        synchronized (this) {
            cameras = 0;
            ofCameras = some.size();
        }
        try {
            for (Camera camera : some) {
                long before = stills();
                all.of(
                                camera,
                                byNames ? alike(camera, doors) : List.of(),
                                bySite.getOrDefault(camera.site(), List.of()))
                        .ifPresent(this::take);
                synchronized (this) {
                    cameras++;
                    perCamera.took(stills - before);
                }
            }
        } finally {
            synchronized (this) {
                ofCameras = cameras;
            }
        }
    }

    private List<KnownOpening> known(Door door) {
        Instant to = clock.instant().minus(FRESH);
        return openings.of(door, to.minus(BACK), to, MOST_OPENINGS);
    }

    /** Doors with more words in common with a camera than any other. */
    private static List<DoorId> alike(Camera camera, List<Door> doors) {
        Set<String> like = Set.copyOf(words(camera.name()));
        Map<Long, List<DoorId>> by = doors.stream()
                .collect(Collectors.groupingBy(
                        d -> words(d.name()).stream()
                                .distinct()
                                .filter(like::contains)
                                .count(),
                        Collectors.mapping(Door::id, Collectors.toList())));
        long most = by.keySet().stream().max(Comparator.naturalOrder()).orElse(0L);
        List<DoorId> best = most == 0 ? List.of() : by.get(most);
        return best.size() <= MOST_ALIKE ? best : List.of();
    }

    private void take(Sweep.Lead lead) {
        leads.computeIfAbsent(lead.door(), d -> new CopyOnWriteArrayList<>()).add(lead.camera());
        led.add(lead.camera());
        if (!lead.lag().isZero()) {
            synchronized (this) {
                late.putIfAbsent(lead.camera(), lead.lag());
            }
        }
    }

    /** A camera does not show the door that it seemed to, so it is not late either, as far as is known. */
    private synchronized void refuted(DoorId door, CameraId camera) {
        led.remove(camera);
        if (late.remove(camera) != null) {
            evidence.forget(door, camera);
        }
    }

    private void settle(DoorId door) {
        Result so = of(door).orElseThrow();
        synchronized (this) {
            found.put(door, new Found(so.outcome(), so.asked(), so.of(), so.openings(), so.when(), so.cameras()));
        }
        evidence.settle(door, so.of());
        keep();
    }

    private void measure(Wanted wanted) throws InterruptedException {
        Couple couple = wanted.couple();
        SiteModel model = sites.get();
        Optional<Door> door = model.door(couple.door()).filter(d -> d.can(DoorCapability.CONTACT));
        Optional<Camera> camera = model.camera(couple.camera());
        if (door.isEmpty() || camera.isEmpty()) {
            return;
        }
        List<KnownOpening> known = openings.of(door.get(), wanted.from(), wanted.to(), MEASURED_OPENINGS);
        Optional<PictureLag.Lag> lag = new PictureLag(at -> glimpse(camera.get(), at)).measure(known);
        Measured so = new Measured(couple.door(), couple.camera(), lag, wanted.from(), wanted.to(), clock.instant());
        synchronized (this) {
            Measured before = measured.get(couple);
            if (before == null || !before.to().isAfter(so.to())) {
                measured.put(couple, so);
            }
        }
        onMeasured.accept(so);
    }

    /** Finds out how late a camera is that should show a door, and looks at it so from then on. */
    private boolean findLag(Camera camera, List<KnownOpening> known) throws InterruptedException {
        Optional<PictureLag.Lag> lag = new PictureLag(at -> glimpse(camera, at)).measure(known);
        synchronized (this) {
            lag.ifPresent(l -> late.put(camera.id(), l.lag()));
        }
        return lag.isPresent();
    }

    private synchronized Duration lag(CameraId camera) {
        return late.getOrDefault(camera, Duration.ZERO);
    }

    private void check(Couple couple) throws InterruptedException {
        SiteModel model = sites.get();
        Optional<Door> door = model.door(couple.door()).filter(d -> d.can(DoorCapability.CONTACT));
        Optional<Camera> camera = model.camera(couple.camera());
        if (door.isEmpty() || camera.isEmpty()) {
            return;
        }
        Instant to = clock.instant().minus(FRESH);
        Instant from = to.minus(Duration.ofDays(1));
        List<KnownOpening> known = openings.of(door.get(), from, to, CHECKED_OPENINGS);
        List<KnownOpening> looked = new ArrayList<>();
        Candidate so = check(door.get(), camera.get(), known, looked);
        // A camera that is late shows nothing when it should, or only who comes; how late it is is found before anybody
        // doubts it.
        boolean unclear = holds(so) == Holds.OPEN
                && so.moved() < looked.size()
                && looked.size() >= CHECKED_OPENINGS - 1
                && unclearOnes.add(couple);
        if ((holds(so) == Holds.NO || unclear)
                && findLag(camera.get(), openings.of(door.get(), from, to, MEASURED_OPENINGS))) {
            looked.clear();
            so = check(door.get(), camera.get(), known, looked);
        }
        Holds holds = holds(so);
        Check check = new Check(
                holds,
                couple.door(),
                couple.camera(),
                looked.stream()
                        .sorted(Comparator.comparing(KnownOpening::at).reversed())
                        .toList(),
                so.moved(),
                holds == Holds.NO
                        ? openings.of(door.get(), to.minus(Duration.ofDays(7)), to.minus(Duration.ofDays(2)), 2)
                        : List.of(),
                clock.instant());
        synchronized (this) {
            checks.put(couple, check);
        }
        checked.accept(check);
    }

    private Candidate check(Door door, Camera camera, List<KnownOpening> known, List<KnownOpening> looked)
            throws InterruptedException {
        lately.forget(door.id());
        Follow follow = new Follow(lately, door, sites.get(), CHECK_QUIETS);
        Candidate so = lately.candidate(door.id(), camera.id(), 1);
        for (KnownOpening opening : known) {
            if (so.weight() <= Math.log(GONE) || so.weight() >= Math.log(STILL_THERE)) {
                break;
            }
            if (follow.look(camera, opening).isPresent()) {
                looked.add(opening);
            }
            so = lately.candidate(door.id(), camera.id(), 1);
        }
        return so;
    }

    private static Holds holds(Candidate so) {
        if (so.weight() >= Math.log(STILL_THERE)) {
            return Holds.YES;
        }
        return so.confidence() == Confidence.NO ? Holds.NO : Holds.OPEN;
    }

    private synchronized void end(DoorId door, Outcome outcome) {
        Found before = found.get(door);
        put(door, outcome, before.asked(), before.of(), before.openings());
    }

    /** Waits until a recorder may be asked again. */
    private synchronized void turn(SystemId recorder) throws InterruptedException {
        nanosBusy += began == 0 ? 0 : System.nanoTime() - began;
        while (true) {
            began = System.nanoTime();
            if (closed || unwanted) {
                began = 0;
                throw new InterruptedException();
            }
            long wait = nextAt.getOrDefault(recorder, System.nanoTime()) - System.nanoTime();
            if (!paused && wait <= 0) {
                break;
            }
            wait(paused ? 0 : Math.max(1, wait / 1_000_000));
        }
        nanosBusy += paused ? 0 : System.nanoTime() - began;
        began = System.nanoTime();
        nextAt.put(recorder, began + pace.toNanos());
        stills++;
    }

    private Optional<Glimpse> glimpse(Camera camera, Instant at) throws InterruptedException {
        turn(camera.recorder());
        try {
            return Optional.of(peeks.at(camera, at));
        } catch (IOException e) {
            // There is no picture of then; that says nothing of the pair.
            return Optional.empty();
        }
    }

    /** One door and all cameras that may show it. */
    private final class OneDoor {
        private final DoorId id;
        private final SiteModel model = sites.get();
        private List<KnownOpening> known = List.of();
        private final Set<CameraId> asked = new HashSet<>();
        private int of;
        private Follow stills;

        OneDoor(DoorId id) {
            this.id = id;
        }

        /**
         * Looks for its cameras.
         *
         * @return whether that is all; else it waits for its turn once more
         */
        boolean look() throws InterruptedException {
            Optional<Door> door = model.door(id);
            if (door.isEmpty() || !door.get().can(DoorCapability.CONTACT)) {
                end(id, Outcome.NO_CONTACT);
                return true;
            }
            known = known(door.get());
            if (known.isEmpty()) {
                end(id, read.test(door.get().system()) ? Outcome.NO_OPENINGS : Outcome.NOT_READ_YET);
                return true;
            }
            stills = new Follow(evidence, door.get(), model, swept.contains(id) ? SWEPT_QUIETS : QUIETS);
            List<List<Camera>> tiers = tiers(door.get());
            if (swept.contains(id)) {
                tiers.forEach(tier -> tier.stream()
                        .map(Camera::id)
                        .filter(c -> evidence.quiets(c) > 0)
                        .forEach(asked::add));
            }
            of = tiers.stream().mapToInt(List::size).sum();
            tell(Outcome.LOOKING);
            leads(tiers);
            boolean found = decided();
            if (!found && postpone()) {
                return false;
            }
            for (List<Camera> tier : tiers) {
                if (found) {
                    break;
                }
                tier(tier);
                if (decided()) {
                    break;
                }
            }
            if (!decided()) {
                late(tiers);
            }
            tell(stills.pictures == 0 ? Outcome.NO_PICTURES : Outcome.DONE);
            return true;
        }

        /** Whether it waits until the leads of all other doors have been followed: fewer cameras are left then. */
        private boolean postpone() {
            synchronized (EvidenceSearch.this) {
                boolean others = waiting.stream().anyMatch(d -> leads.containsKey(d) && !postponed.contains(d));
                if (!swept.contains(id) || !others || !postponed.add(id)) {
                    return false;
                }
                waiting.addLast(id);
                put(id, Outcome.WAITING, asked.size(), of, known.size());
                return true;
            }
        }

        /** Cameras that seemed to show it when all doors were looked at together. */
        private void leads(List<List<Camera>> tiers) throws InterruptedException {
            List<CameraId> first = leads.getOrDefault(id, List.of());
            for (List<Camera> tier : tiers) {
                for (Camera camera : tier) {
                    if (first.contains(camera.id())) {
                        follow(camera, 2);
                        if (!found(evidence.candidate(id, camera.id(), of))) {
                            // It shows another door, then, whose turn may still come.
                            refuted(id, camera.id());
                        }
                        tell(Outcome.LOOKING);
                    }
                }
            }
        }

        /** Looks at all cameras; after a look at all doors together only until one is found, since others were led elsewhere. */
        private void tier(List<Camera> tier) throws InterruptedException {
            boolean untilFound = swept.contains(id);
            List<Camera> some = untilFound ? likeliest(tier) : tier;
            for (int misses = 1; misses <= 2 && !decided(); misses++) {
                for (Camera camera : some) {
                    follow(camera, misses);
                    tell(Outcome.LOOKING);
                    if (untilFound && decided()) {
                        return;
                    }
                }
            }
        }

        /**
         * Cameras that show no door as yet, those last that showed nothing while this one was open, since one still may be
         * wrong; and some of the others.
         */
        private List<Camera> likeliest(List<Camera> tier) {
            Predicate<Camera> shows = c -> led.contains(c.id());
            Predicate<Camera> ruledOut =
                    c -> sweep.filter(s -> s.ruledOut(id, c.id())).isPresent();
            return tier.stream()
                    .filter(shows.and(ruledOut).negate())
                    .sorted(Comparator.comparing(shows::test).thenComparing(ruledOut::test))
                    .limit(MOST_OTHERS)
                    .toList();
        }

        /** Where no camera shows it when it should, one may be late, or early. */
        private void late(List<List<Camera>> tiers) throws InterruptedException {
            List<Camera> some = tiers.stream()
                    .flatMap(List::stream)
                    .filter(c -> !led.contains(c.id()))
                    .limit(MOST_LATE)
                    .toList();
            for (Camera camera : some) {
                if (seemsLate(camera) && findLag(camera, known)) {
                    evidence.forget(id, camera.id());
                    follow(camera, 2);
                    tell(Outcome.LOOKING);
                    if (decided()) {
                        return;
                    }
                }
            }
        }

        /** Whether something moves in a camera's picture so much later, or sooner, than the door at two openings. */
        private boolean seemsLate(Camera camera) throws InterruptedException {
            List<Duration> lags = new ArrayList<>(Sweep.LAGS);
            if (!lag(camera.id()).isZero()) {
                // It was late once, and may not be any more.
                lags.add(Duration.ZERO);
            }
            for (Duration lag : lags) {
                int moved = 0;
                for (KnownOpening opening : known.subList(0, Math.min(2, known.size()))) {
                    Instant[] at = Film.instants(opening.at().plus(lag));
                    Optional<Glimpse> before = glimpse(camera, at[0]);
                    Optional<Glimpse> open = before.isEmpty() ? before : glimpse(camera, at[1]);
                    if (open.isEmpty()) {
                        return false;
                    }
                    if (!evidence.differ(camera.id(), before.get(), open.get())) {
                        break;
                    }
                    moved++;
                }
                if (moved >= 2) {
                    return true;
                }
            }
            return false;
        }

        private boolean decided() {
            return evidence.candidates(id, of).stream().anyMatch(this::found);
        }

        private boolean found(Candidate camera) {
            // After a look at all doors together the other cameras were led elsewhere, so what is likely will do.
            return camera.confidence() == Confidence.SURE
                    || swept.contains(id)
                            && camera.confidence() == Confidence.LIKELY
                            && camera.moved() >= Math.min(known.size(), MOST_OPENINGS / 2);
        }

        private void tell(Outcome outcome) {
            synchronized (EvidenceSearch.this) {
                put(id, outcome, asked.size(), of, known.size());
            }
        }

        /** Cameras in the order in which they are asked: of the door's site, of like names and free ones first. */
        private List<List<Camera>> tiers(Door door) {
            Set<String> like = Set.copyOf(words(door.name()));
            Comparator<Camera> order = Comparator.comparing((Camera c) -> c.id().value());
            if (byNames) {
                order = Comparator.comparing((Camera c) ->
                                -words(c.name()).stream().filter(like::contains).count())
                        .thenComparing(order);
            }
            Map<Boolean, List<Camera>> here = model.cameras().stream()
                    .sorted(order)
                    .collect(Collectors.partitioningBy(c -> c.site().equals(door.site())));
            return List.of(here.get(true), here.get(false));
        }

        /**
         * Looks at openings with a camera until it is decided, or has missed some.
         *
         * @param misses with so many it is left, for this time
         */
        private void follow(Camera camera, int misses) throws InterruptedException {
            int missed = 0;
            int absent = 0;
            for (KnownOpening opening : known) {
                Optional<Boolean> moved = stills.look(camera, opening);
                if (moved.isPresent()) {
                    asked.add(camera.id());
                } else {
                    // A camera that has no picture of three openings has none of the others.
                    if (++absent >= 3) {
                        return;
                    }
                    continue;
                }
                if (!moved.get() && ++missed >= misses) {
                    return;
                }
                Candidate candidate = evidence.candidate(id, camera.id(), of);
                if (candidate.confidence() == Confidence.NO
                        || candidate.confidence() == Confidence.SURE
                                && (candidate.view().isPresent() || candidate.looked() >= MOST_OPENINGS / 2)) {
                    return;
                }
            }
            int more = swept.contains(id) ? MORE_SWEPT_QUIETS : MORE_QUIETS;
            if (evidence.candidate(id, camera.id(), of).confidence() == Confidence.LIKELY
                    && evidence.quiets(camera.id()) < more) {
                stills.quiet(camera, known.get(0), more);
            }
        }
    }

    /** Asks for the stills of openings, and of quiet where something moved. */
    private final class Follow {
        private final PairEvidence to;
        private final Door door;
        private final SiteModel model;
        private final int quiets;
        private int pictures;

        Follow(PairEvidence to, Door door, SiteModel model, int quiets) {
            this.to = to;
            this.door = door;
            this.model = model;
            this.quiets = quiets;
        }

        /** Whether something moved in a camera's picture at an opening; nothing where there is no picture of it. */
        Optional<Boolean> look(Camera camera, KnownOpening opening) throws InterruptedException {
            Optional<Boolean> moved = to.moved(camera.id(), opening);
            if (moved.isEmpty()) {
                moved = saw(camera, opening);
            }
            if (moved.filter(Boolean::booleanValue).isPresent() && to.quiets(camera.id()) < quiets) {
                quiet(camera, opening, quiets);
                moved = to.moved(camera.id(), opening);
            }
            return moved;
        }

        private Optional<Boolean> saw(Camera camera, KnownOpening opening) throws InterruptedException {
            Instant[] at = Film.instants(opening.at().plus(lag(camera.id())));
            Optional<Glimpse> open = glimpse(camera, at[1]);
            if (open.isEmpty()) {
                return Optional.empty();
            }
            // Where it looks as ever there is no need to see how it looked before.
            Optional<Glimpse> usual = to.usual(camera.id()).filter(u -> !to.differ(camera.id(), u, open.get()));
            Optional<Glimpse> before = usual.isPresent() ? usual : glimpse(camera, at[0]);
            if (before.isEmpty()) {
                return Optional.empty();
            }
            pictures++;
            to.saw(camera.id(), opening, new Film(before.get(), open.get(), Optional.empty()));
            Optional<Boolean> moved = to.moved(camera.id(), opening);
            if (moved.filter(Boolean::booleanValue).isPresent()
                    && opening.from().isPresent()
                    && to.view(door.id(), camera.id()).isEmpty()) {
                Optional<Glimpse> after = glimpse(camera, at[2]);
                to.saw(camera.id(), opening, new Film(before.get(), open.get(), after));
            }
            return moved;
        }

        void quiet(Camera camera, KnownOpening opening, int most) throws InterruptedException {
            List<Instant> instants = openings.quiet(door, model, opening.at(), most);
            int there = Math.min(to.quiets(camera.id()), instants.size());
            if (swept.contains(door.id())) {
                inTurn(camera, instants.subList(there, instants.size()));
                return;
            }
            for (Instant at : instants.subList(there, instants.size())) {
                Optional<Glimpse> one = glimpse(camera, at.minus(Film.BEFORE));
                Optional<Glimpse> other = one.isEmpty() ? one : glimpse(camera, at.plus(Film.AT));
                if (other.isPresent()) {
                    to.quiet(camera.id(), one.get(), other.get());
                }
            }
        }
    }

    /** Compares each still with the one before: half as many, and what differs between two of them is no less often so. */
    private void inTurn(Camera camera, List<Instant> instants) throws InterruptedException {
        Optional<Glimpse> before = Optional.empty();
        for (Instant at : instants) {
            Optional<Glimpse> now = glimpse(camera, at);
            if (before.isPresent() && now.isPresent()) {
                evidence.quiet(camera.id(), before.get(), now.get());
            }
            before = now;
        }
    }

    private static List<String> words(String text) {
        return new ArrayList<>(Arrays.asList(text.toLowerCase(Locale.ROOT).split("[\\s,.;:/-]+")));
    }

    /** Ends it, and keeps what was found so far. */
    @Override
    public void close() {
        synchronized (this) {
            closed = true;
            notifyAll();
        }
        thread.interrupt();
        try {
            thread.join(5_000);
            keep();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
