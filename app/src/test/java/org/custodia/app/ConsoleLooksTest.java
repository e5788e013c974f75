package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.util.List;
import java.util.TreeSet;
import javafx.geometry.Bounds;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.Labeled;
import javafx.scene.control.ListView;
import javafx.scene.control.MenuButton;
import javafx.scene.input.KeyCode;
import javafx.scene.text.Text;
import org.custodia.desktop.settings.Settings;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;
import org.junit.jupiter.api.Test;

/** Themes, sizes of text and window. */
class ConsoleLooksTest extends ConsoleFixture {
    /** What an operator must be able to read whole, at every size of text. */
    private static final List<String> MUST_BE_WHOLE = List.of(
            ".strip .door-name",
            ".strip .headline",
            ".strip .button",
            ".strip .menu-button",
            ".top-bar .product",
            ".top-bar .clock",
            ".view-bar .button",
            ".spine .button",
            ".spine .toggle-button",
            ".doorstep .verdict",
            ".day-line .strong");

    private static final List<String> BARS = List.of(
            ".view-bar .button",
            ".view-bar .menu-button > .label",
            ".spine .button",
            ".spine .toggle-button",
            ".strip .menu-button > .label",
            ".day-line .strong",
            ".day-line .key");

    private void size(double width, double height, int scale) {
        fx(() -> {
            window.stage().setWidth(width);
            window.stage().setHeight(height);
            window.theme().scale(scale);
            return null;
        });
    }

    /** Words that are cut off, or stick out of the window. */
    private TreeSet<String> cutOff(List<String> selectors) {
        return fx(() -> {
            TreeSet<String> cut = new TreeSet<>();
            for (String selector : selectors) {
                for (Node node : window.scene().getRoot().lookupAll(selector)) {
                    if (node instanceof Labeled label && shown(label) && isCut(label)) {
                        cut.add(selector + " \"" + label.getText() + "\"");
                    }
                }
            }
            return cut;
        });
    }

    private static boolean shown(Node node) {
        for (Node n = node; n != null; n = n.getParent()) {
            if (!n.isVisible()) {
                return false;
            }
        }
        return true;
    }

    private boolean isCut(Labeled label) {
        boolean shortened = label.lookup(".text") instanceof Text text
                && !text.getText().equals(label.getText())
                && !(label instanceof MenuButton);
        Bounds b = label.localToScene(label.getBoundsInLocal());
        boolean outside = b.getMaxX() > window.scene().getWidth() + 0.5 || b.getMinX() < -0.5;
        return shortened || outside;
    }

    @Test
    void nothing_that_must_be_read_is_cut_off_at_any_size_of_text() {
        present("staff-lobby", "20153");
        Rig.await().until(() -> !cards("Staff lobby").isEmpty());
        for (int scale : Theme.SCALES) {
            size(scale > 130 ? 1920 : 1280, scale > 130 ? 1080 : 800, scale);
            Rig.await().untilAsserted(() -> assertThat(cutOff(MUST_BE_WHOLE))
                    .as("at %d %%", scale)
                    .isEmpty());
        }
    }

    /** German takes a third more room. */
    @Test
    void german_is_not_cut_off_either_at_any_size_of_text() throws IOException {
        console.close();
        try {
            open("de");
            present("staff-lobby", "20153");
            Rig.await().until(() -> !cards("Staff lobby").isEmpty());
            for (int scale : List.of(100, 150, 200)) {
                size(scale > 130 ? 1920 : 1280, scale > 130 ? 1080 : 800, scale);
                Rig.await().untilAsserted(() -> assertThat(cutOff(MUST_BE_WHOLE))
                        .as("at %d %%", scale)
                        .isEmpty());
            }
            size(1280, 800, 200);
            Rig.await().untilAsserted(() -> assertThat(cutOff(BARS)).isEmpty());
        } finally {
            Texts.choose(Texts.ENGLISH);
        }
    }

    private static final List<String> SETUP = List.of(
            ".setup .view-bar .button",
            ".setup .view-bar .toggle-button",
            ".link-line .strong",
            ".link-how .label",
            ".link-clock .label",
            ".link-sends .label",
            ".link-editor .button",
            ".link-editor .label",
            ".pairs-search .button",
            ".pairs-search .toggle-button",
            ".trial .label",
            ".evidence .label",
            ".placing .label",
            ".placing .button",
            ".neighbours .button",
            ".thing-line .strong",
            ".thing-last .label",
            ".sent-times",
            ".clock-row .label",
            ".footage-line .label",
            ".clocks-by-pictures .label",
            ".clocks-by-pictures .button",
            ".pair-editor .button",
            ".pair-editor .caution");

    @Test
    void setup_is_whole_in_both_languages_at_any_size_of_text() throws IOException {
        try {
            for (String language : List.of("en", "de")) {
                console.close();
                open(language);
                boolean english = language.equals("en");
                setup(english ? "Links" : "Verbindungen");
                openLine("Tidewater");
                Rig.await().until(() -> !all(".link-editor").isEmpty());
                whole();
                setup(english ? "Inventory" : "Bestand");
                Rig.await().until(() -> chooseFirst(".pairs"));
                whole();
                setup(english ? "Meanings" : "Bedeutungen");
                Rig.await().until(() -> chooseFirst(".pairs"));
                whole();
                setup(english ? "Changes" : "Änderungen");
                whole();
                setup(english ? "Pairs" : "Paare");
                openLine("Education");
                Rig.await().until(() -> !all(".pair-editor").isEmpty());
                whole();
                setup(english ? "Clocks" : "Uhren");
                Rig.await().until(() -> !all(".clock-row").isEmpty());
                whole();
                setup(english ? "Footage" : "Aufnahmen");
                Rig.await().until(() -> shows(".footage-line .label", english ? "kept since" : "da seit"));
                whole();
            }
        } finally {
            Texts.choose(Texts.ENGLISH);
        }
    }

