package org.custodia.core.event;

import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import org.custodia.core.site.ControllerId;

/**
 * Fixes when the events of one system in one epoch really happened: not after they were received, and within one
 * controller never against its numbers, however the estimate of its clock has moved in between. What a system says about a
 * controller is not said by the controller and stands outside of that order. Not safe for use by several threads.
 */
public final class TimeOrder {
    /** Events of a controller that are remembered, to put between them what comes out of order. */
    private static final int REMEMBERED = 64;

    private static final int CONTROLLERS = 4_000;
    private static final Set<EventKind> ABOUT_A_CONTROLLER =
            Set.of(Kinds.CONTROLLER_LOST, Kinds.CONTROLLER_BACK, Kinds.REPORT);

    private final Map<ControllerId, TreeMap<Long, Instant>> newest = new LinkedHashMap<>(16, 0.75f, true) {
        private static final long serialVersionUID = 1L;

        @Override
        protected boolean removeEldestEntry(Map.Entry<ControllerId, TreeMap<Long, Instant>> eldest) {
            return size() > CONTROLLERS;
        }
    };

    /** The event with the time at which it really happened, as far as can be told. */
    public Event place(Event event) {
        Instant time = event.time();
        if (impossible(event)) {
            time = event.received();
        }
        boolean ordered = event.controller().isPresent() && !ABOUT_A_CONTROLLER.contains(event.kind());
        if (ordered) {
            time = between(event, time);
        }
        Event placed =
                time.equals(event.time()) ? event : event.toBuilder().time(time).build();
        remember(placed);
        return placed;
    }

    private static boolean impossible(Event event) {
        return event.deviceTime().minus(event.offset()).isAfter(event.received());
    }

    private Instant between(Event event, Instant time) {
        TreeMap<Long, Instant> around = newest.get(event.controller().orElseThrow());
        if (around == null) {
            return time;
        }
        Map.Entry<Long, Instant> before = around.lowerEntry(event.key().sequence());
        Map.Entry<Long, Instant> after = around.higherEntry(event.key().sequence());
        Instant result = before != null && time.isBefore(before.getValue()) ? before.getValue() : time;
        return after != null && result.isAfter(after.getValue()) ? after.getValue() : result;
    }

    /** Takes in an event that is placed already. */
    public void remember(Event placed) {
        placed.controller()
                .filter(c -> !ABOUT_A_CONTROLLER.contains(placed.kind()))
                // A time that cannot be is no measure for the events that follow.
                .filter(c -> !impossible(placed) && placed.detail(Event.UNREAL).isEmpty())
                .ifPresent(c -> {
                    TreeMap<Long, Instant> times = newest.computeIfAbsent(c, x -> new TreeMap<>());
                    times.put(placed.key().sequence(), placed.time());
                    if (times.size() > REMEMBERED) {
                        times.pollFirstEntry();
                    }
                });
    }
}
