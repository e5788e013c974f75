package org.custodia.desktop.door;

import java.time.Duration;
import java.time.Instant;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.time.format.DateTimeParseException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import javafx.scene.Node;
import javafx.scene.control.ContextMenu;
import javafx.scene.control.CustomMenuItem;
import javafx.scene.control.Menu;
import javafx.scene.control.MenuItem;
import javafx.scene.control.TextField;
import javafx.scene.input.KeyCode;
import javafx.scene.input.KeyCodeCombination;
import javafx.scene.input.KeyCombination;
import javafx.scene.input.KeyEvent;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.door.DoorState;
import org.custodia.core.door.LockMode;
import org.custodia.core.operator.Permission;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.words.DoorWords;
import org.custodia.desktop.words.Names;

/**
 * What an operator can do with one door: as items of a menu, as the one command that fits how the door stands, and by keys.
 * Only what the door can do and the operator may do is offered.
 */
public final class DoorCommandMenu {
    private static final Texts TEXTS = Texts.of(DoorCommandMenu.class);
    private static final int[] MINUTES = {5, 15, 30, 60, 120};
    /** The keys, by the command's word in the log. Each takes Alt, so that words typed over a strip act on no door. */
    private static final Map<String, KeyCode> KEYS = Map.of(
            new DoorCommand.LetThrough().word(), KeyCode.L,
            new DoorCommand.LeaveUnlocked(Optional.empty()).word(), KeyCode.U,
            new DoorCommand.LockNow().word(), KeyCode.K,
            new DoorCommand.BackToTimetable().word(), KeyCode.B);

    private final Desk desk;
    private final Door door;

    public DoorCommandMenu(Desk desk, Door door) {
        this.desk = desk;
        this.door = door;
    }

    /** What is offered now; where that is nothing, one item that says why. */
    public List<MenuItem> items() {
        List<MenuItem> items = new ArrayList<>();
        for (DoorCommand command : desk.commands().offered(door)) {
            if (command instanceof DoorCommand.LeaveUnlocked && door.can(DoorCapability.UNTIL)) {
                items.add(leaveUnlocked(command));
            } else {
                items.add(item(
                        Names.command(command) + "   " + TEXTS.say("door-key", KEYS.get(command.word())), command));
            }
        }
        if (items.isEmpty()) {
            MenuItem none = new MenuItem(whyNone());
            none.setDisable(true);
            items.add(none);
        }
        return items;
    }

    /** Opens the menu where somebody pointed. */
    public void showAt(Node owner, double screenX, double screenY) {
        ContextMenu menu = new ContextMenu();
        menu.getItems().setAll(items());
        menu.show(owner, screenX, screenY);
    }

    /** The command that fits best; nothing if none is offered. */
    public Optional<DoorCommand> fitting(DoorState now) {
        boolean needsLock = now.lock() == LockMode.UNLOCKED
                || now.heldSince().isPresent()
                || now.forcedSince().isPresent();
        DoorCommand wanted = needsLock ? new DoorCommand.LockNow() : new DoorCommand.LetThrough();
        List<DoorCommand> offered = desk.commands().offered(door);
        return offered.stream()
                .filter(c -> c.word().equals(wanted.word()))
                .findFirst()
                .or(() -> offered.stream().findFirst());
    }

    /** Gives a command. */
    public void act(DoorCommand command) {
        desk.commands().act(door, command);
    }

    /** Gives the command whose key this is; false if it is none of theirs. */
    public boolean key(KeyEvent e) {
        Optional<String> word = KEYS.entrySet().stream()
                .filter(k -> new KeyCodeCombination(k.getValue(), KeyCombination.ALT_DOWN).match(e))
                .map(Map.Entry::getKey)
                .findFirst();
        word.flatMap(w -> desk.commands().offered(door).stream()
                        .filter(c -> c.word().equals(w))
                        .findFirst())
                .ifPresent(this::act);
        return word.isPresent();
    }

    private Menu leaveUnlocked(DoorCommand untilTold) {
        Menu menu = new Menu(TEXTS.say("leave-unlocked"));
        menu.getItems().add(item(TEXTS.say("until-told"), untilTold));
        for (int minutes : MINUTES) {
            Instant until = desk.now().plus(Duration.ofMinutes(minutes));
            String clock = DoorWords.clock(until, desk.now(), desk.zone());
            menu.getItems()
                    .add(item(
                            TEXTS.say("until", clock, DoorWords.span(Duration.ofMinutes(minutes))),
                            new DoorCommand.LeaveUnlocked(Optional.of(until))));
        }
        menu.getItems().add(untilTyped());
        return menu;
    }

    private MenuItem item(String text, DoorCommand command) {
        MenuItem item = new MenuItem(text);
        item.setOnAction(e -> act(command));
        return item;
    }

    private String whyNone() {
        boolean may = desk.services().actor().may(Permission.ACT_ON_DOORS, door.site());
        return may
                ? TEXTS.say("no-commands")
                : TEXTS.say("may-not-act", desk.services().actor().name());
    }

    /** A time of one's own: the next time the clock shows it. */
    private CustomMenuItem untilTyped() {
        TextField time = new TextField();
        time.setPromptText(TEXTS.say("until-typed"));
        time.setAccessibleText(TEXTS.say("until-typed-spoken"));
        CustomMenuItem item = new CustomMenuItem(time, false);
        time.setOnAction(e -> {
            Optional<Instant> until = nextTime(time.getText().trim(), desk.now(), desk.zone());
            if (until.isEmpty()) {
                time.clear();
                time.setPromptText(TEXTS.say("a-time"));
                return;
            }
            hide(item);
            act(new DoorCommand.LeaveUnlocked(until));
        });
        return item;
    }

    private static void hide(MenuItem item) {
        MenuItem top = item;
        while (top.getParentMenu() != null) {
            top = top.getParentMenu();
        }
        if (top.getParentPopup() != null) {
            top.getParentPopup().hide();
        }
    }

    /** When the clock next shows a time such as "16:45"; nothing if the words are no time. */
    static Optional<Instant> nextTime(String words, Instant now, ZoneId zone) {
        try {
            LocalTime time = LocalTime.parse(words.length() == 4 ? "0" + words : words);
            ZonedDateTime local = now.atZone(zone);
            ZonedDateTime at = local.with(time);
            return Optional.of((at.isAfter(local) ? at : at.plusDays(1)).toInstant());
        } catch (DateTimeParseException e) {
            return Optional.empty();
        }
    }
}
