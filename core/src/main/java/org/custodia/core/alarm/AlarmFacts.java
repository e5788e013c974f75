package org.custodia.core.alarm;

import java.time.Instant;
import java.util.List;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.site.SystemId;

/** How facts about alarms begin. */
final class AlarmFacts {
    private AlarmFacts() {}

    static Event.Builder fact(EventKind kind, Instant at) {
        return Event.of(new EventKey(SystemId.CUSTODIA, 1, 0), kind, at);
    }

    /** Whoever is to be told stands in the fact itself, so that it follows from the log and from nothing else. */
    static Event.Builder tell(Event.Builder fact, List<String> receivers) {
        return receivers.isEmpty() ? fact : fact.detail(AlarmDesk.TELL, String.join(" ", receivers));
    }

    /**
     * The same, about an alarm that is there already.
     *
     * @param call which of its calls that belongs to
     */
    static Event.Builder tell(Event.Builder fact, Alarm alarm, int call, List<String> receivers) {
        if (receivers.isEmpty()) {
            return fact;
        }
        tell(fact, receivers).detail("raised", alarm.origin().raised().toString());
        return call == 1 ? fact : fact.detail(AlarmDesk.CALL, String.valueOf(call));
    }

    static Event.Builder about(Event.Builder fact, Subject subject) {
        subject.door().ifPresent(fact::door);
        return fact;
    }
}
