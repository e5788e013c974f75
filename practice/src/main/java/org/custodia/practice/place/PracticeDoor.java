package org.custodia.practice.place;

import java.time.Duration;
import java.time.LocalTime;
import java.util.Optional;

/**
 * A door at Sternwick.
 *
 * @param room the look of the room its cameras see
 * @param views which cameras it has: o outside, i inside, v overview
 * @param openFrom from when its timetable unlocks it, if it does
 * @param code a door code shared by many
 */
public record PracticeDoor(
        String id,
        String name,
        Building building,
        String level,
        String outside,
        String inside,
        String controller,
        String room,
        String views,
        Duration heldLimit,
        boolean contact,
        boolean exitReader,
        boolean turnstile,
        boolean pin,
        boolean twoPersons,
        boolean antiPassback,
        Optional<LocalTime> openFrom,
        Optional<LocalTime> openTo,
        Optional<String> code) {

    /** Whether its timetable ever unlocks it. */
    public boolean opensToPublic() {
        return openFrom.isPresent();
    }
}
