package org.custodia.desktop.message;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;
import javafx.scene.control.Label;
import javafx.scene.layout.Region;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.message.MessageDesk;
import org.custodia.core.message.Occasion;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.words.ClockWords;

/** Says of an alarm who was told of it, and whether that arrived; nothing where nobody was. */
public final class ToldPart extends Label {
    private static final Texts TEXTS = Texts.of(ToldPart.class);

    private static final Duration EVERY = Duration.ofSeconds(2);

    private final Desk desk;
    private Optional<Alarm> alarm = Optional.empty();
    private Instant readAt = Instant.MIN;

    public ToldPart(Desk desk) {
        this.desk = desk;
        setWrapText(true);
        setMinHeight(Region.USE_PREF_SIZE);
        managedProperty().bind(visibleProperty());
        setVisible(false);
    }

    /** Reads who was told of an alarm. */
    public void show(Alarm alarm) {
        if (!shown(alarm)) {
            setVisible(false);
        }
        this.alarm = Optional.of(alarm);
        readAt = Instant.now();
        desk.work()
                .latest(
                        this,
                        () -> desk.services().workplace().messages().about(alarm),
                        found -> told(alarm, found),
                        why -> {});
    }

    private boolean shown(Alarm other) {
        return alarm.map(Alarm::id).equals(Optional.of(other.id()));
    }

    /** Looks from time to time whether a message has arrived meanwhile. */
    public void tick() {
        if (Instant.now().isAfter(readAt.plus(EVERY))) {
            alarm.ifPresent(this::show);
        }
    }

    private void told(Alarm alarm, List<MessageDesk.Sent> found) {
        if (!shown(alarm)) {
            return;
        }
        setVisible(!found.isEmpty());
        setText(found.stream()
                .map(s -> switch (s.entry().state()) {
                    case SENT ->
                        TEXTS.say(
                                s.entry().slip().occasion() == Occasion.ENDED ? "told-end" : "told-at",
                                ClockWords.clock(s.entry().changed(), desk.zone()),
                                s.receiver());
                    case WAITING -> TEXTS.say(s.late() ? "told-late" : "told-soon", s.receiver());
                    case GIVEN_UP -> TEXTS.say("told-not", s.receiver());
                })
                .distinct()
                .collect(Collectors.joining(" · ")));
    }
}
