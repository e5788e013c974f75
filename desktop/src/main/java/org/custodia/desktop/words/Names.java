package org.custodia.desktop.words;

import java.util.Locale;
import org.custodia.core.access.Verdict;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Reasons;
import org.custodia.core.site.Pairing;
import org.custodia.desktop.text.Texts;

/** What codes are called: kinds of events, reasons, commands, verdicts. What nobody knows is shown as it came. */
public final class Names {
    private static final Texts TEXTS = Texts.of(Names.class);

    private Names() {}

    public static String kind(EventKind kind) {
        return TEXTS.known("kind." + kind.id())
                .orElseGet(() -> Kinds.entry(kind).name());
    }

    public static String reason(String reason) {
        return TEXTS.known("reason." + reason).orElseGet(() -> Reasons.words(reason));
    }

    public static String command(DoorCommand command) {
        return command(command.word());
    }

    /**
     * @param word as it stands in the log
     */
    public static String command(String word) {
        return TEXTS.known("command." + word).orElse(word);
    }

    /** How far a command had come, in a word. */
    static String stage(EventKind ofCommand) {
        return TEXTS.known("stage." + ofCommand.id()).orElseGet(() -> kind(ofCommand));
    }

    /** From where a camera looks at a door. */
    public static String view(Pairing.View view) {
        return TEXTS.say("view." + view.name().toLowerCase(Locale.ROOT));
    }

    public static String verdict(Verdict verdict) {
        return TEXTS.say("verdict." + verdict.id());
    }
}
