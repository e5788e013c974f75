package org.custodia.core.evidence;

import java.util.ArrayList;
import java.util.BitSet;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.evidence.Candidate.Confidence;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Side;

/**
 * What stills say of which camera sees which door. For a camera and a door a sequential probability ratio test (Wald, 1945) is
 * made of whether something moved at each opening: with a camera that sees the door it nearly always does, with another as
 * often as when the door does not open. How often that is is itself known only from some looks, so the ratio is taken over
 * all rates that fit them (beta-binomial). Cells that are different in still pictures, such as a clock in the picture, are left
 * out. Safe for use by several threads.
 */
public final class PairEvidence {
    /** How often one that is called sure may be wrong, for each door, over all its cameras. */
    public static final double WRONG = 0.001;
    /** How often a camera that does see the door may be given up. */
    public static final double MISSED = 0.02;

    /** How often a camera that sees the door shows that it moves. */
    private static final double SEES = 0.95;
    /** What is thought of a picture before it was looked at: something moves in it, or not, and mostly not. */
    private static final double MOVED_BEFORE = 0.5;

    private static final double RESTED_BEFORE = 2;
    /** Fewer openings than this leave it open, however clear they are. */
    private static final int LEAST_OPENINGS = 3;

    private static final double LIKELY = Math.log(20);
    /** So many cells at least are something that moves, and not grain. */
    private static final int LEAST_CELLS = 5;
    /** So many still pairs at least tell which cells never rest. */
    private static final int ENOUGH_STILL = 3;

    private static final int MOST_STILL = 30;
    private static final int MOST_LOOKS = 24;
    /** So many still pairs tell what a camera usually shows. */
    private static final int MOST_USUAL = 6;
    /** So many looks at doors that a camera does not show tell how often it stirs by chance; older ones are forgotten. */
    private static final int MOST_ELSEWHERE = 40;

    /** So many openings that agree decide the view, where none says otherwise. */
    private static final int VIEW_DECIDED = 3;
    /** One that says otherwise takes so many more that agree. */
    private static final int VIEW_AGAINST = 3;

    /**
     * @param film nothing once the door is settled: what matters of it is known then
     */
    private record Look(KnownOpening opening, BitSet changed, Optional<Film> film) {}

    /** What a camera saw of one door. */
    private static final class DoorFile {
        private final List<Look> looks = new ArrayList<>();
        private boolean settled;
        private boolean shown;
        private Optional<Pairing.View> view = Optional.empty();
    }

    private static final class CameraFile {
        private final List<BitSet> still = new ArrayList<>();
        private final List<Glimpse> quiet = new ArrayList<>();
        private final Map<DoorId, DoorFile> doors = new LinkedHashMap<>();

        /** What is different in many pictures of nothing. */
        private BitSet restless = new BitSet(Glimpse.CELLS);

        void quiet(Glimpse one, Glimpse other) {
            still.add(one.differs(other));
            quiet.add(one);
            quiet.add(other);
            if (still.size() > MOST_STILL) {
                still.remove(0);
            }
            if (quiet.size() > 2 * MOST_USUAL) {
                quiet.subList(0, 2).clear();
            }
            int[] different = new int[Glimpse.CELLS];
            still.forEach(s -> s.stream().forEach(cell -> different[cell]++));
            restless = new BitSet(Glimpse.CELLS);
            for (int cell = 0; cell < Glimpse.CELLS && still.size() >= ENOUGH_STILL; cell++) {
                restless.set(cell, 3 * different[cell] >= still.size());
            }
        }

        Optional<Glimpse> usual() {
            return quiet.size() < 2 * ENOUGH_STILL ? Optional.empty() : Optional.of(Glimpse.usual(quiet));
        }

        List<Look> looks(DoorId door) {
            DoorFile of = doors.get(door);
            return of == null ? List.of() : of.looks;
        }

        static int cells(BitSet changed, BitSet restless) {
            BitSet rest = (BitSet) changed.clone();
            rest.andNot(restless);
            return rest.cardinality();
        }
    }

    private final Map<CameraId, CameraFile> files = new HashMap<>();

    private CameraFile file(CameraId camera) {
        return files.computeIfAbsent(camera, c -> new CameraFile());
    }

    /** Takes in what a camera saw when a door opened; the same opening again takes the place of what was known of it. */
    public synchronized void saw(CameraId camera, KnownOpening opening, Film film) {
        List<Look> looks = file(camera).doors.computeIfAbsent(opening.door(), d -> new DoorFile()).looks;
        looks.removeIf(l -> l.opening().at().equals(opening.at()));
        looks.add(new Look(opening, film.before().differs(film.at()), Optional.of(film)));
        looks.sort(Comparator.comparing((Look l) -> l.opening().at()).reversed());
        if (looks.size() > MOST_LOOKS) {
            looks.remove(looks.size() - 1);
        }
    }

    /** Takes in two pictures of a camera from when, as far as is known, nothing opened. */
    public synchronized void quiet(CameraId camera, Glimpse one, Glimpse other) {
        file(camera).quiet(one, other);
    }

