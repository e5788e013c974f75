package org.custodia.desktop.alarm;

import java.time.Duration;
import java.util.List;
import javafx.scene.control.MenuButton;
import javafx.scene.control.MenuItem;
import javafx.scene.control.RadioMenuItem;
import javafx.scene.control.SeparatorMenuItem;
import javafx.scene.control.ToggleGroup;
import javafx.scene.layout.Region;
import org.custodia.desktop.desk.AlarmBell;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.text.Texts;

/** How loud alarms are, and for how long they are not heard. */
final class SoundMenu extends MenuButton {
    private static final Texts TEXTS = Texts.of(SoundMenu.class);
    private static final List<Integer> VOLUMES = List.of(100, 80, 60, 40, 20, 0);
    private static final List<Duration> TIMES =
            List.of(Duration.ofMinutes(10), Duration.ofMinutes(30), Duration.ofHours(1), AlarmBell.LONGEST_MUTED);

    SoundMenu(Desk desk) {
        super(TEXTS.say("sound"));
        setMinWidth(Region.USE_PREF_SIZE);
        AlarmBell bell = desk.bell();
        ToggleGroup volumes = new ToggleGroup();
        for (int volume : VOLUMES) {
            RadioMenuItem item = new RadioMenuItem(volume == 0 ? TEXTS.say("no-volume") : TEXTS.say("volume", volume));
            item.setToggleGroup(volumes);
            item.setUserData(volume);
            item.setOnAction(e -> bell.volume(volume));
            getItems().add(item);
        }
        getItems().add(new SeparatorMenuItem());
        for (Duration time : TIMES) {
            MenuItem item = new MenuItem(TEXTS.say("mute-for", time.toMinutes()));
            item.setOnAction(e -> bell.mute(desk.now(), time));
            getItems().add(item);
        }
        MenuItem unmute = new MenuItem(TEXTS.say("unmute"));
        unmute.setOnAction(e -> bell.unmute());
        getItems().add(unmute);
        showingProperty().addListener((o, a, b) -> {
            unmute.setDisable(bell.mutedUntil(desk.now()).isEmpty());
            volumes.getToggles().forEach(t -> t.setSelected(t.getUserData().equals(bell.volume())));
        });
    }
}
