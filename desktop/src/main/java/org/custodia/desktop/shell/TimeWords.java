package org.custodia.desktop.shell;

import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.util.Locale;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Understands times as people type them: "14:30", "yesterday 9", "mon 8:15", "2026-11-20 16:00". */
public final class TimeWords {
    private static final Pattern TIME = Pattern.compile(
            "(?:(today|yesterday|mon|tue|wed|thu|fri|sat|sun)[a-z]*|(\\d{4}-\\d{2}-\\d{2}))?\\s*(?:(\\d{1,2})(?:[:.](\\d{2})(?:[:.](\\d{2}))?)?)?");

    private TimeWords() {}

    /** The latest past instant that the words can mean; nothing if they are no time. */
    public static Optional<Instant> parse(String words, Instant now, ZoneId zone) {
        String text = words.trim().toLowerCase(Locale.ROOT);
        Matcher m = TIME.matcher(text);
        if (text.isEmpty() || !m.matches()) {
            return Optional.empty();
        }
        boolean day = m.group(1) != null || m.group(2) != null;
        boolean clock = m.group(3) != null;
        // A bare number could be a badge; a time alone has a colon.
        if (!day && (!clock || m.group(4) == null)) {
            return Optional.empty();
        }
        try {
            ZonedDateTime local = now.atZone(zone);
            LocalDate date = m.group(2) != null ? LocalDate.parse(m.group(2)) : day(m.group(1), local.toLocalDate());
            LocalTime time =
                    clock ? LocalTime.of(number(m.group(3)), number(m.group(4)), number(m.group(5))) : LocalTime.NOON;
            ZonedDateTime at = date.atTime(time).atZone(zone);
            if (!day && at.isAfter(local)) {
                at = at.minusDays(1);
            }
            return at.isAfter(local) ? Optional.empty() : Optional.of(at.toInstant());
        } catch (DateTimeException e) {
            return Optional.empty();
        }
    }

    private static int number(String text) {
        return text == null ? 0 : Integer.parseInt(text);
    }

    private static LocalDate day(String word, LocalDate today) {
        if (word == null || word.equals("today")) {
            return today;
        }
        if (word.equals("yesterday")) {
            return today.minusDays(1);
        }
        LocalDate date = today;
        do {
            date = date.minusDays(1);
        } while (!date.getDayOfWeek().name().toLowerCase(Locale.ROOT).startsWith(word));
        return date;
    }
}
