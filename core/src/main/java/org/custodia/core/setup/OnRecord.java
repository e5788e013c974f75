package org.custodia.core.setup;

import java.time.Instant;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.operator.Actor;
import org.custodia.core.site.SystemId;

/** What operators did in setting up, as it stands in the log. */
final class OnRecord {
    private OnRecord() {}

    static Event.Builder by(Actor actor, EventKind kind, Instant now) {
        return Event.of(new EventKey(SystemId.CUSTODIA, 1, 0), kind, now)
                .operator(actor.operator())
                .detail("operator-name", actor.name())
                .detail("desk", actor.desk());
    }

    static Event.Builder setUp(String what, String change, Actor actor, Instant now) {
        return by(actor, Kinds.SET_UP, now).detail("what", what).detail("change", change);
    }
}
