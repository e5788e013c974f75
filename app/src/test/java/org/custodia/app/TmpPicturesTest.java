package org.custodia.app;

import java.nio.file.Files;
import java.nio.file.Path;
import javafx.event.Event;
import javafx.scene.Node;
import javafx.scene.input.KeyCode;
import javafx.scene.input.KeyEvent;
import org.custodia.desktop.notice.Notice;
import org.junit.jupiter.api.Test;

class TmpPicturesTest extends ConsoleFixture {
    private void shot(String name) throws Exception {
        Thread.sleep(1500);
        Files.createDirectories(Path.of("/tmp/pics"));
        fx(() -> {
            Snapshots.write(window.scene(), Path.of("/tmp/pics/" + name + ".png"));
            return null;
        });
    }

    private void key(KeyCode code) {
        fx(() -> {
            Node to = window.scene().getFocusOwner();
            Event.fireEvent(
                    to == null ? window.shell() : to,
                    new KeyEvent(KeyEvent.KEY_PRESSED, "", "", code, false, false, false, false));
            return null;
        });
    }

    private void scale(int s) {
        fx(() -> {
            window.theme().scale(s);
            return null;
        });
    }

    @Test
    void pictures() throws Exception {
        rig.happen("{'act':'force','door':'strongroom-corr','seconds':60}");
        Rig.await().until(() -> shows(".alarm-line .label", "Strongroom corridor"));
        fx(() -> {
            window.shell()
                    .desk()
                    .notices()
                    .note(
                            "The pair of Vault ante-room and Vault ante-room outside was removed.",
                            new Notice.Action("Undo", () -> {}));
            window.shell()
                    .desk()
                    .notices()
                    .stands(
                            "trouble",
                            java.util.Optional.of(
                                    Notice.of(
                                            "trouble",
                                            Notice.Kind.TROUBLE,
                                            "The data directory is not where it was: events are not being stored. Bring it back, or end Custodia and start it again.")));
            return null;
        });
        shot("watch-100-notices");
        scale(150);
        shot("watch-150");
        scale(200);
        shot("watch-200");
        key(KeyCode.F4);
        shot("alarms-200");
        scale(150);
        shot("alarms-150");
        scale(200);
        setup("Pairs");
        shot("pairs-200");
        setup("Inventory");
        scale(100);
        shot("inventory-100");
        press("2 notices");
        shot("notices");
    }

    @Test
    void german() throws Exception {
        console.close();
        open("de");
        rig.happen("{'act':'force','door':'strongroom-corr','seconds':60}");
        Rig.await().until(() -> shows(".alarm-line .label", "Strongroom corridor"));
        shot("de-watch");
        key(KeyCode.F4);
        shot("de-alarms");
        setup("Paare");
        shot("de-pairs");
        setup("Änderungen");
        shot("de-changes");
    }
}
