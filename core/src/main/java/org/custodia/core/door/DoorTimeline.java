package org.custodia.core.door;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Collections;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;

/**
 * The events of one door over a span of time, kept in order of time whatever the order they come in, and what follows
 * from them: the state at any instant, when it stood open, and what became of each grant. Adding the same event again
 * changes nothing. Not safe for use by several threads; {@link DoorBoard} guards it.
 */
public final class DoorTimeline {
    /** How long after a grant the leaf may move for it to be that person's passage. */
    public static final Duration PASSAGE_WINDOW = Duration.ofSeconds(10);
    /** How far back something may lie that allowed a door to open, when a forced door is derived. */
    static final Duration ALLOWING_WINDOW = Duration.ofSeconds(10);

    private static final int STRIDE = 64;

    private final Door door;
    private final DoorState base;
    /** The newest event that is no longer here happened then: the base is what it led to. */
    private final Instant start;

    private final List<Event> events = new ArrayList<>();
    private final Set<EventKey> keys = new HashSet<>();
    /** State before event i * STRIDE; shorter than needed after an insertion, and made again when asked for. */
    private final List<DoorState> checkpoints = new ArrayList<>();

    /**
     * @param base what was known before the first event
     */
    public DoorTimeline(Door door, DoorState base) {
        this(door, base, Instant.MIN);
    }

    private DoorTimeline(Door door, DoorState base, Instant start) {
        this.door = door;
        this.base = base;
        this.start = start;
    }

    /** Whether an event of an instant would be in its place here; an earlier one belongs into what the base was made of. */
    public boolean reaches(Instant instant) {
        return !instant.isBefore(start);
    }

    /** Takes an event in; false if it was there or does not concern a door's state. */
    public boolean add(Event event) {
        if (!DoorFold.concerns(event.kind()) || !keys.add(event.key())) {
            return false;
        }
        int last = events.size() - 1;
        if (last < 0 || events.get(last).compareTo(event) < 0) {
            events.add(event);
        } else {
            List<Event> inOrder = events;
            int place = -Collections.binarySearch(inOrder, event) - 1;
            events.add(place, event);
            int valid = place / STRIDE + 1;
            while (checkpoints.size() > valid) {
                checkpoints.remove(checkpoints.size() - 1);
            }
        }
        return true;
    }

    public void addAll(Collection<Event> some) {
        some.forEach(this::add);
    }

    /** Forgets events before an instant, keeping the state they led to. */
    public DoorTimeline startingAt(Instant from) {
        int gone = countUntil(from.minusNanos(1000));
        Instant newest = gone > 0 ? events.get(gone - 1).time() : start;
        DoorTimeline shorter = new DoorTimeline(door, folded(gone), newest);
        for (int i = gone; i < events.size(); i++) {
            shorter.add(events.get(i));
        }
        return shorter;
    }

    public Door door() {
        return door;
    }

    public List<Event> events() {
        return Collections.unmodifiableList(events);
    }

    /** The state at an instant, everything that happened then included. */
    public DoorState at(Instant instant) {
        return at(instant, instant);
    }

    /**
     * The state by everything up to an instant.
     *
     * @param lasting the instant up to which what lasts is counted, for deriving what the controller does not decide
     */
    DoorState at(Instant instant, Instant lasting) {
        return derived(folded(countUntil(instant)), lasting);
    }

    /** When the door stood open in a span, oldest first; what began before it or goes on after it is included. */
    public List<Opening> openings(Instant from, Instant to) {
        List<Opening> result = new ArrayList<>();
        if (!door.can(DoorCapability.CONTACT)) {
            return result;
        }
        int first = countUntil(from);
        DoorState state = folded(first);
        Instant open = state.open() ? state.positionSince().orElse(from) : null;
        Optional<Instant> held = state.heldSince();
        boolean forced = state.forcedSince().isPresent();
        for (int i = first; i < events.size() && !events.get(i).time().isAfter(to); i++) {
            Event event = events.get(i);
            DoorState after = DoorFold.apply(state, event, door);
            if (open != null && !after.open()) {
                result.add(opening(open, Optional.of(after.positionSince().orElse(event.time())), held, forced));
                open = null;
            } else if (open == null && after.open()) {
                open = after.positionSince().orElse(event.time());
                held = Optional.empty();
                forced = false;
            }
            if (after.open()) {
                held = after.heldSince();
                forced = after.forcedSince().isPresent();
            }
            state = after;
        }
        if (open != null) {
            result.add(opening(open, Optional.empty(), held, forced));
        }
        return result;
    }

