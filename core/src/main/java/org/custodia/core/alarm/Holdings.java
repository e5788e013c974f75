package org.custodia.core.alarm;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
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

    /** What followed from events, and is in no log. */
    private final Map<String, TreeMap<Instant, Boolean>> derived = new LinkedHashMap<>(16, 0.75f, true) {
        private static final long serialVersionUID = 1L;

        @Override
        protected boolean removeEldestEntry(Map.Entry<String, TreeMap<Instant, Boolean>> eldest) {
            return size() > MOST;
        }
    };

    /** When a state began or ended. */
    record Change(Instant at, boolean holds) {}

    private static final class Course {
        private final TreeMap<Instant, Boolean> changes = new TreeMap<>();
        private Instant completeFrom = Instant.MIN;

        private void forget() {
            while (changes.size() > MOST_CHANGES) {
                completeFrom = changes.pollFirstEntry().getKey().plusNanos(1);
            }
        }
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

    /** What an event of one of these kinds means. */
    Change change(EventKind kind, Instant at) {
        return new Change(at, holding.begins().contains(kind));
    }

    /**
     * It began or ended; where nothing is held of a place, that is read from the log with the rest.
     *
     * @param derived whether no event says so, so that it is not in the log
     */
    void changed(String key, Change change, boolean derived) {
        if (derived) {
            TreeMap<Instant, Boolean> of = this.derived.computeIfAbsent(key, k -> new TreeMap<>());
            put(of, change);
            while (of.size() > MOST_CHANGES) {
                of.pollFirstEntry();
            }
        }
        Course course = courses.get(key);
        if (course != null && change.at().isBefore(course.completeFrom)) {
            // It may last into what is held.
            courses.remove(key);
        } else if (course != null) {
            put(course.changes, change);
            course.forget();
        }
    }

    /** What followed from events does not follow from them after all. */
    void undo(String key, Change change) {
        derived.computeIfPresent(key, (k, of) -> {
            of.remove(change.at(), change.holds());
            return of.isEmpty() ? null : of;
        });
        courses.remove(key);
    }

    private static void put(TreeMap<Instant, Boolean> changes, Change change) {
        // Of both at one instant the end counts.
        changes.merge(change.at(), change.holds(), Boolean::logicalAnd);
    }

    /**
     * Whether it holds at an instant.
     *
     * @param loader the newest change up to the instant and all after it, from the log
     */
    boolean holds(String key, Instant at, Supplier<List<Change>> loader) {
        Course course = courses.get(key);
        if (course != null && !at.isBefore(course.completeFrom)) {
            return holds(course.changes, at);
        }
        Course read = new Course();
        read.completeFrom = at;
        for (Change change : loader.get()) {
            read.completeFrom = change.at().isBefore(read.completeFrom) ? change.at() : read.completeFrom;
            put(read.changes, change);
        }
        derived.getOrDefault(key, new TreeMap<>()).forEach((when, so) -> put(read.changes, new Change(when, so)));
        boolean holds = holds(read.changes, at);
        if (course == null) {
            read.forget();
            courses.put(key, read);
        }
        return holds;
    }

    private static boolean holds(TreeMap<Instant, Boolean> changes, Instant at) {
        Map.Entry<Instant, Boolean> newest = changes.floorEntry(at);
        return newest != null && newest.getValue();
    }

    /**
     * What one more change makes different.
     *
     * @param from from when, included
     * @param until to when, not included; {@link Instant#MAX} where nothing changes after it
     * @param holds whether it holds now in between
     */
    record Effect(Instant from, Instant until, boolean holds) {}

    /**
     * What a change makes different; nothing where it was so already.
     *
     * @param others the newest change up to its instant and all after it, without itself, from the log
     */
    Optional<Effect> effect(String key, Change change, List<Change> others) {
        TreeMap<Instant, Boolean> changes = new TreeMap<>(derived.getOrDefault(key, new TreeMap<>()));
        others.forEach(c -> put(changes, c));
        boolean before = holds(changes, change.at());
        put(changes, change);
        if (holds(changes, change.at()) == before) {
            return Optional.empty();
        }
        Instant next = changes.higherKey(change.at());
        return Optional.of(new Effect(change.at(), next == null ? Instant.MAX : next, !before));
    }

    /** What is in no log. */
    record Held(String key, List<Change> changes) {}

    List<Held> held() {
        List<Held> all = new ArrayList<>();
        derived.forEach((key, of) -> all.add(new Held(
                key,
                of.entrySet().stream()
                        .map(e -> new Change(e.getKey(), e.getValue()))
                        .toList())));
        return all;
    }

    void restore(Held held) {
        held.changes().forEach(c -> changed(held.key(), c, true));
    }
}