    private boolean chooseFirst(String lists) {
        return fx(() -> all(lists).stream()
                .filter(n -> n instanceof ListView<?> list && !list.getItems().isEmpty() && list.isVisible())
                .findFirst()
                .map(n -> {
                    ((ListView<?>) n).getSelectionModel().clearAndSelect(0);
                    return true;
                })
                .orElse(false));
    }

    private void whole() {
        for (int scale : List.of(100, 150, 200)) {
            size(scale > 130 ? 1920 : 1280, scale > 130 ? 1080 : 800, scale);
            Rig.await()
                    .untilAsserted(() ->
                            assertThat(cutOff(SETUP)).as("at %d %%", scale).isEmpty());
        }
    }

    /** Whatever gives way where there is little room, it is not what somebody works with. */
    @Test
    void bars_stay_whole_on_a_small_screen_with_the_largest_text() {
        for (int scale : Theme.SCALES) {
            size(1280, 800, scale);
            Rig.await()
                    .untilAsserted(
                            () -> assertThat(cutOff(BARS)).as("at %d %%", scale).isEmpty());
        }
    }

    @Test
    void strips_grow_with_the_text_and_what_is_in_them_stays_inside() {
        present("staff-lobby", "20153");
        Rig.await().until(() -> !cards("Staff lobby").isEmpty());
        size(1280, 800, 100);
        Rig.await().until(() -> fx(() -> strip("Staff lobby").getBoundsInLocal().getHeight() < 130));
        double normal = fx(() -> strip("Staff lobby").getBoundsInLocal().getHeight());
        size(1920, 1080, 150);
        Rig.await().until(() -> fx(() -> strip("Staff lobby").getBoundsInLocal().getHeight() > normal * 1.4));
        Rig.await()
                .untilAsserted(() -> fx(() -> {
                    Node strip = strip("Staff lobby");
                    Bounds outer = strip.localToScene(strip.getBoundsInLocal());
                    for (Node part : strip.lookupAll(".button, .headline, .card, .picture")) {
                        if (shown(part)) {
                            Bounds b = part.localToScene(part.getBoundsInLocal());
                            assertThat(b.getMaxY()).as(String.valueOf(part)).isLessThanOrEqualTo(outer.getMaxY() + 2);
                            assertThat(b.getMinY())
                                    .as(String.valueOf(part))
                                    .isGreaterThanOrEqualTo(outer.getMinY() - 2);
                        }
                    }
                    return null;
                }));
    }

    @Test
    void a_narrow_window_keeps_what_matters_most_in_the_top_bar() {
        size(1100, 700, 130);
        Rig.await().until(() -> fx(() -> window.scene().getWidth() <= 1100));
        Rig.await().untilAsserted(() -> {
            assertThat(shows(".top-bar .clock", ":")).isTrue();
            assertThat(shows(".top-bar .health", "links up")).isTrue();
            assertThat(cutOff(MUST_BE_WHOLE))
                    .filteredOn(w -> w.startsWith(".top-bar"))
                    .isEmpty();
        });
    }

    @Test
    void theme_and_text_size_are_turned_by_keys_and_remembered() {
        robot.type(KeyCode.F9);
        Rig.await().until(() -> !fx(() -> window.theme().now().dark()));
        robot.press(KeyCode.CONTROL).type(KeyCode.PLUS).release(KeyCode.CONTROL);
        Rig.await().until(() -> fx(() -> window.theme().scale()) == 115);
        Settings.Values kept = Settings.load(rig.data).values();
        assertThat(kept.dark()).isFalse();
        assertThat(kept.scale()).isEqualTo(115);
        robot.press(KeyCode.CONTROL).type(KeyCode.MINUS).release(KeyCode.CONTROL);
        Rig.await().until(() -> fx(() -> window.theme().scale()) == 100);
    }

    @Test
    void the_theme_is_turned_at_the_spine_too() {
        Button day = labeled(Button.class, ".spine-item", t -> t.equals("Day theme"));
        robot.clickOn(day);
        Rig.await().until(() -> fx(day::getText).equals("Night theme"));
    }

    @Test
    void the_sheet_of_keys_opens_and_closes_by_keys_and_gives_the_focus_back() {
        focus("Loading bay");
        robot.type(KeyCode.F1);
        Rig.await().until(() -> !all(".key-sheet").isEmpty());
        robot.type(KeyCode.ESCAPE);
        Rig.await().until(() -> all(".key-sheet").isEmpty());
        assertThat(fx(() -> window.scene().getFocusOwner())).isSameAs(strip("Loading bay"));
    }

    @Test
    void where_the_window_was_and_how_large_is_remembered() {
        size(1310, 770, 100);
        Rig.await().until(() -> Settings.load(rig.data).values().width() == 1310);
        size(1300, 760, 100);
        fx(() -> {
            window.stage().hide();
            return null;
        });
        // It is written by a thread of its own, and not after a moment of rest as before.
        Rig.await().until(() -> Settings.load(rig.data).values().width() == 1300);
        assertThat(Settings.load(rig.data).values().height()).isEqualTo(760);
    }
}
