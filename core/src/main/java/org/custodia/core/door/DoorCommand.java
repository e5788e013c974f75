package org.custodia.core.door;

import java.time.Instant;
import java.time.format.DateTimeParseException;
import java.util.Optional;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;

/** What an operator can tell a door. */
public sealed interface DoorCommand {
    /** Open once; it locks again by itself. */
    record LetThrough() implements DoorCommand {}

    /** Leave unlocked, until a time where the controller can hold one. */
    record LeaveUnlocked(Optional<Instant> until) implements DoorCommand {}

    /** Lock at once, whatever the timetable says. */
    record LockNow() implements DoorCommand {}

    /** Hand back to the timetable. */
    record BackToTimetable() implements DoorCommand {}

    /**
     * Show a text at its display.
     *
     * @param text one line, at most {@link #LONGEST_TEXT} characters
     */
    record ShowText(String text) implements DoorCommand {
        public ShowText {
            if (text.isBlank() || text.length() > LONGEST_TEXT || text.chars().anyMatch(Character::isISOControl)) {
                throw new IllegalArgumentException("a display shows a line of at most " + LONGEST_TEXT + " characters");
            }
        }
    }

    /** Characters that a display is asked to show. */
    int LONGEST_TEXT = 200;

    /** The word under which it crosses a link and stands in the log. */
    default String word() {
        if (this instanceof LetThrough) {
            return "let-through";
        }
        if (this instanceof LeaveUnlocked) {
            return "leave-unlocked";
        }
        if (this instanceof ShowText) {
            return "show-text";
        }
        return this instanceof LockNow ? "lock" : "timetable";
    }

    /**
     * Reads what stands in the log.
     *
     * @param until as an instant; what is none is left out
     * @param text what a display shows
     * @return nothing for a word that is no command
     */
    static Optional<DoorCommand> of(String word, Optional<String> until, Optional<String> text) {
        return switch (word) {
            case "let-through" -> Optional.of(new LetThrough());
            case "leave-unlocked" -> Optional.of(new LeaveUnlocked(until.flatMap(DoorCommand::instant)));
            case "lock" -> Optional.of(new LockNow());
            case "timetable" -> Optional.of(new BackToTimetable());
            case "show-text" -> text.flatMap(DoorCommand::shown);
            default -> Optional.empty();
        };
    }

    private static Optional<DoorCommand> shown(String text) {
        try {
            return Optional.of(new ShowText(text));
        } catch (IllegalArgumentException e) {
            return Optional.empty();
        }
    }

    private static Optional<Instant> instant(String text) {
        try {
            return Optional.of(Instant.parse(text));
        } catch (DateTimeParseException e) {
            return Optional.empty();
        }
    }

    /** Whether this door can do it. */
    default boolean supportedBy(Door door) {
        if (this instanceof LetThrough) {
            return door.can(DoorCapability.LET_THROUGH);
        }
        if (this instanceof LeaveUnlocked leave) {
            return door.can(DoorCapability.LEAVE_UNLOCKED)
                    && (leave.until().isEmpty() || door.can(DoorCapability.UNTIL));
        }
        if (this instanceof ShowText) {
            return door.can(DoorCapability.DISPLAY);
        }
        return door.can(this instanceof LockNow ? DoorCapability.LOCK : DoorCapability.TIMETABLE);
    }
}
