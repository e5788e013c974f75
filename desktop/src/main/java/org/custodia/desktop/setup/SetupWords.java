package org.custodia.desktop.setup;

import java.time.Duration;
import java.util.Optional;
import org.custodia.core.event.Priority;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.link.Finding.Verdict;
import org.custodia.core.link.LinkStatus;
import org.custodia.desktop.text.Texts;

/** Words for what is set up. */
final class SetupWords {
    private static final Texts TEXTS = Texts.of(SetupWords.class);

    private SetupWords() {}

    /** What sort of system. */
    static String kind(String kind) {
        return kind.equals("access") || kind.equals("recorder") ? TEXTS.say("kind." + kind) : kind;
    }

    /** What it speaks. */
    static String make(String make) {
        return make.equals("link-protocol") ? TEXTS.say("make.link-protocol") : make;
    }

    /** How a clock goes. */
    static String clock(ClockBook.Estimate estimate) {
        Duration ahead = estimate.ahead();
        return TEXTS.say(
                ahead.isNegative() ? "clock-behind" : "clock-ahead",
                ahead.abs().toMillis() / 1000.0,
                Math.max(1, estimate.uncertainty().toMillis()));
    }

    /** How much it matters how a link is doing. */
    static Priority priority(Optional<LinkStatus> status) {
        return status.map(s -> switch (s.state()) {
                    case DOWN -> Priority.CAUTION;
                    case CONNECTING, READING_BACKLOG, UP, CLOSED ->
                        s.notices().isEmpty() ? Priority.NONE : Priority.LOW;
                })
                .orElse(Priority.NONE);
    }

    /** How much a finding matters. */
    static Priority priority(Verdict verdict) {
        return switch (verdict) {
            case NOT_MET -> Priority.CAUTION;
            case ADVICE -> Priority.LOW;
            case MET, NOT_TRIED -> Priority.NONE;
        };
    }
}
