package org.custodia.desktop.saying;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.util.Locale;
import org.custodia.core.saying.Saying;
import org.custodia.core.saying.Says;
import org.custodia.desktop.text.Texts;

/**
 * Makes words of what is to be said. What is part of a sentence begins with a small letter and has no full stop; what stands
 * alone is a whole sentence.
 */
public final class SayingWords {
    private static final Texts TEXTS = Texts.of(SayingWords.class);
    private static final DateTimeFormatter CLOCK = DateTimeFormatter.ofPattern("HH:mm", Locale.ROOT);

    private SayingWords() {}

    /** In words; a code that this version does not know is shown as it stands in the log. */
    public static String of(Saying saying) {
        Object[] values = saying.of().stream().map(SayingWords::value).toArray();
        return TEXTS.known(saying.code(), values).orElseGet(saying::text);
    }

    /** What stands in the log, in words; what is no saying is shown as it is. */
    public static String ofText(String text) {
        return Saying.parse(text).map(SayingWords::of).orElse(text);
    }

    /** What an exception has to say; the other saying where it has nothing to say. */
    public static String of(Throwable e, Saying otherwise) {
        return of(Says.of(e, otherwise));
    }

    /** The same, or that Custodia stumbled. */
    public static String of(Throwable e) {
        return of(e, Saying.of("custodia.stumbled"));
    }

    private static Object value(Object value) {
        if (value instanceof Saying saying) {
            return of(saying);
        }
        if (value instanceof Instant at) {
            ZoneId zone = ZoneId.systemDefault();
            return Texts.shortDay(at, zone) + " " + CLOCK.format(at.atZone(zone));
        }
        return value instanceof Duration d ? (Object) (d.toMillis() / 1000.0) : value;
    }
}
