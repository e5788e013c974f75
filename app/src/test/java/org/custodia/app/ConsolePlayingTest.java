package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.util.Optional;
import javafx.geometry.Bounds;
import javafx.scene.Node;
import javafx.scene.canvas.Canvas;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.ToggleButton;
import javafx.scene.input.KeyCode;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** The deck in which a moment is played. */
class ConsolePlayingTest extends ConsoleFixture {
    @BeforeEach
    void play() {
        present("staff-lobby", "20153");
        Rig.await().until(() -> !cards("Staff lobby").isEmpty());
        focus("Staff lobby");
        robot.type(KeyCode.ENTER);
        Rig.await().until(() -> shows(".deck .tag", "recorded"));
    }

    private String instant() {
        return fx(() -> ((Label) all(".deck .instant").iterator().next()).getText());
    }

    private Button button(String words) {
        return labeled(Button.class, ".deck .button", words::equals);
    }

    @Test
    void it_is_paused_and_goes_on_by_button_and_by_space() {
        robot.clickOn(button("Pause"));
        Rig.await().until(() -> shows(".deck .muted", "Recorded, paused"));
        String here = instant();
        focus("Staff lobby");
        robot.type(KeyCode.SPACE);
        Rig.await().until(() -> !instant().equals(here));
        robot.type(KeyCode.SPACE);
        Rig.await().until(() -> shows(".deck .muted", "Recorded, paused"));
        assertThat(button("Play")).isNotNull();
    }

    @Test
    void keys_step_by_frames_and_by_minutes() {
        robot.clickOn(button("Pause"));
        Rig.await().until(() -> shows(".deck .muted", "Recorded, paused"));
        focus("Staff lobby");
        String here = instant();
        robot.type(KeyCode.PERIOD);
        Rig.await().until(() -> !instant().equals(here));
        String next = instant();
        assertThat(next).isGreaterThan(here);
        robot.type(KeyCode.COMMA);
        Rig.await().until(() -> instant().equals(here));
        robot.type(KeyCode.OPEN_BRACKET);
        Rig.await().until(() -> instant().substring(0, 5).compareTo(here.substring(0, 5)) < 0);
    }

    @Test
    void a_click_on_the_line_beneath_goes_there() {
        robot.clickOn(button("Pause"));
        Rig.await().until(() -> shows(".deck .muted", "Recorded, paused"));
        String here = instant();
        Node line = fx(() -> all(".deck").iterator().next().lookupAll("*").stream()
                .filter(n -> n instanceof Canvas && n.getAccessibleText() != null)
                .findFirst()
                .orElseThrow());
        robot.clickOn(robot.offset(line, -fx(() -> line.getBoundsInLocal().getWidth()) * 0.1, 0));
        Rig.await().until(() -> instant().compareTo(here) > 0);
    }

    @Test
    void a_minute_on_from_a_moment_ago_is_live_and_a_minute_back_is_recorded_again() {
        // More than once where so much time has passed since that a minute on is not now yet.
        Rig.await().until(() -> {
            robot.clickOn(button("+1 min"));
            return shows(".deck .muted", "this is live");
        });
        Rig.await().until(() -> shows(".deck .tag", " live "));
        robot.clickOn(button("−1 min"));
        Rig.await().until(() -> shows(".deck .tag", "recorded"));
    }

    @Test
    void speed_goes_round() {
        Button speed = button("1×");
        robot.clickOn(speed);
        Rig.await().until(() -> fx(speed::getText).equals("2×"));
    }

    @Test
    void the_doors_other_camera_shows_the_same_moment() {
        Optional<Node> other = fx(() -> all(".deck .toggle-button").stream()
                .filter(n -> n instanceof ToggleButton t && !t.isSelected())
                .findFirst());
        robot.clickOn(other.orElseThrow());
        String name = fx(() -> ((ToggleButton) other.get()).getText());
        Rig.await().until(() -> shows(".deck .tag", name + " · recorded"));
    }

    @Test
    void what_is_played_is_brought_into_view_whole() {
        present("vault-ante", "20388");
        Rig.await().until(() -> !cards("Vault ante-room").isEmpty());
        focus("Vault ante-room");
        robot.type(KeyCode.ENTER);
        Rig.await().until(() -> shows(".deck .muted", "Vault ante-room"));
        Rig.await().until(this::deckIsInViewWhole);
    }

    private boolean deckIsInViewWhole() {
        return fx(() -> {
            Bounds view = onScreen(all(".strips").iterator().next());
            Bounds deck = onScreen(all(".deck").iterator().next());
            return deck.getMinY() >= view.getMinY() && deck.getMaxY() <= view.getMaxY() + 1;
        });
    }

    private static Bounds onScreen(Node node) {
        return node.localToScene(node.getBoundsInLocal());
    }

    @Test
    void playing_something_else_ends_what_was_played() {
        present("loading-bay", "20153");
        Rig.await().until(() -> !cards("Loading bay").isEmpty());
        focus("Loading bay");
        robot.type(KeyCode.ENTER);
        Rig.await().until(() -> shows(".deck .muted", "Loading bay"));
        assertThat(all(".deck")).hasSize(1);
        Rig.await().until(this::deckIsInViewWhole);
        // A strip ignores presses for one second after it moved, so the press is repeated.
        Rig.await().pollInterval(Duration.ofSeconds(2)).until(() -> {
            if (!all(".deck").isEmpty()) {
                robot.clickOn(button("Stop playing"));
            }
            return all(".deck").isEmpty();
        });
    }
}
