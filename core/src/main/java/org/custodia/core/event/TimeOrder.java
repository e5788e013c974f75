package org.custodia.core.event;

import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
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

    /**
     * The event with the time at which it really happened, as far as can be told.
     *
     * @param backlog whether it comes with much of the past, so that when it was received says little
     */
    public Event place(Event event, boolean backlog) {
        boolean impossible = impossible(event);
        Instant time = impossible ? event.received() : event.time();
        boolean ordered = event.controller().isPresent()
                && !ABOUT_A_CONTROLLER.contains(event.kind())
                && event.detail(Event.UNREAL).isEmpty();
        boolean follows = false;
        if (ordered) {
            Optional<Instant> before = before(event);
            follows = before.isPresent();
            // Of what came long ago the events before it tell more than when it was read.
            time = between(event, impossible && backlog ? before.orElse(time) : time, before);
        }
        Event placed =
                time.equals(event.time()) ? event : event.toBuilder().time(time).build();
        if (ordered && (!impossible || !backlog || follows)) {
            put(placed);
        }
        return placed;
    }

    private static boolean impossible(Event event) {
        return event.deviceTime().minus(event.offset()).isAfter(event.received());
    }

    private Optional<Instant> before(Event event) {
        return Optional.ofNullable(newest.get(event.controller().orElseThrow()))
                .map(around -> around.lowerEntry(event.key().sequence()))
                .map(Map.Entry::getValue);
    }

    private Instant between(Event event, Instant time, Optional<Instant> before) {
        Instant result = before.filter(time::isBefore).orElse(time);
        TreeMap<Long, Instant> around = newest.get(event.controller().orElseThrow());
        Map.Entry<Long, Instant> after =
                around == null ? null : around.higherEntry(event.key().sequence());
        return after != null && result.isAfter(after.getValue()) ? after.getValue() : result;
    }

    /** Takes in an event that was placed in an earlier run. */
    public void remember(Event placed) {
        boolean measure = placed.detail(Event.UNREAL).isEmpty()
                && !ABOUT_A_CONTROLLER.contains(placed.kind())
                && (!impossible(placed) || placed.time().isBefore(placed.received()));
        if (placed.controller().isPresent() && measure) {
            put(placed);
        }
    }

    private void put(Event placed) {
        TreeMap<Long, Instant> times =
                newest.computeIfAbsent(placed.controller().orElseThrow(), c -> new TreeMap<>());
        times.put(placed.key().sequence(), placed.time());
        if (times.size() > REMEMBERED) {
            times.pollFirstEntry();
        }
    }
}
