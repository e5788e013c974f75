package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.List;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.ListView;
import javafx.scene.control.TextField;
import javafx.scene.input.KeyCode;
import javafx.scene.input.KeyEvent;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.moment.Moment;
import org.junit.jupiter.api.Test;

/** While a panel is open nobody acts on a door by mistake. */
class ConsolePanelsTest extends ConsoleFixture {
    private static final List<KeyCode> ON_A_STRIP =
            List.of(KeyCode.U, KeyCode.L, KeyCode.K, KeyCode.B, KeyCode.ENTER, KeyCode.HOME, KeyCode.RIGHT);

    private boolean inPanel() {
        return fx(() -> {
            Node panel = window.shell().panel().orElseThrow();
            for (Node n = window.scene().getFocusOwner(); n != null; n = n.getParent()) {
                if (n == panel) {
                    return true;
                }
            }
            return false;
        });
    }

    private boolean isOpen() {
        return fx(() -> window.shell().panel().isPresent());
    }

    private void nothingIsReached() {
        Rig.await().until(this::inPanel);
        for (int i = 0; i < 8; i++) {
            key(KeyCode.TAB, false);
            assertThat(inPanel()).isTrue();
            for (KeyCode code : ON_A_STRIP) {
                // Enter on a button or in a list is meant for the panel.
                boolean meant = focused() instanceof Button || focused() instanceof ListView;
                if (isOpen() && !(meant && code == KeyCode.ENTER)) {
                    key(code, false);
                    key(code, true);
                }
            }
            assertThat(isOpen()).isTrue();
        }
        assertThat(rig.hub.log().find(EventQuery.all().kinds(Kinds.COMMAND_SENT).newest(5)))
                .isEmpty();
    }

    private Node focused() {
        return fx(() -> window.scene().getFocusOwner());
    }

    @Test
    void under_the_sheet_of_keys_the_finder_and_the_choice_of_doors_no_key_acts_and_the_focus_comes_back() {
        Node strip = strip("Loading bay");
        Instant past = rig.clock.instant().minusSeconds(600);
        fx(() -> {
            strip.requestFocus();
            window.shell().desk().lookBack(past);
            return null;
        });
        robot.type(KeyCode.F1);
        nothingIsReached();
        robot.type(KeyCode.ESCAPE);
        assertThat(isOpen()).isFalse();
        assertThat(focused()).isEqualTo(strip);
        robot.press(KeyCode.CONTROL).type(KeyCode.K).release(KeyCode.CONTROL);
        nothingIsReached();
        robot.type(KeyCode.F1);
        robot.type(KeyCode.ESCAPE);
        assertThat(focused()).isEqualTo(strip);
        robot.clickOn("Choose doors…");
        nothingIsReached();
        robot.press(KeyCode.CONTROL).type(KeyCode.DIGIT1).release(KeyCode.CONTROL);
        assertThat(isOpen()).isFalse();
        // Neither Home nor anything else moved the moment from under a panel.
        assertThat(fx(() -> window.shell().desk().moment().get())).isEqualTo(new Moment.At(past));
        fx(() -> {
            strip.requestFocus();
            return null;
        });
        robot.press(KeyCode.ALT).type(KeyCode.U).release(KeyCode.ALT);
        Rig.await().until(() -> !rig.hub
                .log()
                .find(EventQuery.all().kinds(Kinds.COMMAND_SENT).newest(5))
                .isEmpty());
    }

    /** Enter right after the last letter means what was typed, not what was found for the letters before. */
    @Test
    void enter_in_the_finder_waits_for_what_the_words_say() {
        robot.press(KeyCode.CONTROL).type(KeyCode.K).release(KeyCode.CONTROL);
        Rig.await().until(() -> focused() instanceof TextField);
        fx(() -> {
            TextField words = (TextField) window.scene().getFocusOwner();
            words.setText("roof");
            words.fireEvent(new KeyEvent(KeyEvent.KEY_PRESSED, "", "", KeyCode.ENTER, false, false, false, false));
            return null;
        });
        Rig.await().until(() -> !isOpen());
        Rig.await()
                .until(() ->
                        fx(() -> all(".strip").stream().anyMatch(n -> "Roof store".equals(n.getAccessibleText()))));
    }
}
