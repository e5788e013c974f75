package org.custodia.desktop.control;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.Callable;
import java.util.concurrent.TimeoutException;
import javafx.scene.Node;
import javafx.scene.Scene;
import javafx.scene.control.Button;
import javafx.scene.control.CheckBox;
import javafx.scene.input.KeyCode;
import javafx.scene.layout.HBox;
import javafx.scene.layout.VBox;
import javafx.stage.Stage;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.testfx.api.FxRobot;
import org.testfx.api.FxToolkit;
import org.testfx.util.WaitForAsyncUtils;

/** A control that had the focus goes grey or is drawn anew, and Space is pressed again. */
class KeptFocusTest {
    private final FxRobot robot = new FxRobot();
    private final List<String> pressed = new ArrayList<>();
    private final Button first = new Button("Find");
    private final Button save = new Button("Save");
    private final Button remove = new Button("Remove");
    private final HBox buttons = new HBox(save, remove);
    private final VBox content = new VBox(first, buttons);
    private Stage stage;

    @BeforeAll
    static void toolkit() throws TimeoutException {
        FxToolkit.registerPrimaryStage();
    }

    @BeforeEach
    void open() {
        save.setOnAction(e -> {
            pressed.add("save");
            save.setDisable(true);
        });
        remove.setOnAction(e -> pressed.add("remove"));
        first.setOnAction(e -> pressed.add("find"));
        fx(() -> {
            stage = new Stage();
            stage.setScene(new Scene(content, 400, 300));
            KeptFocus.in(stage.getScene());
            stage.show();
            stage.requestFocus();
            save.requestFocus();
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

    private Node focused() {
        return fx(() -> stage.getScene().getFocusOwner());
    }

    @Test
    void space_twice_on_a_button_that_goes_grey_does_not_press_the_one_beside_it() {
        robot.type(KeyCode.SPACE);
        robot.type(KeyCode.SPACE);
        robot.type(KeyCode.SPACE);
        assertThat(pressed).containsExactly("save");
        assertThat(focused()).isEqualTo(buttons);
    }

    @Test
    void the_focus_comes_back_once_the_button_can_be_pressed_again() {
        robot.type(KeyCode.SPACE);
        assertThat(focused()).isEqualTo(buttons);
        fx(() -> {
            save.setDisable(false);
            return null;
        });
        assertThat(focused()).isEqualTo(save);
        robot.type(KeyCode.SPACE);
        assertThat(pressed).containsExactly("save", "save");
    }

    @Test
    void whoever_moves_the_focus_on_meanwhile_keeps_it_there() {
        robot.type(KeyCode.SPACE);
        robot.type(KeyCode.TAB);
        Node moved = focused();
        assertThat(moved).isNotEqualTo(buttons);
        fx(() -> {
            save.setDisable(false);
            return null;
        });
        assertThat(focused()).isEqualTo(moved);
    }

    @Test
    void a_row_that_is_removed_leaves_the_focus_on_no_other_rows_button() {
        HBox other = new HBox(new Button("Remove"));
        remove.setOnAction(e -> {
            pressed.add("remove");
            content.getChildren().remove(buttons);
        });
        fx(() -> {
            content.getChildren().add(other);
            remove.requestFocus();
            return null;
        });
        robot.type(KeyCode.SPACE);
        robot.type(KeyCode.SPACE);
        assertThat(pressed).containsExactly("remove");
        assertThat(focused()).isEqualTo(content);
    }

    @Test
    void a_box_that_is_drawn_anew_when_it_is_ticked_keeps_the_focus() {
        CheckBox box = new CheckBox("Call the guard");
        HBox steps = new HBox(box);
        box.setOnAction(e -> steps.getChildren().setAll(new CheckBox("Look"), new CheckBox("Call the guard")));
        fx(() -> {
            content.getChildren().add(steps);
            box.requestFocus();
            return null;
        });
        robot.type(KeyCode.SPACE);
        assertThat(focused()).isEqualTo(steps.getChildren().get(1));
    }
}
