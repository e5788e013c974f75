package org.custodia.practice.serve;

import io.javalin.http.Context;
import java.io.IOException;
import java.time.Clock;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Queue;

/** Which links are up: each can be cut for a time, or fed something that no real system would send. */
final class Links {
    private final Clock clock;
    private final Map<String, Instant> downUntil = new HashMap<>();
    private final Map<String, Long> cuts = new HashMap<>();
    private final Map<String, Queue<String>> foreign = new HashMap<>();
    private boolean closed;

    Links(Clock clock) {
        this.clock = clock;
    }

    synchronized void drop(String system, Instant until) {
        downUntil.put(system, until);
        cuts.merge(system, 1L, Long::sum);
    }

    synchronized boolean up(String system) {
        Instant until = downUntil.get(system);
        return !closed && (until == null || !clock.instant().isBefore(until));
    }

    /** A number to hand to {@link #still} later. */
    synchronized long opened(String system) {
        return cuts.getOrDefault(system, 0L);
    }

    /** Whether a stream opened then may go on. */
    synchronized boolean still(String system, long opened) {
        return !closed && cuts.getOrDefault(system, 0L) == opened;
    }

    synchronized void feed(String system, String message) {
        foreign.computeIfAbsent(system, s -> new ArrayDeque<>()).add(message);
    }

    synchronized List<String> takeForeign(String system) {
        Queue<String> queue = foreign.remove(system);
        return queue == null ? List.of() : new ArrayList<>(queue);
    }

    /** Breaks a connection off in the middle, as a cut cable would. */
    void cut(Context ctx) throws IOException {
        throw new IOException("cut");
    }

    synchronized void close() {
        closed = true;
    }
}
