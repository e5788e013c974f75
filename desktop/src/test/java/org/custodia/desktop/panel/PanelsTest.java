package org.custodia.desktop.panel;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.Callable;
import java.util.concurrent.TimeoutException;
import javafx.scene.Node;
import javafx.scene.Scene;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.ScrollPane;
import javafx.scene.control.TextField;
import javafx.scene.input.KeyCode;
import javafx.scene.input.KeyEvent;
import javafx.scene.input.MouseEvent;
import javafx.scene.layout.VBox;
import javafx.stage.Stage;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.testfx.api.FxRobot;
import org.testfx.api.FxToolkit;
import org.testfx.util.WaitForAsyncUtils;

/** What is under a panel is out of reach, in whatever way somebody tries. */
class PanelsTest {
    private final FxRobot robot = new FxRobot();
    private final List<String> reached = new ArrayList<>();
    private final Button one = new Button("One");
    private final Button two = new Button("Two");
    private Stage stage;
    private Panels panels;

    @BeforeAll
    static void toolkit() throws TimeoutException {
        FxToolkit.registerPrimaryStage();
    }

    @BeforeEach
    void open() {
        fx(() -> {
            VBox content = new VBox(one, two);
            content.addEventHandler(KeyEvent.KEY_PRESSED, e -> reached.add("key " + e.getCode()));
            content.addEventHandler(MouseEvent.MOUSE_PRESSED, e -> reached.add("mouse"));
            one.setOnAction(e -> reached.add("one"));
            panels = new Panels(content);
            stage = new Stage();
            stage.setScene(new Scene(panels, 400, 300));
            stage.show();
            stage.requestFocus();
            two.requestFocus();
            return null;
        });
    }

    @AfterEach
    void close() {
        fx(() -> {
            stage.close();
            return null;
        });
    }

    private static <T> T fx(Callable<T> task) {
        T result = WaitForAsyncUtils.waitForAsyncFx(90_000, task);
        WaitForAsyncUtils.waitForFxEvents();
        return result;
    }

    private void open(Node... inside) {
        fx(() -> {
            VBox panel = new VBox(inside);
            panel.setMaxSize(120, 80);
            panels.open(panel);
            return null;
        });
    }

    private Node focus() {
        return fx(() -> stage.getScene().getFocusOwner());
    }

    private void type(KeyCode... codes) {
        for (KeyCode code : codes) {
            robot.type(code);
        }
        WaitForAsyncUtils.waitForFxEvents();
    }

    @Test
    void no_key_reaches_what_is_under_a_panel_however_often_tab_is_pressed() {
        TextField field = new TextField();
        Button done = new Button("Done");
        open(new Label("words"), field, done);
        assertThat(focus()).isEqualTo(field);
        for (int i = 0; i < 6; i++) {
            type(KeyCode.TAB);
            assertThat(focus()).isEqualTo(i % 2 == 0 ? done : field);
            type(KeyCode.U, KeyCode.L, KeyCode.DOWN, KeyCode.RIGHT);
            assertThat(focus()).isIn(done, field);
        }
        robot.press(KeyCode.SHIFT).type(KeyCode.TAB).release(KeyCode.SHIFT);
        assertThat(focus()).isEqualTo(done);
        assertThat(reached).isEmpty();
        fx(() -> {
            panels.close();
            return null;
        });
        assertThat(focus()).isEqualTo(two);
        type(KeyCode.U);
        assertThat(reached).containsExactly("key U");
    }

    @Test
    void a_panel_with_nothing_to_focus_keeps_keys_from_what_is_under_it_all_the_same() {
        open(new Label("only words"));
        type(KeyCode.U, KeyCode.TAB, KeyCode.SPACE);
        assertThat(reached).isEmpty();
    }

    @Test
    void focus_that_is_asked_for_under_a_panel_comes_back_into_it() {
        Button done = new Button("Done");
        open(done);
        fx(() -> {
            one.requestFocus();
            return null;
        });
        assertThat(focus()).isEqualTo(done);
    }

    @Test
    void what_goes_away_inside_a_panel_leaves_the_focus_inside() {
        Button first = new Button("First");
        Button second = new Button("Second");
        open(first, second);
        fx(() -> {
            first.setVisible(false);
            return null;
        });
        type(KeyCode.U);
        assertThat(reached).isEmpty();
        assertThat(focus()).isEqualTo(second);
    }

    @Test
    void what_had_the_focus_and_is_gone_leaves_it_to_the_content() {
        open(new Button("Done"));
        fx(() -> {
            ((VBox) two.getParent()).getChildren().remove(two);
            panels.close();
            return null;
        });
        assertThat(focus()).isNotEqualTo(two);
        type(KeyCode.TAB);
        assertThat(focus()).isEqualTo(one);
    }

    @Test
    void a_panel_in_place_of_another_goes_back_to_where_the_first_was_opened() {
        open(new Button("Done"));
        Button later = new Button("Later");
        open(new ScrollPane(new VBox(later)));
        fx(() -> {
            panels.close();
            panels.close();
            return null;
        });
        assertThat(focus()).isEqualTo(two);
        assertThat(fx(panels::isOpen)).isFalse();
    }

    @Test
    void the_mouse_reaches_the_panel_and_beside_it_closes_it() {
        Button done = new Button("Done");
        done.setOnAction(e -> reached.add("done"));
        open(done);
        robot.clickOn(done);
        assertThat(reached).containsExactly("done");
        robot.clickOn(one);
        assertThat(reached).containsExactly("done");
        assertThat(fx(panels::isOpen)).isFalse();
    }
}
