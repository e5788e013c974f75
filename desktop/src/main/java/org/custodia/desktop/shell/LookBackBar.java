package org.custodia.desktop.shell;

import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import java.util.function.Supplier;
import java.util.stream.Collectors;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.Tooltip;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import org.custodia.core.moment.Moment;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.PriorityMark;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;
import org.custodia.desktop.words.DoorWords;

/** Says which instant is shown while the console looks back, and what needs somebody meanwhile. */
final class LookBackBar extends HBox {
    private static final Texts TEXTS = Texts.of(LookBackBar.class);

    private final Desk desk;
    private final Supplier<String> ofTheView;
    private final Label warning = new Label();
    private final Label time = new Label();
    private final Label needsWords = new Label();
    private final Tooltip needsTip = new Tooltip();
    private final PriorityMark needsMark;
    private final HBox needs;

    /**
     * @param ofTheView what has to be known of the view that is shown
     */
    LookBackBar(Desk desk, Theme theme, Supplier<String> ofTheView) {
        this.desk = desk;
        this.ofTheView = ofTheView;
        this.needsMark = new PriorityMark(theme, 14);
        this.needs = new HBox(needsMark, needsWords);
        getStyleClass().add("look-back-bar");
        time.getStyleClass().add("figures");
        needs.getStyleClass().add("needs");
        needs.setMinWidth(0);
        needsWords.setMinWidth(0);
        needsWords.setTooltip(needsTip);
        Region gap = new Region();
        HBox.setHgrow(gap, Priority.ALWAYS);
        Label words = new Label(TEXTS.say("looking-back-at"));
        Button now = new Button(TEXTS.say("return-to-now"));
        now.setOnAction(e -> desk.returnToNow());
        for (Region fixed : List.of(words, time, warning, now)) {
            fixed.setMinWidth(Region.USE_PREF_SIZE);
        }
        getChildren().addAll(words, time, warning, gap, needs, now);
    }

    /** Shows what is so now; called several times a second. */
    void show() {
        boolean back = desk.moment().get() instanceof Moment.At;
        setVisible(back);
        setManaged(back);
        if (desk.moment().get() instanceof Moment.At past) {
            showTime(past.instant());
            Labels.set(warning, ofTheView.get());
            showNeeds();
        }
    }

    private void showTime(Instant at) {
        ZoneId zone = desk.zone();
        boolean today =
                at.atZone(zone).toLocalDate().equals(desk.now().atZone(zone).toLocalDate());
        Labels.set(time, ClockWords.clock(at, zone) + (today ? "" : ", " + Texts.day(at, zone)));
    }

    /** What needs somebody now must not be missed for what was. */
    private void showNeeds() {
        List<DoorId> doors = desk.live().needing();
        needs.setVisible(!doors.isEmpty());
        needs.setManaged(!doors.isEmpty());
        if (!doors.isEmpty()) {
            needsMark.show(desk.live().state(doors.get(0)).priority());
            Labels.set(
                    needsWords,
                    doors.size() > 1
                            ? TEXTS.say("now-at-more", words(doors.get(0)), doors.size() - 1)
                            : TEXTS.say("now-at", words(doors.get(0))));
            needsTip.setText(doors.stream().map(this::words).collect(Collectors.joining("\n")));
        }
    }

    private String words(DoorId id) {
        Door door = desk.services().sites().get().door(id).orElseThrow();
        return door.name() + ": " + DoorWords.headline(desk.live().state(id), desk.now(), desk.zone());
    }
}
