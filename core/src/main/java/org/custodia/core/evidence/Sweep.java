package org.custodia.core.evidence;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.BitSet;
import java.util.Collection;
import java.util.Comparator;
import java.util.Deque;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.Function;
import java.util.stream.Stream;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SystemId;

/**
 * Finds out roughly which of many cameras shows which of many doors, with few stills. One still says something of all doors
 * that were open just then, so instants are chosen at which many were; where something moved the doors of that instant are
 * told apart by other openings. What it finds only says who is asked first: it decides nothing.
 */
final class Sweep {
    /** Pictures may be so much late, or early, when a camera shows no door at the instant it should. */
    static final List<Duration> LAGS =
            List.of(Duration.ofSeconds(2), Duration.ofSeconds(4), Duration.ofSeconds(-2), Duration.ofSeconds(-4));

    /** A door is well open so long after it opened. */
    private static final Duration OPEN_AFTER = Duration.ofMillis(500);
    /** And until so long before it closes. */
    private static final Duration OPEN_UNTIL = Duration.ofMillis(700);
    /** No longer than this after it opened: somebody may hold it, and then it is what is usual. */
    private static final Duration OPEN_AT_MOST = Duration.ofSeconds(10);
    /** What moves at an instant may be a door that opened so long before, or so soon after. */
    private static final Duration STIRS_BEFORE = Duration.ofSeconds(6);

    private static final Duration STIRS_AFTER = Duration.ofSeconds(2);
    /** Another opening of a door is one that lies so far from the first. */
    private static final Duration APART = Duration.ofSeconds(30);
    /** So many more openings at which something moves make a lead. */
    private static final int CONFIRMED = 2;
    /** So many stills of rest tell what a camera usually shows. */
    static final int USUAL = 4;
    /** So many stills of one camera, at most, for each lag. */
    private static final int MOST_STILLS = 120;
    /** A camera that has no picture of so many instants has none. */
    private static final int MOST_ABSENT = 3;
    /** What a door that may be the one counts for more than any number of others, where an instant is chosen. */
    private static final int WEIGHT = 1_000;
    /** Instants to choose from. */
    private static final int MOST_INSTANTS = 10_000;
    /** Late cameras are looked for only while so few doors are left. */
    private static final int FEW = 40;
    /** After so many cameras of a recorder without a lead all of it may be late. */
    private static final int IN_A_ROW = 4;

    /**
     * A camera that seems to show a door.
     *
     * @param lag how much later its pictures seem to be than the door, to two seconds
     */
    record Lead(DoorId door, CameraId camera, Duration lag) {}

    /** Describes openings of doors. */
    interface Known {
        /** Those of a door that say most, the best first. */
        List<KnownOpening> best(DoorId door);

        /** What else is known of one. */
        KnownOpening at(DoorId door, Instant opened);
    }

    /** Gives small pictures. */
    interface Looks {
        Optional<Glimpse> at(Camera camera, Instant instant) throws InterruptedException;
    }

    private final Map<DoorId, List<Openings.Span>> openings;
    private final Known opening;
    private final Function<Instant, List<Instant>> quiet;
    private final Looks looks;
    private final PairEvidence evidence;
    /** What is open at an instant, by the instant. */
    private final Map<Instant, Open> open = new TreeMap<>(Comparator.reverseOrder());

    private final TreeMap<Instant, Map<DoorId, Openings.Span>> byOpening = new TreeMap<>();
    private final Set<DoorId> claimed = new HashSet<>();
    private final Map<DoorId, Integer> numbers = new HashMap<>();
    /** By camera, the numbers of doors that were well open while nothing moved in its picture. */
    private final Map<CameraId, BitSet> ruledOut = new HashMap<>();

    private final Map<SystemId, Integer> without = new HashMap<>();
    /** By recorder, how many leads there are with which lag. */
    private final Map<SystemId, Map<Duration, Integer>> lags = new HashMap<>();

