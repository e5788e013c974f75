package org.custodia.core.setup;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Projection;
import org.custodia.core.event.ProjectionFollower;
import org.custodia.core.event.Snapshots;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PairId;

/**
 * What operators and evidence said of pairs, folded from the log: tests, cameras that do not show a door, and pairs in doubt.
 * The newest word holds.
 */
final class PairJudgements implements Projection<PairJudgements.State>, AutoCloseable {
    static final String REFUSED = "refused";

    private final Map<PairId, Trial> trials = new ConcurrentHashMap<>();
    private final Map<DoorId, Set<CameraId>> refused = new ConcurrentHashMap<>();
    private final Map<DoorId, Set<CameraId>> doubted = new ConcurrentHashMap<>();
    private final ProjectionFollower<State> follower;

    /** Cameras of one door. */
    record OfDoor(DoorId door, List<CameraId> cameras) {}

    /** All that was said, as a snapshot has it. */
    record State(List<Trial> trials, List<OfDoor> refused, List<OfDoor> doubted) {}

    PairJudgements(EventLog log, EventIntake intake, Snapshots snapshots) {
        this.follower = new ProjectionFollower<>(this, log, intake, snapshots, e -> {});
    }

    @Override
    public String name() {
        return "pair-judgements";
    }

    @Override
    public int version() {
        return 1;
    }

    @Override
    public Class<State> form() {
        return State.class;
    }

    @Override
    public Set<EventKind> kinds() {
        return Set.of(Kinds.TRIED, Kinds.SET_UP, Kinds.PAIR_IN_DOUBT, Kinds.PAIR_HOLDS);
    }

    @Override
    public void apply(Event event) {
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

    @Override
    public State state() {
        return new State(List.copyOf(trials.values()), list(refused), list(doubted));
    }

    private static List<OfDoor> list(Map<DoorId, Set<CameraId>> of) {
        List<OfDoor> all = new ArrayList<>();
        of.forEach((door, cameras) -> all.add(new OfDoor(door, List.copyOf(cameras))));
        all.removeIf(o -> o.cameras().isEmpty());
        return all;
    }

    @Override
    public void restore(State state) {
        state.trials().forEach(t -> trials.put(t.pair(), t));
        put(state.refused(), refused);
        put(state.doubted(), doubted);
    }

    private static void put(List<OfDoor> some, Map<DoorId, Set<CameraId>> to) {
        some.forEach(o ->
                to.computeIfAbsent(o.door(), d -> ConcurrentHashMap.newKeySet()).addAll(o.cameras()));
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
