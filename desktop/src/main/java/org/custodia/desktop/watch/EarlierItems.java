package org.custodia.desktop.watch;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Set;
import javafx.beans.property.ReadOnlyObjectProperty;
import javafx.beans.property.ReadOnlyObjectWrapper;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventQuery;
import org.custodia.core.moment.Moment;
import org.custodia.core.site.DoorId;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.strip.StripItem;
import org.custodia.desktop.strip.StripMaker;

/**
 * Who came last before the time that a strip shows, for a strip that would stand empty otherwise. Asked for only while it
 * does, and again when the moment or the span is another, and now and then, since something may come late.
 */
final class EarlierItems {
    private static final int MANY = 3;
    /** Events among which so many items are to be found: who passes a door makes several. */
    private static final int EVENTS = 30;

    private static final Duration ASK_AGAIN = Duration.ofSeconds(30);

    private final Desk desk;
    private final DoorId door;
    private final ReadOnlyObjectWrapper<List<StripItem>> items = new ReadOnlyObjectWrapper<>(List.of());
    private Asked asked;

    /** What was asked for, and when. */
    private record Asked(Moment moment, Duration span, Instant at) {
        boolean holds(Moment now, Duration length, Instant instant) {
            return moment.equals(now)
                    && span.equals(length)
                    && Duration.between(at, instant).compareTo(ASK_AGAIN) < 0;
        }
    }

    EarlierItems(Desk desk, DoorId door) {
        this.desk = desk;
        this.door = door;
    }

    /** The newest first; nothing where the strip is not empty, or nobody ever came. */
    ReadOnlyObjectProperty<List<StripItem>> items() {
        return items.getReadOnlyProperty();
    }

    /**
     * Sees to it; called several times a second.
     *
     * @param empty whether the strip is, as far as is known
     * @param span how far back it goes
     */
    void tick(boolean empty, Duration span) {
        if (!empty) {
            asked = null;
            items.set(List.of());
            return;
        }
        Moment moment = desk.moment().get();
        if (asked != null && asked.holds(moment, span, desk.now())) {
            return;
        }
        Asked mine = new Asked(moment, span, desk.now());
        asked = mine;
        Instant until = desk.shown().minus(span);
        desk.work()
                .latest(
                        this,
                        () -> before(until),
                        found -> {
                            if (mine == asked) {
                                items.set(found);
                            }
                        },
                        // Why the log cannot be read is said by the strip itself.
                        why -> {});
    }

    private List<StripItem> before(Instant until) {
        List<Event> events = desk
                .services()
                .log()
                .find(EventQuery.all()
                        .doors(Set.of(door))
                        .kinds(StripMaker.SHOWN)
                        .until(until)
                        .newest(EVENTS))
                .stream()
                .sorted()
                .toList();
        if (events.isEmpty()) {
            return List.of();
        }
        Duration reach = Duration.between(events.get(0).time(), until);
        List<StripItem> found = new ArrayList<>(new StripMaker(desk.services().doors(), desk.words())
                .make(door, events, until, reach).items().stream()
                        .filter(StripItem::still)
                        .toList());
        Collections.reverse(found);
        return List.copyOf(found.subList(0, Math.min(MANY, found.size())));
    }
}