    /**
     * @param openings when doors that are looked for opened
     * @param opening describes openings of doors
     * @param quiet instants near another at which nothing opened
     * @param evidence is told what cameras show while doors rest
     */
    Sweep(
            Map<DoorId, List<Openings.Span>> openings,
            Known opening,
            Function<Instant, List<Instant>> quiet,
            Looks looks,
            PairEvidence evidence) {
        this.openings = openings;
        this.opening = opening;
        this.quiet = quiet;
        this.looks = looks;
        this.evidence = evidence;
        openings.keySet().forEach(d -> numbers.put(d, numbers.size()));
        openings.forEach((door, spans) -> spans.forEach(
                s -> byOpening.computeIfAbsent(s.opened(), x -> new HashMap<>()).put(door, s)));
        byOpening.descendingKeySet().stream().limit(MOST_INSTANTS).forEach(t -> {
            Instant at = t.plus(Film.AT);
            Set<DoorId> doors = new HashSet<>();
            Instant first = t;
            for (Map<DoorId, Openings.Span> some : byOpening
                    .subMap(at.minus(OPEN_AT_MOST), at.minus(OPEN_AFTER))
                    .values()) {
                for (Map.Entry<DoorId, Openings.Span> one : some.entrySet()) {
                    if (one.getValue().closed().isAfter(at.plus(OPEN_UNTIL))) {
                        doors.add(one.getKey());
                        first = first.isBefore(one.getValue().opened())
                                ? first
                                : one.getValue().opened();
                    }
                }
            }
            open.put(at, new Open(doors, first));
        });
    }

    /**
     * What is open at an instant.
     *
     * @param first when the first of these doors opened
     */
    private record Open(Set<DoorId> doors, Instant first) {}

    /** Whether a door was well open while nothing moved in a camera's picture. */
    boolean ruledOut(DoorId door, CameraId camera) {
        return numbers.containsKey(door)
                && ruledOut.getOrDefault(camera, new BitSet()).get(numbers.get(door));
    }

    private Set<DoorId> between(Instant from, Instant to) {
        Set<DoorId> doors = new HashSet<>();
        byOpening.subMap(from, true, to, true).values().forEach(some -> doors.addAll(some.keySet()));
        return doors;
    }

    /**
     * Which door a camera seems to show; nothing where none of those is seen in it.
     *
     * @param likely doors that are tried first, the likeliest first
     * @param near doors of its own place, tried before the others
     */
    Optional<Lead> of(Camera camera, List<DoorId> likely, Collection<DoorId> near) throws InterruptedException {
        Duration usualLag = usualLag(camera.recorder());
        Optional<Lead> lead = new OneCamera(camera, usualLag).find(likely, near);
        if (lead.isEmpty()) {
            int row = without.merge(camera.recorder(), 1, Integer::sum);
            if (row == IN_A_ROW || openings.size() - claimed.size() <= FEW) {
                lead = late(camera, usualLag, likely, near);
            }
        }
        lead.ifPresent(l -> {
            claimed.add(l.door());
            lags.computeIfAbsent(camera.recorder(), r -> new HashMap<>()).merge(l.lag(), 1, Integer::sum);
            without.put(camera.recorder(), 0);
        });
        return lead;
    }

    /** The lag of most leads of a recorder: one that was found by chance says nothing of its other cameras. */
    private Duration usualLag(SystemId recorder) {
        Map<Duration, Integer> found = lags.getOrDefault(recorder, Map.of());
        return found.keySet().stream()
                .max(Comparator.<Duration, Integer>comparing(found::get).thenComparing(Duration::isZero))
                .orElse(Duration.ZERO);
    }

    private Optional<Lead> late(Camera camera, Duration except, List<DoorId> likely, Collection<DoorId> near)
            throws InterruptedException {
        List<Duration> others = new ArrayList<>(LAGS);
        others.add(Duration.ZERO);
        others.remove(except);
        for (Duration lag : others) {
            Optional<Lead> lead = new OneCamera(camera, lag).find(likely, near);
            if (lead.isPresent()) {
                return lead;
            }
        }
        return Optional.empty();
    }

    /** What was seen at an instant, and what before or usually. */
    private record Stir(Instant at, Glimpse before, Glimpse now) {}

    /** One camera, taken to be so much late. */
    private final class OneCamera {
        private final Camera camera;
        private final Duration lag;
        private final Deque<Glimpse> rest = new ArrayDeque<>();
        private final Set<Instant> used = new HashSet<>();
        private final List<Stir> stirs = new ArrayList<>();
        private final List<Stir> rests = new ArrayList<>();
        private int stills;
        private int absent;

        OneCamera(Camera camera, Duration lag) {
            this.camera = camera;
            this.lag = lag;
        }

        Optional<Lead> find(List<DoorId> likely, Collection<DoorId> near) throws InterruptedException {
            Optional<Lead> lead = search(likely, near);
            // What was seen while the door of the lead rested tells how often something moves by chance. Without a lead
            // nobody knows
            // which of it was chance.
            if (lead.isPresent()) {
                for (Stir seen : Stream.concat(stirs.stream(), rests.stream()).toList()) {
                    Set<DoorId> around =
                            between(seen.at().minus(STIRS_BEFORE), seen.at().plus(STIRS_AFTER));
                    if (!around.contains(lead.get().door())) {
                        evidence.quiet(camera.id(), seen.before(), seen.now());
                    }
                }
            }
            return lead;
        }