    /** Whether something moved between two pictures of a camera, but for what never rests in it. */
    synchronized boolean differ(CameraId camera, Glimpse one, Glimpse other) {
        return CameraFile.cells(one.differs(other), file(camera).restless) >= LEAST_CELLS;
    }

    /** Forgets what a camera saw of a door. */
    synchronized void forget(DoorId door, CameraId camera) {
        file(camera).doors.remove(door);
    }

    /** What a camera shows while nothing opens; nothing before it was looked at often enough. */
    synchronized Optional<Glimpse> usual(CameraId camera) {
        CameraFile file = files.get(camera);
        return file == null ? Optional.empty() : file.usual();
    }

    /** How many pictures of quiet a camera has. */
    public synchronized int quiets(CameraId camera) {
        return files.containsKey(camera) ? file(camera).still.size() : 0;
    }

    /** At how many openings of a door a camera was looked at. */
    public synchronized int looked(DoorId door, CameraId camera) {
        return files.containsKey(camera) ? file(camera).looks(door).size() : 0;
    }

    /** Whether something moved in a camera's picture at an opening; nothing where it was not looked. */
    public synchronized Optional<Boolean> moved(CameraId camera, KnownOpening opening) {
        CameraFile file = files.get(camera);
        if (file == null) {
            return Optional.empty();
        }
        BitSet restless = file.restless;
        return file.looks(opening.door()).stream()
                .filter(l -> l.opening().at().equals(opening.at()))
                .findFirst()
                .map(l -> moved(l, restless));
    }

    private static boolean moved(Look look, BitSet restless) {
        return CameraFile.cells(look.changed(), restless) >= LEAST_CELLS;
    }

    /** Forgets what was seen of a door, to begin anew. */
    public synchronized void forget(DoorId door) {
        files.values().forEach(f -> f.doors.remove(door));
    }

    /**
     * Keeps of a door what matters, now that it was looked at: pictures are forgotten, and of cameras that do not clearly show
     * it no more than what tells how often they stir by chance. So what is kept of thousands of doors stays small.
     *
     * @param of among how many cameras it was looked for
     */
    public synchronized void settle(DoorId door, int of) {
        files.forEach((camera, file) -> {
            DoorFile known = file.doors.get(door);
            if (known == null || known.settled) {
                return;
            }
            Candidate so = candidate(door, camera, of);
            known.view = so.view();
            known.shown = so.confidence() == Confidence.SURE || so.confidence() == Confidence.LIKELY;
            known.looks.replaceAll(l -> new Look(l.opening(), l.changed(), Optional.empty()));
            known.settled = true;
            List<Map.Entry<DoorId, DoorFile>> others = file.doors.entrySet().stream()
                    .filter(e -> e.getValue().settled && !e.getValue().shown)
                    .toList();
            int looks = others.stream().mapToInt(e -> e.getValue().looks.size()).sum();
            for (Map.Entry<DoorId, DoorFile> oldest : others) {
                if (looks <= MOST_ELSEWHERE) {
                    break;
                }
                looks -= oldest.getValue().looks.size();
                file.doors.remove(oldest.getKey());
            }
        });
    }

    /**
     * What is known of a camera and a door.
     *
     * @param of among how many cameras it is looked for, which makes a chance likelier
     */
    public synchronized Candidate candidate(DoorId door, CameraId camera, int of) {
        CameraFile file = file(camera);
        BitSet restless = file.restless;
        List<Look> looks = file.looks(door);
        Elsewhere elsewhere = elsewhere(file, restless, door);
        int counted = 0;
        int moved = 0;
        List<KnownOpening> shown = new ArrayList<>();
        Set<DoorId> together = null;
        for (Look look : looks) {
            boolean stirs = moved(look, restless);
            if (stirs) {
                shown.add(look.opening());
                together = common(together, look.opening().alongside());
            }
            // Something that moved may have moved at the other door that opened just then.
            boolean explained = look.opening().alongside().stream().anyMatch(elsewhere.seen()::contains);
            if (!explained || !stirs) {
                counted++;
                moved += stirs ? 1 : 0;
            }
        }
        double weight = weight(moved, counted, elsewhere.moved(), elsewhere.looked());
        Set<DoorId> inseparable = together == null ? Set.of() : together;
        return new Candidate(
                camera,
                confidence(weight, of, inseparable.isEmpty() && moved >= LEAST_OPENINGS),
                weight,
                (int) looks.stream().filter(l -> moved(l, restless)).count(),
                looks.size(),
                elsewhere.moved(),
                elsewhere.looked(),
                view(file, door, restless),
                inseparable,
                shown);
    }

    private static Set<DoorId> common(Set<DoorId> before, Set<DoorId> now) {
        if (before == null) {
            return new HashSet<>(now);
        }
        before.retainAll(now);
        return before;
    }

    /** The logarithm of how much likelier it is that so many moved if the door is seen than if it is not. */
    private static double weight(int moved, int looked, int elsewhereMoved, int elsewhere) {
        double seen = moved * Math.log(SEES) + (looked - moved) * Math.log(1 - SEES);
        double a = MOVED_BEFORE + elsewhereMoved;
        double b = RESTED_BEFORE + elsewhere - elsewhereMoved;
        double unseen = 0;
        for (int i = 0; i < moved; i++) {
            unseen += Math.log((a + i) / (a + b + i));
        }
        for (int i = 0; i < looked - moved; i++) {
            unseen += Math.log((b + i) / (a + b + moved + i));
        }
        return seen - unseen;
    }

