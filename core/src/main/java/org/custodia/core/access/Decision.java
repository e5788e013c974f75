package org.custodia.core.access;

import java.time.ZonedDateTime;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;

/**
 * What follows at a reader, and from what.
 *
 * @param reason why it is refused, one of {@link org.custodia.core.event.Reasons}
 * @param credential what was presented, where it is on file and clear which it is
 * @param underDuress whether somebody typed what they type when they are forced to
 * @param levels what each level of the person says of the door at that time; empty where it did not come to that
 */
public record Decision(
        Result result,
        Optional<String> reason,
        Optional<Credential> credential,
        boolean underDuress,
        List<LevelSays> levels) {
    public Decision {
        levels = List.copyOf(levels);
    }

    /** How it ends. */
    public enum Result {
        GRANTED,
        REFUSED,
        /** Good so far; a second person must follow. */
        SECOND_PERSON_NEEDED,
        /** Several people have something under this number, it is not said which it was, and it makes a difference. */
        NOT_CLEAR_WHOSE
    }

    /** What a level says of a door. */
    public enum Says {
        /** It opens the door now. */
        ON,
        /** It opens the door at other times. */
        OFF,
        /** It does not have the door. */
        OTHER_DOORS,
        /** It has the door, by a timetable that nobody has. */
        NO_TIMETABLE
    }

    /**
     * One level's word on a door.
     *
     * @param timetable by which it opens the door, where it has it and the timetable is there
     * @param at when that was asked, in the site's own clock
     * @param holidays there
     */
    public record LevelSays(
            AccessLevel level,
            Says says,
            Optional<Timetable> timetable,
            ZonedDateTime at,
            Collection<Holiday> holidays) {
        /** When that changes next, if it does within eight days; computed each time, since few ask. */
        public Optional<ZonedDateTime> until() {
            return timetable.flatMap(t -> t.nextChange(at, holidays));
        }
    }

    /** What would have had to be different for somebody to be let in. */
    public enum Change {
        /** The right PIN. */
        PIN,
        /** Another badge of the same person. */
        CREDENTIAL,
        /** Another time. */
        TIME,
        /** Another door. */
        DOOR
    }

    /**
     * The nearest thing that would have been granted.
     *
     * @param change the one thing that is different
     * @param number of what would have had to be presented
     */
    public record Nearest(Change change, DoorId door, String number, ZonedDateTime time, PersonId person) {}

    static Decision refused(String reason, Credential credential) {
        return new Decision(Result.REFUSED, Optional.of(reason), Optional.ofNullable(credential), false, List.of());
    }

    /** The same, with what the levels say. */
    Decision with(List<LevelSays> said) {
        return new Decision(result, reason, credential, underDuress, said);
    }
}
