package org.custodia.core.mishap;

import java.time.Clock;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.BiConsumer;
import java.util.function.IntConsumer;
import org.custodia.core.saying.Saying;

/**
 * What went wrong inside Custodia in this run, for the bar and for Health: each part of the program once, with how often.
 * It is the handler of whatever nobody else catches. Where memory is used up the process ends with a sentence and a code of
 * its own, since nothing that goes on after that can be relied on. Safe for use by several threads.
 */
public final class Mishaps implements Thread.UncaughtExceptionHandler {
    /** The code with which a process ends whose memory is used up. */
    public static final int OUT_OF_MEMORY = 3;

    private static final int MOST = 50;
    private static final String NO_MEMORY =
            "Custodia has used up its memory and ends. Everything that was shown as stored is in the log; start it again.";

    /**
     * What went wrong in one part of the program.
     *
     * @param part the name of its thread
     * @param times how often
     */
    public record Seen(String part, int times, Instant first, Instant last) {}

    private final Map<String, Seen> counts = new LinkedHashMap<>();
    private final Clock clock;
    private final BiConsumer<String, Throwable> log;
    private final IntConsumer end;

    /**
     * @param log told of each mishap, in words, with what happened
     * @param end ends the process with a code, at once
     */
    public Mishaps(BiConsumer<String, Throwable> log, IntConsumer end, Clock clock) {
        this.clock = clock;
        this.log = log;
        this.end = end;
    }

    @Override
    public void uncaughtException(Thread thread, Throwable e) {
        if (outOfMemory(e)) {
            System.err.println(NO_MEMORY);
            end.accept(OUT_OF_MEMORY);
            return;
        }
        tell(thread.getName(), e);
    }

    private static boolean outOfMemory(Throwable e) {
        for (Throwable cause = e; cause != null; cause = cause.getCause()) {
            if (cause instanceof OutOfMemoryError) {
                return true;
            }
        }
        return false;
    }

    private static Saying stumbled(String part) {
        return Saying.of("mishap.stumbled", part);
    }

    /** Takes note that a part of the program stumbled. */
    public void tell(String part, Throwable e) {
        Instant now = clock.instant();
        boolean first;
        synchronized (counts) {
            Seen before = counts.get(part);
            first = before == null;
            if (!first) {
                counts.put(part, new Seen(part, before.times() + 1, before.first(), now));
            } else if (counts.size() < MOST) {
                counts.put(part, new Seen(part, 1, now, now));
            }
        }
        log.accept(first ? stumbled(part).text() : "", e);
    }

    /** What is to be said to whoever sits there, of the part that stumbled first; nothing while none did. */
    public Optional<Saying> sentence() {
        synchronized (counts) {
            return counts.keySet().stream().findFirst().map(Mishaps::stumbled);
        }
    }

    /** What went wrong, each part once, the first first. */
    public List<Seen> seen() {
        synchronized (counts) {
            return List.copyOf(counts.values());
        }
    }
}
