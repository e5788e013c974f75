package org.custodia.core.evidence;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.BitSet;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.Random;

/**
 * How much later a camera shows a door opening than the door's contact says, from many openings, trusting neither clock. Around
 * some openings the picture is looked at second by second, to find the cells whose change keeps most exactly to the contact:
 * that is the leaf, while people come sooner or later. Then the onset of that change is bisected at each opening.
 */
public final class PictureLag {
    /** The clocks may be this far apart after correction, either way. */
    static final int REACH_SECONDS = 8;

    /** So many openings are looked at second by second. */
    private static final int COARSE = 7;
    /** The onset is bisected until it is known as well as this. */
    private static final Duration FINE = Duration.ofMillis(60);
    /** So many openings at least give a lag. */
    private static final int LEAST = 5;
    /** When so much of the leaf's cells is different it has begun to move. */
    private static final double BEGUN = 0.2;
    /** A cell of the leaf changes at nearly every opening. */
    private static final double NEARLY_EVERY = 0.7;
    /** Fewer cells than this are no leaf. */
    private static final int LEAST_CELLS = 4;

    private static final int BOOTSTRAPS = 2_000;

    /**
     * A lag.
     *
     * @param lag how much later the picture shows it than the contact says; negative if sooner
     * @param low below this it is in one of forty cases (bootstrap)
     * @param high above this it is in one of forty cases
     * @param onsets what was seen at each opening, in seconds
     */
    public record Lag(Duration lag, Duration low, Duration high, List<Double> onsets) {
        public Lag {
            onsets = List.copyOf(onsets);
        }

        /** From how many openings it comes. */
        public int openings() {
            return onsets.size();
        }

        /** What several cameras say together. */
        public static Lag of(List<Lag> some) {
            return PictureLag.lag(
                    some.stream().flatMap(l -> l.onsets().stream()).toList());
        }
    }

    /** Gives small pictures of one camera. */
    interface Looks {
        Optional<Glimpse> at(Instant instant) throws InterruptedException;
    }

    private final Looks looks;

    PictureLag(Looks looks) {
        this.looks = looks;
    }

    /** Second by second around one opening; nothing where a picture is missing. */
    private record Course(KnownOpening opening, Glimpse[] glimpses) {
        /** Where a picture of that many seconds after the opening stands. */
        static int index(int second) {
            return second + REACH_SECONDS;
        }
    }

    /** Cells that change at the same second after nearly every opening. */
    private record Leaf(BitSet cells, double second) {}

    /**
     * Measures.
     *
     * @param openings at which nothing else opened, so far as there are any
     * @return nothing if there are too few openings or pictures, or nothing in them keeps to the contact
     */
    Optional<Lag> measure(List<KnownOpening> openings) throws InterruptedException {
        List<Course> courses = new ArrayList<>();
        List<Glimpse> all = new ArrayList<>();
        for (KnownOpening opening : openings) {
            if (courses.size() >= COARSE) {
                break;
            }
            course(opening).ifPresent(c -> {
                courses.add(c);
                all.addAll(Arrays.asList(c.glimpses()));
            });
        }
        if (courses.size() < LEAST) {
            return Optional.empty();
        }
        Glimpse usual = Glimpse.usual(all);
        List<List<Double>> groups = new ArrayList<>();
        for (Leaf leaf : leaves(courses, usual)) {
            List<Double> onsets = new ArrayList<>();
            for (KnownOpening opening : openings) {
                onset(opening, leaf, usual).ifPresent(onsets::add);
            }
            groups.add(onsets);
        }
        return leaf(groups).map(PictureLag::lag);
    }

    /**
     * The onsets of the cells at which the leaf begins to move. People are seen at fewer openings or less regularly. Where the
     * leaf swings across the picture, its edge is as regular as its hinge side and later, so the earliest regular group counts.
     */
    private static Optional<List<Double>> leaf(List<List<Double>> groups) {
        int most = groups.stream().mapToInt(List::size).max().orElse(0);
        List<List<Double>> seen = groups.stream()
                .filter(g -> g.size() >= Math.max(LEAST, NEARLY_EVERY * most))
                .toList();
        double regular = seen.stream().mapToDouble(PictureLag::spread).min().orElse(0) + FINE.toMillis() / 1_000.0;
        return seen.stream().filter(g -> spread(g) <= regular).min(Comparator.comparingDouble(PictureLag::median));
    }

    private Optional<Course> course(KnownOpening opening) throws InterruptedException {
        Glimpse[] glimpses = new Glimpse[2 * REACH_SECONDS + 1];
        for (int second = -REACH_SECONDS; second <= REACH_SECONDS; second++) {
            Optional<Glimpse> glimpse = looks.at(opening.at().plusSeconds(second));
            if (glimpse.isEmpty()) {
                return Optional.empty();
            }
            glimpses[Course.index(second)] = glimpse.get();
        }
        return Optional.of(new Course(opening, glimpses));
    }

