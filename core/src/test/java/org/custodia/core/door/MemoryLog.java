package org.custodia.core.door;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CopyOnWriteArrayList;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.EventQuery;
import org.custodia.core.site.SystemId;

/** A log in memory, for tests of what stands on it. */
final class MemoryLog implements EventLog, EventIntake {
    final List<Event> events = new CopyOnWriteArrayList<>();
    private final List<Listener> listeners = new CopyOnWriteArrayList<>();
    boolean full;

    @Override
    public List<Event> find(EventQuery q) {
        Comparator<Event> order = q.newestFirst() ? Comparator.reverseOrder() : Comparator.naturalOrder();
        return events.stream()
                .filter(e -> q.from().filter(t -> e.time().isBefore(t)).isEmpty())
                .filter(e -> q.to().filter(t -> !e.time().isBefore(t)).isEmpty())
                .filter(e -> q.kinds().isEmpty() || q.kinds().contains(e.kind()))
                .filter(e -> q.doors().isEmpty()
                        || e.door().filter(q.doors()::contains).isPresent())
                .filter(e -> q.controllers().isEmpty()
                        || e.controller().filter(q.controllers()::contains).isPresent())
                .sorted(order)
                .limit(q.limit())
                .toList();
    }

    @Override
    public long count(EventQuery q) {
        return find(q).size();
    }

    @Override
    public Optional<Event> byKey(EventKey key) {
        return events.stream().filter(e -> e.key().equals(key)).findFirst();
    }

    @Override
    public Optional<Resume> lastOf(SystemId system) {
        return Optional.empty();
    }

    @Override
    public Map<Integer, Slice> slices(Instant from, Instant to, Duration slice) {
        return Map.of();
    }

    @Override
    public long unreadCount() {
        return 0;
    }

    @Override
    public CompletableFuture<Void> accept(List<Event> some, boolean backlog) {
        events.addAll(some);
        listeners.forEach(l -> l.stored(some));
        return CompletableFuture.completedFuture(null);
    }

    @Override
    public CompletableFuture<Event> record(Event.Builder event) {
        if (full) {
            return CompletableFuture.failedFuture(new EventLogException("The disk is full.", null));
        }
        Event given = event.build();
        Event.Builder keyed = Event.of(
                        new EventKey(new SystemId("custodia"), 1, events.size() + 1L), given.kind(), given.deviceTime())
                .details(given.details());
        given.door().ifPresent(keyed::door);
        given.operator().ifPresent(keyed::operator);
        given.reason().ifPresent(keyed::reason);
        given.cause().ifPresent(keyed::cause);
        Event stored = keyed.build();
        accept(List.of(stored), false);
        return CompletableFuture.completedFuture(stored);
    }

    @Override
    public void keepUnread(SystemId system, Instant received, String raw, String why) {}

    @Override
    public Subscription subscribe(Listener listener) {
        listeners.add(listener);
        return () -> listeners.remove(listener);
    }

    List<String> kinds() {
        List<String> kinds = new ArrayList<>();
        events.forEach(e -> kinds.add(e.kind().id()));
        return kinds;
    }
}
