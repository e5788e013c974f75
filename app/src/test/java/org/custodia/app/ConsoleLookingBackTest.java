package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.ListView;
import javafx.scene.input.KeyCode;
import org.custodia.core.event.Event;
import org.custodia.core.moment.Moment;
import org.junit.jupiter.api.Test;

/** Going back in time, and what the console shows then. */
class ConsoleLookingBackTest extends ConsoleFixture {
    private Moment moment() {
        return fx(() -> window.shell().desk().moment().get());
    }

    private Instant looksAt() {
        return ((Moment.At) moment()).instant();
    }

    private Node dayLine() {
        return fx(() -> all(".day-line *").stream()
                .filter(n -> String.valueOf(n.getAccessibleText()).startsWith("Day line"))
                .findFirst()
                .orElseThrow());
    }

    @Test
    void the_day_line_sets_the_moment_and_arrow_keys_move_it() {
        Node line = dayLine();
        robot.clickOn(line);
        Rig.await().until(() -> !moment().isLive());
        Instant noon = looksAt();
        assertThat(Duration.between(Instant.parse("2026-11-24T12:00:00Z"), noon).abs())
                .isLessThan(Duration.ofMinutes(20));
        robot.type(KeyCode.LEFT);
        Rig.await().until(() -> looksAt().equals(noon.minusSeconds(30)));
        robot.press(KeyCode.SHIFT).type(KeyCode.RIGHT).release(KeyCode.SHIFT);
        Rig.await().until(() -> looksAt().equals(noon.minusSeconds(30).plusSeconds(600)));
        Rig.await().until(() -> shows(".look-back-bar .label", "Commands still act now."));
        robot.clickOn(labeled(Button.class, ".look-back-bar .button", "Return to now"::equals));
        Rig.await().until(() -> moment().isLive());
    }

    @Test
    void the_future_cannot_be_looked_back_at() {
        Node line = dayLine();
        robot.clickOn(robot.offset(line, fx(() -> line.getBoundsInLocal().getWidth()) * 0.45, 0));
        Rig.await().until(() -> moment().isLive() || !looksAt().isAfter(rig.clock.instant()));
    }

    @Test
    void a_time_typed_into_the_finder_is_looked_back_at() {
        robot.press(KeyCode.CONTROL).type(KeyCode.K).release(KeyCode.CONTROL);
        Rig.await().until(() -> !all(".finder").isEmpty());
        robot.write("9:30");
        Rig.await()
                .until(() -> fx(() -> all(".finder .results").stream()
                        .anyMatch(
                                n -> n instanceof ListView<?> l && !l.getItems().isEmpty())));
        robot.type(KeyCode.ENTER);
        Rig.await().until(() -> !moment().isLive());
        assertThat(looksAt()).isEqualTo(Instant.parse("2026-11-24T09:30:00Z"));
        assertThat(all(".finder")).isEmpty();
    }

    @Test
    void arrivals_end_at_the_moment_and_one_of_them_plays() {
        Instant at = Instant.parse("2026-11-24T09:00:00Z");
        fx(() -> {
            window.shell().desk().lookBack(at);
            return null;
        });
        ListView<?> list =
                fx(() -> (ListView<?>) all(".arrivals .list-view").iterator().next());
        Rig.await()
                .until(() -> fx(() -> !list.getItems().isEmpty()
                        && list.getItems().stream()
                                .allMatch(e -> !((Event) e).time().isAfter(at))));
        fx(() -> {
            list.requestFocus();
            list.getSelectionModel().select(0);
            return null;
        });
        robot.type(KeyCode.ENTER);
        Rig.await().until(() -> shows(".deck .tag", "recorded"));
        robot.type(KeyCode.ESCAPE);
        Rig.await().until(() -> all(".deck").isEmpty());
        assertThat(moment().isLive()).isFalse();
        robot.type(KeyCode.ESCAPE);
        Rig.await().until(() -> moment().isLive());
    }

    @Test
    void commands_act_now_while_one_looks_back() {
        fx(() -> {
            window.shell().desk().lookBack(rig.clock.instant().minus(Duration.ofHours(3)));
            strip("Loading bay").requestFocus();
            return null;
        });
        robot.press(KeyCode.ALT).type(KeyCode.U).release(KeyCode.ALT);
        Rig.await().until(() -> shows(".strip .secondary", "now: Unlocked from the desk"));
        assertThat(moment().isLive()).isFalse();
    }

    @Test
    void a_door_that_needs_somebody_now_is_named_while_one_looks_back() {
        fx(() -> {
            window.shell().desk().lookBack(rig.clock.instant().minus(Duration.ofHours(3)));
            return null;
        });
        Rig.await().until(() -> shows(".look-back-bar .label", "Looking back at"));
        rig.happen("{'act':'force','door':'strongroom-corr','seconds':60}");
        Rig.await().until(() -> shows(".look-back-bar .needs .label", "Now at Strongroom corridor: Forced open"));
        assertThat(moment().isLive()).isFalse();
        rig.happen("{'act':'shut','door':'strongroom-corr'}");
        Rig.await().until(() -> !shows(".look-back-bar .needs .label", "Strongroom corridor"));
    }
}
