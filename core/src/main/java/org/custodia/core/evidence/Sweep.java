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

    /** Gives small pictures. */
    interface Looks {
        Optional<Glimpse> at(Camera camera, Instant instant) throws InterruptedException;
    }

    private final Map<DoorId, List<Openings.Span>> openings;
    private final Function<DoorId, List<KnownOpening>> known;
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

    private final Map<org.custodia.core.site.SystemId, Integer> without = new HashMap<>();
    private final Map<org.custodia.core.site.SystemId, Duration> lags = new HashMap<>();

    /**
     * @param openings when doors that are looked for opened
     * @param known the openings of a door that say most, the best first
     * @param quiet instants near another at which nothing opened
     * @param evidence is told what cameras show while doors rest
     */
    Sweep(
            Map<DoorId, List<Openings.Span>> openings,
            Function<DoorId, List<KnownOpening>> known,
            Function<Instant, List<Instant>> quiet,
            Looks looks,
            PairEvidence evidence) {
        this.openings = openings;
        this.known = known;
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
        Duration usualLag = lags.getOrDefault(camera.recorder(), Duration.ZERO);
        Optional<Lead> lead = new OneCamera(camera, usualLag).find(likely, near);
        if (lead.isEmpty()) {
            int row = without.merge(camera.recorder(), 1, Integer::sum);
            if (row == IN_A_ROW || openings.size() - claimed.size() <= FEW) {
                lead = late(camera, usualLag, likely, near);
            }
        }
        lead.ifPresent(l -> {
            claimed.add(l.door());
            without.put(camera.recorder(), 0);
        });
        return lead;
    }

    private Optional<Lead> late(Camera camera, Duration except, List<DoorId> likely, Collection<DoorId> near)
            throws InterruptedException {
        List<Duration> others = new ArrayList<>(LAGS);
        others.add(Duration.ZERO);
        others.remove(except);
        for (Duration lag : others) {
            Optional<Lead> lead = new OneCamera(camera, lag).find(likely, near);
            if (lead.isPresent()) {
                lags.put(camera.recorder(), lag);
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
                    BitSet out = ruledOut.computeIfAbsent(camera.id(), c -> new BitSet());
                    open.get(at.get()).doors().forEach(d -> out.set(numbers.get(d)));
                }
            }
            return Optional.empty();
        }

        /** The instant at which most doors were open of those that are left, the latest of these. */
        private Optional<Instant> next(Set<DoorId> left) {
            Optional<Instant> best = Optional.empty();
            long most = 0;
            for (Map.Entry<Instant, Open> one : open.entrySet()) {
                Set<DoorId> doors = one.getValue().doors();
                if (doors.size() <= most || used.contains(one.getKey())) {
                    continue;
                }
                long covers = doors.stream().filter(left::contains).count();
                if (covers > most) {
                    best = Optional.of(one.getKey());
                    most = covers;
                }
            }
            return best;
        }

        /** Which of some doors that were open at an instant it is, by others of their openings. */
        private Optional<Lead> told(Instant at, Set<DoorId> some) throws InterruptedException {
            for (DoorId door : open.get(at).doors()) {
                if (some.contains(door) && shows(door, at)) {
                    return Optional.of(new Lead(door, camera.id(), lag));
                }
                if (over()) {
                    break;
                }
            }
            return Optional.empty();
        }

        private boolean shows(DoorId door, Instant besides) throws InterruptedException {
            int confirmed = 0;
            for (KnownOpening opening : known.apply(door)) {
                if (Duration.between(opening.at(), besides).abs().compareTo(APART) < 0) {
                    continue;
                }
                Instant[] at = Film.instants(opening.at());
                Optional<Boolean> moved = moved(at[1], at[0]);
                if (moved.isPresent() && !moved.get()) {
                    return false;
                }
                if (moved.isPresent()) {
                    // What was seen is evidence, and need not be asked for again.
                    Stir stir = stirs.get(stirs.size() - 1);
                    evidence.saw(camera.id(), opening, new Film(stir.before(), stir.now(), Optional.empty()));
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