    private static Confidence confidence(double weight, int of, boolean canBeSure) {
        double wrong = WRONG / Math.max(1, of);
        if (weight >= Math.log((1 - MISSED) / wrong) && canBeSure) {
            return Confidence.SURE;
        }
        if (weight >= LIKELY) {
            return Confidence.LIKELY;
        }
        return weight <= Math.log(MISSED / (1 - wrong)) ? Confidence.NO : Confidence.OPEN;
    }

    /**
     * What a camera shows while a door does not open.
     *
     * @param seen doors that it clearly shows, told only from when they opened by themselves
     */
    private record Elsewhere(int moved, int looked, Set<DoorId> seen) {}

    private static Elsewhere elsewhere(CameraFile file, BitSet restless, DoorId except) {
        int looked = file.still.size();
        int moved = (int) file.still.stream()
                .filter(b -> CameraFile.cells(b, restless) >= LEAST_CELLS)
                .count();
        Set<DoorId> seen = new HashSet<>();
        for (Map.Entry<DoorId, DoorFile> other : file.doors.entrySet()) {
            if (other.getKey().equals(except)) {
                continue;
            }
            int alone = 0;
            int aloneMoved = 0;
            for (Look look : other.getValue().looks) {
                if (look.opening().alongside().isEmpty()) {
                    alone++;
                    aloneMoved += moved(look, restless) ? 1 : 0;
                }
            }
            // What it does show says nothing of how often it stirs by chance.
            if (weight(aloneMoved, alone, 0, file.still.size()) >= LIKELY) {
                seen.add(other.getKey());
            } else {
                looked += alone;
                moved += aloneMoved;
            }
        }
        return new Elsewhere(moved, looked, seen);
    }

    /** From which side a camera sees a door, as far as that can be told. */
    synchronized Optional<Pairing.View> view(DoorId door, CameraId camera) {
        return view(file(camera), door, file(camera).restless);
    }

    /** From which side it sees the door: who comes in is seen before from outside, and afterwards from inside. */
    private static Optional<Pairing.View> view(CameraFile file, DoorId door, BitSet restless) {
        DoorFile known = file.doors.get(door);
        if (known != null && known.settled) {
            return known.view;
        }
        List<Look> looks = file.looks(door);
        Optional<Glimpse> usual = file.usual();
        return usual.isEmpty() ? Optional.empty() : view(usual.get(), looks, restless);
    }

    private static Optional<Pairing.View> view(Glimpse usual, List<Look> looks, BitSet restless) {
        BitSet besides = leaf(usual, looks, restless);
        besides.or(restless);
        int inside = 0;
        int outside = 0;
        for (Look look : looks) {
            Optional<Film> film = look.film();
            Optional<Glimpse> after = film.flatMap(Film::after);
            if (after.isEmpty() || look.opening().from().isEmpty() || !moved(look, restless)) {
                continue;
            }
            int earlier = CameraFile.cells(usual.differs(film.get().before()), besides);
            int later = CameraFile.cells(usual.differs(after.get()), besides);
            if (Math.abs(later - earlier) > LEAST_CELLS) {
                boolean goesIn = look.opening().from().get() == Side.ENTRY;
                if (later > earlier == goesIn) {
                    inside++;
                } else {
                    outside++;
                }
            }
        }
        int against = Math.min(inside, outside);
        if (Math.max(inside, outside) < VIEW_DECIDED + VIEW_AGAINST * against) {
            return Optional.empty();
        }
        return Optional.of(inside > outside ? Pairing.View.INSIDE : Pairing.View.OUTSIDE);
    }

    /** Where the leaf moves: what is different at most openings; it says nothing of who stands there. */
    private static BitSet leaf(Glimpse usual, List<Look> looks, BitSet restless) {
        int[] different = new int[Glimpse.CELLS];
        int moved = 0;
        for (Look look : looks) {
            if (look.film().isPresent() && moved(look, restless)) {
                moved++;
                usual.differs(look.film().get().at()).stream().forEach(cell -> different[cell]++);
            }
        }
        BitSet leaf = new BitSet(Glimpse.CELLS);
        for (int cell = 0; cell < Glimpse.CELLS && moved >= LEAST_OPENINGS; cell++) {
            leaf.set(cell, 3 * different[cell] >= 2 * moved);
        }
        return leaf;
    }

    /**
     * The cameras of a door, the likeliest first; those that show it not are left out.
     *
     * @param of among how many cameras they were looked for
     */
    public synchronized List<Candidate> candidates(DoorId door, int of) {
        return files.entrySet().stream()
                .filter(e -> e.getValue().doors.containsKey(door))
                .map(e -> candidate(door, e.getKey(), of))
                .filter(c -> c.confidence() != Confidence.NO && c.moved() > 0)
                .sorted(Candidate.LIKELIEST_FIRST)
                .toList();
    }
}
