package org.custodia.desktop.shell;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.Supplier;
import java.util.stream.Stream;
import javafx.scene.input.KeyCode;
import javafx.scene.input.KeyCodeCombination;
import javafx.scene.input.KeyCombination;
import javafx.scene.input.KeyEvent;
import org.custodia.desktop.desk.MainView;
import org.custodia.desktop.desk.Shortcut;
import org.custodia.desktop.text.Texts;

/** All keys, in one table: the bindings and the sheet under F1 are both made from it. */
public final class Shortcuts {
    private static final Texts TEXTS = Texts.of(Shortcuts.class);

    /** What a key does everywhere. */
    enum Does {
        FIND,
        NOW,
        HELP,
        BACK,
        THEME,
        LARGER,
        SMALLER,
        FULL_SCREEN,
        /** Sees the worst alarm that nobody has seen. */
        ACKNOWLEDGE,
        ANSWER,
        /** Shows a view. */
        VIEW,
        /** Something where the focus is, or nothing. */
        LOCAL
    }

    /**
     * A key that works everywhere.
     *
     * @param combinations all that do it
     * @param view what is shown, where it shows a view
     */
    private record Binding(
            List<KeyCombination> combinations, Supplier<Shortcut> shown, Does does, Optional<MainView.Plug> view) {}

    private static final List<Binding> BINDINGS = bindings();

    private Shortcuts() {}

    private static List<Binding> bindings() {
        List<Binding> all = new ArrayList<>();
        all.add(key("Ctrl+K", "key-find", Does.FIND, KeyCode.K, KeyCombination.CONTROL_DOWN));
        for (MainView.Plug view : Views.ALL) {
            Supplier<Shortcut> shown = () -> new Shortcut(
                    lettered(view.key().getDisplayText()), view.name().get(), TEXTS.say("everywhere"));
            all.add(new Binding(List.of(view.key()), shown, Does.VIEW, Optional.of(view)));
        }
        all.add(key("Ctrl+Home", "key-now", Does.NOW, KeyCode.HOME, KeyCombination.CONTROL_DOWN));
        all.add(key("Home", "key-now-home", Does.NOW, KeyCode.HOME));
        all.add(key("Esc", "key-back", Does.BACK, KeyCode.ESCAPE));
        all.add(key("F1", "key-sheet", Does.HELP, KeyCode.F1));
        all.add(key("F4", "key-answer", Does.ANSWER, KeyCode.F4));
        all.add(key("Ctrl+Enter", "key-acknowledge", Does.ACKNOWLEDGE, KeyCode.ENTER, KeyCombination.CONTROL_DOWN));
        all.add(key("F9", "key-theme", Does.THEME, KeyCode.F9));
        all.add(key("F11", "key-full-screen", Does.FULL_SCREEN, KeyCode.F11));
        // Where plus is, and whether it needs Shift, differs by keyboard.
        all.add(control("Ctrl+Plus", "key-larger", Does.LARGER, KeyCode.PLUS, KeyCode.EQUALS, KeyCode.ADD));
        all.add(control("Ctrl+Minus", "key-smaller", Does.SMALLER, KeyCode.MINUS, KeyCode.SUBTRACT));
        return List.copyOf(all);
    }

    private static Binding key(String keys, String text, Does does, KeyCode code, KeyCombination.Modifier... with) {
        return new Binding(
                List.of(new KeyCodeCombination(code, with)),
                () -> new Shortcut(lettered(keys), TEXTS.say(text), TEXTS.say("everywhere")),
                does,
                Optional.empty());
    }

    private static Binding control(String keys, String text, Does does, KeyCode... codes) {
        List<KeyCombination> all = Stream.of(codes)
                .<KeyCombination>map(
                        c -> new KeyCodeCombination(c, KeyCombination.CONTROL_DOWN, KeyCombination.SHIFT_ANY))
                .toList();
        return new Binding(
                all,
                () -> new Shortcut(lettered(keys), TEXTS.say(text), TEXTS.say("everywhere")),
                does,
                Optional.empty());
    }

    /** Keys as they are lettered on keyboards of the language. */
    static String lettered(String keys) {
        return keys.replace("Ctrl", TEXTS.say("key-ctrl")).replace("Home", TEXTS.say("key-home"));
    }

    /** All keys for the sheet: those that work everywhere, then those of each view. */
    public static List<Shortcut> all() {
        return Stream.concat(
                        BINDINGS.stream().map(b -> b.shown().get()),
                        Views.ALL.stream().flatMap(v -> v.keys().get().stream()))
                .toList();
    }

    /** Everything that is bound everywhere. */
    static List<KeyCombination> combinations() {
        return BINDINGS.stream().flatMap(b -> b.combinations().stream()).toList();
    }

    private static Optional<Binding> binding(KeyEvent event) {
        return BINDINGS.stream()
                .filter(b -> b.combinations().stream().anyMatch(c -> c.match(event)))
                .findFirst();
    }

    /** What a key press means everywhere, or {@link Does#LOCAL} if nothing. */
    static Does of(KeyEvent event) {
        return binding(event).map(Binding::does).orElse(Does.LOCAL);
    }

    /** The view that a key press shows, if it does. */
    static Optional<MainView.Plug> view(KeyEvent event) {
        return binding(event).flatMap(Binding::view);
    }
}
