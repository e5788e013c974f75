package org.custodia.core.alarm;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Supplier;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.operator.Actor;
import org.custodia.core.saying.Saying;

/** Versions in memory. */
public class VersionsInHand<T> implements Versions<T> {
    private final Map<String, List<Said<T>>> all = new LinkedHashMap<>();
    private final Numbering<T> numbering;
    /** When an edit is made. */
    public Supplier<Instant> now = () -> Instant.EPOCH;
    /** Where what records an edit is stored. */
    public MemoryLog log = new MemoryLog();

    public interface Numbering<T> {
        T version(T value, long version);
    }

    public VersionsInHand(Numbering<T> numbering) {
        this.numbering = numbering;
    }

    /** What was said at the beginning of time. */
    final void begin(String id, Optional<T> value) {
        add(id, new Said<>(value.map(v -> numbering.version(v, 1)), 1, Instant.EPOCH, Optional.empty()));
    }

    private void add(String id, Said<T> said) {
        all.computeIfAbsent(id, i -> new ArrayList<>()).add(0, said);
    }

    @Override
    public final synchronized Map<String, Said<T>> newest() {
        Map<String, Said<T>> newest = new LinkedHashMap<>();
        all.forEach((id, versions) -> newest.put(id, versions.get(0)));
        return newest;
    }

    @Override
    public final synchronized Map<String, List<Said<T>>> all() {
        Map<String, List<Said<T>>> oldestFirst = new LinkedHashMap<>();
        all.forEach((id, versions) -> {
            List<Said<T>> turned = new ArrayList<>(versions);
            Collections.reverse(turned);
            oldestFirst.put(id, turned);
        });
        return oldestFirst;
    }

    @Override
    public final synchronized List<Said<T>> versions(String id) {
        return List.copyOf(all.getOrDefault(id, List.of()));
    }

    @Override
    public final synchronized void keep(List<Edit<T>> edits, Actor by, List<Event.Builder> facts) {
        for (Edit<T> edit : edits) {
            List<Said<T>> there = versions(edit.id());
            long version = there.isEmpty() ? 0 : there.get(0).version();
            if (version != edit.basedOn()) {
                throw new EventLogException(
                        Saying.of("store.changed-meanwhile", "record", edit.id(), version, edit.basedOn()), null);
            }
        }
        log.commit(facts);
        for (Edit<T> edit : edits) {
            long version = edit.basedOn() + 1;
            add(
                    edit.id(),
                    new Said<>(
                            edit.value().map(v -> numbering.version(v, version)),
                            version,
                            now.get(),
                            Optional.of(by.operator())));
        }
    }
}
