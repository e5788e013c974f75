package org.custodia.core.alarm;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.TreeSet;
import org.custodia.core.event.EventKey;

/** What one rule counts together: apart by place, person or badge, in whatever order it comes. */
final class Counted {
    /** So many places, people or badges are counted apart; of more, those that were quiet longest are forgotten. */
    private static final int MOST = 5_000;

    private final Rule.Often often;
    private final Map<String, Course> courses = new LinkedHashMap<>(16, 0.75f, true) {
        private static final long serialVersionUID = 1L;

        @Override
        protected boolean removeEldestEntry(Map.Entry<String, Course> eldest) {
            return size() > MOST;
        }
    };

    private static final class Course {
        private final TreeMap<Instant, List<EventKey>> times = new TreeMap<>();
        /** When the count began anew. */
        private final TreeSet<Instant> breaks = new TreeSet<>();
    }

    Counted(Rule.Often often) {
        this.often = often;
    }

    /**
     * Counts one more.
     *
     * @return since when there have been enough around it; nothing if there have not, or if this one was counted already
     */
    Optional<Instant> count(String key, EventKey event, Instant at) {
        Course course = courses.computeIfAbsent(key, k -> new Course());
        TreeMap<Instant, List<EventKey>> times = course.times;
        List<EventKey> then = times.computeIfAbsent(at, t -> new ArrayList<>(1));
        if (then.contains(event)) {
            return Optional.empty();
        }
        then.add(event);
        forget(course, times.lastKey());
        while (times.size() > 2 * Detector.MOST_TIMES) {
            times.pollFirstEntry();
        }
        return window(course, at);
    }

    /** Something happened that starts the count anew. */
    void begin(String key, Instant at) {
        Course course = courses.get(key);
        if (course != null) {
            course.breaks.add(at);
            forget(course, at);
            while (course.breaks.size() > 2 * Detector.MOST_TIMES) {
                course.breaks.pollFirst();
            }
        }
    }

    private void forget(Course course, Instant newest) {
        Instant before = newest.minus(often.within().multipliedBy(2));
        course.times.headMap(before, false).clear();
        course.breaks.headSet(before, false).clear();
    }

    /** The beginning of a window of the rule's length around an instant in which enough happened with no break. */
    private Optional<Instant> window(Course course, Instant around) {
        Duration within = often.within();
        for (Instant from :
                course.times.subMap(around.minus(within), true, around, true).keySet()) {
            Instant to = from.plus(within);
            Instant broken = course.breaks.higher(from);
            if (broken != null && !broken.isAfter(to)) {
                to = broken;
            }
            if (to.isBefore(around)) {
                continue;
            }
            int there = 0;
            for (List<EventKey> some : course.times.subMap(from, true, to, true).values()) {
                there += some.size();
            }
            if (there >= often.times()) {
                return Optional.of(from);
            }
        }
        return Optional.empty();
    }
}
