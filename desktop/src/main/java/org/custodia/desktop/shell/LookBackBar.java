package org.custodia.desktop.shell;

import java.time.Instant;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.util.List;
import java.util.Locale;
import java.util.stream.Collectors;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.Tooltip;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import org.custodia.core.door.DoorWords;
import org.custodia.core.moment.Moment;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.desktop.theme.PriorityMark;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.watch.StripModel;
import org.custodia.desktop.watch.WatchModel;
import org.custodia.desktop.words.ClockWords;

/** Says which instant is shown while the console looks back, and what needs somebody meanwhile. */
final class LookBackBar extends HBox {
    private static final DateTimeFormatter DATE = DateTimeFormatter.ofPattern("EEE d MMM", Locale.ENGLISH);

    private final WatchModel watch;
    private final Label time = new Label();
    private final Label needsWords = new Label();
    private final Tooltip needsTip = new Tooltip();
    private final PriorityMark needsMark;
    private final HBox needs;

    LookBackBar(WatchModel watch, Theme theme) {
        this.watch = watch;
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
        Label words = new Label("Looking back at");
        Label warning = new Label("Commands still act now.");
        Button now = new Button("Return to now");
        now.setOnAction(e -> watch.returnToNow());
        for (Region fixed : List.of(words, time, warning, now)) {
            fixed.setMinWidth(Region.USE_PREF_SIZE);
        }
        getChildren().addAll(words, time, warning, gap, needs, now);
        show();
    }

    /** Shows what is so now; called several times a second. */
    void show() {
        boolean back = watch.moment().get() instanceof Moment.At;
        setVisible(back);
        setManaged(back);
        if (watch.moment().get() instanceof Moment.At past) {
            showTime(past.instant());
            showNeeds();
        }
    }

    private void showTime(Instant at) {
        ZoneId zone = watch.zone();
        boolean today =
                at.atZone(zone).toLocalDate().equals(watch.now().atZone(zone).toLocalDate());
        set(time, ClockWords.clock(at, zone) + (today ? "" : ", " + DATE.format(at.atZone(zone))));
    }

    /** What needs somebody now must not be missed for what was. */
    private void showNeeds() {
        List<DoorId> doors = watch.needing();
        needs.setVisible(!doors.isEmpty());
        needs.setManaged(!doors.isEmpty());
        if (!doors.isEmpty()) {
            needsMark.show(StripModel.priority(watch.liveStates().get(doors.get(0))));
            String more = doors.size() > 1 ? ", and " + (doors.size() - 1) + " more" : "";
            set(needsWords, "Now at " + words(doors.get(0)) + more);
            needsTip.setText(doors.stream().map(this::words).collect(Collectors.joining("\n")));
        }
    }

    private String words(DoorId id) {
        Door door = watch.services().sites().get().door(id).orElseThrow();
        return door.name() + ": " + DoorWords.headline(watch.liveStates().get(id), door, watch.now(), watch.zone());
    }

    private static void set(Label label, String text) {
        if (!text.equals(label.getText())) {
            label.setText(text);
        }
    }
}
