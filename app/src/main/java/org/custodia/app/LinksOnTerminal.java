package org.custodia.app;

import java.io.PrintStream;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.function.Consumer;
import java.util.function.LongSupplier;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.site.SystemId;
import org.custodia.desktop.saying.SayingWords;

/** Says on the terminal what the links are doing, for whoever runs Custodia without a window: each change once. */
final class LinksOnTerminal implements Consumer<LinkStatus> {
    private static final long READING_EVERY = Duration.ofSeconds(5).toNanos();

    private final PrintStream out;
    private final LongSupplier nanos;
    private final Map<SystemId, LinkStatus.State> states = new HashMap<>();
    private final Map<SystemId, Long> readingSaid = new HashMap<>();
    private final Map<SystemId, String> problems = new HashMap<>();
    private final Map<SystemId, Set<String>> notices = new HashMap<>();

    LinksOnTerminal(PrintStream out) {
        this(out, System::nanoTime);
    }

    LinksOnTerminal(PrintStream out, LongSupplier nanos) {
        this.out = out;
        this.nanos = nanos;
    }

    @Override
    public synchronized void accept(LinkStatus s) {
        for (String line : lines(s)) {
            out.println(s.name() + ": " + line);
        }
    }

    private List<String> lines(LinkStatus s) {
        List<String> lines = new ArrayList<>();
        boolean changed = s.state() != states.put(s.system(), s.state());
        switch (s.state()) {
            case CONNECTING -> {
                if (changed && !problems.containsKey(s.system())) {
                    lines.add("connecting");
                }
            }
            case READING_BACKLOG -> {
                if (changed || nanos.getAsLong() - readingSaid.getOrDefault(s.system(), 0L) > READING_EVERY) {
                    readingSaid.put(s.system(), nanos.getAsLong());
                    lines.add(String.format(Locale.ROOT, "reading history, %,d of %,d", s.done(), s.of()));
                }
            }
            case UP -> {
                if (changed) {
                    problems.remove(s.system());
                    lines.add("up");
                }
            }
            case DOWN -> {
                String problem = s.problem().map(SayingWords::of).orElse("no answer");
                if (!problem.equals(problems.put(s.system(), problem))) {
                    lines.add("out of reach, " + problem + "; tried again until it answers");
                }
            }
            case CLOSED -> {
                if (changed) {
                    lines.add("closed");
                }
            }
        }
        Set<String> said = notices.computeIfAbsent(s.system(), k -> new HashSet<>());
        s.notices().stream().map(SayingWords::of).filter(said::add).forEach(lines::add);
        return lines;
    }
}
