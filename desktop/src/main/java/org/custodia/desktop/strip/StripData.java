package org.custodia.desktop.strip;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.custodia.core.door.DoorState;
import org.custodia.core.door.Opening;

/**
 * What one strip shows.
 *
 * @param state how the door stood at the end
 * @param end the instant up to which this was asked for
 * @param items in order of time
 * @param failure why there is nothing, in a sentence, if the log could not be read or may not be
 */
public record StripData(
        DoorState state,
        Instant end,
        List<StripItem> items,
        List<Opening> openings,
        boolean loading,
        Optional<String> failure) {
    public static final StripData LOADING =
            new StripData(DoorState.UNKNOWN, Instant.EPOCH, List.of(), List.of(), true, Optional.empty());

    /** Whether nothing happened in its time. */
    public boolean isEmpty() {
        return items.isEmpty() && openings.isEmpty();
    }

    public StripData failed(String why) {
        return new StripData(state, end, items, openings, false, Optional.of(why));
    }

    /** Whether both show the same, whenever they were asked for. */
    public boolean showsAs(StripData other) {
        return state.equals(other.state)
                && items.equals(other.items)
                && openings.equals(other.openings)
                && loading == other.loading
                && failure.equals(other.failure);
    }
}