    /** Groups of cells by the second at which they change, those that may be the leaf. */
    private static List<Leaf> leaves(List<Course> courses, Glimpse usual) {
        int length = 2 * REACH_SECONDS + 1;
        BitSet[][] different = new BitSet[courses.size()][length];
        for (int c = 0; c < courses.size(); c++) {
            for (int i = 0; i < length; i++) {
                different[c][i] = usual.differs(courses.get(c).glimpses()[i]);
            }
        }
        BitSet[] bySecond = new BitSet[length];
        Arrays.setAll(bySecond, i -> new BitSet(Glimpse.CELLS));
        for (int cell = 0; cell < Glimpse.CELLS; cell++) {
            for (int i = 1; i < length - 2; i++) {
                int turns = 0;
                for (BitSet[] course : different) {
                    // On the second, give or take a frame: what begins between two looks may be in the one or the
                    // other.
                    if (turns(course, cell, i) || turns(course, cell, i + 1)) {
                        turns++;
                    }
                }
                if (turns >= NEARLY_EVERY * different.length) {
                    bySecond[i].set(cell);
                }
            }
        }
        List<Leaf> leaves = new ArrayList<>();
        for (int i = 1; i < length - 2; i++) {
            if (bySecond[i].cardinality() >= LEAST_CELLS) {
                leaves.add(new Leaf(bySecond[i], i - REACH_SECONDS + 0.5));
            }
        }
        return leaves;
    }

    private static boolean turns(BitSet[] course, int cell, int i) {
        return !course[i - 1].get(cell) && course[i].get(cell) && course[i + 1].get(cell);
    }

    /** When the leaf begins to move, in seconds after the contact says so; nothing where that cannot be seen. */
    private Optional<Double> onset(KnownOpening opening, Leaf leaf, Glimpse usual) throws InterruptedException {
        Optional<Glimpse> before = looks.at(opening.at().plusMillis(Math.round(1_000 * (leaf.second() - 2))));
        Optional<Glimpse> after = looks.at(opening.at().plusMillis(Math.round(1_000 * (leaf.second() + 1.2))));
        if (before.isEmpty()
                || after.isEmpty()
                || moved(usual, before.get(), leaf)
                || !moved(usual, after.get(), leaf)) {
            return Optional.empty();
        }
        Instant low = before.get().at();
        Instant high = after.get().at();
        while (Duration.between(low, high).compareTo(FINE) > 0) {
            Instant middle = low.plus(Duration.between(low, high).dividedBy(2));
            Optional<Glimpse> glimpse = looks.at(middle);
            if (glimpse.isEmpty()) {
                return Optional.empty();
            }
            Instant shown = glimpse.get().at();
            if (moved(usual, glimpse.get(), leaf)) {
                if (!shown.isBefore(high)) {
                    break;
                }
                high = shown;
            } else {
                // The same frame as before: between it and the next there is none.
                low = shown.isAfter(low) ? shown : middle;
            }
        }
        Instant onset = low.plus(Duration.between(low, high).dividedBy(2));
        return Optional.of(Duration.between(opening.at(), onset).toMillis() / 1_000.0);
    }

    private static boolean moved(Glimpse usual, Glimpse now, Leaf leaf) {
        BitSet different = usual.differs(now);
        different.and(leaf.cells());
        return different.cardinality() >= Math.max(1, BEGUN * leaf.cells().cardinality());
    }

    private static double median(double[] sorted) {
        int n = sorted.length;
        return n % 2 == 1 ? sorted[n / 2] : (sorted[n / 2 - 1] + sorted[n / 2]) / 2;
    }

    private static double median(List<Double> values) {
        return median(values.stream().mapToDouble(Double::doubleValue).sorted().toArray());
    }

    /** How far values lie from their middle: the median of how far each does. */
    private static double spread(List<Double> values) {
        if (values.isEmpty()) {
            return Double.MAX_VALUE;
        }
        double middle = median(values);
        return median(values.stream().map(v -> Math.abs(v - middle)).toList());
    }

    /** The median, which one odd opening does not move, with a 95 % interval by bootstrap (Efron, 1979). */
    static Lag lag(List<Double> onsets) {
        Random random = new Random(onsets.size());
        double[] medians = new double[BOOTSTRAPS];
        double[] drawn = new double[onsets.size()];
        for (int i = 0; i < BOOTSTRAPS; i++) {
            for (int k = 0; k < drawn.length; k++) {
                drawn[k] = onsets.get(random.nextInt(drawn.length));
            }
            Arrays.sort(drawn);
            medians[i] = median(drawn);
        }
        Arrays.sort(medians);
        // Each onset itself is only known as well as it was bisected.
        double grain = FINE.toMillis() / 2_000.0;
        return new Lag(
                seconds(median(onsets)),
                seconds(medians[BOOTSTRAPS / 40] - grain),
                seconds(medians[BOOTSTRAPS - 1 - BOOTSTRAPS / 40] + grain),
                onsets);
    }

    private static Duration seconds(double value) {
        return Duration.ofMillis(Math.round(value * 1_000));
    }
}