        private Optional<Lead> search(List<DoorId> likely, Collection<DoorId> near) throws InterruptedException {
            for (DoorId door : likely) {
                Optional<Lead> lead = among(Set.of(door));
                if (lead.isPresent()) {
                    return lead;
                }
            }
            List<Set<DoorId>> rounds = new ArrayList<>();
            for (boolean free : List.of(true, false)) {
                rounds.add(doors(near, free));
                rounds.add(doors(openings.keySet(), free));
            }
            Set<DoorId> done = new HashSet<>(likely);
            for (Set<DoorId> round : rounds) {
                round.removeAll(done);
                done.addAll(round);
                Optional<Lead> lead = among(round);
                if (lead.isPresent() || over()) {
                    return lead;
                }
            }
            return Optional.empty();
        }

        private Set<DoorId> doors(Collection<DoorId> some, boolean free) {
            Set<DoorId> all = new HashSet<>(some);
            all.retainAll(openings.keySet());
            all.removeIf(d -> claimed.contains(d) == free);
            return all;
        }

        private static boolean near(Instant one, List<Instant> others) {
            return others.stream().anyMatch(o -> Duration.between(one, o).abs().compareTo(APART) < 0);
        }

        private boolean over() {
            return stills >= MOST_STILLS || absent >= MOST_ABSENT;
        }

        private Optional<Lead> among(Set<DoorId> some) throws InterruptedException {
            Set<DoorId> left = new HashSet<>(some);
            while (!left.isEmpty() && !over()) {
                Optional<Instant> at = next(left);
                if (at.isEmpty()) {
                    return Optional.empty();
                }
                used.add(at.get());
                Optional<Boolean> moved = stirs(at.get());
                if (moved.isEmpty()) {
                    absent++;
                    continue;
                }
                absent = 0;
                if (moved.get()) {
                    Optional<Lead> lead = told(at.get(), left);
                    if (lead.isPresent()) {
                        return lead;
                    }
                }
                left.removeAll(open.get(at.get()).doors());
                if (!moved.get()) {
                    ruleOut(open.get(at.get()).doors(), left);
                }
            }
            return Optional.empty();
        }

        /** The instant at which most doors were open of those that are left, the latest of these. */
        private Optional<Instant> next(Set<DoorId> left) {
            return next(left, Set.of(), List.of());
        }

        /**
         * The same.
         *
         * @param others where as many were open, the one with most of these is taken
         * @param apart it is not near these
         */
        private Optional<Instant> next(Set<DoorId> left, Set<DoorId> others, List<Instant> apart) {
            Optional<Instant> best = Optional.empty();
            long most = 0;
            for (Map.Entry<Instant, Open> one : open.entrySet()) {
                Set<DoorId> doors = one.getValue().doors();
                if (doors.size() * (WEIGHT + 1) <= most || used.contains(one.getKey()) || near(one.getKey(), apart)) {
                    continue;
                }
                long covers = doors.stream().filter(left::contains).count();
                long all = covers == 0
                        ? 0
                        : covers * WEIGHT
                                + doors.stream().filter(others::contains).count();
                if (all > most) {
                    best = Optional.of(one.getKey());
                    most = all;
                }
            }
            return best;
        }

        /**
         * Finds which of the doors that were open at an instant it is, by other openings. Those at which several of these
         * doors, or many other remaining doors, were open come first: where nothing moves, all of them are ruled out.
         *
         * @param left doors that are still to be looked at; loses those that are ruled out
         */
        private Optional<Lead> told(Instant at, Set<DoorId> left) throws InterruptedException {
            Set<DoorId> some = new LinkedHashSet<>(open.get(at).doors());
            some.retainAll(left);
            while (!some.isEmpty() && !over()) {
                Optional<Instant> other = next(some, left, List.of(at));
                if (other.isEmpty()) {
                    return confirmed(some, 0, List.of(at));
                }
                used.add(other.get());
                Open then = open.get(other.get());
                Optional<Boolean> moved = moved(other.get(), then.first().minus(Film.BEFORE));
                if (moved.isPresent() && moved.get()) {
                    Stir seen = stirs.get(stirs.size() - 1);
                    Set<DoorId> these = new LinkedHashSet<>(some);
                    these.retainAll(then.doors());
                    Optional<Lead> lead = confirmed(these, 1, List.of(at, other.get()));
                    if (lead.isPresent()) {
                        saw(opening.at(lead.get().door(), opened(lead.get().door(), other.get())), seen);
                        return lead;
                    }
                } else if (moved.isPresent()) {
                    ruleOut(then.doors(), left);
                } else {
                    absent++;
                    continue;
                }
                absent = 0;
                some.removeAll(then.doors());
            }
            return Optional.empty();
        }

