package org.custodia.app;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Set;
import java.util.function.Predicate;
import java.util.function.Supplier;
import javafx.scene.Node;
import javafx.scene.control.Label;
import javafx.scene.control.Labeled;
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
        rig = new Rig(directory).withHub().connected();
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

    Set<Node> all(String selector) {
        return fx(() -> Set.copyOf(window.scene().getRoot().lookupAll(selector)));
    }

    boolean shows(String selector, String text) {
        return fx(() -> all(selector).stream()
                .anyMatch(n -> n instanceof Label l && seen(l) && l.getText().contains(text)));
    }

    /** Whether a node and all that holds it are visible. */
    private static boolean seen(Node node) {
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

    void focus(String door) {
        fx(() -> {
            strip(door).requestFocus();
            return null;
        });
    }
}
