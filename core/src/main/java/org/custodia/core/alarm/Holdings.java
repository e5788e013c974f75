package org.custodia.core.alarm;

import java.time.Duration;
import java.time.Instant;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.Supplier;
import org.custodia.core.event.EventKind;

/**
 * Whether a state that one rule depends on holds, apart by place or site, at any instant and in whatever order its beginnings
 * and ends are stored. A cache of the log.
 */
final class Holdings {
    /** Places held in memory; of more, those that were quiet longest are read from the log again. */
    private static final int MOST = 5_000;
    /** Changes of one place held in memory. */
    private static final int MOST_CHANGES = 200;

    /** How far back a state can have begun. */
    static final Duration LONGEST = Duration.ofDays(366);

    private final Rule.Holding holding;
    private final Map<String, Course> courses = new LinkedHashMap<>(16, 0.75f, true) {
        private static final long serialVersionUID = 1L;

        @Override
        protected boolean removeEldestEntry(Map.Entry<String, Course> eldest) {
            return size() > MOST;
        }
    };

    /** When a state began or ended. */
    record Change(Instant at, boolean holds) {}

    private static final class Course {
        private final TreeMap<Instant, Boolean> changes = new TreeMap<>();
        private Instant completeFrom = Instant.MIN;
    }

    Holdings(Rule.Holding holding) {
        this.holding = holding;
    }

    Rule.Holding holding() {
        return holding;
    }

    /** The kinds of events with which it begins or ends. */
    Set<EventKind> kinds() {
        Set<EventKind> all = new HashSet<>(holding.begins());
        all.addAll(holding.ends());
        return all;
    }

    /** It began or ended; where nothing is held of a place, that is read from the log with the rest. */
    void changed(String key, Change change) {
        Course course = courses.get(key);
        if (course != null && !change.at().isBefore(course.completeFrom)) {
            put(course, change);
        }
    }

    private static void put(Course course, Change change) {
        // Of both at one instant the end counts.
        course.changes.merge(change.at(), change.holds(), Boolean::logicalAnd);
        while (course.changes.size() > MOST_CHANGES) {
            course.completeFrom = course.changes.pollFirstEntry().getKey().plusNanos(1);
        }
    }

    /**
     * Whether it holds at an instant.
     *
     * @param loader the newest change up to the instant and all after it, from the log
     */
    boolean holds(String key, Instant at, Supplier<List<Change>> loader) {
        Course course = courses.get(key);
        if (course != null && !at.isBefore(course.completeFrom)) {
            Map.Entry<Instant, Boolean> known = course.changes.floorEntry(at);
            return known != null && known.getValue();
        }
        Course read = new Course();
        read.completeFrom = at;
        for (Change change : loader.get()) {
            read.completeFrom = change.at().isBefore(read.completeFrom) ? change.at() : read.completeFrom;
            put(read, change);
        }
        if (course == null) {
            courses.put(key, read);
        }
        Map.Entry<Instant, Boolean> known = read.changes.floorEntry(at);
        return known != null && known.getValue();
    }
}
