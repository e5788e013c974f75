package org.custodia.core.door;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Collections;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.BiConsumer;
import java.util.function.Predicate;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;

/**
 * What happened at one door over a span of time, kept in order of time whatever the order it comes in, and what follows
 * from it: the state at any instant, when it stood open, and what became of each grant. Adding the same event again changes
 * nothing, and what was forgotten at the beginning has left behind all that the rest depends on. Not safe for use by several
 * threads; {@link DoorBoard} guards it.
 */
public final class DoorTimeline {
    /** How long after a grant the leaf may move for it to be that person's passage. */
    public static final Duration PASSAGE_WINDOW = DoorCourse.PASSAGE_WINDOW;

    private static final int STRIDE = 64;
    private static final BiConsumer<EventKey, GrantOutcome> NOBODY_ASKS = (key, outcome) -> {};

    private final Door door;
    private final DoorCourse base;
    /** What happened up to here is not here any more, or is all said by this; nothing where all is here. */
    private final Optional<DoorFact> floor;

    private final List<DoorFact> facts = new ArrayList<>();
    /** Course before fact i * STRIDE; shorter than needed after an insertion, and made again when asked for. */
    private final List<DoorCourse> checkpoints = new ArrayList<>();

    /** Nothing is known yet. */
    public DoorTimeline(Door door) {
        this(door, new DoorCourse(door), Optional.empty());
    }

    /**
     * @param base what was known before the first event
     */
    DoorTimeline(Door door, DoorCourse base, Optional<DoorFact> floor) {
        this.door = door;
        this.base = base;
        this.floor = floor;
    }

    /** Whether an event would be in its place here; an earlier one belongs into what the base was made of. */
    boolean reaches(DoorFact fact) {
        return floor.isEmpty() || fact.compareTo(floor.get()) > 0;
    }

    /** Takes an event in; false if it was there or does not concern this door. */
    public boolean add(Event event) {
        return DoorFact.of(event, door).filter(this::add).isPresent();
    }

    boolean add(DoorFact fact) {
        int last = facts.size() - 1;
        if (last < 0 || facts.get(last).compareTo(fact) < 0) {
            facts.add(fact);
            return true;
        }
        int place = Collections.binarySearch(facts, fact);
        if (place >= 0) {
            return false;
        }
        place = -place - 1;
        facts.add(place, fact);
        int valid = place / STRIDE + 1;
        while (checkpoints.size() > valid) {
            checkpoints.remove(checkpoints.size() - 1);
        }
        return true;
    }

    public void addAll(Collection<Event> some) {
        some.forEach(this::add);
    }

    /** Forgets all but the newest events, keeping everything that follows from the others. */
    DoorTimeline keeping(int newest) {
        int gone = facts.size() - newest;
        if (gone <= 0) {
            return this;
        }
        DoorTimeline shorter = new DoorTimeline(door, folded(gone), Optional.of(facts.get(gone - 1)));
        shorter.facts.addAll(facts.subList(gone, facts.size()));
        return shorter;
    }

    /**
     * Checkpoints after every so many events.
     *
     * @param stride events between two of them
     * @param suits which events can be the last before one
     */
    List<DoorCheckpoint> checkpoints(int stride, Predicate<DoorFact> suits) {
        List<DoorCheckpoint> made = new ArrayList<>();
        DoorCourse course = base.copy();
        int since = 0;
        // What came at the same time as the last may not all be here.
        for (int i = 0; i < facts.size() - 1; i++) {
            course.apply(facts.get(i), NOBODY_ASKS);
            since++;
            boolean alone = facts.get(i).time().isBefore(facts.get(i + 1).time());
            if (since >= stride && alone && suits.test(facts.get(i))) {
                made.add(DoorCheckpoint.after(door, facts.get(i), course));
                since = 0;
            }
        }
        return made;
    }

    public Door door() {
        return door;
    }

    /** How many events are here. */
    public int size() {
        return facts.size();
    }

