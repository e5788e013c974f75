package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import java.lang.ref.WeakReference;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import java.util.Set;
import javafx.geometry.Bounds;
import javafx.scene.Node;
import javafx.scene.control.ContextMenu;
import javafx.scene.control.Label;
import javafx.scene.control.ScrollPane;
import javafx.scene.input.KeyCode;
import javafx.stage.Window;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteModel;
import org.custodia.desktop.settings.Settings;
import org.custodia.desktop.strip.StripSize;
import org.custodia.desktop.watch.WatchModel;
import org.custodia.desktop.watch.WatchView;
import org.junit.jupiter.api.Test;

/** The room that strips take, and what finds room in them. */
class ConsoleRoomTest extends ConsoleFixture {
    private WatchModel model() {
        return window.shell().view(WatchView.class).model();
    }

    private void take(StripSize size) {
        fx(() -> {
            model().size().set(size);
            window.scene().getRoot().applyCss();
            window.scene().getRoot().layout();
            return null;
        });
    }

    private static Bounds inScene(Node node) {
        return node.localToScene(node.getBoundsInLocal());
    }

    private int whollyInView() {
        return fx(() -> {
            ScrollPane list = (ScrollPane) window.scene().getRoot().lookup(".strips");
            Bounds room = inScene(list.lookup(".viewport"));
            return (int) all(".strip").stream()
                    .map(ConsoleRoomTest::inScene)
                    .filter(b -> b.getMinY() >= room.getMinY() - 0.5 && b.getMaxY() <= room.getMaxY() + 0.5)
                    .count();
        });
    }

    @Test
    void small_strips_show_twelve_doors_and_the_choice_is_remembered() {
        List<DoorId> doors =
                rig.hub.sites().get().doors().stream().map(Door::id).limit(14).toList();
        fx(() -> {
            model().watch(doors);
            return null;
        });
        take(StripSize.SMALL);
        Rig.await().until(() -> whollyInView() >= 12);
        // Who came last is said in words, and no camera is watched for pictures that nobody sees.
        present("staff-lobby", "20153");
        Rig.await().until(() -> shows(".strip-last .who", "."));
        Rig.await().until(() -> fx(() -> window.shell().view(WatchView.class).livePictures() == 0));
        assertThat(Settings.load(rig.data).values().stripSize()).isEqualTo("SMALL");
        take(StripSize.LARGE);
        Rig.await().until(() -> whollyInView() <= 4);
        Rig.await().until(() -> fx(() -> window.shell().view(WatchView.class).livePictures() >= 1));
    }

    @Test
    void names_of_any_length_and_script_leave_state_and_buttons_in_their_places() {
        SiteModel sites = rig.hub.sites().get();
        List<String> names =
                List.of("North ".repeat(90), "W".repeat(500), "保管室の東側入口".repeat(40), "قاعة العرض الشمالية ".repeat(20));
        for (String name : names) {
            List<Door> renamed = new ArrayList<>();
            for (Door d : sites.doors()) {
                renamed.add(
                        d.id().equals(BAY)
                                ? new Door(
                                        d.id(),
                                        d.system(),
                                        d.controller(),
                                        name.strip(),
                                        d.site(),
                                        d.level(),
                                        d.outside(),
                                        d.inside(),
                                        d.heldLimit(),
                                        d.capabilities(),
                                        d.asks())
                                : d);
            }
            rig.hub
                    .sites()
                    .places(
                            sites.door(BAY).orElseThrow().system(),
                            sites.sites(),
                            renamed.stream()
                                    .filter(d -> d.system()
                                            .equals(sites.door(BAY)
                                                    .orElseThrow()
                                                    .system()))
                                    .toList(),
                            List.of(),
                            sites.devices());
            Rig.await()
                    .until(() -> fx(() ->
                            all(".strip").stream().anyMatch(n -> name.strip().equals(n.getAccessibleText()))));
            for (StripSize size : StripSize.values()) {
                take(size);
                // The view takes a new size with its next tick.
                Rig.await().until(() -> allInside(strip(name.strip()), size));
            }
        }
    }

    /** Whether what a strip must show lies within it, and not on each other. */
    private boolean allInside(Node strip, StripSize size) {
        return fx(() -> {
            Bounds side = inScene(strip.lookup(".strip-door"));
            List<Bounds> parts = new ArrayList<>();
            for (String selector : List.of(".door-name", ".headline", ".menu-button")) {
                Node node = strip.lookup(selector);
                if (node == null || node instanceof Label l && l.getText().isEmpty()) {
                    return false;
                }
                parts.add(inScene(node));
            }
            double height = inScene(strip).getHeight();
            boolean within = parts.stream().allMatch(b -> side.contains(b) && b.getHeight() > 8 && b.getWidth() > 8);
            boolean apart = !parts.get(0).intersects(shrunk(parts.get(1)))
                    && !parts.get(1).intersects(shrunk(parts.get(2)))
                    && !parts.get(0).intersects(shrunk(parts.get(2)));
            double most = size == StripSize.SMALL ? 52 : size == StripSize.MIDDLE ? 128 : 190;
            return within && apart && height <= most;
        });
    }

