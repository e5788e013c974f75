package org.custodia.core.alarm;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeSet;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.Ways;

/**
 * Where each bearer was let in when, as one rule needs it that finds those who were too quick; in whatever order it comes. A
 * cache of the log.
 */
final class Passages {
    /** Bearers held in memory; of more, those that were quiet longest are read from the log again. */
    private static final int MOST = 50_000;
    /** Passages of one bearer held in memory. */
    private static final int MOST_OF_ONE = 32;

    /** Nobody is compared with where they were longer ago: no walk takes longer. */
    static final Duration LONGEST = Rule.TooFar.MOST_ACROSS;

    private final Rule.TooFar rule;
    private final Map<Bearer, Course> all = new LinkedHashMap<>(16, 0.75f, true) {
        private static final long serialVersionUID = 1L;

        @Override
        protected boolean removeEldestEntry(Map.Entry<Bearer, Course> eldest) {
            return size() > MOST;
        }
    };

    private Ways ways = new Ways(SiteModel.EMPTY);

    /** A bearer at a door. */
    record Passage(EventKey event, Instant at, DoorId door) {
        private static final Comparator<Passage> ORDER =
                Comparator.comparing(Passage::at).thenComparing(Passage::event, Event::compareKeys);
    }

    /** Reads what was evaluated before, from an instant to another, both included. */
    @FunctionalInterface
    interface Loader {
        List<Passage> load(Instant from, Instant to);
    }

    /** The later of two passages between which there was too little time, and when the earlier one was. */
    record TooQuick(EventKey cause, Instant at, Instant since) {}

    private static final class Course {
        private final TreeSet<Passage> passages = new TreeSet<>(Passage.ORDER);
        /** Since when everything is here. */
        private Instant completeFrom;

        Course(Instant completeFrom, List<Passage> stored) {
            this.completeFrom = completeFrom;
            passages.addAll(stored);
        }
    }

    Passages(Rule.TooFar rule) {
        this.rule = rule;
    }

    Rule.TooFar rule() {
        return rule;
    }

    /** Takes in a passage, and says which ones came too soon after another with it. */
    List<TooQuick> add(Bearer bearer, Passage passage, SiteModel sites, Loader loader) {
        if (!ways.of(sites)) {
            ways = new Ways(sites);
        }
        Instant from = passage.at().minus(LONGEST);
        Course course = all.get(bearer);
        if (course == null) {
            course = new Course(from, loader.load(from, from.plus(History.EVER)));
            all.put(bearer, course);
        } else if (from.isBefore(course.completeFrom)) {
            Course then = new Course(from, loader.load(from, passage.at().plus(LONGEST)));
            if (!passage.at().isBefore(course.completeFrom)) {
                course.passages.add(passage);
            }
            return then.passages.add(passage) ? around(then, passage, sites) : List.of();
        }
        if (!course.passages.add(passage)) {
            return List.of();
        }
        List<TooQuick> found = around(course, passage, sites);
        while (course.passages.size() > MOST_OF_ONE) {
            course.completeFrom = course.passages.pollFirst().at().plusNanos(1);
        }
        return found;
    }

    private List<TooQuick> around(Course course, Passage passage, SiteModel sites) {
        List<TooQuick> found = new ArrayList<>(0);
        Passage before = course.passages.lower(passage);
        if (before != null) {
            tooQuick(before, passage, sites).ifPresent(found::add);
        }
        Passage after = course.passages.higher(passage);
        if (after != null) {
            tooQuick(passage, after, sites).ifPresent(found::add);
        }
        return found;
    }

    private Optional<TooQuick> tooQuick(Passage from, Passage to, SiteModel sites) {
        Duration took = Duration.between(from.at(), to.at());
        return tooQuick(from.door(), to.door(), took, sites)
                ? Optional.of(new TooQuick(to.event(), to.at(), from.at()))
                : Optional.empty();
    }

    private boolean tooQuick(DoorId from, DoorId to, Duration took, SiteModel sites) {
        if (from.equals(to)) {
            return false;
        }
        Optional<Duration> walk = ways.between(from, to);
        if (walk.isPresent()) {
            return took.multipliedBy(100).compareTo(walk.get().multipliedBy(rule.percent())) < 0;
        }
        Optional<SiteId> here = sites.door(from).map(Door::site);
        Optional<SiteId> there = sites.door(to).map(Door::site);
        return here.isPresent() && there.isPresent() && !here.equals(there) && took.compareTo(rule.acrossSites()) < 0;
    }
}
