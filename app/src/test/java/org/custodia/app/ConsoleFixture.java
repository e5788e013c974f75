package org.custodia.app;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.function.Predicate;
import java.util.function.Supplier;
import javafx.event.Event;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.Labeled;
import javafx.scene.control.TextField;
import javafx.scene.control.ToggleButton;
import javafx.scene.input.KeyCode;
import javafx.scene.input.KeyEvent;
import javafx.scene.input.MouseButton;
import javafx.scene.input.MouseEvent;
import org.custodia.core.site.DoorId;
import org.custodia.desktop.shell.ConsoleWindow;
import org.custodia.desktop.watch.WatchView;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.io.TempDir;
import org.testfx.api.FxRobot;

/** The real interface on the real practice site, offscreen: opened before each test, with three doors on watch. */
abstract class ConsoleFixture {
    static final DoorId LOBBY = new DoorId("tidewater/staff-lobby");
    static final DoorId BAY = new DoorId("tidewater/loading-bay");

    @TempDir
    Path directory;

    final FxRobot robot = new FxRobot();
    Rig rig;
    Console console;
    ConsoleWindow window;

    @BeforeAll
    static void toolkit() {
        Console.offscreen();
        Console.startToolkit();
    }

    @BeforeEach
    void open() throws Exception {
        rig = Rig.prepared(directory).withHub().connected();
        open("en");
    }

    /** Opens the window in a language. */
    void open(String language) throws IOException {
        Files.writeString(
                directory.resolve("console/settings.json"),
                "{\"doors\":[\"tidewater/staff-lobby\",\"tidewater/loading-bay\",\"tidewater/vault-ante\"],"
                        + "\"spanSeconds\":120,\"dark\":true,\"scale\":100,\"width\":1280,\"height\":800,"
                        + "\"language\":\"" + language + "\"}");
        console = new Console(rig.hub, "Sternwick Museum", true, Rig.OPERATOR);
        window = console.window();
        Rig.await()
                .until(() -> fx(() ->
                        window.shell().view(WatchView.class).model().strips().size() >= 3));
    }

    @AfterEach
    void close() {
        console.close();
        rig.close();
    }

    static <T> T fx(Supplier<T> task) {
        return Snapshots.onFx(task);
    }

    /** Gives a key to what has the focus, by the way that keys take, without waiting for pulses as the robot does. */
    void key(KeyCode code, boolean alt) {
        fx(() -> {
            List<KeyEvent> events = new ArrayList<>();
            events.add(new KeyEvent(KeyEvent.KEY_PRESSED, "", "", code, false, false, alt, false));
            if (code.isLetterKey() && !alt) {
                String letter = code.getChar().toLowerCase(Locale.ROOT);
                events.add(new KeyEvent(KeyEvent.KEY_TYPED, letter, "", KeyCode.UNDEFINED, false, false, false, false));
            }
            events.add(new KeyEvent(KeyEvent.KEY_RELEASED, "", "", code, false, false, alt, false));
            for (KeyEvent event : events) {
                Node owner = window.scene().getFocusOwner();
                Event.fireEvent(owner == null ? window.scene().getRoot() : owner, event);
            }
            return null;
        });
    }

    Set<Node> all(String selector) {
        return fx(() -> Set.copyOf(window.scene().getRoot().lookupAll(selector)));
    }

    boolean shows(String selector, String text) {
        return fx(() -> all(selector).stream()
                .anyMatch(n -> n instanceof Labeled l && seen(l) && l.getText().contains(text)));
    }

    /** Whether a node and all that holds it are visible. */
    static boolean seen(Node node) {
        return node == null || node.isVisible() && seen(node.getParent());
    }

    /** The strip of a door, as a node. */
    Node strip(String name) {
        return fx(() -> all(".strip").stream()
                .filter(n -> name.equals(n.getAccessibleText()))
                .findFirst()
                .orElseThrow());
    }

    Set<Node> cards(String door) {
        return fx(() -> Set.copyOf(strip(door).lookupAll(".card")));
    }

    void present(String door, String badge) {
        rig.happen("{'act':'present','door':'" + door + "','badge':'" + badge + "'}");
    }

    /** A button or other thing with words on it, that can be seen. */
    <T extends Labeled> T labeled(Class<T> type, String selector, Predicate<String> words) {
        return fx(() -> all(selector).stream()
                .filter(type::isInstance)
                .map(type::cast)
                .filter(n -> n.isVisible() && n.getText() != null && words.test(n.getText()))
                .findFirst()
                .orElseThrow(() -> new AssertionError("nothing fits among " + selector)));
    }

    /** Presses the button with these words, once it can be pressed. */
    void press(String words) {
        Rig.await().until(() -> {
            Button button = labeled(Button.class, ".button", words::equals);
            return fx(() -> {
                boolean can = !button.isDisabled();
                if (can) {
                    button.fire();
                }
                return can;
            });
        });
    }

    /** Fills in a field that is named so. */
    void type(String field, String words) {
        fx(() -> {
            all(".text-field").stream()
                    .filter(f -> field.equals(f.getAccessibleText()))
                    .map(TextField.class::cast)
                    .findFirst()
                    .orElseThrow()
                    .setText(words);
            return null;
        });
    }

    /** Turns to Setup by its key, and to one of its pages. */
    void setup(String page) {
        fx(() -> {
            Event.fireEvent(
                    window.shell(),
                    new KeyEvent(KeyEvent.KEY_PRESSED, "", "", KeyCode.DIGIT8, false, true, false, false));
            return null;
        });
        ToggleButton turn = labeled(ToggleButton.class, ".setup .toggle-button", page::equals);
        fx(() -> {
            turn.fire();
            return null;
        });
    }

    /** Opens the line of a link or a door in Setup, as Enter and a click do. */
    void openLine(String begins) {
        Rig.await().until(() -> fx(() -> line(begins).isPresent()));
        fx(() -> {
            Node line = line(begins).orElseThrow();
            Event.fireEvent(
                    line,
                    new MouseEvent(
                            MouseEvent.MOUSE_CLICKED,
                            0,
                            0,
                            0,
                            0,
                            MouseButton.PRIMARY,
                            1,
                            false,
                            false,
                            false,
                            false,
                            false,
                            false,
                            false,
                            false,
                            false,
                            true,
                            null));
            return null;
        });
    }

    private Optional<Node> line(String begins) {
        return all(".setup .link-line").stream()
                .filter(n -> n.lookupAll(".strong").stream()
                        .anyMatch(
                                l -> l instanceof Label label && label.getText().startsWith(begins)))
                .filter(ConsoleFixture::seen)
                .findFirst();
    }

    void focus(String door) {
        fx(() -> {
            strip(door).requestFocus();
            return null;
        });
    }
}
