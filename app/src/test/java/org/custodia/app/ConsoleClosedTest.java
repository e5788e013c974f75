package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import java.lang.ref.WeakReference;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import javafx.scene.input.KeyCode;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.desktop.shell.ConsoleWindow;
import org.custodia.desktop.watch.WatchView;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.testfx.api.FxRobot;

/** A window that is closed leaves nothing behind while the hub goes on. */
class ConsoleClosedTest {
    @TempDir
    Path directory;

    private final FxRobot robot = new FxRobot();
    private Rig rig;

    @BeforeAll
    static void toolkit() {
        Console.offscreen();
        Console.startToolkit();
    }

    @AfterEach
    void close() {
        rig.close();
    }

    /** Uses the window as an operator would, and closes it. */
    private WeakReference<ConsoleWindow> usedAndClosed() {
        try (Console console = new Console(rig.hub, "Sternwick Museum", true, Rig.OPERATOR)) {
            ConsoleWindow window = console.window();
            WatchView view = window.shell().view(WatchView.class);
            Rig.await().until(() -> Snapshots.onFx(() -> view.livePictures() >= 2));
            // Whoever was newest may have passed a door that no camera sees.
            Event filmed = rig
                    .hub
                    .log()
                    .find(EventQuery.all().kinds(Kinds.GRANTED).newest(200))
                    .stream()
                    .filter(e -> e.door()
                            .filter(d -> !rig.hub.sites().get().pairings(d).isEmpty())
                            .isPresent())
                    .findFirst()
                    .orElseThrow();
            Snapshots.onFx(() -> {
                window.shell().play(filmed);
                return null;
            });
            Rig.await().until(() -> Snapshots.onFx(view::playingShowsPicture));
            robot.type(KeyCode.F1).type(KeyCode.ESCAPE);
            Snapshots.onFx(() -> {
                window.shell().find("vault");
                return null;
            });
            Snapshots.onFx(() -> {
                window.shell().closePanel();
                window.shell().desk().lookBack(rig.clock.instant().minusSeconds(3_000));
                return null;
            });
            return new WeakReference<>(window);
        }
    }

    @Test
    void a_closed_window_is_collected() {
        rig = new Rig(directory).withHub().connected();
        List<WeakReference<ConsoleWindow>> windows = new ArrayList<>();
        for (int i = 0; i < 3; i++) {
            windows.add(usedAndClosed());
        }
        // The toolkit itself keeps the last window that had the focus.
        Rig.await().until(() -> {
            System.gc();
            return windows.stream().filter(w -> w.get() != null).count() <= 1;
        });
        assertThat(rig.hub.links()).isNotEmpty();
    }
}
