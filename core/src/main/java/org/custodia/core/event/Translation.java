package org.custodia.core.event;

import java.util.List;
import java.util.Optional;
import org.custodia.core.site.SystemId;

/**
 * What the codes and kinds of a make mean here. What a system sent is what is stored; what it means follows from the
 * translation that holds, for the past as for what comes.
 *
 * @param version goes up by one with each change; 0 is the one without rules
 * @param rules the first that applies holds; where none does, kind and reason are as they were sent
 */
public record Translation(SystemId system, long version, List<Rule> rules) {
    /** The most rules a translation can have. */
    public static final int MOST_RULES = 5_000;
    /** Mark: the kind as it was sent, where ours is another. */
    public static final String SENT_KIND = Provenance.MARK + "sent-kind";
    /** Mark: the reason as it was sent, where ours is another; empty where none was. */
    public static final String SENT_REASON = Provenance.MARK + "sent-reason";

    public Translation {
        rules = List.copyOf(rules);
        if (system.equals(SystemId.CUSTODIA)) {
            throw new IllegalArgumentException("what Custodia writes itself is not translated");
        }
        if (rules.size() > MOST_RULES) {
            throw new IllegalArgumentException("a translation has at most " + MOST_RULES + " rules");
        }
    }

    /**
     * One rule.
     *
     * @param sentKind applies to what was sent as this kind; where it is absent, to any
     * @param code applies to what was sent with this code; where it is absent, to any
     * @param kind what it is here
     * @param reason the reason it has here; absent, it keeps the one that was sent
     * @throws IllegalArgumentException if it applies to everything, or makes a kind of what only Custodia writes
     */
    public record Rule(Optional<String> sentKind, Optional<String> code, EventKind kind, Optional<String> reason) {
        public Rule {
            if (sentKind.isEmpty() && code.isEmpty()) {
                throw new IllegalArgumentException("a rule says which kind or which code it is for");
            }
            if (Provenance.own(kind)) {
                throw new IllegalArgumentException(
                        "the kind " + kind + " is Custodia's own: nothing that a system sends can mean it");
            }
        }

        private boolean appliesTo(String ofKind, Optional<String> ofCode) {
            return sentKind.map(ofKind::equals).orElse(true)
                    && code.map(c -> ofCode.filter(c::equals).isPresent()).orElse(true);
        }
    }

    /** What was sent, in our terms. */
    public record Meaning(EventKind kind, Optional<String> reason) {}

    /** The translation that changes nothing. */
    public static Translation none(SystemId system) {
        return new Translation(system, 0, List.of());
    }

    /** What a kind, reason and code mean that were sent. */
    public Meaning of(EventKind sentKind, Optional<String> sentReason, Optional<String> code) {
        return rules.stream()
                .filter(r -> r.appliesTo(sentKind.id(), code))
                .findFirst()
                .map(r -> new Meaning(r.kind(), r.reason().or(() -> sentReason)))
                .orElseGet(() -> new Meaning(sentKind, sentReason));
    }

    /** An event as it was sent, in our terms; what was sent is marked where it differs. */
    public Event translate(Event sent) {
        if (rules.isEmpty()) {
            return sent;
        }
        return translated(sent, of(sent.kind(), sent.reason(), sent.code()));
    }

    private static Event translated(Event sent, Meaning meaning) {
        if (meaning.kind().equals(sent.kind()) && meaning.reason().equals(sent.reason())) {
            return sent;
        }
        Event.Builder b =
                sent.toBuilder().kind(meaning.kind()).reason(meaning.reason().orElse(null));
        marks(
                b,
                sent.kind().id(),
                sent.reason().orElse(null),
                meaning.kind().id(),
                meaning.reason().orElse(null));
        return b.build();
    }

    /** Marks what was sent, where it is not what it means. */
    public static void marks(Event.Builder b, String sentKind, String sentReason, String kind, String reason) {
        if (!sentKind.equals(kind)) {
            b.detail(SENT_KIND, sentKind);
        }
        if (!Optional.ofNullable(sentReason).equals(Optional.ofNullable(reason))) {
            b.detail(SENT_REASON, sentReason == null ? "" : sentReason);
        }
    }

    /** The kind under which an event was sent. */
    public static String sentKind(Event event) {
        return event.detail(SENT_KIND).orElse(event.kind().id());
    }

    /** The reason with which an event was sent. */
    public static Optional<String> sentReason(Event event) {
        Optional<String> marked = event.detail(SENT_REASON);
        return marked.isPresent() ? marked.filter(r -> !r.isEmpty()) : event.reason();
    }
}
