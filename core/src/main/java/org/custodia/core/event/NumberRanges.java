package org.custodia.core.event;

import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.TreeMap;

/**
 * A set of event numbers, kept as stretches without holes, so that millions of consecutive numbers take the room of one.
 * Not safe for use by several threads.
 */
public final class NumberRanges {
    /**
     * A stretch of numbers.
     *
     * @param first from 1
     * @param last included, not less than the first
     */
    public record Range(long first, long last) {
        public Range {
            if (first < 1 || last < first) {
                throw new IllegalArgumentException("numbers from " + first + " to " + last);
            }
        }

        /** How many numbers there are; stays at the largest long where there are more. */
        public long size() {
            long size = last - first + 1;
            return size < 1 ? Long.MAX_VALUE : size;
        }
    }

    private final TreeMap<Long, Long> stretches = new TreeMap<>();
    /** For each first number that changed since it was asked for: the last number now, or null where it is gone. */
    private Map<Long, Long> changes = new HashMap<>();

    /** Takes a number in; false if it was there. */
    public boolean add(long number) {
        if (contains(number)) {
            return false;
        }
        add(number, number);
        return true;
    }

    /** Takes a stretch in, whatever of it is there already. */
    public void add(long first, long last) {
        Range range = new Range(first, last);
        long from = range.first();
        long to = range.last();
        Map.Entry<Long, Long> before = stretches.floorEntry(from);
        if (before != null && (before.getValue() >= from || before.getValue() == from - 1)) {
            from = before.getKey();
            to = Math.max(to, before.getValue());
        }
        Map.Entry<Long, Long> next = stretches.ceilingEntry(from);
        while (next != null && (next.getKey() <= to || next.getKey() - 1 == to)) {
            to = Math.max(to, next.getValue());
            take(next.getKey());
            next = stretches.ceilingEntry(from);
        }
        put(from, to);
    }

    /** Takes a stretch out. */
    public void remove(long first, long last) {
        Range range = new Range(first, last);
        Map.Entry<Long, Long> before = stretches.lowerEntry(range.first());
        if (before != null && before.getValue() >= range.first()) {
            put(before.getKey(), range.first() - 1);
            if (before.getValue() > range.last()) {
                put(range.last() + 1, before.getValue());
            }
        }
        Map.Entry<Long, Long> next = stretches.ceilingEntry(range.first());
        while (next != null && next.getKey() <= range.last()) {
            take(next.getKey());
            if (next.getValue() > range.last()) {
                put(range.last() + 1, next.getValue());
            }
            next = stretches.ceilingEntry(range.first());
        }
    }

    private void put(long first, long last) {
        stretches.put(first, last);
        changes.put(first, last);
    }

    private void take(long first) {
        stretches.remove(first);
        changes.put(first, null);
    }

    public boolean contains(long number) {
        Map.Entry<Long, Long> before = stretches.floorEntry(number);
        return before != null && before.getValue() >= number;
    }

    /** Whether all numbers of a stretch are there. */
    public boolean containsAll(long first, long last) {
        Map.Entry<Long, Long> before = stretches.floorEntry(first);
        return before != null && before.getValue() >= last;
    }

    /** What of a stretch is not there, in order. */
    public List<Range> without(long first, long last) {
        List<Range> result = new ArrayList<>();
        long from = first;
        while (from <= last) {
            Map.Entry<Long, Long> at = stretches.floorEntry(from);
            if (at != null && at.getValue() >= from) {
                if (at.getValue() >= last) {
                    break;
                }
                from = at.getValue() + 1;
                continue;
            }
            Long next = stretches.higherKey(from);
            long to = next == null || next > last ? last : next - 1;
            result.add(new Range(from, to));
            if (to == last) {
                break;
            }
            from = to + 1;
        }
        return result;
    }

    /** The last number of the stretch that a number lies in, or the number before it if it is not there. */
    public long endOf(long number) {
        Map.Entry<Long, Long> at = stretches.floorEntry(number);
        return at != null && at.getValue() >= number ? at.getValue() : number - 1;
    }

    /** The stretch that a number lies in. */
    public Optional<Range> around(long number) {
        Map.Entry<Long, Long> at = stretches.floorEntry(number);
        return at != null && at.getValue() >= number
                ? Optional.of(new Range(at.getKey(), at.getValue()))
                : Optional.empty();
    }

    /** The first number that is there, from a number on. */
    public OptionalLong firstFrom(long number) {
        if (contains(number)) {
            return OptionalLong.of(number);
        }
        Long next = stretches.higherKey(number);
        return next == null ? OptionalLong.empty() : OptionalLong.of(next);
    }

    /** The highest number, 0 while there is none. */
    public long highest() {
        return stretches.isEmpty() ? 0 : stretches.lastEntry().getValue();
    }

    public boolean isEmpty() {
        return stretches.isEmpty();
    }

    /** All stretches in order. */
    public List<Range> ranges() {
        List<Range> result = new ArrayList<>(stretches.size());
        stretches.forEach((first, last) -> result.add(new Range(first, last)));
        return result;
    }

    /** What has changed since this was asked for last: for each first number the last one, null where it is no first any more. */
    public Map<Long, Long> takeChanges() {
        Map<Long, Long> taken = changes;
        changes = new HashMap<>();
        return Collections.unmodifiableMap(taken);
    }

    @Override
    public String toString() {
        return ranges().toString();
    }
}
