package org.custodia.core.event;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CopyOnWriteArrayList;
import org.custodia.core.operator.Actor;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.SystemId;

/** A log in memory, for tests of what stands on it. Stores at once, on the thread that hands in. */
public class MemoryLog implements EventLog, EventIntake {
    public final List<Event> events = new CopyOnWriteArrayList<>();
    private final Map<EventKey, Event> keys = new ConcurrentHashMap<>();
    public final List<Unread> unread = new CopyOnWriteArrayList<>();
    private final List<Listener> listeners = new CopyOnWriteArrayList<>();
    private final Map<String, Ledger> ledgers = new HashMap<>();
    /** While it is full nothing is stored. */
    public volatile boolean full;
    /** So many batches fail before one is stored again. */
    public volatile int failures;

    /** While it is so no question is answered. */
    public volatile boolean unreadable;

    @Override
    public List<Event> find(EventQuery q, Cancellation cancellation) {
        cancellation.check();
        if (unreadable) {
            throw new EventLogException(Saying.of("store.not-read", "the log"), null);
        }
        Comparator<Event> order = q.newestFirst() ? Comparator.reverseOrder() : Comparator.naturalOrder();
        return events.stream().filter(q::test).sorted(order).limit(q.limit()).toList();
    }

    @Override
    public long count(EventQuery q, Cancellation cancellation) {
        cancellation.check();
        return events.stream().filter(q::test).count();
    }

    @Override
    public <T> List<Facet<T>> facets(EventField<T> field, EventQuery q, int most, Cancellation cancellation) {
        cancellation.check();
        Map<T, Long> counts = new HashMap<>();
        events.stream().filter(q::test).flatMap(e -> field.of(e).stream()).forEach(v -> counts.merge(v, 1L, Long::sum));
        return counts.entrySet().stream()
                .map(e -> new Facet<>(e.getKey(), e.getValue()))
                .sorted(Comparator.comparing((Facet<T> f) -> -f.events()).thenComparing(f -> field.text(f.value())))
                .limit(most)
                .toList();
    }

    @Override
    public Map<Integer, Long> histogram(EventQuery q, Duration slice, Cancellation cancellation) {
        cancellation.check();
        q.slices(slice);
        Map<Integer, Long> result = new HashMap<>();
        Instant start = q.from().orElseThrow();
        events.stream()
                .filter(q::test)
                .forEach(e ->
                        result.merge((int) Duration.between(start, e.time()).dividedBy(slice), 1L, Long::sum));
        return result;
    }

    @Override
    public Map<Integer, Slice> slices(EventQuery q, Duration slice, Cancellation cancellation) {
        cancellation.check();
        q.slices(slice);
        Map<Integer, Slice> result = new HashMap<>();
        Instant start = q.from().orElseThrow();
        events.stream()
                .filter(q::test)
                .forEach(e -> result.merge(
                        (int) Duration.between(start, e.time()).dividedBy(slice),
                        new Slice(1, Kinds.entry(e.kind()).priority()),
                        (a, b) ->
                                new Slice(a.events() + 1, a.worst().compareTo(b.worst()) > 0 ? a.worst() : b.worst())));
        return result;
    }

    @Override
    public List<Event> storedAfter(long position, int most) {
        return events.stream().skip(position).limit(most).toList();
    }

    @Override
    public long newestPosition() {
        return events.size();
    }

    @Override
    public Optional<Event> byKey(EventKey key) {
        return Optional.ofNullable(keys.get(key));
    }

    @Override
    public long unreadCount() {
        return unread.stream().map(Unread::raw).distinct().count();
    }

    private Ledger ledger(SystemId system, long epoch) {
        return ledgers.computeIfAbsent(system + ":" + epoch, k -> new Ledger());
    }

    /** Stores events as they are, in one batch. */
    public synchronized void store(Event... some) {
        store(List.of(some));
    }

    private void store(List<Event> some) {
        List<Event> fresh = new ArrayList<>();
        for (Event event : some) {
            if (byKey(event.key()).isEmpty()) {
                Event placed = event.toBuilder().position(events.size() + 1L).build();
                events.add(placed);
                keys.put(placed.key(), placed);
                fresh.add(placed);
            }
            if (event.key().sequence() > 0 && !event.key().system().equals(SystemId.CUSTODIA)) {
                ledger(event.key().system(), event.key().epoch())
                        .hold(event.key().sequence());
            }
        }
        if (!fresh.isEmpty()) {
            listeners.forEach(l -> l.stored(fresh));
        }
    }

