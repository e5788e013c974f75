package org.custodia.core.event;

import java.util.List;

/**
 * How far the log covers what a system has numbered in one epoch. A number is settled when its event is stored, when its
 * message is kept unread, or when it was asked for again and is known to be missing.
 *
 * @param epoch the system's own number of the epoch
 * @param logsEpoch the epoch under which the log keeps its events now, see {@link EventKey#again}
 * @param known whether anything of this epoch is stored
 * @param settled everything up to this number is settled; 0 while nothing is
 * @param highest the highest number that is stored and believed; a stray number far ahead is stored, but not believed
 * @param holes what is not settled between {@code settled} and {@code highest}, in order, at most {@value #MOST_HOLES}
 */
public record Coverage(
        long epoch, long logsEpoch, boolean known, long settled, long highest, List<NumberRanges.Range> holes) {
    /** So many holes are named at once. */
    public static final int MOST_HOLES = 200;
    /** A hole longer than this is believed only once {@link #CONVINCING} numbers without a hole stand behind it. */
    public static final long STRAY = 1_000_000;

    public static final long CONVINCING = 1_000;

    public Coverage {
        holes = List.copyOf(holes);
    }

    /**
     * What follows from the numbers that are settled.
     *
     * @param held numbers that are stored or kept unread
     * @param missing numbers that are known to be missing
     */
    static Coverage of(long epoch, long logsEpoch, NumberRanges held, NumberRanges missing) {
        List<NumberRanges.Range> holes = new java.util.ArrayList<>();
        long settled = reach(held, missing, 0);
        long highest = settled;
        long at = settled;
        while (at < held.highest() && holes.size() < MOST_HOLES) {
            long from = at + 1;
            long to = nextSettled(held, missing, from) - 1;
            long end = reach(held, missing, to);
            if (to - from + 1 > STRAY && end - to < CONVINCING) {
                break;
            }
            holes.add(new NumberRanges.Range(from, to));
            highest = end;
            at = end;
        }
        return new Coverage(epoch, logsEpoch, !held.isEmpty() || !missing.isEmpty(), settled, highest, holes);
    }

    /** The last number of those that follow without a hole. */
    private static long reach(NumberRanges held, NumberRanges missing, long from) {
        long at = from;
        while (at < Long.MAX_VALUE) {
            long next = Math.max(held.endOf(at + 1), missing.endOf(at + 1));
            if (next <= at) {
                break;
            }
            at = next;
        }
        return at;
    }

    private static long nextSettled(NumberRanges held, NumberRanges missing, long from) {
        return Math.min(
                held.firstFrom(from).orElse(Long.MAX_VALUE),
                missing.firstFrom(from).orElse(Long.MAX_VALUE));
    }
}
