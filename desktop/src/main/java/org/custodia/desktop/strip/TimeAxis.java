package org.custodia.desktop.strip;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import org.custodia.desktop.text.Texts;

/**
 * A span of time laid on a width in pixels, ending at the moment.
 *
 * @param end at the right edge
 */
public record TimeAxis(Instant end, Duration span, double width) {
    private static final Texts TEXTS = Texts.of(TimeAxis.class);

    /** The spans there are. */
    public static final List<Duration> SPANS = List.of(
            Duration.ofMinutes(2),
            Duration.ofMinutes(5),
            Duration.ofMinutes(10),
            Duration.ofMinutes(20),
            Duration.ofHours(1),
            Duration.ofHours(2),
            Duration.ofHours(4),
            Duration.ofHours(8));

    private static final List<Duration> STEPS = List.of(
            Duration.ofSeconds(15),
            Duration.ofSeconds(30),
            Duration.ofMinutes(1),
            Duration.ofMinutes(2),
            Duration.ofMinutes(5),
            Duration.ofMinutes(10),
            Duration.ofMinutes(15),
            Duration.ofMinutes(30),
            Duration.ofHours(1),
            Duration.ofHours(2),
            Duration.ofHours(4),
            Duration.ofHours(8));
    private static final double ROOM_FOR_A_LABEL = 92;

    /** A line across the axis. */
    public record Line(Instant at, double x, String label) {}

    public Instant start() {
        return end.minus(span);
    }

    /** Where an instant lies; outside 0 to width when it is outside the span. */
    public double x(Instant t) {
        return width * (1 - Duration.between(t, end).toNanos() / (double) span.toNanos());
    }

    /** Which instant lies there. */
    public Instant at(double x) {
        return end.minusNanos((long) (span.toNanos() * (1 - x / width)));
    }

    /** Lines at round times of the zone. */
    public List<Line> lines(ZoneId zone) {
        Duration step = STEPS.stream()
                .filter(s -> width * s.toMillis() / span.toMillis() >= ROOM_FOR_A_LABEL)
                .findFirst()
                .orElse(STEPS.get(STEPS.size() - 1));
        DateTimeFormatter format =
                DateTimeFormatter.ofPattern(step.toMillis() % 60_000 == 0 ? "HH:mm" : "HH:mm:ss", Locale.ROOT);
        List<Line> lines = new ArrayList<>();
        ZonedDateTime midnight = start().atZone(zone).toLocalDate().atStartOfDay(zone);
        long since = Duration.between(midnight.toInstant(), start()).toMillis();
        Instant t = midnight.toInstant().plusMillis((since / step.toMillis() + 1) * step.toMillis());
        while (!t.isAfter(end)) {
            lines.add(new Line(t, x(t), format.format(t.atZone(zone))));
            t = t.plus(step);
        }
        return lines;
    }

    /** A span in words: "10 min", "2 h". */
    public static String words(Duration span) {
        return span.toHours() > 0 ? TEXTS.say("hours", span.toHours()) : TEXTS.say("minutes", span.toMinutes());
    }
}
