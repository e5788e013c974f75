package org.custodia.desktop.watch;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Set;
import javafx.beans.property.ReadOnlyObjectProperty;
import javafx.beans.property.ReadOnlyObjectWrapper;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.moment.Moment;
import org.custodia.core.site.DoorId;
import org.custodia.desktop.desk.Desk;

/**
 * Who came last before the time that a strip shows, for a strip that would stand empty otherwise. Asked for only while it
 * does, and again when the moment or the span is another, and now and then, since something may come late.
 */
final class EarlierItems {
    private static final int MANY = 3;
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
        EventQuery last = EventQuery.all()
                .doors(Set.of(door))
                .kinds(Kinds.GRANTED, Kinds.REFUSED, Kinds.FORCED)
                .until(desk.shown().minus(span))
                .newest(MANY);
        desk.work()
                .latest(
                        this,
                        () -> desk.services().log().find(last).stream()
                                .map(e -> StripItem.of(e, desk.words(), Map.of()))
                                .toList(),
                        found -> {
                            if (mine == asked) {
                                items.set(found);
                            }
                        },
                        // Why the log cannot be read is said by the strip itself.
                        why -> {});
    }
}
