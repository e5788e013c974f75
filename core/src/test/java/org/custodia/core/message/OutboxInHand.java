package org.custodia.core.message;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.stream.Stream;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.saying.Saying;

/** An outbox in memory, which outlives who uses it. */
final class OutboxInHand implements Outbox {
    private final List<Entry> all = new ArrayList<>();
    private final Set<List<Object>> known = new HashSet<>();
    /** Where what records an attempt is stored. */
    private final MemoryLog log;
    /** While it is so nothing can be written. */
    volatile boolean full;
    /** After so many more are put in it is full once; not where it is less than nothing. */
    volatile int fillAfter = -1;

    OutboxInHand(MemoryLog log) {
        this.log = log;
    }

    private void writable() {
        if (full) {
            throw new EventLogException(Saying.of("store.not-stored.full", "the outbox"), null);
        }
    }

    @Override
    public synchronized void put(Collection<Slip> slips, Instant now) {
        writable();
        if (fillAfter >= 0) {
            fillAfter = Math.max(-1, fillAfter - slips.size());
            full = fillAfter < 0;
        }
        for (Slip slip : slips) {
            if (known.add(List.of(slip.alarm(), slip.receiver(), slip.occasion(), slip.call()))) {
                all.add(new Entry(
                        all.size(),
                        UUID.randomUUID().toString(),
                        slip,
                        now,
                        State.WAITING,
                        0,
                        false,
                        now,
                        Optional.empty(),
                        List.of(),
                        now));
            }
        }
    }

    private Stream<Entry> waiting(Instant now) {
        return all.stream().filter(e -> e.state() == State.WAITING && Outbox.due(e.next(), now));
    }

    @Override
    public synchronized Set<String> receiversDue(Instant now) {
        Set<String> due = new LinkedHashSet<>();
        waiting(now).forEach(e -> due.add(e.slip().receiver()));
        return due;
    }

    @Override
    public synchronized List<Entry> due(String receiver, Instant now, int most) {
        return waiting(now)
                .filter(e -> e.slip().receiver().equals(receiver))
                .limit(most)
                .toList();
    }

    private void replace(Entry e, State state, int attempts, boolean maybe, Instant next, Optional<Saying> said) {
        replace(e, state, attempts, maybe, next, said, e.remaining());
    }

    private void replace(
            Entry e,
            State state,
            int attempts,
            boolean maybe,
            Instant next,
            Optional<Saying> said,
            List<String> remaining) {
        all.set(
                (int) e.number(),
                new Entry(e.number(), e.id(), e.slip(), e.made(), state, attempts, maybe, next, said, remaining, next));
    }

    @Override
    public synchronized void begin(Entry entry, Instant now) {
        writable();
        Entry e = all.get((int) entry.number());
        replace(e, e.state(), entry.attempts() + 1, true, e.next(), e.said());
    }

    @Override
    public synchronized void end(Entry entry, Result result, Instant now, List<Event.Builder> facts) {
        writable();
        log.commit(facts);
        replace(
                entry,
                result.state(),
                all.get((int) entry.number()).attempts(),
                result.maybe(),
                result.next(),
                result.said(),
                result.remaining());
    }

    @Override
    public synchronized void remove(Entry entry) {
        writable();
        replace(entry, State.GIVEN_UP, entry.attempts(), false, entry.next(), Optional.empty());
    }

    @Override
    public synchronized void hurry(String receiver, Instant now) {
        for (Entry e : List.copyOf(all)) {
            if (e.state() == State.WAITING && e.slip().receiver().equals(receiver)) {
                replace(e, e.state(), e.attempts(), e.maybe(), now, e.said());
            }
        }
    }

    @Override
    public synchronized List<Entry> all(int most) {
        return all.stream()
                .filter(e -> !e.slip().receiver().startsWith(SYSTEM))
                .sorted(Comparator.comparing(Entry::state).thenComparing(Entry::number))
                .limit(most)
                .toList();
    }

    @Override
    public synchronized List<Entry> of(EventKey alarm) {
        return all.stream().filter(e -> e.slip().alarm().equals(alarm)).toList();
    }

    @Override
    public synchronized Optional<Entry> entry(long number) {
        return number >= 0 && number < all.size() ? Optional.of(all.get((int) number)) : Optional.empty();
    }

    @Override
    public synchronized Map<String, Fares> fares() {
        Map<String, Fares> fares = new HashMap<>();
        for (Entry e : all) {
            if (e.slip().receiver().startsWith(SYSTEM)) {
                continue;
            }
            Fares before = fares.getOrDefault(e.slip().receiver(), new Fares(0, Optional.empty(), Optional.empty()));
            boolean waits = e.state() == State.WAITING;
            fares.put(
                    e.slip().receiver(),
                    new Fares(
                            before.waiting() + (waits ? 1 : 0),
                            before.oldest().or(() -> waits ? Optional.of(e.made()) : Optional.empty()),
                            e.state() == State.SENT ? Optional.of(e.changed()) : before.sent()));
        }
        return fares;
    }

    @Override
    public void forget(Instant before) {
        // It is short.
    }
}
