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
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Consumer;
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
        /** No camera gave a picture of when it opened. */
        NO_PICTURES,
        /** It was stopped before. */
        STOPPED
    }

    /**
     * What is known of a door.
     *
     * @param cameras those that may show it, the likeliest first
     * @param asked of how many cameras something was asked
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
     */
    public record Progress(
            boolean running, boolean paused, int doors, int ofDoors, long stills, Optional<DoorId> now) {}

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
     */
    public record Measured(DoorId door, CameraId camera, Optional<PictureLag.Lag> lag, Instant when) {}

    private record Couple(DoorId door, CameraId camera) {}

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
    private final Deque<Couple> toMeasure = new ArrayDeque<>();
    private final Map<Couple, Measured> measured = new HashMap<>();
    private final Thread thread;
    private Optional<DoorId> now = Optional.empty();
    private boolean paused;
    private boolean unwanted;
    private boolean closed;
    private int done;
    private int ofDoors;
    private long stills;

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
            stills = 0;
        }
        for (DoorId door : doors) {
            if (!waiting.contains(door) && !now.equals(Optional.of(door))) {
                waiting.add(door);
                ofDoors++;
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
        queue(pairs, toCheck);
    }

    /** Measures how much later pictures are than doors, by the openings of the last day, after all else. */
    public synchronized void measure(Collection<Pairing> pairs) {
        queue(pairs, toMeasure);
    }

    private void queue(Collection<Pairing> pairs, Deque<Couple> behind) {
        pairs.stream()
                .map(p -> new Couple(p.door(), p.camera()))
                .filter(c -> !behind.contains(c))
                .distinct()
                .toList()
                .forEach(behind::add);
        notifyAll();
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
                now);
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

    private void run() {
        while (true) {
            Optional<DoorId> door;
            Optional<Couple> couple;
            boolean measures;
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
                door = Optional.ofNullable(waiting.poll());
                measures = door.isEmpty() && toCheck.isEmpty();
                couple =
                        door.isPresent() ? Optional.empty() : Optional.of(measures ? toMeasure.poll() : toCheck.poll());
                now = door.or(() -> couple.map(Couple::door));
                unwanted = false;
                door.ifPresent(d -> put(d, Outcome.LOOKING, 0, 0, 0));
            }
            try {
                keep();
                if (door.isPresent()) {
                    new OneDoor(door.get()).look();
                } else if (measures) {
                    measure(couple.get());
                } else {
                    check(couple.get());
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
                door.ifPresent(this::settle);
                couple.ifPresent(c -> lately.settle(c.door(), 1));
                synchronized (this) {
                    now = Optional.empty();
                    done += door.isPresent() ? 1 : 0;
                }
            }
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

    private void measure(Couple couple) throws InterruptedException {
        SiteModel model = sites.get();
        Optional<Door> door = model.door(couple.door()).filter(d -> d.can(DoorCapability.CONTACT));
        Optional<Camera> camera = model.camera(couple.camera());
        if (door.isEmpty() || camera.isEmpty()) {
            return;
        }
        Instant to = clock.instant().minus(FRESH);
        List<KnownOpening> known = openings.of(door.get(), model, to.minus(Duration.ofDays(1)), to, MEASURED_OPENINGS);
        Optional<PictureLag.Lag> lag = new PictureLag(at -> glimpse(camera.get(), at)).measure(known);
        synchronized (this) {
            measured.put(couple, new Measured(couple.door(), couple.camera(), lag, clock.instant()));
        }
    }

    private void check(Couple couple) throws InterruptedException {
        SiteModel model = sites.get();
        Optional<Door> door = model.door(couple.door()).filter(d -> d.can(DoorCapability.CONTACT));
        Optional<Camera> camera = model.camera(couple.camera());
        if (door.isEmpty() || camera.isEmpty()) {
            return;
        }
        Instant to = clock.instant().minus(FRESH);
        List<KnownOpening> known = openings.of(door.get(), model, to.minus(Duration.ofDays(1)), to, CHECKED_OPENINGS);
        lately.forget(couple.door());
        Follow follow = new Follow(lately, door.get(), model, CHECK_QUIETS);
        List<KnownOpening> looked = new ArrayList<>();
        Candidate so = lately.candidate(couple.door(), couple.camera(), 1);
        for (KnownOpening opening : known) {
            if (so.weight() <= Math.log(GONE) || so.weight() >= Math.log(STILL_THERE)) {
                break;
            }
            if (follow.look(camera.get(), opening).isPresent()) {
                looked.add(opening);
            }
            so = lately.candidate(couple.door(), couple.camera(), 1);
        }
        Holds holds =
                so.weight() >= Math.log(20) ? Holds.YES : so.confidence() == Confidence.NO ? Holds.NO : Holds.OPEN;
        Check check = new Check(
                holds,
                couple.door(),
                couple.camera(),
                looked.stream()
                        .sorted(Comparator.comparing(KnownOpening::at).reversed())
                        .toList(),
                so.moved(),
                holds == Holds.NO
                        ? openings.of(door.get(), model, to.minus(Duration.ofDays(7)), to.minus(Duration.ofDays(2)), 2)
                        : List.of(),
                clock.instant());
        synchronized (this) {
            checks.put(couple, check);
        }
        checked.accept(check);
    }

    private synchronized void end(DoorId door, Outcome outcome) {
        Found before = found.get(door);
        put(door, outcome, before.asked(), before.of(), before.openings());
    }

    /** Waits until a recorder may be asked again. */
    private synchronized void turn(SystemId recorder) throws InterruptedException {
        while (true) {
            if (closed || unwanted) {
                throw new InterruptedException();
            }
            long wait = nextAt.getOrDefault(recorder, System.nanoTime()) - System.nanoTime();
            if (!paused && wait <= 0) {
                break;
            }
            wait(paused ? 0 : Math.max(1, wait / 1_000_000));
        }
        nextAt.put(recorder, System.nanoTime() + pace.toNanos());
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
        private int of;
        private int asked;
        private Follow stills;

        OneDoor(DoorId id) {
            this.id = id;
        }

        void look() throws InterruptedException {
            Optional<Door> door = model.door(id);
            if (door.isEmpty() || !door.get().can(DoorCapability.CONTACT)) {
                end(id, Outcome.NO_CONTACT);
                return;
            }
            Instant to = clock.instant().minus(FRESH);
            known = openings.of(door.get(), model, to.minus(BACK), to, MOST_OPENINGS);
            if (known.isEmpty()) {
                end(id, Outcome.NO_OPENINGS);
                return;
            }
            stills = new Follow(evidence, door.get(), model, QUIETS);
            List<List<Camera>> tiers = tiers(door.get());
            of = tiers.stream().mapToInt(List::size).sum();
            tell(Outcome.LOOKING);
            for (List<Camera> tier : tiers) {
                for (Camera camera : tier) {
                    asked++;
                    follow(camera, 1);
                    tell(Outcome.LOOKING);
                }
                if (!decided()) {
                    for (Camera camera : tier) {
                        follow(camera, 2);
                    }
                }
                if (decided()) {
                    break;
                }
            }
            tell(stills.pictures == 0 ? Outcome.NO_PICTURES : Outcome.DONE);
        }

        private boolean decided() {
            return evidence.candidates(id, of).stream().anyMatch(c -> c.confidence() == Confidence.SURE);
        }

        private void tell(Outcome outcome) {
            synchronized (EvidenceSearch.this) {
                put(id, outcome, asked, of, known.size());
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
                if (moved.isEmpty()) {
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
            if (evidence.candidate(id, camera.id(), of).confidence() == Confidence.LIKELY
                    && evidence.quiets(camera.id()) < MORE_QUIETS) {
                stills.quiet(camera, known.get(0), MORE_QUIETS);
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
            Instant[] at = Film.instants(opening.at());
            Optional<Glimpse> before = glimpse(camera, at[0]);
            if (before.isEmpty()) {
                return Optional.empty();
            }
            Optional<Glimpse> open = glimpse(camera, at[1]);
            if (open.isEmpty()) {
                return Optional.empty();
            }
            pictures++;
            to.saw(camera.id(), opening, new Film(before.get(), open.get(), Optional.empty()));
            Optional<Boolean> moved = to.moved(camera.id(), opening);
            if (moved.filter(Boolean::booleanValue).isPresent()
                    && opening.from().isPresent()) {
                Optional<Glimpse> after = glimpse(camera, at[2]);
                to.saw(camera.id(), opening, new Film(before.get(), open.get(), after));
            }
            return moved;
        }

        void quiet(Camera camera, KnownOpening opening, int most) throws InterruptedException {
            List<Instant> instants = openings.quiet(door, model, opening.at(), most);
            int there = Math.min(to.quiets(camera.id()), instants.size());
            for (Instant at : instants.subList(there, instants.size())) {
                Optional<Glimpse> one = glimpse(camera, at.minus(Film.BEFORE));
                Optional<Glimpse> other = one.isEmpty() ? one : glimpse(camera, at.plus(Film.AT));
                if (other.isPresent()) {
                    to.quiet(camera.id(), one.get(), other.get());
                }
            }
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
