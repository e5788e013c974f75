package org.custodia.practice.timeline;

import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.concurrent.CopyOnWriteArrayList;
import org.custodia.practice.place.Installation;
import org.custodia.wire.WireEvent;

/** One access system: numbers its events, keeps them, and holds back those of a controller that is out of reach. */
public final class AccessSystem {
    /** The epoch in which it counts. */
    public static final long EPOCH = 1;

    private final String id;
    private final String name;
    private final String make;
    private final List<String> cannot;
    private final Map<String, String> codes;
    private final SystemClock clock;
    private final List<WireEvent> events = new ArrayList<>();
    private final Map<String, List<Draft>> heldBack = new LinkedHashMap<>();
    private final Map<String, Long> lostSince = new HashMap<>();
    private final List<Runnable> listeners = new CopyOnWriteArrayList<>();

    /**
     * An event without its number; the time is true time.
     *
     * @param unit the device that it is of, where that is no door
     */
    record Draft(
            long at,
            String kind,
            String door,
            String controller,
            String reader,
            String side,
            String person,
            String credential,
            String credentialKind,
            String reason,
            String cause,
            Map<String, String> details,
            String unit) {}

    AccessSystem(Installation.AccessSystemMake entry) {
        this.id = entry.id();
        this.name = entry.name();
        this.make = entry.make();
        this.cannot = entry.cannot();
        this.codes = codes(entry.codes());
        this.clock = SystemClock.of(entry.clock());
    }

    public String id() {
        return id;
    }

    public String name() {
        return name;
    }

    public String make() {
        return make;
    }

    /** Capabilities that the doors of this make lack. */
    public List<String> cannot() {
        return cannot;
    }

    public SystemClock clock() {
        return clock;
    }

    /** Told, on the thread that runs the timeline, that there is something new. */
    public void listen(Runnable listener) {
        listeners.add(listener);
    }

    public void forget(Runnable listener) {
        listeners.remove(listener);
    }

    synchronized void emit(Draft draft) {
        List<Draft> kept = heldBack.get(draft.controller());
        if (kept != null) {
            kept.add(draft);
        } else {
            number(draft);
        }
    }

    private void number(Draft d) {
        events.add(new WireEvent(
                EPOCH,
                events.size() + 1L,
                Instant.ofEpochMilli(clock.shows(d.at())),
                d.kind(),
                codes.getOrDefault(
                        d.kind() + (d.reason() == null ? "" : "/" + d.reason()), codes.getOrDefault(d.kind(), "0")),
                d.door(),
                d.controller(),
                d.reader(),
                d.side(),
                d.person(),
                d.credential(),
                d.credentialKind(),
                d.reason(),
                d.cause(),
                d.details(),
                d.unit()));
        listeners.forEach(Runnable::run);
    }

    synchronized void lose(String controller, long at) {
        if (heldBack.containsKey(controller)) {
            return;
        }
        number(system(at, "controller.lost", controller));
        heldBack.put(controller, new ArrayList<>());
        lostSince.put(controller, at);
    }

    /** The controller is back and delivers what it kept. */
    synchronized void regain(String controller, long at) {
        List<Draft> kept = heldBack.remove(controller);
        if (kept == null) {
            return;
        }
        lostSince.remove(controller);
        kept.forEach(this::number);
        number(system(at, "controller.back", controller));
    }

    /** Something of a controller itself, in a word of this make. */
    void says(String controller, long at, String kind) {
        emit(system(at, kind, controller));
    }

    private static Draft system(long at, String kind, String controller) {
        return new Draft(at, kind, null, controller, null, null, null, null, null, null, null, Map.of(), null);
    }

    /** Whether a controller can be reached. */
    public synchronized boolean reaches(String controller) {
        return !heldBack.containsKey(controller);
    }

    /** Since when a controller is out of reach, as true time; -1 while it is not. */
    synchronized long lostSince(String controller) {
        return lostSince.getOrDefault(controller, -1L);
    }

    public synchronized long lastSeq() {
        return events.size();
    }

    /** The event with a number; nothing where there is none. */
    synchronized Optional<WireEvent> event(long seq) {
        return seq < 1 || seq > events.size() ? Optional.empty() : Optional.of(events.get((int) seq - 1));
    }

    /** Events after a number, oldest first. */
    public synchronized List<WireEvent> after(long seq, int most) {
        int from = (int) Math.max(0, Math.min(seq, events.size()));
        return List.copyOf(events.subList(from, Math.min(events.size(), from + most)));
    }

    /** Words for kinds as this make numbers them. */
    private static Map<String, String> codes(String begins) {
        String prefix = begins.replaceAll("[0-9]+$", "");
        int first = Integer.parseInt(begins.substring(prefix.length()));
        String[] kinds = {
            "access.granted",
            "access.refused",
            "exit.requested",
            "door.opened",
            "door.closed",
            "door.forced",
            "door.held",
            "door.mode",
            "door.report",
            "door.released",
            "reader.off",
            "reader.on",
            "controller.lost",
            "controller.back",
            "input.on",
            "input.off",
            "call.started",
            "call.ended",
            "panel.armed",
            "panel.disarmed",
            "panel.alarm",
            "display.text",
            "muster.presented",
            "access.duress",
            "event.acknowledged",
            "event.finished",
            "door.prop-on",
            "door.prop-off",
            "controller.battery-low"
        };
        Map<String, String> result = new TreeMap<>();
        for (int i = 0; i < kinds.length; i++) {
            result.put(kinds[i], prefix + (first + i));
        }
        return result;
    }
}
