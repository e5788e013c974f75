package org.custodia.core.alarm;

import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;

/**
 * From whom nothing comes: that something did not happen does not follow from it there. A link that is lost silences its
 * system, a controller that is lost its doors. Not for several threads.
 */
final class Silence {
    /** What was kept meanwhile needs some time to come. */
    static final Duration AFTER = Duration.ofSeconds(15);

    private static final Set<EventKind> KINDS =
            Set.of(Kinds.LINK_LOST, Kinds.LINK_CLOSED, Kinds.LINK_BACK, Kinds.CONTROLLER_LOST, Kinds.CONTROLLER_BACK);
    private static final Set<EventKind> LINKS = Set.of(Kinds.LINK_LOST, Kinds.LINK_CLOSED, Kinds.LINK_BACK);
    /** More controllers than any place has. */
    private static final int MOST = 50_000;

    private final Set<String> silent = new LinkedHashSet<>();
    /** When they were heard again. */
    private final Map<String, Instant> heard = new LinkedHashMap<>();

    static boolean looksAt(EventKind kind) {
        return KINDS.contains(kind);
    }

    /** Takes in the next event of the log. */
    void take(Event event) {
        EventKind kind = event.kind();
        Optional<String> who = LINKS.contains(kind)
                ? event.detail("system").map(s -> "link " + s)
                : KINDS.contains(kind) ? event.controller().map(c -> "controller " + c.value()) : Optional.empty();
        if (who.isEmpty()) {
            return;
        }
        if (!kind.equals(Kinds.LINK_BACK) && !kind.equals(Kinds.CONTROLLER_BACK)) {
            if (silent.size() < MOST) {
                silent.add(who.get());
            }
        } else if (silent.remove(who.get()) && (heard.size() < MOST || heard.containsKey(who.get()))) {
            heard.put(who.get(), event.received());
        }
    }

    /**
     * Whether it cannot be told by an instant what happened where an event came from. That a controller is silent is no
     * reason not to tell that it is not back.
     */
    boolean covers(Event event, Instant now) {
        Optional<String> controller =
                looksAt(event.kind()) ? Optional.empty() : event.controller().map(c -> "controller " + c.value());
        return Stream.concat(Stream.of("link " + event.key().system().value()), controller.stream())
                .anyMatch(w -> silent.contains(w)
                        || Optional.ofNullable(heard.get(w))
                                .filter(t -> now.isBefore(t.plus(AFTER)) && !now.isBefore(t))
                                .isPresent());
    }

    /**
     * What is silent, and when what was silent was heard again.
     *
     * @param heard in the order of {@code of}
     */
    record State(List<String> silent, List<String> of, List<Instant> heard) {}

    State state() {
        return new State(List.copyOf(silent), List.copyOf(heard.keySet()), List.copyOf(heard.values()));
    }

    void restore(State state) {
        silent.addAll(state.silent());
        for (int i = 0; i < Math.min(state.of().size(), state.heard().size()); i++) {
            heard.put(state.of().get(i), state.heard().get(i));
        }
    }
}
