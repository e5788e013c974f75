package org.custodia.core.door;

import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.site.DoorId;

/** Checkpoints in memory, beside a log in memory. Make it before anything else that follows the log. */
public final class MemoryCheckpoints implements DoorCheckpoints {
    private final MemoryLog log;
    final Map<DoorId, TreeMap<Instant, DoorCheckpoint>> kept = new HashMap<>();
    int thrownAway;
    /** The doors whose checkpoints somebody asked for. */
    final Set<DoorId> asked = new HashSet<>();

    public MemoryCheckpoints(MemoryLog log) {
        this.log = log;
        log.subscribe(events -> events.forEach(this::stored));
    }

    private synchronized void stored(Event event) {
        DoorCheckpoint.Touched.by(event).ifPresent(t -> kept.values().forEach(of -> {
            int before = of.size();
            of.values().removeIf(t::touches);
            thrownAway += before - of.size();
        }));
    }

    @Override
    public synchronized Optional<DoorCheckpoint> newest(DoorId door, Instant upTo) {
        asked.add(door);
        return Optional.ofNullable(kept.getOrDefault(door, new TreeMap<>()).floorEntry(upTo))
                .map(Map.Entry::getValue);
    }

    @Override
    public synchronized List<Since> since(Instant upTo) {
        List<Since> result = new ArrayList<>();
        for (DoorId door : kept.keySet()) {
            newest(door, upTo)
                    .ifPresent(c -> result.add(new Since(
                            c,
                            log.find(EventQuery.all()
                                    .between(c.time(), upTo.plusNanos(1000))
                                    .doors(Set.of(door))))));
        }
        return result;
    }

    @Override
    public synchronized Map<DoorId, Long> happened() {
        return log.events.stream()
                .flatMap(e -> e.door().stream())
                .collect(Collectors.groupingBy(d -> d, Collectors.counting()));
    }

    @Override
    public synchronized void forget(DoorId door) {
        kept.remove(door);
    }

    @Override
    public synchronized void keep(List<DoorCheckpoint> some, long position) {
        List<DoorCheckpoint.Touched> meanwhile = log.storedAfter(position, 10_000).stream()
                .flatMap(e -> DoorCheckpoint.Touched.by(e).stream())
                .toList();
        for (DoorCheckpoint c : some) {
            if (meanwhile.stream().noneMatch(t -> t.touches(c))) {
                kept.computeIfAbsent(c.door(), d -> new TreeMap<>()).put(c.time(), c);
            }
        }
    }
}
