package org.custodia.core.message;

import java.util.Arrays;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.function.Predicate;
import org.custodia.core.alarm.AlarmDesk;
import org.custodia.core.door.CommandAnswer;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.Kinds;
import org.custodia.core.link.AccessLink;
import org.custodia.core.link.Handled;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.SystemId;

/**
 * Tells access systems that keep account of alarms what was done here about what they told. Each fact is told to each system
 * once; what a system itself has said is not told to it again, since such facts name no events.
 */
public final class Passing {
    private static final Map<EventKind, Occasion> TOLD = Map.of(
            Kinds.ALARM_ACKNOWLEDGED, Occasion.ACKNOWLEDGED,
            Kinds.ALARM_TAKEN, Occasion.ACKNOWLEDGED,
            Kinds.ALARM_SHELVED, Occasion.ACKNOWLEDGED,
            Kinds.ALARM_TICKED, Occasion.ACKNOWLEDGED,
            Kinds.ALARM_FINISHED, Occasion.FINISHED);

    private final EventLog log;
    private final Function<SystemId, Optional<AccessLink>> links;
    private final Predicate<SystemId> setUp;

    /**
     * @param links the link to a system; nothing while it is not open, as at a start
     * @param setUp whether a system is connected to at all
     */
    public Passing(EventLog log, Function<SystemId, Optional<AccessLink>> links, Predicate<SystemId> setUp) {
        this.log = log;
        this.links = links;
        this.setUp = setUp;
    }

    private static List<EventKey> events(Event fact) {
        return fact.detail(AlarmDesk.EVENTS).stream()
                .flatMap(all -> Arrays.stream(all.split("/")))
                .flatMap(one -> EventKey.parse(one).stream())
                .toList();
    }

    /** What of a fact is to be told to whom; the slip names the fact, which has all that is said. */
    List<Outbox.Slip> slips(Event fact) {
        Occasion occasion = TOLD.get(fact.kind());
        if (occasion == null || !fact.key().system().equals(SystemId.CUSTODIA)) {
            return List.of();
        }
        Set<SystemId> systems = new LinkedHashSet<>();
        events(fact).forEach(e -> systems.add(e.system()));
        return systems.stream()
                .filter(s -> setUp.test(s) && keepsAlarms(s))
                .map(s -> new Outbox.Slip(fact.key(), fact.time(), Outbox.SYSTEM + s.value(), occasion))
                .toList();
    }

    /** Whether a system tracks alarms; true if it has not said yet. */
    private boolean keepsAlarms(SystemId system) {
        return links.apply(system).flatMap(AccessLink::keepsAlarms).orElse(true);
    }

    /** Whether a receiver is a system that does not track alarms and therefore need not be notified. */
    boolean isPointless(String receiver) {
        return !keepsAlarms(system(receiver));
    }

    /** Whether it is no use to try now, since its link is down; it is tried once it is back. */
    boolean away(String receiver) {
        SystemId system = system(receiver);
        Optional<AccessLink> link = links.apply(system);
        return link.map(l -> l.keepsAlarms().isEmpty() || !l.current()).orElseGet(() -> setUp.test(system));
    }

    private static SystemId system(String receiver) {
        return new SystemId(receiver.substring(Outbox.SYSTEM.length()));
    }

    /** Tells it, and waits for the answer. */
    CommandAnswer tell(Outbox.Entry entry) {
        SystemId system = system(entry.slip().receiver());
        Optional<AccessLink> link = links.apply(system);
        Optional<Event> fact = log.byKey(entry.slip().alarm());
        if (link.isEmpty() || fact.isEmpty()) {
            return new CommandAnswer(
                    CommandAnswer.Result.REFUSED,
                    Saying.of(link.isEmpty() ? "message.receiver-gone" : "message.alarm-gone"));
        }
        if (!link.get().keepsAlarms().orElse(true)) {
            return new CommandAnswer(CommandAnswer.Result.REFUSED, Saying.of("message.keeps-no-alarms"));
        }
        List<EventKey> mine = events(fact.get()).stream()
                .filter(e -> e.system().equals(system))
                .limit(Handled.MOST)
                .toList();
        return link.get()
                .tell(new Handled(
                        entry.id(),
                        entry.slip().occasion() == Occasion.FINISHED
                                ? Handled.What.FINISHED
                                : Handled.What.ACKNOWLEDGED,
                        mine,
                        fact.get().detail("operator-name").orElse(""),
                        fact.get().time()));
    }
}
