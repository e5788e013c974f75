package org.custodia.core.site;

import java.time.Duration;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import java.util.PriorityQueue;

/**
 * How long it takes from one door to another: the shortest way over doors that are neighbours, after E. W. Dijkstra (1959).
 * What lies farther than {@link #FARTHEST} has no way. Not for several threads.
 */
public final class Ways {
    /** Farther than this nothing is looked for. */
    public static final Duration FARTHEST = Duration.ofHours(1);
    /** Doors from which the ways are remembered. */
    private static final int REMEMBERED = 200;

    private final SiteModel sites;
    private final Map<DoorId, Map<DoorId, Duration>> from = new LinkedHashMap<>(16, 0.75f, true) {
        private static final long serialVersionUID = 1L;

        @Override
        protected boolean removeEldestEntry(Map.Entry<DoorId, Map<DoorId, Duration>> eldest) {
            return size() > REMEMBERED;
        }
    };

    public Ways(SiteModel sites) {
        this.sites = sites;
    }

    /** Whether these are the ways of these very places. */
    public boolean of(SiteModel model) {
        return sites == model;
    }

    private record Reached(DoorId door, Duration after) {}

    /** How long it takes; nothing where no way is known. */
    public Optional<Duration> between(DoorId a, DoorId b) {
        if (sites.walks(a).isEmpty() || sites.walks(b).isEmpty()) {
            return a.equals(b) ? Optional.of(Duration.ZERO) : Optional.empty();
        }
        return Optional.ofNullable(from.computeIfAbsent(a, this::all).get(b));
    }

    private Map<DoorId, Duration> all(DoorId start) {
        Map<DoorId, Duration> settled = new HashMap<>();
        PriorityQueue<Reached> open = new PriorityQueue<>(Comparator.comparing(Reached::after));
        open.add(new Reached(start, Duration.ZERO));
        while (!open.isEmpty()) {
            Reached next = open.remove();
            if (settled.putIfAbsent(next.door(), next.after()) != null) {
                continue;
            }
            for (Walk walk : sites.walks(next.door())) {
                DoorId there = walk.from(next.door());
                Duration after = next.after().plus(walk.takes());
                if (!settled.containsKey(there) && after.compareTo(FARTHEST) <= 0) {
                    open.add(new Reached(there, after));
                }
            }
        }
        return settled;
    }
}
