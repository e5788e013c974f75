package org.custodia.core.setup;

import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventField;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Filter;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.LogFollower;
import org.custodia.core.event.Provenance;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PairId;
import org.custodia.core.site.SystemId;

/** What people said of pairs, followed in the log: trials, and cameras that do not show a door. The newest word holds. */
final class PairJudgements implements AutoCloseable {
    static final String REFUSED = "refused";

    private static final int REMEMBERED = 100_000;

    private final Map<PairId, Trial> trials = new ConcurrentHashMap<>();
    private final Map<DoorId, Set<CameraId>> refused = new ConcurrentHashMap<>();
    private final Map<DoorId, Set<CameraId>> doubted = new ConcurrentHashMap<>();
    private final LogFollower follower;

    PairJudgements(EventLog log, EventIntake intake) {
        long known = log.newestPosition();
        List<Event> past = log.find(EventQuery.all()
                .where(Filter.is(EventField.SYSTEM, SystemId.CUSTODIA))
                .kinds(Kinds.TRIED, Kinds.SET_UP, Kinds.PAIR_IN_DOUBT, Kinds.PAIR_HOLDS)
                .newest(REMEMBERED));
        for (int i = past.size() - 1; i >= 0; i--) {
            take(past.get(i));
        }
        this.follower = LogFollower.from(known, log, intake, events -> events.forEach(this::take));
    }

    private void take(Event event) {
        // Only what an operator said here counts, whatever a system may send.
        if (!Provenance.trusted(event)) {
            return;
        }
        if (event.kind().equals(Kinds.TRIED)) {
            Trial.of(event)
                    .ifPresent(t -> trials.merge(t.pair(), t, (a, b) -> b.when().isBefore(a.when()) ? a : b));
        } else if (event.door().isPresent()) {
            event.detail("camera")
                    .filter(c -> !c.isBlank())
                    .ifPresent(c -> judge(event, event.door().get(), new CameraId(c)));
        }
    }

    private void judge(Event event, DoorId door, CameraId camera) {
        Set<CameraId> no = refused.computeIfAbsent(door, d -> ConcurrentHashMap.newKeySet());
        Set<CameraId> perhaps = doubted.computeIfAbsent(door, d -> ConcurrentHashMap.newKeySet());
        if (event.kind().equals(Kinds.PAIR_IN_DOUBT)) {
            perhaps.add(camera);
        } else if (event.kind().equals(Kinds.PAIR_HOLDS)) {
            perhaps.remove(camera);
        } else if (event.detail("what").filter("pair"::equals).isPresent()) {
            String change = event.detail("change").orElse("");
            if (change.equals(REFUSED)) {
                no.add(camera);
            } else if (change.equals("added")) {
                no.remove(camera);
            }
            if (!change.equals(REFUSED)) {
                // What was said of it was said of another pair.
                perhaps.remove(camera);
            }
        }
    }

    boolean doubted(DoorId door, CameraId camera) {
        return doubted.getOrDefault(door, Set.of()).contains(camera);
    }

    Optional<Trial> trial(PairId pair) {
        return Optional.ofNullable(trials.get(pair));
    }

    boolean refused(DoorId door, CameraId camera) {
        return refused.getOrDefault(door, Set.of()).contains(camera);
    }

    @Override
    public void close() {
        follower.close();
    }
}
