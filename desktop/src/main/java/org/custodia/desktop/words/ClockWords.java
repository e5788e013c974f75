package org.custodia.desktop.words;

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

    /** Whether two instants are of one day there. */
    public static boolean sameDay(Instant one, Instant other, ZoneId zone) {
        return one.atZone(zone).toLocalDate().equals(other.atZone(zone).toLocalDate());
    }

    /** The day, short. */
    public static String day(Instant t, ZoneId zone) {
        return Texts.shortDay(t, zone);
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
