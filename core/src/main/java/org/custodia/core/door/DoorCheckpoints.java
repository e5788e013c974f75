package org.custodia.core.door;

import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.event.Event;
import org.custodia.core.site.DoorId;

/**
 * Where checkpoints are kept, beside the log: whoever stores an event throws away those that it
 * {@linkplain DoorCheckpoint.Touched touches}, in one with it. Safe for use by several threads.
 */
public interface DoorCheckpoints {
    /** Keeps none. */
    DoorCheckpoints NONE = new DoorCheckpoints() {
        @Override
        public Optional<DoorCheckpoint> newest(DoorId door, Instant upTo) {
            return Optional.empty();
        }

        @Override
        public List<Since> since(Instant upTo) {
            return List.of();
        }

        @Override
        public Map<DoorId, Long> happened() {
            return Map.of();
        }

        @Override
        public void keep(List<DoorCheckpoint> some, long position) {
            // There is nowhere to keep them.
        }

        @Override
        public void forget(DoorId door) {
            // There are none.
        }
    };

    /** The newest checkpoint of a door at or before an instant. */
    Optional<DoorCheckpoint> newest(DoorId door, Instant upTo);

    /** Of every door that has one, the newest checkpoint at or before an instant, with what happened at the door since. */
    List<Since> since(Instant upTo);

    /** How many events of the log name a door, of every door that any names. */
    Map<DoorId, Long> happened();

    /**
     * Keeps checkpoints, except those that something touches that was stored after they were begun.
     *
     * @param position of what was stored last when they were begun
     */
    void keep(List<DoorCheckpoint> some, long position);

    /** Throws away all of a door, which is not what it was when they were made. */
    void forget(DoorId door);

    /**
     * A checkpoint, and the events after it up to an instant that name its door, in no order.
     */
    record Since(DoorCheckpoint checkpoint, List<Event> events) {}
}
