package org.custodia.core.event;

import java.util.Set;

/**
 * A state folded from the log, event by event in the order of storing; it depends on nothing else.
 *
 * @param <S> the state as a snapshot has it
 */
public interface Projection<S> {
    /** Names its snapshot. */
    String name();

    /** Goes up when the fold, or the form of the state, is another one; snapshots of before are not used then. */
    int version();

    /** The form of the state. */
    Class<S> form();

    /** The kinds of events this projection uses. Kinds that only Custodia writes are ignored from other systems. */
    Set<EventKind> kinds();

    /** Takes in the next event. */
    void apply(Event event);

    /** The state as it stands, which later events do not change. */
    S state();

    /** Goes on from a state; called once, before any event. */
    void restore(S state);
}
