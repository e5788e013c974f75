package org.custodia.core.alarm;

import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.Ways;

/** Where somebody was let in when, as one rule needs it that finds those who were too quick; in whatever order it comes. */
final class Passages {
    /** People and badges that are remembered; of more, those that were quiet longest are forgotten. */
    private static final int MOST = 10_000;
    /** Passages of one that are remembered. */
    private static final int MOST_OF_ONE = 16;

    private final Rule.TooFar rule;
    private final Map<String, TreeMap<Instant, DoorId>> all = new LinkedHashMap<>(16, 0.75f, true) {
        private static final long serialVersionUID = 1L;

        @Override
        protected boolean removeEldestEntry(Map.Entry<String, TreeMap<Instant, DoorId>> eldest) {
            return size() > MOST;
        }
    };

    private Ways ways = new Ways(SiteModel.EMPTY);

    Passages(Rule.TooFar rule) {
        this.rule = rule;
    }

    /**
     * Takes in that somebody was at a door.
     *
     * @return when that one was at another door from which, or to which, the time was too short
     */
    Optional<Instant> at(String who, DoorId door, Instant when, SiteModel sites) {
        if (!ways.of(sites)) {
            ways = new Ways(sites);
        }
        TreeMap<Instant, DoorId> course = all.computeIfAbsent(who, w -> new TreeMap<>());
        if (door.equals(course.put(when, door))) {
            return Optional.empty();
        }
        while (course.size() > MOST_OF_ONE) {
            course.pollFirstEntry();
        }
        return Optional.ofNullable(course.lowerEntry(when))
                .filter(b -> tooQuick(b.getValue(), door, Duration.between(b.getKey(), when), sites))
                .or(() -> Optional.ofNullable(course.higherEntry(when))
                        .filter(a -> tooQuick(door, a.getValue(), Duration.between(when, a.getKey()), sites)))
                .map(Map.Entry::getKey);
    }

    private boolean tooQuick(DoorId from, DoorId to, Duration took, SiteModel sites) {
        if (from.equals(to)) {
            return false;
        }
        Optional<Duration> walk = ways.between(from, to);
        if (walk.isPresent()) {
            return took.multipliedBy(100).compareTo(walk.get().multipliedBy(rule.percent())) < 0;
        }
        Optional<SiteId> here = sites.door(from).map(d -> d.site());
        Optional<SiteId> there = sites.door(to).map(d -> d.site());
        return here.isPresent() && there.isPresent() && !here.equals(there) && took.compareTo(rule.acrossSites()) < 0;
    }
}
