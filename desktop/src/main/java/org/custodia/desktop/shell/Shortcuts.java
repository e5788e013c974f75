package org.custodia.desktop.shell;

import java.util.List;
import java.util.stream.Stream;
import javafx.scene.input.KeyCode;
import javafx.scene.input.KeyCodeCombination;
import javafx.scene.input.KeyCombination;
import javafx.scene.input.KeyEvent;

/** All keys, in one table: the bindings and the sheet under F1 are both made from it. */
public final class Shortcuts {
    /** What a key does. */
    public enum Does {
        FIND,
        VIEW_WATCH,
        NOW,
        HELP,
        BACK,
        THEME,
        LARGER,
        SMALLER,
        FULL_SCREEN,
        /** Handled where the focus is, listed here for the sheet. */
        LOCAL
    }

    /**
     * One key.
     *
     * @param combinations all that do it; none for what is handled elsewhere
     * @param keys as shown
     * @param where where it works
     */
    public record Shortcut(List<KeyCombination> combinations, String keys, String words, String where, Does does) {}

    public static final List<Shortcut> ALL = List.of(
            key("Ctrl+K", "Find people, doors, views, a time", Does.FIND, KeyCode.K, KeyCombination.CONTROL_DOWN),
            key("Ctrl+1", "Watch", Does.VIEW_WATCH, KeyCode.DIGIT1, KeyCombination.CONTROL_DOWN),
            key("Ctrl+Home", "Return to now", Does.NOW, KeyCode.HOME, KeyCombination.CONTROL_DOWN),
            key("Home", "Return to now, where no list has the focus", Does.NOW, KeyCode.HOME),
            key("Esc", "One step back: close, stop playing, return to now", Does.BACK, KeyCode.ESCAPE),
            key("F1", "This sheet", Does.HELP, KeyCode.F1),
            key("F9", "Night or day theme", Does.THEME, KeyCode.F9),
            key("F11", "Full screen", Does.FULL_SCREEN, KeyCode.F11),
            // Where plus is, and whether it needs Shift, differs by keyboard.
            control("Ctrl+Plus", "Larger text", Does.LARGER, KeyCode.PLUS, KeyCode.EQUALS, KeyCode.ADD),
            control("Ctrl+Minus", "Smaller text", Does.SMALLER, KeyCode.MINUS, KeyCode.SUBTRACT),
            local("Enter", "Play the newest event, or the one chosen", "On a strip, in Arrivals"),
            local("← →", "From still to still", "On a strip"),
            local("L", "Let through", "On a strip"),
            local("U", "Leave unlocked until told otherwise", "On a strip"),
            local("K", "Lock now", "On a strip"),
            local("B", "Back to timetable", "On a strip"),
            local("Space", "Play and pause", "While playing"),
            local(", and .", "One frame back and on", "While playing"),
            local("[ and ]", "A minute back and on", "While playing"),
            local("← →", "Move the moment by 30 s; Shift 10 min, Alt 1 s", "On the day line"));

    private Shortcuts() {}

    private static Shortcut key(String keys, String words, Does does, KeyCode code, KeyCombination.Modifier... with) {
        return new Shortcut(List.of(new KeyCodeCombination(code, with)), keys, words, "Everywhere", does);
    }

    private static Shortcut control(String keys, String words, Does does, KeyCode... codes) {
        List<KeyCombination> all = Stream.of(codes)
                .<KeyCombination>map(
                        c -> new KeyCodeCombination(c, KeyCombination.CONTROL_DOWN, KeyCombination.SHIFT_ANY))
                .toList();
        return new Shortcut(all, keys, words, "Everywhere", does);
    }

    private static Shortcut local(String keys, String words, String where) {
        return new Shortcut(List.of(), keys, words, where, Does.LOCAL);
    }

    /** What a key press means everywhere, or {@link Does#LOCAL} if nothing. */
    static Does of(KeyEvent event) {
        return ALL.stream()
                .filter(s -> s.combinations().stream().anyMatch(c -> c.match(event)))
                .map(Shortcut::does)
                .findFirst()
                .orElse(Does.LOCAL);
    }
}
