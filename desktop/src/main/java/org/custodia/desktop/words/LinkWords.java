package org.custodia.desktop.words;

import java.time.Instant;
import org.custodia.core.link.LinkStatus;
import org.custodia.desktop.saying.SayingWords;
import org.custodia.desktop.text.Texts;

/** Says how a link is doing. */
public final class LinkWords {
    private static final Texts TEXTS = Texts.of(LinkWords.class);

    private LinkWords() {}

    /** How it is doing, since when and why, as it goes on after its name. */
    public static String of(LinkStatus s, Instant now) {
        return switch (s.state()) {
            case CONNECTING ->
                s.problem()
                        .map(p -> TEXTS.say("link-connecting-why", SayingWords.of(p)))
                        .orElseGet(() -> TEXTS.say("link-connecting"));
            case READING_BACKLOG -> TEXTS.say("link-reading", s.done(), s.of());
            case UP ->
                s.lastHeard()
                        .map(t ->
                                TEXTS.say("link-up-heard", DoorWords.lasted(t, now), DoorWords.lasted(s.since(), now)))
                        .orElseGet(() -> TEXTS.say("link-up"));
            case DOWN -> {
                String since = DoorWords.lasted(s.since(), now);
                String why = s.problem().map(SayingWords::of).orElseGet(() -> TEXTS.say("link-no-answer"));
                yield s.retryAt()
                        .map(t -> TEXTS.say("link-down-retry", since, why, DoorWords.lasted(now, t)))
                        .orElseGet(() -> TEXTS.say("link-down", since, why));
            }
            case CLOSED -> TEXTS.say("link-closed");
        };
    }
}
