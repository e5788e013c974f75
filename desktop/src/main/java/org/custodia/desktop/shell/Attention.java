package org.custodia.desktop.shell;

import java.time.Instant;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.BooleanSupplier;
import java.util.function.Consumer;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.event.EventKey;
import org.custodia.desktop.alarm.AlarmWords;
import org.custodia.desktop.call.Herald;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.text.Texts;

/** Reaches somebody who works in another program: by the window's title, and by the desktop's notifications. */
final class Attention {
    private static final Texts TEXTS = Texts.of(Attention.class);

    private final Desk desk;
    private final AlarmWords words;
    private final BooleanSupplier looking;
    private final Consumer<String> title;
    private final Herald herald;
    private Set<Called> known = Set.of();
    private String shown = "";

    private record Called(EventKey alarm, Instant since, int step) {}

    /**
     * @param looking whether the window is the one that somebody works in
     * @param title sets what the window is called
     */
    Attention(Desk desk, BooleanSupplier looking, Consumer<String> title) {
        this.desk = desk;
        this.words = new AlarmWords(desk);
        this.looking = looking;
        this.title = title;
        this.herald = desk.services().outside().herald();
    }

    /** Looks what calls now; called several times a second. */
    void tick() {
        List<Alarm> unseen = desk.alarms().unseen();
        String site = desk.services().siteName();
        String now = unseen.isEmpty()
                ? TEXTS.say("title", site)
                : TEXTS.say("title-called", unseen.size(), words.what(unseen.get(0)), words.where(unseen.get(0)), site);
        if (!now.equals(shown)) {
            shown = now;
            title.accept(now);
        }
        List<Alarm> calling = unseen.stream().filter(a -> a.origin().forward()).toList();
        Optional<Alarm> fresh =
                calling.stream().filter(a -> !known.contains(called(a))).findFirst();
        known = new HashSet<>(calling.stream().map(Attention::called).toList());
        // One at a time: of several that come at once the worst is told.
        fresh.filter(a -> !looking.getAsBoolean())
                .ifPresent(a -> herald.tell(
                        TEXTS.say("told", words.what(a), words.where(a)),
                        calling.size() > 1
                                ? TEXTS.say("told-more", words.standing(a, desk.now()), calling.size() - 1)
                                : words.standing(a, desk.now())));
    }

    private static Called called(Alarm a) {
        return new Called(a.id(), a.call().since(), a.call().steps());
    }
}
