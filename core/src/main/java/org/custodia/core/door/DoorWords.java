package org.custodia.core.door;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.util.Locale;
import java.util.Optional;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;

/** Says what a door is doing, why it is so and what comes next. */
public final class DoorWords {
    private static final DateTimeFormatter CLOCK = DateTimeFormatter.ofPattern("HH:mm", Locale.ROOT);
    private static final DateTimeFormatter DAY_CLOCK = DateTimeFormatter.ofPattern("EEE HH:mm", Locale.ENGLISH);

    private DoorWords() {}

    /** What matters most, for example "Held open, 2 min 41 s". */
    public static String headline(DoorState state, Door door, Instant at, ZoneId zone) {
        if (state.outOfReachSince().isPresent()) {
            return "Out of reach since " + clock(state.outOfReachSince().get(), at, zone);
        }
        if (state.forcedSince().isPresent()) {
            return "Forced open, " + lasted(state.forcedSince().get(), at);
        }
        if (state.heldSince().isPresent()) {
            return "Held open, "
                    + lasted(state.positionSince().orElse(state.heldSince().get()), at);
        }
        return lockSentence(state, at, zone);
    }

    /** What comes second: the limit it broke, what was last known, what comes next. */
    public static Optional<String> second(DoorState state, Door door, Instant at, ZoneId zone) {
        if (state.outOfReachSince().isPresent()) {
            return Optional.of("last known: " + state.lock().words() + positionWords(state, door));
        }
        if (state.forcedSince().isPresent()) {
            return Optional.of(lockSentence(state, at, zone).toLowerCase(Locale.ROOT));
        }
        if (state.heldSince().isPresent()) {
            return Optional.of("allowed " + span(door.heldLimit()));
        }
        if (state.readerOff()) {
            return Optional.of("reader off");
        }
        if (!door.can(DoorCapability.CONTACT)) {
            return Optional.of("no contact: position not known");
        }
        if (state.open()) {
            return Optional.of("open, " + lasted(state.positionSince().orElse(at), at));
        }
        return state.next()
                .filter(n -> state.lockUntil().isEmpty() && n.lock() != state.lock())
                .map(n -> capital(verb(n.lock())) + " " + clock(n.at(), at, zone));
    }

    private static String lockSentence(DoorState state, Instant at, ZoneId zone) {
        if (state.lock() == LockMode.UNKNOWN) {
            return "State not known yet";
        }
        String by = state.lockBy()
                .map(b -> b.equals("timetable") && state.lock() == LockMode.LOCKED ? "" : " by " + b)
                .map(b -> b.equals(" by command") ? " from the desk" : b)
                .orElse("");
        String until =
                state.lockUntil().map(t -> " until " + clock(t, at, zone)).orElse("");
        if (until.isEmpty() && state.lockBy().equals(Optional.of("command"))) {
            until = " until changed";
        }
        return capital(state.lock().words()) + by + until;
    }

    private static String positionWords(DoorState state, Door door) {
        return switch (state.position()) {
            case OPEN -> ", open";
            case CLOSED -> ", closed";
            case UNKNOWN -> door.can(DoorCapability.CONTACT) ? "" : ", no contact";
        };
    }

    private static String verb(LockMode mode) {
        return switch (mode) {
            case LOCKED -> "locks";
            case UNLOCKED -> "unlocks";
            case BLOCKED -> "is blocked";
            case UNKNOWN -> "changes";
        };
    }

    /** A clock time in the zone, with the day where it is not the day of {@code reference}. */
    public static String clock(Instant t, Instant reference, ZoneId zone) {
        boolean sameDay =
                t.atZone(zone).toLocalDate().equals(reference.atZone(zone).toLocalDate());
        return (sameDay ? CLOCK : DAY_CLOCK).format(t.atZone(zone));
    }

    /** How long something has lasted. */
    public static String lasted(Instant from, Instant to) {
        return span(Duration.between(from, to));
    }

    /** A length of time in words: "48 s", "2 min 41 s", "3 h 05 min", "2 d 4 h". */
    public static String span(Duration d) {
        long s = Math.max(0, d.toSeconds());
        if (s < 60) {
            return s + " s";
        }
        if (s < 3600) {
            return s / 60 + " min" + (s % 60 == 0 ? "" : " " + s % 60 + " s");
        }
        if (s < 86_400) {
            return s / 3600 + " h " + (s % 3600 / 60 < 10 ? "0" : "") + s % 3600 / 60 + " min";
        }
        return s / 86_400 + " d " + s % 86_400 / 3600 + " h";
    }

    private static String capital(String words) {
        return words.isEmpty() ? words : Character.toUpperCase(words.charAt(0)) + words.substring(1);
    }
}
