package org.custodia.desktop.desk;

import java.time.Duration;
import java.time.Instant;
import java.util.Optional;
import java.util.Queue;
import java.util.Set;
import java.util.concurrent.ConcurrentLinkedQueue;
import javafx.beans.property.ReadOnlyObjectProperty;
import javafx.beans.property.ReadOnlyObjectWrapper;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.moment.Moment;
import org.custodia.core.site.DoorId;
import org.custodia.desktop.Work;

/**
 * Which badge event is on the doorstep: who came last to one of some doors, by now or by the moment that is looked back at,
 * unless somebody keeps one there.
 */
public final class DoorstepModel implements AutoCloseable {
    /** What comes later than this does not take the place of who is there. */
    private static final Duration RECENT = Duration.ofMinutes(2);

    private static final Duration ASK_AGAIN = Duration.ofSeconds(5);

    private final Desk desk;
    private final ReadOnlyObjectWrapper<Optional<Event>> event = new ReadOnlyObjectWrapper<>(Optional.empty());
    private final Queue<Event> arrived = new ConcurrentLinkedQueue<>();
    private final Runnable takeArrived = Work.conflated(this::takeArrived);
    private final EventIntake.Subscription subscription;
    private Set<DoorId> doors = Set.of();
    private boolean pinned;
    /** How many came since it was pinned. */
    private int since;

    private boolean arrivedSeen;
    private Instant askedAt = Instant.EPOCH;

    DoorstepModel(Desk desk) {
        this.desk = desk;
        this.subscription = desk.services().log().subscribe(events -> {
            boolean any = false;
            for (Event e : events) {
                if (isBadge(e) && e.door().isPresent() && isRecent(e)) {
                    any = true;
                    arrived.add(e);
                }
            }
            if (any) {
                takeArrived.run();
            }
        });
        desk.moment().addListener((o, a, b) -> ofTheMoment());
    }

    private boolean isRecent(Event event) {
        return Duration.between(event.time(), desk.now()).compareTo(RECENT) < 0;
    }

    private static boolean isBadge(Event event) {
        return event.kind().equals(Kinds.GRANTED) || event.kind().equals(Kinds.REFUSED);
    }

    /** The badge event on the doorstep. */
    public ReadOnlyObjectProperty<Optional<Event>> event() {
        return event.getReadOnlyProperty();
    }

    /** Sees to these doors from now on. */
    public void follow(Set<DoorId> newDoors) {
        doors = Set.copyOf(newDoors);
    }

    /** Puts an event on the doorstep, where it stays until {@link #unpin}; only badges are taken. */
    public void pin(Event badge) {
        if (isBadge(badge)) {
            pinned = true;
            since = 0;
            event.set(Optional.of(badge));
        }
    }

    /** Lets the doorstep show who comes next again. */
    public void unpin() {
        pinned = false;
    }

    public boolean pinned() {
        return pinned;
    }

    /** Number of arrivals since a person was pinned here. */
    public int since() {
        return pinned ? since : 0;
    }

    private void takeArrived() {
        Event next;
        Event newest = null;
        while ((next = arrived.poll()) != null) {
            if (isRecent(next) && doors.contains(next.door().orElseThrow())) {
                since++;
                newest = next;
            }
        }
        arrivedSeen |= newest != null;
        if (newest != null && !pinned && desk.moment().get().isLive()) {
            event.set(Optional.of(newest));
        }
    }

    /**
     * Until the first badge arrives, the doorstep shows who came last before the console was opened; that is known once
     * history is read.
     */
    void tick() {
        boolean waits = !arrivedSeen && desk.moment().get().isLive() && !desk.readsHistory();
        if (waits && Duration.between(askedAt, desk.now()).compareTo(ASK_AGAIN) > 0) {
            askedAt = desk.now();
            ofTheMoment();
        }
    }

    /** While looking back the doorstep shows who came last before the moment; back at now the last who came. */
    private void ofTheMoment() {
        if (pinned || doors.isEmpty()) {
            return;
        }
        Moment asked = desk.moment().get();
        EventQuery last = EventQuery.all()
                .until(desk.shown())
                .doors(doors)
                .kinds(Kinds.GRANTED, Kinds.REFUSED)
                .newest(1);
        desk.work()
                .latest(
                        this,
                        () -> desk.services().log().find(last),
                        found -> {
                            if (asked.equals(desk.moment().get()) && !pinned) {
                                event.set(found.stream().findFirst());
                            }
                        },
                        why -> {});
    }

    @Override
    public void close() {
        subscription.close();
    }
}