    /** Whether questions about this instant and later ones can be answered. */
    boolean covers(Instant from) {
        return floor.isEmpty() || from.isAfter(floor.get().time());
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
        return folded(countUntil(instant)).state(lasting);
    }

    /** What would follow from an event that came now, after all others. */
    DoorState with(DoorFact fact, Instant lasting) {
        DoorCourse course = folded(facts.size());
        course.apply(fact, NOBODY_ASKS);
        return course.state(lasting);
    }

    /** When the door stood open in a span, oldest first; what began before it or goes on after it is included. */
    public List<Opening> openings(Instant from, Instant to) {
        List<Opening> result = new ArrayList<>();
        if (!door.can(DoorCapability.CONTACT)) {
            return result;
        }
        int first = countUntil(from);
        DoorCourse course = folded(first);
        Optional<Instant> open = course.openSince();
        Optional<Instant> held = course.heldSince();
        boolean forced = course.forced().orElse(false);
        for (int i = first; i < facts.size() && !facts.get(i).time().isAfter(to); i++) {
            Instant time = facts.get(i).time();
            course.apply(facts.get(i), NOBODY_ASKS);
            Optional<Instant> since = course.openSince();
            if (open.isPresent() && since.isEmpty()) {
                Instant end = course.state(time).positionSince().orElse(time);
                result.add(new Opening(open.get(), Optional.of(end), held.filter(end::isAfter), forced));
                open = Optional.empty();
            } else if (open.isEmpty() && since.isPresent()) {
                open = since;
                held = Optional.empty();
                forced = false;
            }
            if (since.isPresent()) {
                // Once it was open for too long it stays so, whatever changes the limit afterwards.
                Optional<Instant> before = held.filter(time::isAfter);
                held = before.isPresent() ? before : course.heldSince();
                forced |= course.forced().orElse(false);
            }
        }
        if (open.isPresent()) {
            result.add(new Opening(open.get(), Optional.empty(), held, forced));
        }
        return result;
    }

    /**
     * What became of the grants in a span. One opening satisfies one grant, the earliest that was still waiting; another
     * grant before the leaf is back, one beside an exit request or a release, and one at a door that stands open, has no
     * contact or is out of reach without an opening that is known cannot be told.
     *
     * @param now grants whose window is not over then are pending
     */
    public Map<EventKey, GrantOutcome> outcomes(Instant from, Instant to, Instant now) {
        Map<EventKey, GrantOutcome> all = new HashMap<>();
        int first = countUntil(from.minusNanos(1000));
        DoorCourse course = folded(first);
        List<EventKey> earlier = course.pending();
        for (int i = first; i < facts.size(); i++) {
            DoorFact fact = facts.get(i);
            if (fact.time().isAfter(to.plus(PASSAGE_WINDOW))) {
                course.settle(fact.time(), all::put);
                break;
            }
            course.apply(fact, all::put);
        }
        course.settle(now, all::put);
        course.pending().forEach(k -> all.put(k, GrantOutcome.PENDING));
        earlier.forEach(all::remove);
        return all;
    }

    /** How many events lie at or before an instant. */
    private int countUntil(Instant instant) {
        int low = 0;
        int high = facts.size();
        while (low < high) {
            int middle = (low + high) >>> 1;
            if (facts.get(middle).time().isAfter(instant)) {
                high = middle;
            } else {
                low = middle + 1;
            }
        }
        return low;
    }

    /** What is known after so many events; the caller may go on with it. */
    private DoorCourse folded(int count) {
        if (checkpoints.isEmpty()) {
            checkpoints.add(base.copy());
        }
        int nearest = Math.min(count / STRIDE, checkpoints.size() - 1);
        DoorCourse course = checkpoints.get(nearest).copy();
        for (int i = nearest * STRIDE; i < count; i++) {
            if (i > nearest * STRIDE && i % STRIDE == 0 && checkpoints.size() == i / STRIDE) {
                checkpoints.add(course.copy());
            }
            course.apply(facts.get(i), NOBODY_ASKS);
        }
        return course;
    }
}
