package org.custodia.core.event;

import java.util.ArrayList;
import java.util.List;

/**
 * The numbers of one system in one epoch: which are held, which are known to be missing. Not safe for use by several
 * threads; whoever stores events keeps one for each epoch and saves it along with them.
 */
public final class Ledger {
    private final NumberRanges held = new NumberRanges();
    private final NumberRanges missing = new NumberRanges();

    /** The numbers whose event is stored or whose message is kept unread. */
    public NumberRanges held() {
        return held;
    }

    /** The numbers that were asked for again and not delivered. */
    public NumberRanges missing() {
        return missing;
    }

    /**
     * Puts a number down as held.
     *
     * @return whether it was not
     */
    public boolean hold(long number) {
        return held.add(number);
    }

    /**
     * Puts numbers down as missing, but for those that are held or down as missing already.
     *
     * @return what is newly missing
     */
    public List<NumberRanges.Range> miss(long first, long last) {
        List<NumberRanges.Range> fresh = new ArrayList<>();
        for (NumberRanges.Range free : held.without(first, last)) {
            fresh.addAll(missing.without(free.first(), free.last()));
        }
        fresh.forEach(r -> missing.add(r.first(), r.last()));
        return fresh;
    }

    /**
     * Of the stretches of missing numbers those that are held by now; they are missing no more.
     *
     * @param among only stretches in which one of these numbers lies
     */
    public List<NumberRanges.Range> closed(List<Long> among) {
        List<NumberRanges.Range> result = new ArrayList<>();
        for (long number : among) {
            missing.around(number)
                    .filter(gap -> held.containsAll(gap.first(), gap.last()))
                    .ifPresent(gap -> {
                        missing.remove(gap.first(), gap.last());
                        result.add(gap);
                    });
        }
        return result;
    }

    /**
     * How far all this goes.
     *
     * @param epoch the system's own number of the epoch
     * @param logsEpoch the epoch under which the log keeps its events
     */
    public Coverage coverage(long epoch, long logsEpoch) {
        return Coverage.of(epoch, logsEpoch, held, missing);
    }
}
