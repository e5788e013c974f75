package org.custodia.core.workplace;

import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventField;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventQuery;
import org.custodia.core.operator.NotPermittedException;

/**
 * The log as far as its reader may look back. Where that is nowhere, every question throws {@link NotPermittedException}, so
 * that nobody takes silence for an answer.
 */
public final class PermittedLog implements EventLog {
    private static final int PAGE = 1_000;

    private final Permit permit;
    private final EventLog log;
    private final EventIntake intake;

    PermittedLog(Permit permit, EventLog log, EventIntake intake) {
        this.permit = permit;
        this.log = log;
        this.intake = intake;
    }

    private EventQuery permitted(EventQuery query) {
        require();
        return query.where(permit.past());
    }

    private void require() {
        if (!permit.seesSomewhere(Sight.AUDIT)) {
            permit.requireSomewhere(Sight.PAST);
        }
    }

    @Override
    public List<Event> find(EventQuery query, Cancellation cancellation) {
        return log.find(permitted(query), cancellation);
    }

    @Override
    public long count(EventQuery query, Cancellation cancellation) {
        return log.count(permitted(query), cancellation);
    }

    @Override
    public <T> List<Facet<T>> facets(EventField<T> field, EventQuery query, int most, Cancellation cancellation) {
        return log.facets(field, permitted(query), most, cancellation);
    }

    @Override
    public Map<Integer, Long> histogram(EventQuery query, Duration slice, Cancellation cancellation) {
        return log.histogram(permitted(query), slice, cancellation);
    }

    @Override
    public Map<Integer, Slice> slices(EventQuery query, Duration slice, Cancellation cancellation) {
        return log.slices(permitted(query), slice, cancellation);
    }

    @Override
    public Optional<Event> byKey(EventKey key) {
        require();
        return log.byKey(key).filter(permit.past()::test);
    }

    /** As everywhere; fewer than asked for are at the end of the log, however many cannot be seen. */
    @Override
    public List<Event> storedAfter(long position, int most) {
        require();
        List<Event> found = new ArrayList<>();
        long read = position;
        while (true) {
            List<Event> page = log.storedAfter(read, Math.max(most, PAGE));
            for (Event event : page) {
                if (permit.past().test(event)) {
                    found.add(event);
                    if (found.size() == most) {
                        return found;
                    }
                }
            }
            if (page.size() < Math.max(most, PAGE)) {
                return found;
            }
            read = page.get(page.size() - 1).position();
        }
    }

    @Override
    public long newestPosition() {
        return log.newestPosition();
    }

    @Override
    public long unreadCount() {
        return log.unreadCount();
    }

    /**
     * Asks to be told of what is stored from now on, as far as its reader may see what is happening.
     *
     * @param listener as for {@link EventIntake#subscribe}; is told of no empty batches
     */
    public EventIntake.Subscription subscribe(EventIntake.Listener listener) {
        return intake.subscribe(events -> {
            List<Event> seen = events.stream().filter(permit::arrives).toList();
            if (!seen.isEmpty()) {
                listener.stored(seen);
            }
        });
    }
}
