package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Files;
import java.nio.file.Path;
import javafx.scene.control.Button;
import org.custodia.core.mishap.Threads;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.condition.EnabledOnOs;
import org.junit.jupiter.api.condition.OS;

/** What the window says when something is wrong underneath. */
class ConsoleTroubleTest extends ConsoleFixture {
    /** Looked at by hand where a directory is named. */
    private void picture(String name) {
        String to = System.getProperty("custodia.pictures");
        if (to != null) {
            fx(() -> {
                Snapshots.write(window.scene(), Path.of(to, name + ".png"));
                return null;
            });
        }
    }

    @Test
    @EnabledOnOs(OS.LINUX)
    void while_nothing_is_stored_that_is_said_and_no_state_claims_to_be_current() throws Exception {
        Rig.await().until(() -> !shows(".headline", "State not known"));
        Path console = directory.resolve("console");
        Path away = directory.resolve("away");
        Files.move(console, away);
        Rig.await().until(() -> shows(".trouble-bar .label", "is not where it was: events are not being stored"));
        Rig.await().until(() -> shows(".headline", "State not known"));
        Rig.await()
                .until(() ->
                        shows(".second", "events are not being stored") || shows(".strip .label", "not being stored"));
        picture("not-stored");
        Files.move(away, console);
        Rig.await().until(() -> !shows(".trouble-bar .label", "not where it was"));
        Rig.await().until(() -> !shows(".headline", "State not known"));
        present("staff-lobby", "20153");
        Rig.await()
                .until(() ->
                        rig.stored("tidewater").size() == rig.sent("tidewater").size());
    }

    @Test
    void what_is_odd_about_a_system_and_what_stumbled_is_named_in_health() throws Exception {
        rig.happen("{'act':'message','target':'tidewater','message':'[1,2,3]'}");
        Rig.await().until(() -> shows(".top-bar .health", "something is odd"));
        picture("odd");
        Thread dies = Threads.daemon("some part", () -> {
            throw new IllegalStateException("not for the eyes of operators");
        });
        dies.start();
        dies.join();
        assertThat(rig.hub.mishaps()).anyMatch(m -> m.part().equals("some part") && m.times() == 1);
        Rig.await().until(() -> shows(".trouble-bar .label", "One part of Custodia stumbled"));
        picture("stumbled");
        assertThat(shows(".trouble-bar .label", "not for the eyes")).isFalse();
        fx(() -> {
            all(".health").forEach(n -> ((Button) n).fire());
            return null;
        });
        Rig.await().until(() -> shows(".key-sheet .label", "some part: once, at"));
        assertThat(shows(".key-sheet .label", "not for the eyes")).isFalse();
        picture("health");
        press("Close");
        assertThat(rig.link("tidewater").notices()).anyMatch(n -> n.code().equals("link.unread"));
    }
}
