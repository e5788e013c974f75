package org.custodia.desktop.watch;

import java.time.Instant;
import java.util.Optional;
import javafx.beans.property.ObjectProperty;
import javafx.beans.property.ReadOnlyObjectProperty;
import javafx.beans.property.ReadOnlyObjectWrapper;
import javafx.beans.property.SimpleObjectProperty;
import org.custodia.core.command.CommandProgress;
import org.custodia.core.door.DoorState;
import org.custodia.core.event.Priority;
import org.custodia.core.site.Door;

/** One strip. */
public final class StripModel {
    private final Door door;
    private final ReadOnlyObjectWrapper<StripData> data = new ReadOnlyObjectWrapper<>(StripData.LOADING);
    private final ReadOnlyObjectWrapper<DoorState> live = new ReadOnlyObjectWrapper<>(DoorState.UNKNOWN);
    private final ObjectProperty<Optional<CommandProgress>> progress = new SimpleObjectProperty<>(Optional.empty());
    private final ReadOnlyObjectWrapper<String> shownFor = new ReadOnlyObjectWrapper<>("");
    private long asked;
    private long got;

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

    long ask() {
        return ++asked;
    }

    /** Takes what was loaded, unless something newer is there already. */
    void take(long number, StripData loaded) {
        if (number > got) {
            got = number;
            data.set(loaded);
        }
    }

    void live(DoorState state) {
        live.set(state);
    }

    void fail(String why) {
        data.set(data.get().failed(why));
    }

    /** How much the door's state needs somebody. */
    public static Priority priority(DoorState state) {
        if (state.forcedSince().isPresent()) {
            return Priority.URGENT;
        }
        return state.heldSince().isPresent() ? Priority.CAUTION : Priority.NONE;
    }

    /** Since when it needs somebody. */
    static Instant needsSince(DoorState state) {
        return state.forcedSince().or(state::heldSince).orElse(Instant.MAX);
    }
}
