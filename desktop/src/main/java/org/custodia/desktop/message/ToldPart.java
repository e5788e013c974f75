package org.custodia.desktop.message;

import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;
import javafx.scene.control.Label;
import javafx.scene.layout.Region;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.event.EventKey;
import org.custodia.core.message.MessageDesk;
import org.custodia.core.message.Occasion;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.words.ClockWords;

/** Says of an alarm who was told of it, and whether that arrived; nothing where nobody was. */
public final class ToldPart extends Label {
    private static final Texts TEXTS = Texts.of(ToldPart.class);

    private final Desk desk;
    private Optional<EventKey> shown = Optional.empty();

    public ToldPart(Desk desk) {
        this.desk = desk;
        setWrapText(true);
        setMinHeight(Region.USE_PREF_SIZE);
        managedProperty().bind(visibleProperty());
        setVisible(false);
    }

    /** Reads who was told of an alarm. */
    public void show(Alarm alarm) {
        if (!shown.equals(Optional.of(alarm.id()))) {
            setVisible(false);
            shown = Optional.of(alarm.id());
        }
        desk.work()
                .latest(
                        this,
                        () -> desk.services().workplace().messages().about(alarm),
                        found -> told(alarm, found),
                        why -> {});
    }

    private void told(Alarm alarm, List<MessageDesk.Sent> found) {
        if (!shown.equals(Optional.of(alarm.id()))) {
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
