package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Optional;
import javafx.event.Event;
import javafx.geometry.Bounds;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.CheckBox;
import javafx.scene.control.Label;
import javafx.scene.control.ListView;
import javafx.scene.control.MenuButton;
import javafx.scene.control.MenuItem;
import javafx.scene.control.TextArea;
import javafx.scene.input.KeyCode;
import javafx.scene.input.KeyEvent;
import javafx.scene.input.MouseButton;
import javafx.scene.input.MouseEvent;
import javafx.scene.input.PickResult;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.DoorId;
import org.custodia.desktop.notice.Notice;
import org.custodia.desktop.picture.PicturePane;
import org.junit.jupiter.api.Test;

/** From a door that is forced to what was done about it, in the real window. */
class ConsoleAlarmsTest extends ConsoleFixture {
    private volatile boolean undone;

    private List<org.custodia.core.event.Event> log(EventKind kind) {
        return rig.hub.log().find(EventQuery.all().kinds(kind));
    }

    private boolean lineShows(String words) {
        return shows(".alarm-line .label", words);
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

    private void acknowledge() {
        fx(() -> {
            Node to = window.scene().getFocusOwner();
            Event.fireEvent(
                    to == null ? window.shell() : to,
                    new KeyEvent(KeyEvent.KEY_PRESSED, "", "", KeyCode.ENTER, false, true, false, false));
            return null;
        });
    }

    private void choose(String menu, String words) {
        fx(() -> {
            MenuItem item = all(".menu-button").stream()
                    .filter(n -> n instanceof MenuButton m && m.getText().equals(menu))
                    .flatMap(n -> ((MenuButton) n).getItems().stream())
                    .filter(i -> i.getText().equals(words))
                    .findFirst()
                    .orElseThrow();
            item.fire();
            return null;
        });
    }

    private ListView<?> queue() {
        return fx(() -> (ListView<?>) all(".alarm-queue .list-view").iterator().next());
    }

    private void pointAt(Node node, double dx, double dy) {
        fx(() -> {
            Bounds there = node.localToScene(node.getLayoutBounds());
            Event.fireEvent(
                    window.shell(),
                    new MouseEvent(
                            MouseEvent.MOUSE_MOVED,
                            there.getMinX() + dx,
                            there.getMinY() + dy,
                            0,
                            0,
                            MouseButton.NONE,
                            0,
                            false,
                            false,
                            false,
                            false,
                            false,
                            false,
                            false,
                            false,
                            false,
                            false,
                            new PickResult(window.shell(), there.getMinX() + dx, there.getMinY() + dy)));
            return null;
        });
    }

    private Node cards() {
        return fx(() -> all(".alarm-cards").iterator().next());
    }

    /** Controls under a card can be used, and the card is hidden while the pointer is there. */
    @Test
    void a_card_takes_no_press_and_gives_way_to_the_pointer() {
        setup("Inventory");
        rig.happen("{'act':'force','door':'strongroom-corr','seconds':30}");
        Rig.await().until(() -> fx(() -> cards().isVisible()));
        assertThat(fx(() -> cards().isMouseTransparent())).isTrue();
        assertThat(fx(() -> cards().getOpacity())).isEqualTo(1);
        assertThat(fx(() -> cards().lookupAll(".button"))).isEmpty();
        pointAt(cards(), 40, 40);
        Rig.await().until(() -> fx(() -> cards().getOpacity() == 0));
        pointAt(cards(), -400, -200);
        Rig.await().until(() -> fx(() -> cards().getOpacity() == 1));
        press("Hide card");
        Rig.await().until(() -> fx(() -> !cards().isVisible()));
        assertThat(lineShows("Forced open")).isTrue();
    }

    /** Notices have a place of their own, which is there always: nothing below moves, and nothing is covered. */
    @Test
    void notices_lie_in_their_line_and_are_all_in_the_list() {
        double below = fx(() -> strip("Staff lobby").localToScene(0, 0).getY());
        fx(() -> {
            window.shell()
                    .desk()
                    .notices()
                    .note("The pair was removed.", new Notice.Action("Undo", () -> undone = true));
            window.shell().desk().notices().note("The clip was saved.");
            return null;
        });
        Rig.await().until(() -> shows(".notice .label", "The pair was removed."));
        assertThat(fx(() -> strip("Staff lobby").localToScene(0, 0).getY())).isEqualTo(below);
        press("2 notices");
        Rig.await().until(() -> shows(".notice-row .label", "The clip was saved."));
        fx(() -> {
            window.shell().closePanel();
            return null;
        });
        press("Undo");
        Rig.await().until(() -> undone && shows(".notice .label", "The clip was saved."));
        press("Hide");
        Rig.await().until(() -> fx(() -> all(".notice").stream().noneMatch(Node::isVisible)));
    }

    /** With text twice as large the buttons stand under the title, and nothing is cut off. */
    @Test
    void with_large_text_an_alarm_is_read_and_every_button_is_in_the_window() {
        rig.happen("{'act':'force','door':'strongroom-corr','seconds':60}");
        Rig.await().until(() -> lineShows("Strongroom corridor"));
        fx(() -> {
            window.shell().desk().notices().note("The pair was removed.");
            return null;
        });
        key(KeyCode.F4);
        Rig.await().until(() -> shows(".alarm-part .large", "Forced open · Strongroom corridor"));
        for (int scale : List.of(150, 200)) {
            fx(() -> {
                window.theme().scale(scale);
                return null;
            });
            Rig.await()
                    .until(() -> fx(() -> {
                        Node title = labeled(Label.class, ".alarm-part .large", w -> w.contains("Strongroom corridor"));
                        return title.getLayoutBounds().getWidth()
                                > title.getLayoutBounds().getHeight() * 5;
                    }));
            for (String selector : List.of(".alarm-line .button", ".notice-line .button", ".alarm-part .main")) {
                Rig.await()
                        .until(() -> fx(() -> all(selector).stream()
                                .filter(ConsoleFixture::seen)
                                .allMatch(
                                        n -> n.localToScene(n.getLayoutBounds()).getMaxX()
                                                <= window.scene().getWidth())));
            }
        }
    }

    @Test
    void a_forced_door_calls_is_seen_noted_and_finished_and_all_of_it_is_in_the_log() {
        assertThat(fx(() -> all(".alarm-line").stream().anyMatch(Node::isVisible)))
                .isFalse();
        rig.happen("{'act':'force','door':'strongroom-corr','seconds':30}");
        Rig.await().until(() -> lineShows("Strongroom corridor"));
        // It is said in every view, and shown by one press.
        setup("Pairs");
        assertThat(lineShows("Forced open")).isTrue();
        key(KeyCode.F4);
        Rig.await().until(() -> shows(".alarm-part .large", "Forced open · Strongroom corridor"));
        Rig.await()
                .until(() -> shows(".alarm-part .label", "No badge, exit button or command in the 10\u00a0s before."));
        Rig.await().until(() -> shows(".alarm-part .label", "forced open"));
        Rig.await()
                .until(() -> fx(() -> all(".alarm-part .picture").stream()
                                .filter(n -> ((PicturePane) n).hasPicture())
                                .count()
                        >= 2));
        key(KeyCode.A);
        Rig.await().until(() -> log(Kinds.ALARM_ACKNOWLEDGED).size() == 1);
        Rig.await().until(() -> fx(() -> all(".alarm-line").stream().noneMatch(Node::isVisible)));
        key(KeyCode.T);
        Rig.await().until(() -> shows(".alarm-part .secondary", "yours"));
        fx(() -> {
            all(".alarm-part .text-area").stream()
                    .map(TextArea.class::cast)
                    .findFirst()
                    .orElseThrow()
                    .setText("Patrol sent.");
            return null;
        });
        press("Keep note");
        Rig.await().until(() -> shows(".alarm-part .label", "Patrol sent."));
        // What has to be done first is said, and nothing is finished.
        choose("Finish…", "Harmless");
        Rig.await().until(() -> shows(".alarm-part .caution", "3 steps have to be done first"));
        for (int step = 0; step < 4; step++) {
            int now = step;
            // The last one is possible once the door is closed again.
            Rig.await()
                    .until(() -> fx(() -> all(".alarm-part .check-box").stream()
                            .map(CheckBox.class::cast)
                            .filter(box -> !box.isSelected() && !box.isDisabled())
                            .findFirst()
                            .map(box -> {
                                box.fire();
                                return true;
                            })
                            .orElse(false)));
            Rig.await().until(() -> log(Kinds.ALARM_TICKED).size() == now + 1);
            Rig.await()
                    .until(() -> fx(() -> all(".alarm-part .check-box").stream()
                                    .filter(n -> ((CheckBox) n).isSelected())
                                    .count()
                            == now + 1));
        }
        assertThat(shows(".alarm-part .step-done", "Vantongeren")).isTrue();
        choose("Finish…", "Harmless");
        Rig.await().until(() -> queue().getItems().isEmpty());
        Rig.await().until(() -> shows(".alarm-part .label", "Harmless"));
        for (EventKind kind : List.of(
                Kinds.ALARM_RAISED,
                Kinds.ALARM_ACKNOWLEDGED,
                Kinds.ALARM_TAKEN,
                Kinds.ALARM_NOTE,
                Kinds.ALARM_FINISHED)) {
            assertThat(log(kind)).as(kind.id()).hasSize(1);
            assertThat(log(kind).get(0).door()).isEqualTo(Optional.of(new DoorId("tidewater/strongroom-corr")));
        }
        assertThat(log(Kinds.ALARM_FINISHED).get(0).operator()).isPresent();
    }

    @Test
    void one_is_put_aside_with_a_reason_only_and_the_worst_is_seen_by_one_key_in_any_view() {
        // Both are urgent, so the older one comes first.
        rig.happen("{'act':'force','door':'strongroom-corr','seconds':30}");
        Rig.await().until(() -> lineShows("Strongroom corridor"));
        rig.happen("{'act':'trip','target':'panic-reading','seconds':1}");
        Rig.await().until(() -> lineShows("and 1 more"));
        // Under a panel no key acts.
        key(KeyCode.F1);
        acknowledge();
        key(KeyCode.ESCAPE);
        assertThat(log(Kinds.ALARM_ACKNOWLEDGED)).isEmpty();
        acknowledge();
        Rig.await().until(() -> lineShows("Panic button, reading room desk"));
        key(KeyCode.F4);
        Rig.await().until(() -> shows(".alarm-part .large", "Panic button, reading room desk"));
        choose("Shelve…", "for an hour");
        Rig.await().until(() -> shows(".alarm-part .caution", "Write below why"));
        assertThat(log(Kinds.ALARM_SHELVED)).isEmpty();
        fx(() -> {
            all(".alarm-part .text-area").stream()
                    .map(TextArea.class::cast)
                    .findFirst()
                    .orElseThrow()
                    .setText("Button is being repaired.");
            return null;
        });
        choose("Shelve…", "for an hour");
        Rig.await().until(() -> shows(".alarm-queue .label", "Button is being repaired."));
        Rig.await().until(() -> fx(() -> all(".alarm-line").stream().noneMatch(Node::isVisible)));
        assertThat(fx(() -> all(".alarm-part .button").stream()
                        .map(n -> (Button) n)
                        .filter(b -> b.getText().startsWith("Acknowledge"))
                        .allMatch(Node::isDisabled)))
                .isTrue();
        choose("Shelve…", "not any longer");
        Rig.await().until(() -> lineShows("Panic button, reading room desk"));
    }
}