    private static Bounds shrunk(Bounds b) {
        return new javafx.geometry.BoundingBox(
                b.getMinX() + 1, b.getMinY() + 1, Math.max(0, b.getWidth() - 2), Math.max(0, b.getHeight() - 2));
    }

    private void scrollTo(double share) {
        fx(() -> {
            ((ScrollPane) window.scene().getRoot().lookup(".strips")).setVvalue(share);
            return null;
        });
    }

    private List<String> made() {
        return fx(() -> all(".strip").stream().map(Node::getAccessibleText).toList());
    }

    @Test
    void many_doors_on_watch_cost_what_is_seen_of_them() {
        List<Door> doors = rig.hub.sites().get().doors().stream().toList();
        assertThat(doors).hasSizeGreaterThan(40);
        fx(() -> {
            model().watch(doors.stream().map(Door::id).toList());
            return null;
        });
        assertThat(fx(() -> model().strips().size())).isGreaterThan(40);
        Rig.await().until(() -> whollyInView() >= 4);
        assertThat(made()).hasSizeLessThan(14);
        String first = fx(() -> model().strips().get(0).door().name());
        assertThat(made()).contains(first);
        focus(first);
        scrollTo(1);
        String last = doors.get(doors.size() - 1).name();
        Rig.await().until(() -> made().contains(last) && whollyInView() >= 4);
        // What has the focus is not taken away from under somebody's hands.
        assertThat(made()).contains(first).hasSizeLessThan(14);
        focus(last);
        Rig.await().until(() -> {
            scrollTo(0.5);
            return !made().contains(first);
        });
        fx(() -> window.shell().view(WatchView.class).show(doors.get(20).id()));
        Rig.await()
                .until(() -> fx(() -> {
                    Node strip = strip(doors.get(20).name());
                    Bounds room = inScene(window.scene().getRoot().lookup(".strips"));
                    return strip.isFocused() && room.contains(inScene(strip));
                }));
    }

    private List<WeakReference<Node>> refs() {
        return fx(() -> all(".strip").stream().map(WeakReference::new).toList());
    }

    @Test
    void strips_that_were_scrolled_past_leave_nothing_behind() {
        fx(() -> {
            model().watch(rig.hub.sites().get().doors().stream().map(Door::id).toList());
            return null;
        });
        Rig.await().until(() -> whollyInView() >= 3);
        List<WeakReference<Node>> seen = new ArrayList<>(refs());
        for (double share : new double[] {0.3, 0.6, 1, 0.6}) {
            scrollTo(share);
            Rig.await().until(() -> whollyInView() >= 3);
            seen.addAll(refs());
        }
        // The toolkit keeps what had the pointer or the focus last.
        Rig.await().until(() -> {
            System.gc();
            return seen.stream()
                            .map(WeakReference::get)
                            .filter(Objects::nonNull)
                            .distinct()
                            .count()
                    <= refs().size() + 2;
        });
    }

    private static ContextMenu openStack() {
        return fx(() -> Window.getWindows().stream()
                .filter(w -> w instanceof ContextMenu m && m.getStyleClass().contains("stack-menu") && m.isShowing())
                .map(ContextMenu.class::cast)
                .findFirst()
                .orElse(null));
    }

    @Test
    void a_stack_is_opened_to_its_events_and_each_can_be_played() {
        fx(() -> {
            model().watch(List.of(BAY));
            return null;
        });
        for (int i = 0; i < 4; i++) {
            present("loading-bay", "6019" + i);
        }
        Rig.await()
                .until(() ->
                        fx(() -> model().strips().get(0).data().get().items().size() >= 4));
        // Four within a second cannot stand side by side.
        Rig.await().until(() -> stack() != null);
        fx(() -> {
            stack().requestFocus();
            return null;
        });
        robot.type(KeyCode.ENTER);
        Rig.await().until(() -> openStack() != null);
        assertThat(fx(() -> openStack().getItems().size())).isGreaterThanOrEqualTo(3);
        robot.type(KeyCode.DOWN).type(KeyCode.ENTER);
        Rig.await().until(() -> openStack() == null);
        Rig.await().until(() -> fx(() -> window.shell().view(WatchView.class).playingShowsPicture()));
    }

    /** A card that counts more than one. */
    private Node stack() {
        return fx(() -> Set.copyOf(all(".strip .card")).stream()
                .filter(n -> n.getAccessibleText().contains(" more"))
                .findFirst()
                .orElse(null));
    }
}
