package org.custodia.core.alarm;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.NavigableSet;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.site.DoorId;

/**
 * What one rule counts together, apart by place, person, badge or site. An occurrence is an event with which a window of the
 * rule's length becomes full; whether it does follows from the events and their times alone, not from the order in which they
 * were stored. What is held here is a cache of the log.
 *
 * @param <K> what is counted apart
 */
final class Counted<K> {
    /** Courses held in memory; of more, those that were quiet longest are read from the log again. */
    private static final int MOST = 5_000;
    /** Entries of one course held in memory. */
    private static final int MOST_ENTRIES = 1_000;

    private final Rule.Often often;
    private final Map<K, Course> courses = new LinkedHashMap<>(16, 0.75f, true) {
        private static final long serialVersionUID = 1L;

        @Override
        protected boolean removeEldestEntry(Map.Entry<K, Course> eldest) {
            return size() > MOST;
        }
    };

    /** Something that is counted. */
    record Entry(EventKey key, Instant at, Optional<DoorId> door) {
        private static final Comparator<Entry> ORDER =
                Comparator.comparing(Entry::at).thenComparing(Entry::key, Event::compareKeys);
    }

    /** With which event a window became full, and when the first that counts in it happened. */
    record Occurrence(EventKey cause, Instant at, Instant since) {}

    /** What is stored of one course. */
    record Stored(List<Entry> entries, List<Instant> breaks) {
        static final Stored NOTHING = new Stored(List.of(), List.of());

        /** The same where the count began anew once more. */
        Stored brokenAt(Instant at) {
            return new Stored(
                    entries, Stream.concat(breaks.stream(), Stream.of(at)).toList());
        }
    }

    /** Reads a course from the log. */
    @FunctionalInterface
    interface Loader {
        /**
         * What was evaluated before the event that is being counted.
         *
         * @param from included
         * @param to included
         */
        Stored load(Instant from, Instant to);
    }

    private final class Course {
        private final TreeSet<Entry> entries = new TreeSet<>(Entry.ORDER);
        /** When the count began anew. */
        private final TreeSet<Instant> breaks = new TreeSet<>();
        /** Since when everything is here. */
        private Instant completeFrom;

        Course(Instant completeFrom, Stored stored) {
            this.completeFrom = completeFrom;
            entries.addAll(stored.entries());
            breaks.addAll(stored.breaks());
        }

        /** The window that becomes full with an entry, if one does. */
        private Optional<Occurrence> full(Entry last) {
            Instant from = last.at().minus(often.within());
            Instant broken = breaks.floor(last.at());
            List<Entry> inside = new ArrayList<>();
            NavigableSet<Entry> before = entries.headSet(last, true).descendingSet();
            for (Entry entry : before) {
                if (entry.at().isBefore(from) || broken != null && !entry.at().isAfter(broken)) {
                    break;
                }
                inside.add(entry);
            }
            if (reach(inside) < often.times()) {
                return Optional.empty();
            }
            return Optional.of(new Occurrence(
                    last.key(), last.at(), inside.get(inside.size() - 1).at()));
        }

        private int reach(List<Entry> inside) {
            if (!often.differentDoors()) {
                return inside.size();
            }
            Set<DoorId> doors = new HashSet<>();
            inside.forEach(e -> e.door().ifPresent(doors::add));
            return doors.size();
        }

        /** Those of a span with which a window becomes full. */
        private List<Occurrence> full(Entry from, Instant to) {
            List<Occurrence> all = new ArrayList<>(1);
            for (Entry entry : entries.tailSet(from, true)) {
                if (entry.at().isAfter(to)) {
                    break;
                }
                full(entry).ifPresent(all::add);
            }
            return all;
        }

        /** Adds an entry, and says with which events a window is full now that was not before. */
        List<Occurrence> add(Entry entry) {
            if (entries.contains(entry)) {
                return List.of();
            }
            Instant to = entry.at().plus(often.within());
            Set<EventKey> before =
                    full(entry, to).stream().map(Occurrence::cause).collect(Collectors.toSet());
            entries.add(entry);
            List<Occurrence> now = full(entry, to);
            now.removeIf(o -> before.contains(o.cause()));
            return now;
        }

        void forget() {
            Instant old = entries.isEmpty()
                    ? completeFrom
                    : entries.last().at().minus(often.within().multipliedBy(2));
            while (!entries.isEmpty() && (entries.first().at().isBefore(old) || entries.size() > MOST_ENTRIES)) {
                Instant gone = entries.pollFirst().at();
                completeFrom = gone.isBefore(completeFrom) ? completeFrom : gone.plusNanos(1);
            }
            completeFrom = old.isBefore(completeFrom) ? completeFrom : old;
            breaks.headSet(completeFrom, false).clear();
            while (breaks.size() > MOST_ENTRIES) {
                completeFrom = breaks.pollFirst().plusNanos(1);
            }
        }

        /** Whether all that a window around an instant needs is here. */
        boolean covers(Instant at) {
            return !at.minus(often.within()).isBefore(completeFrom);
        }
    }

    Counted(Rule.Often often) {
        this.often = often;
    }

    Rule.Often often() {
        return often;
    }

    /** Counts one more, and says with which events a window is full now that was not before. */
    List<Occurrence> count(K key, Entry entry, Loader loader) {
        Duration within = often.within();
        Course course = courses.get(key);
        if (course == null) {
            Instant from = entry.at().minus(within.multipliedBy(2));
            course = new Course(from, loader.load(from, from.plus(History.EVER)));
            courses.put(key, course);
        } else if (!course.covers(entry.at())) {
            Instant from = entry.at().minus(within);
            Course then = new Course(from, loader.load(from, entry.at().plus(within)));
            if (!entry.at().isBefore(course.completeFrom)) {
                course.entries.add(entry);
            }
            return then.add(entry);
        }
        List<Occurrence> found = course.add(entry);
        course.forget();
        return found;
    }

    /** Something happened that starts the count anew. */
    void begin(K key, Instant at) {
        Course course = courses.get(key);
        // Where nothing is held it is read from the log with the rest.
        if (course != null && !at.isBefore(course.completeFrom)) {
            course.breaks.add(at);
            course.forget();
        }
    }

    /** Something that was counted did not happen after all. */
    void remove(K key, Entry entry) {
        Course course = courses.get(key);
        if (course != null) {
            course.entries.remove(entry);
        }
    }

    /** Whether a window is full with an entry, by all that is known. */
    boolean isFull(K key, Entry last, Loader loader) {
        Course course = courses.get(key);
        if (course == null || !course.covers(last.at())) {
            Instant from = last.at().minus(often.within());
            course = new Course(from, loader.load(from, last.at()));
        }
        return course.full(last).isPresent();
    }

    /** One course as it is held. */
    record Held<K>(K key, List<Entry> entries, List<Instant> breaks, Instant completeFrom) {}

    List<Held<K>> held() {
        List<Held<K>> all = new ArrayList<>();
        courses.forEach(
                (key, c) -> all.add(new Held<>(key, List.copyOf(c.entries), List.copyOf(c.breaks), c.completeFrom)));
        return all;
    }

    void restore(Held<K> held) {
        courses.put(held.key(), new Course(held.completeFrom(), new Stored(held.entries(), held.breaks())));
    }
}