        private Instant opened(DoorId door, Instant at) {
            return openings.get(door).stream()
                    .map(Openings.Span::opened)
                    .filter(t -> t.isBefore(at))
                    .max(Comparator.naturalOrder())
                    .orElseThrow();
        }

        private void ruleOut(Set<DoorId> doors, Set<DoorId> left) {
            BitSet out = ruledOut.computeIfAbsent(camera.id(), c -> new BitSet());
            doors.forEach(d -> out.set(numbers.get(d)));
            left.removeAll(doors);
        }

        /** What was seen is evidence, and need not be asked for again. */
        private void saw(KnownOpening opening, Stir seen) {
            evidence.saw(camera.id(), opening, new Film(seen.before(), seen.now(), Optional.empty()));
        }

        /**
         * The first of some doors that the camera shows at other openings, too.
         *
         * @param already at how many others it did
         */
        private Optional<Lead> confirmed(Set<DoorId> some, int already, List<Instant> besides)
                throws InterruptedException {
            for (DoorId door : some) {
                if (shows(door, already, besides)) {
                    return Optional.of(new Lead(door, camera.id(), lag));
                }
                if (over()) {
                    break;
                }
            }
            return Optional.empty();
        }

        private boolean shows(DoorId door, int already, List<Instant> besides) throws InterruptedException {
            int confirmed = already;
            for (KnownOpening one : opening.best(door)) {
                if (near(one.at(), besides)) {
                    continue;
                }
                Instant[] at = Film.instants(one.at());
                Optional<Boolean> moved = moved(at[1], at[0]);
                if (moved.isPresent() && !moved.get()) {
                    return false;
                }
                if (moved.isPresent()) {
                    saw(one, stirs.get(stirs.size() - 1));
                    confirmed++;
                }
                if (confirmed >= CONFIRMED || over()) {
                    break;
                }
            }
            return confirmed >= CONFIRMED;
        }

        /** Whether something is there at an instant that usually is not; nothing where there is no picture of it. */
        private Optional<Boolean> stirs(Instant at) throws InterruptedException {
            if (rest.isEmpty()) {
                usual(at);
            }
            if (rest.size() < USUAL) {
                return moved(at, open.get(at).first().minus(Film.BEFORE));
            }
            Optional<Glimpse> now = look(at.plus(lag));
            Glimpse usual = Glimpse.usual(List.copyOf(rest));
            Optional<Boolean> differs = now.map(n -> evidence.differ(camera.id(), usual, n));
            if (differs.isPresent() && differs.get()) {
                stirs.add(new Stir(at, usual, now.get()));
            } else if (differs.isPresent()) {
                rests(at, usual, now.get());
            }
            return differs;
        }

        /**
         * Whether something moves at an instant; nothing where there is no picture of it.
         *
         * @param rested when what is looked for had not begun to move
         */
        private Optional<Boolean> moved(Instant at, Instant rested) throws InterruptedException {
            Optional<Glimpse> now = look(at.plus(lag));
            if (now.isEmpty()) {
                return Optional.empty();
            }
            if (rest.isEmpty()) {
                usual(at);
            }
            if (rest.size() >= USUAL) {
                Glimpse usual = Glimpse.usual(List.copyOf(rest));
                if (!evidence.differ(camera.id(), usual, now.get())) {
                    rests(at, usual, now.get());
                    return Optional.of(false);
                }
            }
            Optional<Glimpse> before = look(rested.plus(lag));
            if (before.isEmpty()) {
                return Optional.empty();
            }
            boolean moved = evidence.differ(camera.id(), before.get(), now.get());
            if (moved) {
                stirs.add(new Stir(at, before.get(), now.get()));
            } else {
                rests(at, before.get(), now.get());
            }
            return Optional.of(moved);
        }

        private void rests(Instant at, Glimpse before, Glimpse now) {
            rest.addLast(now);
            if (rest.size() > USUAL) {
                rest.removeFirst();
            }
            rests.add(new Stir(at, before, now));
        }

        /** Looks what the camera shows when nothing opens, and what never rests in it. */
        private void usual(Instant around) throws InterruptedException {
            Optional<Glimpse> before = Optional.empty();
            for (Instant at : quiet.apply(around)) {
                Optional<Glimpse> now = look(at);
                if (now.isPresent() && before.isPresent()) {
                    evidence.quiet(camera.id(), before.get(), now.get());
                }
                if (now.isPresent()) {
                    rest.addLast(now.get());
                    before = now;
                }
            }
        }

        private Optional<Glimpse> look(Instant at) throws InterruptedException {
            stills++;
            return looks.at(camera, at);
        }
    }
}
