package org.custodia.desktop.watch;

import java.util.Collection;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.Set;
import java.util.TreeSet;
import javafx.beans.property.ObjectProperty;
import javafx.beans.property.ReadOnlyObjectProperty;
import javafx.beans.property.ReadOnlyObjectWrapper;
import javafx.beans.property.SimpleObjectProperty;
import org.custodia.core.command.CommandProgress;
import org.custodia.core.door.DoorState;
import org.custodia.core.event.Event;
import org.custodia.core.site.Door;
import org.custodia.desktop.strip.StripData;

/** One strip. */
public final class StripModel {
    /** More events than a strip could show are not held: the oldest go first. */
    private static final int MOST = 4_000;

    private final Door door;
    private final ReadOnlyObjectWrapper<StripData> data = new ReadOnlyObjectWrapper<>(StripData.LOADING);
    private final ReadOnlyObjectWrapper<DoorState> live = new ReadOnlyObjectWrapper<>(DoorState.UNKNOWN);
    private final ObjectProperty<Optional<CommandProgress>> progress = new SimpleObjectProperty<>(Optional.empty());
    private final ReadOnlyObjectWrapper<String> shownFor = new ReadOnlyObjectWrapper<>("");
    /** What the items are made of, in order of time. */
    private List<Event> events = List.of();

    private boolean inView = true;
    private long readingAsked;
    private long readingGot;
    private long makingAsked;
    private long makingGot;
    /** Whether it has to be made anew as soon as it is read. */
    private boolean touched;

    StripModel(Door door) {
        this.door = door;
    }

    public Door door() {
        return door;
    }

    public ReadOnlyObjectProperty<StripData> data() {
        return data.getReadOnlyProperty();
    }

    /** The state now, also while looking back. */
    public ReadOnlyObjectProperty<DoorState> live() {
        return live.getReadOnlyProperty();
    }

    public ObjectProperty<Optional<CommandProgress>> progress() {
        return progress;
    }

    /** Why a door that is not on watch is shown; empty for one that is. */
    public ReadOnlyObjectProperty<String> shownFor() {
        return shownFor.getReadOnlyProperty();
    }

    void shownFor(String why) {
        shownFor.set(why);
    }

    void live(DoorState state) {
        live.set(state);
    }

    List<Event> events() {
        return events;
    }

    /** Adds what came since; what is there already is not there twice. */
    void arrived(Collection<Event> fresh) {
        TreeSet<Event> all = new TreeSet<>(events);
        all.addAll(fresh);
        while (all.size() > MOST) {
            all.pollFirst();
        }
        events = List.copyOf(all);
    }

    // ---- Reading from the log, and making anew of what was read. Both end at some later time, and not all that begin
    // do.

    /** Whether somebody can see it, or nearly; one that nobody can see is not read. */
    public boolean isInView() {
        return inView;
    }

    /** Comes into view, where it has to be read, or goes out of view, where it holds nothing. */
    void inView(boolean now) {
        if (inView != now) {
            inView = now;
            if (!now) {
                outdate();
                events = List.of();
                data.set(StripData.LOADING);
            }
        }
    }

    /** From now on something else is asked for; what was before is shown until that is there. */
    void outdate() {
        readingAsked++;
    }

    /** The number under which it is read now. */
    long reading() {
        return readingAsked;
    }

    /** Whether it shows the moment and the span that were asked for last, rather than what was before. */
    public boolean isRead() {
        return readingAsked == readingGot;
    }

    /**
     * Takes what was read, unless something newer is there; what came meanwhile is added.
     *
     * @param before the events that were there when it was asked for
     * @return whether something came meanwhile, so that it has to be made anew
     */
    boolean takeReading(long number, List<Event> before, List<Event> read, StripData made) {
        if (number <= readingGot || !inView) {
            return false;
        }
        Set<Event> known = new HashSet<>(before);
        List<Event> since = events.stream().filter(e -> !known.contains(e)).toList();
        readingGot = number;
        makingGot = makingAsked;
        events = read;
        arrived(since);
        data.set(made);
        boolean again = touched || !since.isEmpty();
        touched = false;
        return again;
    }

    void failReading(long number, String why) {
        if (number > readingGot && inView) {
            readingGot = number;
            data.set(data.get().failed(why));
        }
    }

    /** The number under which it is made anew; nothing while it is being read, after which it will be. */
    OptionalLong askMaking() {
        if (!isRead()) {
            touched = true;
            return OptionalLong.empty();
        }
        return OptionalLong.of(++makingAsked);
    }

    /** Takes what was made anew, unless something newer is there or nothing looks different. */
    void takeMade(long number, StripData made) {
        if (number > makingGot && isRead()) {
            makingGot = number;
            if (!made.showsAs(data.get())) {
                data.set(made);
            }
        }
    }
}
