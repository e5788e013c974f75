package org.custodia.core.event;

import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;

/**
 * States that were folded from the log, kept beside it, so that a start goes on from where the last one was and does not read
 * everything again. A state is a record of simple values: records, lists, optional values, numbers, texts, instants.
 */
public interface Snapshots {
    /**
     * A state as of a position.
     *
     * @param position everything up to here is in it
     */
    record Snapshot<S>(long position, S state) {}

    /**
     * The newest snapshot.
     *
     * @param version of the fold and of its state; one of another version is not used
     * @return nothing where there is none, or none that can be read; everything is to be folded again then
     * @throws EventLogException if it cannot be read now
     */
    <S> Optional<Snapshot<S>> load(String name, int version, Class<S> form);

    /**
     * Replaces the snapshot.
     *
     * @throws EventLogException if it cannot be written
     */
    <S> void save(String name, int version, long position, S state);

    /** Snapshots that end with the process. */
    static Snapshots inMemory() {
        record Stored(int version, Snapshot<?> snapshot) {}
        Map<String, Stored> all = new ConcurrentHashMap<>();
        return new Snapshots() {
            @Override
            public <S> Optional<Snapshot<S>> load(String name, int version, Class<S> form) {
                return Optional.ofNullable(all.get(name))
                        .filter(s -> s.version() == version)
                        .map(s -> new Snapshot<>(
                                s.snapshot().position(), form.cast(s.snapshot().state())));
            }

            @Override
            public <S> void save(String name, int version, long position, S state) {
                all.put(name, new Stored(version, new Snapshot<>(position, state)));
            }
        };
    }
}