    private Opening opening(Instant start, Optional<Instant> end, Optional<Instant> held, boolean forced) {
        boolean wasForced = forced || !door.can(DoorCapability.REPORTS_FORCED) && !allowed(start);
        Optional<Instant> heldAt = held;
        if (heldAt.isEmpty() && !door.can(DoorCapability.REPORTS_HELD)) {
            Instant limit = start.plus(door.heldLimit());
            heldAt = end.isEmpty() || end.get().isAfter(limit) ? Optional.of(limit) : Optional.empty();
        }
        return new Opening(start, end, heldAt, wasForced);
    }

    /**
     * What became of the grants in a span. One opening satisfies one grant, the earliest that was still waiting; another
     * grant before the leaf is back, at a door that stands open, without a contact or out of reach cannot be told.
     *
     * @param now grants whose window is not over then are pending
     */
    public Map<EventKey, GrantOutcome> outcomes(Instant from, Instant to, Instant now) {
        Map<EventKey, GrantOutcome> result = new HashMap<>();
        int first = countUntil(from.minus(PASSAGE_WINDOW).minusNanos(1000));
        DoorState state = folded(first);
        List<Event> waiting = new ArrayList<>();
        boolean contact = door.can(DoorCapability.CONTACT);
        for (int i = first; i < events.size(); i++) {
            Event event = events.get(i);
            if (event.time().isAfter(to.plus(PASSAGE_WINDOW))) {
                break;
            }
            settle(waiting, event.time(), state, result);
            DoorState after = DoorFold.apply(state, event, door);
            if (event.kind().equals(Kinds.GRANTED)) {
                if (!contact || state.open() || state.outOfReachSince().isPresent()) {
                    result.put(event.key(), GrantOutcome.CANNOT_TELL);
                } else {
                    waiting.add(event);
                }
            } else if (!state.open() && after.open() && !waiting.isEmpty()) {
                result.put(waiting.remove(0).key(), GrantOutcome.WENT_THROUGH);
                waiting.forEach(e -> result.put(e.key(), GrantOutcome.CANNOT_TELL));
                waiting.clear();
            }
            state = after;
        }
        settle(waiting, now, state, result);
        waiting.forEach(e -> result.put(e.key(), GrantOutcome.PENDING));
        return result;
    }

    private void settle(List<Event> waiting, Instant until, DoorState state, Map<EventKey, GrantOutcome> result) {
        while (!waiting.isEmpty() && until.isAfter(waiting.get(0).time().plus(PASSAGE_WINDOW))) {
            boolean heard = state.outOfReachSince().isEmpty();
            result.put(waiting.remove(0).key(), heard ? GrantOutcome.NOBODY_ENTERED : GrantOutcome.CANNOT_TELL);
        }
    }

    /** Adds what the controller does not decide by itself: forced and held. */
    private DoorState derived(DoorState state, Instant instant) {
        DoorState result = state;
        if (!result.open()) {
            return result;
        }
        Instant since = result.positionSince().orElse(instant);
        if (!door.can(DoorCapability.REPORTS_FORCED) && !allowed(since)) {
            result = result.withForced(since);
        }
        Instant limit = since.plus(door.heldLimit());
        if (!door.can(DoorCapability.REPORTS_HELD) && !limit.isAfter(instant)) {
            result = result.withHeld(limit);
        }
        return result;
    }

    /** Whether a grant, an exit request, a command or an unlocked lock allowed the leaf to move at an instant. */
    private boolean allowed(Instant opened) {
        int end = countUntil(opened);
        DoorState before = folded(end);
        if (before.lock() != LockMode.LOCKED && before.lock() != LockMode.BLOCKED) {
            return true;
        }
        for (int i = end - 1; i >= 0 && !events.get(i).time().isBefore(opened.minus(ALLOWING_WINDOW)); i--) {
            EventKind kind = events.get(i).kind();
            if (kind.equals(Kinds.GRANTED) || kind.equals(Kinds.EXIT_REQUESTED) || kind.equals(Kinds.RELEASED)) {
                return true;
            }
        }
        return false;
    }

    /** How many events lie at or before an instant. */
    private int countUntil(Instant instant) {
        int low = 0;
        int high = events.size();
        while (low < high) {
            int middle = (low + high) >>> 1;
            if (events.get(middle).time().isAfter(instant)) {
                high = middle;
            } else {
                low = middle + 1;
            }
        }
        return low;
    }

    private DoorState folded(int count) {
        if (checkpoints.isEmpty()) {
            checkpoints.add(base);
        }
        int nearest = Math.min(count / STRIDE, checkpoints.size() - 1);
        DoorState state = checkpoints.get(nearest);
        for (int i = nearest * STRIDE; i < count; i++) {
            if (i > nearest * STRIDE && i % STRIDE == 0 && checkpoints.size() == i / STRIDE) {
                checkpoints.add(state);
            }
            state = DoorFold.apply(state, events.get(i), door);
        }
        return state;
    }
}
