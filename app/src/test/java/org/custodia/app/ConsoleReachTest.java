package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import javafx.scene.Node;
import javafx.scene.Parent;
import javafx.scene.control.Control;
import javafx.scene.control.Labeled;
import javafx.scene.control.ListView;
import javafx.scene.control.ScrollBar;
import javafx.scene.control.ScrollPane;
import javafx.scene.control.TextInputControl;
import javafx.scene.control.ToggleButton;
import javafx.scene.input.KeyCode;
import org.junit.jupiter.api.Test;

/** Everything that can be worked has a name that can be read out, and is reached by the keyboard. */
class ConsoleReachTest extends ConsoleFixture {
    private static String name(Node node) {
        String said = node.getAccessibleText();
        if (said == null || said.isBlank()) {
            said = node instanceof Labeled l
                    ? l.getText()
                    : node instanceof TextInputControl t ? t.getPromptText() : "";
        }
        return said == null ? "" : said.strip();
    }

    private static void collect(Node node, List<Node> all) {
        if (!node.isVisible() || node.isDisabled()) {
            return;
        }
        if (node.isFocusTraversable()) {
            all.add(node);
        }
        boolean opaque = node instanceof Control && !(node instanceof ScrollPane);
        if (!opaque && node instanceof Parent parent) {
            parent.getChildrenUnmodifiable().forEach(n -> collect(n, all));
        }
    }

    private List<Node> workable() {
        return fx(() -> {
            List<Node> all = new ArrayList<>();
            collect(window.shell().panel().orElse(window.scene().getRoot()), all);
            return all;
        });
    }

    private void allAreNamed(String where) {
        Set<String> nameless = fx(() -> {
            Set<String> found = new TreeSet<>();
            workable().stream()
                    .filter(n -> !(n instanceof ScrollBar) && name(n).length() < 2)
                    .forEach(n ->
                            found.add(n.getClass().getSimpleName() + " " + n.getStyleClass() + " \"" + name(n) + "\""));
            return found;
        });
        assertThat(nameless).as(where).isEmpty();
    }

    /** What Tab comes to, until it comes round. */
    private Set<Node> byTab() {
        Set<Node> reached = new LinkedHashSet<>();
        for (int i = 0; i < 200; i++) {
            key(KeyCode.TAB, false);
            if (!reached.add(fx(() -> window.scene().getFocusOwner())) && reached.size() > 3) {
                break;
            }
        }
        return reached;
    }

    /** Chooses what comes first in the list that is shown, so that what it opens is there too. */
    private boolean chooseFirst() {
        return fx(() -> all(".pairs").stream()
                .filter(n -> n instanceof ListView<?> list && !list.getItems().isEmpty())
                .findFirst()
                .map(n -> {
                    ((ListView<?>) n).getSelectionModel().clearAndSelect(0);
                    return true;
                })
                .orElse(false));
    }

    @Test
    void in_every_view_and_panel_all_that_can_be_worked_is_named_and_reached_by_tab() {
        present("staff-lobby", "20153");
        Rig.await().until(() -> !cards("Staff lobby").isEmpty());
        for (String place : List.of(
                "Watch",
                "keys",
                "finder",
                "doors",
                "links",
                "inventory",
                "meanings",
                "pairs",
                "clocks",
                "footage",
                "changes")) {
            switch (place) {
                case "keys" -> robot.type(KeyCode.F1);
                case "finder" -> robot.press(KeyCode.CONTROL).type(KeyCode.K).release(KeyCode.CONTROL);
                case "doors" -> {
                    robot.type(KeyCode.ESCAPE);
                    robot.clickOn("Choose doors…");
                }
                case "links" -> {
                    robot.type(KeyCode.ESCAPE);
                    setup("Links");
                    openLine("Tidewater");
                    Rig.await().until(() -> !all(".link-editor").isEmpty());
                }
                case "inventory" -> {
                    setup("Inventory");
                    Rig.await().until(() -> chooseFirst());
                }
                case "meanings" -> {
                    setup("Meanings");
                    Rig.await().until(() -> chooseFirst());
                }
                case "changes" -> {
                    setup("Changes");
                    Rig.await().until(() -> shows(".empty", "Nothing was changed by hand"));
                }
                case "pairs" -> {
                    setup("Pairs");
                    openLine("Education");
                    Rig.await().until(() -> !all(".pair-editor .list-cell").isEmpty());
                }
                case "clocks" -> {
                    setup("Clocks");
                    Rig.await().until(() -> !all(".clock-row").isEmpty());
                }
                case "footage" -> {
                    setup("Footage");
                    Rig.await().until(() -> !all(".footage-line").isEmpty());
                }
                default -> focus("Staff lobby");
            }
            allAreNamed(place);
            // Lists and groups are worked by their arrows, and what scrolls by what is in it.
            List<Node> wanted = workable().stream()
                    .filter(n -> !(n instanceof ScrollBar) && !(n instanceof ScrollPane))
                    .filter(n -> !(n instanceof ToggleButton t && t.getToggleGroup() != null && !t.isSelected()))
                    .toList();
            Set<Node> reached = byTab();
            List<Node> missed = wanted.stream()
                    .filter(n -> n.getScene() != null && n.isVisible() && !reached.contains(n))
                    .toList();
            // A card may come or go while somebody tabs.
            assertThat(missed.stream().filter(n -> !n.getStyleClass().contains("card")))
                    .as(place)
                    .isEmpty();
        }
    }
}
