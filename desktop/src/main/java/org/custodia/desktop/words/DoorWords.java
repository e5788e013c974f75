package org.custodia.desktop.words;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.Locale;
import java.util.Optional;
import org.custodia.core.command.CommandProgress;
import org.custodia.core.door.DoorState;
import org.custodia.core.door.LockMode;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.desktop.saying.SayingWords;
import org.custodia.desktop.text.Texts;

/** Says what a door is doing, why it is so and what comes next. */
public final class DoorWords {
    private static final Texts TEXTS = Texts.of(DoorWords.class);

    private DoorWords() {}

    /** What matters most, for example "Held open, 2 min 41 s". */
    public static String headline(DoorState state, Instant at, ZoneId zone) {
        return headline(state, at, zone, false);
    }

    /** The same for where there is little room: from a minute on without seconds. */
    public static String shortHeadline(DoorState state, Instant at, ZoneId zone) {
        return headline(state, at, zone, true);
    }

    private static String headline(DoorState state, Instant at, ZoneId zone, boolean brief) {
        if (state.outOfReachSince().isPresent()) {
            return TEXTS.say("out-of-reach", clock(state.outOfReachSince().get(), at, zone));
        }
        if (state.forcedSince().isPresent()) {
            return TEXTS.say("forced-open", lasted(state.forcedSince().get(), at, brief));
        }
        if (state.heldSince().isPresent()) {
            Instant since = state.positionSince().orElse(state.heldSince().get());
            return TEXTS.say("held-open", lasted(since, at, brief));
        }
        return lockSentence(state, at, zone);
    }

    /** What comes second: the limit it broke, what was last known, what comes next. */
    public static Optional<String> second(DoorState state, Door door, Instant at, ZoneId zone) {
        if (state.outOfReachSince().isPresent()) {
            return Optional.of(TEXTS.say("last-known", lock(state.lock()), position(state, door)));
        }
        if (state.forcedSince().isPresent()) {
            // It goes on after what was said first.
            String lock = lockSentence(state, at, zone);
            return Optional.of(lock.substring(0, 1).toLowerCase(Texts.language()) + lock.substring(1));
        }
        if (state.heldSince().isPresent()) {
            return Optional.of(TEXTS.say("allowed", span(door.heldLimit())));
        }
        if (state.readerOff()) {
            return Optional.of(TEXTS.say("reader-off"));
        }
        if (!door.can(DoorCapability.CONTACT)) {
            return Optional.of(TEXTS.say("no-contact"));
        }
        if (state.open()) {
            return Optional.of(
                    TEXTS.say("open-for", lasted(state.positionSince().orElse(at), at)));
        }
        return state.next()
                .filter(n -> state.lockUntil().isEmpty() && n.lock() != state.lock())
                .map(n -> TEXTS.say("next-" + word(n.lock()), clock(n.at(), at, zone)));
    }

    /** How a command goes. */
    public static String progress(CommandProgress progress, Instant at, ZoneId zone) {
        String words =
                switch (progress.stage()) {
                    case ACCEPTED -> TEXTS.say("sending");
                    case SENT -> TEXTS.say("sent");
                    case CONFIRMED -> TEXTS.say("confirmed");
                    case FAILED, NOT_KNOWN ->
                        progress.why().map(SayingWords::of).orElse("");
                };
        if (progress.key().isEmpty()) {
            // It was not given at all, and a sentence says why.
            return words;
        }
        String command = Names.command(progress.command());
        return progress.now()
                .map(now -> TEXTS.say("progress-now", command, words, headline(now, at, zone)))
                .orElseGet(() -> TEXTS.say("progress", command, words));
    }

    /** How a lock is, in a word. */
    public static String lock(LockMode mode) {
        return TEXTS.say("lock-" + word(mode));
    }

    private static String word(LockMode mode) {
        return mode.name().toLowerCase(Locale.ROOT);
    }

    private static String lockSentence(DoorState state, Instant at, ZoneId zone) {
        if (state.lock() == LockMode.UNKNOWN) {
            return TEXTS.say("not-known");
        }
        String lock = EventWords.capital(lock(state.lock()));
        Optional<String> until = state.lockUntil().map(t -> clock(t, at, zone));
        String by = state.lockBy().orElse("");
        if (by.equals("command")) {
            return until.map(t -> TEXTS.say("lock-from-desk-until", lock, t))
                    .orElseGet(() -> TEXTS.say("lock-from-desk", lock));
        }
        boolean plain = by.isEmpty() || by.equals("timetable") && state.lock() == LockMode.LOCKED;
        if (plain) {
            return until.map(t -> TEXTS.say("lock-until", lock, t)).orElse(lock);
        }
        String who = by.equals("timetable") ? TEXTS.say("timetable") : by;
        return until.map(t -> TEXTS.say("lock-by-until", lock, who, t))
                .orElseGet(() -> TEXTS.say("lock-by", lock, who));
    }

    private static String position(DoorState state, Door door) {
        return switch (state.position()) {
            case OPEN -> TEXTS.say("position-open");
            case CLOSED -> TEXTS.say("position-closed");
            case UNKNOWN -> door.can(DoorCapability.CONTACT) ? "" : TEXTS.say("position-no-contact");
        };
    }

    /** A clock time in the zone, with the day where it is not the day of {@code reference}. */
    public static String clock(Instant of, Instant reference, ZoneId zone) {
        // A full minute by the controller's clock, corrected to ours, is seldom full to the millisecond.
        Instant t = of.plusSeconds(1);
        boolean sameDay =
                t.atZone(zone).toLocalDate().equals(reference.atZone(zone).toLocalDate());
        return sameDay ? ClockWords.minute(t, zone) : Texts.weekday(t, zone) + " " + ClockWords.minute(t, zone);
    }

    /** How long something has lasted. */
    public static String lasted(Instant from, Instant to) {
        return span(Duration.between(from, to));
    }

    private static String lasted(Instant from, Instant to, boolean brief) {
        Duration lasted = Duration.between(from, to);
        return span(brief && lasted.toMinutes() > 0 ? Duration.ofMinutes(lasted.toMinutes()) : lasted);
    }

    /** A length of time in words: "48 s", "2 min 41 s", "3 h 05 min", "2 d 4 h". */
    public static String span(Duration d) {
        long s = Math.max(0, d.toSeconds());
        if (s < 60) {
            return TEXTS.say("span-s", s);
        }
        if (s < 3600) {
            return s % 60 == 0 ? TEXTS.say("span-min", s / 60) : TEXTS.say("span-min-s", s / 60, s % 60);
        }
        if (s < 86_400) {
            return TEXTS.say("span-h", s / 3600, String.format(Locale.ROOT, "%02d", s % 3600 / 60));
        }
        return TEXTS.say("span-d", s / 86_400, s % 86_400 / 3600);
    }
}
