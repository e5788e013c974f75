package org.custodia.core.event;

import java.time.Instant;
import org.custodia.core.operator.Actor;
import org.custodia.core.site.SystemId;

/** What operators did, as it stands in the log. */
public final class OnRecord {
    private OnRecord() {}

    /** Something that an operator did. */
    public static Event.Builder by(Actor actor, EventKind kind, Instant now) {
        return Event.of(new EventKey(SystemId.CUSTODIA, 1, 0), kind, now)
                .operator(actor.operator())
                .detail("operator-name", actor.name())
                .detail("desk", actor.desk());
    }

    /**
     * Something that an operator set up otherwise.
     *
     * @param what it is about
     * @param change what was done with it
     */
    public static Event.Builder setUp(String what, String change, Actor actor, Instant now) {
        return by(actor, Kinds.SET_UP, now).detail("what", what).detail("change", change);
    }
}