    @Override
    public Feed feed(SystemId system) {
        return new Feed() {
            private boolean broken;

            @Override
            public CompletableFuture<Void> accept(Batch batch) {
                synchronized (MemoryLog.this) {
                    if (failures > 0) {
                        failures--;
                        broken = true;
                    }
                    if (full || broken) {
                        broken = true;
                        return CompletableFuture.failedFuture(
                                new EventLogException(Saying.of("store.not-stored.full", "the log"), null));
                    }
                    store(batch.events());
                    batch.unread().forEach(MemoryLog.this::keepUnread);
                    return CompletableFuture.completedFuture(null);
                }
            }
        };
    }

    @Override
    public synchronized Coverage coverage(SystemId system, long epoch) {
        return ledger(system, epoch).coverage(epoch, epoch);
    }

    @Override
    public synchronized Optional<Long> newestEpoch(SystemId system) {
        return events.stream()
                .filter(e -> e.key().system().equals(system))
                .map(e -> e.key().epoch())
                .max(Comparator.naturalOrder());
    }

    @Override
    public synchronized CompletableFuture<List<NumberRanges.Range>> missing(
            SystemId system, long epoch, NumberRanges.Range numbers, String reason) {
        List<NumberRanges.Range> missing = ledger(system, epoch).miss(numbers.first(), numbers.last());
        missing.forEach(r -> record(Event.of(new EventKey(SystemId.CUSTODIA, 1, 0), Kinds.GAP, Instant.EPOCH)
                .detail("system", system.value())
                .detail("from", Long.toString(r.first()))
                .detail("to", Long.toString(r.last()))
                .reason(reason)));
        return CompletableFuture.completedFuture(missing);
    }

    @Override
    public CompletableFuture<Void> countsAgainFrom(SystemId system, long epoch, long lastSeq) {
        return record(Event.of(new EventKey(SystemId.CUSTODIA, 1, 0), Kinds.COUNTS_AGAIN, Instant.EPOCH)
                        .detail("system", system.value())
                        .detail("from", Long.toString(lastSeq)))
                .thenApply(e -> null);
    }

    @Override
    public synchronized CompletableFuture<Event> record(Event.Builder event) {
        if (full) {
            return CompletableFuture.failedFuture(
                    new EventLogException(Saying.of("store.not-stored.full", "the log"), null));
        }
        Event stored = event.key(new EventKey(SystemId.CUSTODIA, 1, events.size() + 1L))
                .build();
        store(List.of(stored));
        return CompletableFuture.completedFuture(stored);
    }

    @Override
    public CompletableFuture<Event> recordInOrder(Event.Builder event) {
        return record(event);
    }

    /**
     * Stores the events recording an edit, as a register does that commits both together.
     *
     * @throws EventLogException if the log is full, so that the edit is not to be made either
     */
    public synchronized void commit(List<Event.Builder> facts) {
        if (full) {
            throw new EventLogException(Saying.of("store.not-stored.full", "the log"), null);
        }
        facts.forEach(this::record);
    }

    /** What was said that words mean; what is stored stays as it was said. */
    private final Map<SystemId, Translation> translations = new ConcurrentHashMap<>();

    @Override
    public Translation translation(SystemId system) {
        return translations.getOrDefault(system, Translation.none(system));
    }

    @Override
    public CompletableFuture<Translation> translate(
            SystemId system, long basedOn, List<Translation.Rule> rules, Actor operator) {
        long version = translation(system).version();
        if (version != basedOn) {
            return CompletableFuture.failedFuture(new EventLogException(
                    Saying.of("store.changed-meanwhile", "translation", system.value(), version, basedOn), null));
        }
        Translation made = new Translation(system, version + 1, rules);
        translations.put(system, made);
        return CompletableFuture.completedFuture(made);
    }

    @Override
    public synchronized CompletableFuture<Void> keepUnread(Unread one) {
        unread.add(one);
        one.key().ifPresent(k -> ledger(k.system(), k.epoch()).hold(k.sequence()));
        return CompletableFuture.completedFuture(null);
    }

    @Override
    public Subscription subscribe(Listener listener) {
        listeners.add(listener);
        return () -> listeners.remove(listener);
    }

    /** The kinds of what is stored, in the order of storing. */
    public List<String> kinds() {
        List<String> kinds = new ArrayList<>();
        events.forEach(e -> kinds.add(e.kind().id()));
        return kinds;
    }
}
