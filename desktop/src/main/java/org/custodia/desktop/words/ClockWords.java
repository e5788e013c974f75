package org.custodia.desktop.words;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.util.Locale;
import org.custodia.desktop.text.Texts;

/** Times of the day as a door's own clock on the wall would show them. */
public final class ClockWords {
    private static final DateTimeFormatter MINUTES = DateTimeFormatter.ofPattern("HH:mm", Locale.ROOT);
    private static final DateTimeFormatter SECONDS = DateTimeFormatter.ofPattern("HH:mm:ss", Locale.ROOT);
    private static final DateTimeFormatter TENTHS = DateTimeFormatter.ofPattern("HH:mm:ss.S", Locale.ROOT);

    /** Tenths of a second mean nothing where it may be off by more than this. */
    private static final Duration EXACT = Duration.ofMillis(500);

    private static final Texts TEXTS = Texts.of(ClockWords.class);

    private ClockWords() {}

    /** To the second. */
    public static String clock(Instant t, ZoneId zone) {
        return SECONDS.format(t.atZone(zone));
    }

    /** To the minute. */
    public static String minute(Instant t, ZoneId zone) {
        return MINUTES.format(t.atZone(zone));
    }

    /** A clock time, with the date where it is not the day of {@code reference}. */
    public static String dated(Instant t, Instant reference, ZoneId zone) {
        return (sameDay(t, reference, zone) ? "" : day(t, zone) + " ") + clock(t, zone);
    }

    /** The same to the minute. */
    public static String datedMinute(Instant t, Instant reference, ZoneId zone) {
        return (sameDay(t, reference, zone) ? "" : day(t, zone) + " ") + minute(t, zone);
    }

    /** Whether two instants are of one day there. */
    public static boolean sameDay(Instant one, Instant other, ZoneId zone) {
        return one.atZone(zone).toLocalDate().equals(other.atZone(zone).toLocalDate());
    }

    /** The day, short. */
    public static String day(Instant t, ZoneId zone) {
        return Texts.shortDay(t, zone);
    }

    /**
     * What a recorded picture shows, as exact as its time is known: with tenths of a second, or to the second and with how far it
     * may be off.
     *
     * @param reference the date is said where it is not the day of this
     * @param unsure how far it may be off
     */
    public static String recorded(Instant t, Instant reference, ZoneId zone, Duration unsure) {
        if (unsure.compareTo(EXACT) <= 0) {
            return exact(t, reference, zone);
        }
        long seconds = unsure.plusMillis(999).toSeconds();
        return seconds < 120
                ? TEXTS.say("give-or-take-seconds", dated(t, reference, zone), seconds)
                : TEXTS.say("give-or-take-minutes", dated(t, reference, zone), (seconds + 59) / 60);
    }

    /** With tenths of a second. */
    public static String exact(Instant t, ZoneId zone) {
        return TENTHS.format(t.atZone(zone));
    }

    /** With tenths of a second, and with the date where it is not the day of {@code reference}. */
    public static String exact(Instant t, Instant reference, ZoneId zone) {
        return (sameDay(t, reference, zone) ? "" : day(t, zone) + " ") + exact(t, zone);
    }
}
