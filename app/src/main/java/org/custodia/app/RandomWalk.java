package org.custodia.app;

import java.time.Duration;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.function.Consumer;
import java.util.function.Supplier;
import javafx.application.Platform;
import javafx.event.Event;
import javafx.event.EventType;
import javafx.geometry.Point2D;
import javafx.scene.Node;
import javafx.scene.Parent;
import javafx.scene.Scene;
import javafx.scene.control.ButtonBase;
import javafx.scene.control.ComboBoxBase;
import javafx.scene.control.IndexedCell;
import javafx.scene.control.Labeled;
import javafx.scene.control.Slider;
import javafx.scene.control.TextInputControl;
import javafx.scene.input.KeyCode;
import javafx.scene.input.KeyEvent;
import javafx.scene.input.MouseButton;
import javafx.scene.input.MouseEvent;
import javafx.scene.input.PickResult;
import javafx.scene.input.ScrollEvent;
import javafx.stage.Stage;
import javafx.stage.Window;
import org.custodia.core.mishap.Mishaps;
import org.custodia.core.mishap.Threads;

/**
 * Somebody who presses whatever there is: clicks, keys, drags and the wheel at random, through the real window. Finds what
 * nobody would try. The same seed takes the same decisions, as far as the window shows the same.
 */
public final class RandomWalk {
    /** The window is said to hang when it does not answer for so long. */
    private static final Duration HANGS = Duration.ofSeconds(30);

    private static final int REMEMBERED = 60;
    private static final String LETTERS = "abcdeilnorstuv 0123456789:äß'\"%_";
    private static final List<KeyCode> KEYS = List.of(
            KeyCode.ESCAPE,
            KeyCode.ENTER,
            KeyCode.SPACE,
            KeyCode.TAB,
            KeyCode.UP,
            KeyCode.DOWN,
            KeyCode.LEFT,
            KeyCode.RIGHT,
            KeyCode.HOME,
            KeyCode.END,
            KeyCode.PAGE_DOWN,
            KeyCode.DELETE,
            KeyCode.BACK_SPACE,
            KeyCode.F1,
            KeyCode.F2,
            KeyCode.COMMA,
            KeyCode.PERIOD);
    private static final List<KeyCode> WITH_CTRL =
            List.of(KeyCode.DIGIT1, KeyCode.DIGIT2, KeyCode.DIGIT8, KeyCode.K, KeyCode.PLUS, KeyCode.MINUS, KeyCode.T);
    private static final List<KeyCode> WITH_ALT = List.of(KeyCode.L, KeyCode.U, KeyCode.K, KeyCode.B, KeyCode.A);

    private final Stage stage;
    private final Random random;
    private final Consumer<Random> meanwhile;
    private final Deque<String> trail = new ArrayDeque<>();
    private long steps;

    /**
     * @param meanwhile lets something happen outside now and then, such as a link that is lost
     */
    public RandomWalk(Stage stage, long seed, Consumer<Random> meanwhile) {
        this.stage = stage;
        this.random = new Random(seed);
        this.meanwhile = meanwhile;
    }

    /** Something is wrong; the message says what, and what was done before. */
    public static final class FoundException extends RuntimeException {
        private static final long serialVersionUID = 1L;

        FoundException(String message) {
            super(message);
        }
    }

    /** How many steps were taken. */
    public long steps() {
        return steps;
    }

    /**
     * Walks for a while.
     *
     * @param mishaps what has stumbled so far
     * @throws FoundException if a part of Custodia stumbles or the window hangs
     */
    public void walk(Duration time, Supplier<List<Mishaps.Seen>> mishaps) {
        int before = faults(mishaps);
        long end = System.nanoTime() + time.toNanos();
        while (System.nanoTime() < end) {
            if (random.nextInt(150) == 0) {
                meanwhile.accept(random);
            }
            answered(this::step);
            steps++;
            if (faults(mishaps) > before) {
                throw new FoundException("A part of Custodia stumbled: " + mishaps.get() + " after " + trail);
            }
        }
        // What was begun comes to an end.
        answered(() -> remember("end"));
        if (faults(mishaps) > before) {
            throw new FoundException("A part of Custodia stumbled: " + mishaps.get() + " after " + trail);
        }
    }

    private static int faults(Supplier<List<Mishaps.Seen>> mishaps) {
        return mishaps.get().stream().mapToInt(Mishaps.Seen::times).sum();
    }

    private void answered(Runnable step) {
        CompletableFuture<Void> done = new CompletableFuture<>();
        Platform.runLater(() -> {
            try {
                step.run();
            } catch (RuntimeException e) {
                Threads.stumbled(e);
            }
            done.complete(null);
        });
        try {
            done.get(HANGS.toSeconds(), TimeUnit.SECONDS);
        } catch (TimeoutException e) {
            throw new FoundException("The window hangs after " + trail + "\n" + stack());
        } catch (InterruptedException | ExecutionException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
    }

    private static String stack() {
        StringBuilder text = new StringBuilder();
        for (Map.Entry<Thread, StackTraceElement[]> one :
                Thread.getAllStackTraces().entrySet()) {
            if (one.getKey().getName().contains("JavaFX")) {
                for (StackTraceElement element : one.getValue()) {
                    text.append("  ").append(element).append('\n');
                }
            }
        }
        return text.toString();
    }

    private void step() {
        Window window = top();
        Scene scene = window.getScene();
        int dice = random.nextInt(100);
        if (dice < 60) {
            List<Node> some = pressable(scene.getRoot());
            if (!some.isEmpty()) {
                Node node = some.get(random.nextInt(some.size()));
                remember("click " + named(node));
                click(scene, centre(node));
            }
        } else if (dice < 68) {
            Point2D at = anywhere(scene);
            remember("click at " + at);
            click(scene, at);
        } else if (dice < 76) {
            drag(scene, anywhere(scene), anywhere(scene));
        } else if (dice < 80) {
            scroll(scene, anywhere(scene));
        } else if (dice < 90) {
            key(scene, KEYS.get(random.nextInt(KEYS.size())), false, false);
        } else if (dice < 95) {
            type(scene);
        } else if (dice < 98) {
            key(scene, WITH_CTRL.get(random.nextInt(WITH_CTRL.size())), true, false);
        } else {
            key(scene, WITH_ALT.get(random.nextInt(WITH_ALT.size())), false, true);
        }
    }

    /** The menu or list that is open over the window, or the window itself. */
    private Window top() {
        List<Window> over = Window.getWindows().stream()
                .filter(w -> w != stage && w.isShowing() && w.getScene() != null)
                .filter(w -> !(w instanceof javafx.scene.control.Tooltip))
                .toList();
        return over.isEmpty() || random.nextInt(10) == 0 ? stage : over.get(over.size() - 1);
    }

    private static List<Node> pressable(Parent root) {
        List<Node> found = new ArrayList<>();
        gather(root, found);
        return found;
    }

    private static void gather(Node node, List<Node> into) {
        if (!node.isVisible() || node.isDisabled()) {
            return;
        }
        boolean presses = node instanceof ButtonBase
                || node instanceof IndexedCell
                || node instanceof TextInputControl
                || node instanceof ComboBoxBase
                || node instanceof Slider
                || node.getOnMouseClicked() != null;
        if (presses && inside(node)) {
            into.add(node);
        }
        if (node instanceof Parent parent) {
            parent.getChildrenUnmodifiable().forEach(child -> gather(child, into));
        }
    }

    private static boolean inside(Node node) {
        Point2D at = centre(node);
        Scene scene = node.getScene();
        return at != null
                && at.getX() >= 0
                && at.getY() >= 0
                && at.getX() < scene.getWidth()
                && at.getY() < scene.getHeight();
    }

    private static Point2D centre(Node node) {
        return node.localToScene(
                node.getLayoutBounds().getCenterX(), node.getLayoutBounds().getCenterY());
    }

    private Point2D anywhere(Scene scene) {
        return new Point2D(random.nextDouble() * scene.getWidth(), random.nextDouble() * scene.getHeight());
    }

    private static String named(Node node) {
        String text = node instanceof Labeled l && l.getText() != null ? " \"" + l.getText() + "\"" : "";
        return node.getClass().getSimpleName() + text;
    }

    private void click(Scene scene, Point2D at) {
        Node target = target(scene, at);
        MouseButton button = random.nextInt(12) == 0 ? MouseButton.SECONDARY : MouseButton.PRIMARY;
        int times = random.nextInt(8) == 0 ? 2 : 1;
        fire(scene, target, MouseEvent.MOUSE_MOVED, at, MouseButton.NONE, 0);
        for (int i = 1; i <= times; i++) {
            fire(scene, target, MouseEvent.MOUSE_PRESSED, at, button, i);
            fire(scene, target, MouseEvent.MOUSE_RELEASED, at, button, i);
            fire(scene, target, MouseEvent.MOUSE_CLICKED, at, button, i);
        }
    }

    private void drag(Scene scene, Point2D from, Point2D to) {
        remember("drag " + from + " " + to);
        Node target = target(scene, from);
        fire(scene, target, MouseEvent.MOUSE_PRESSED, from, MouseButton.PRIMARY, 1);
        for (int i = 1; i <= 4; i++) {
            fire(scene, target, MouseEvent.MOUSE_DRAGGED, from.interpolate(to, i / 4.0), MouseButton.PRIMARY, 1);
        }
        fire(scene, target, MouseEvent.MOUSE_RELEASED, to, MouseButton.PRIMARY, 1);
    }

    private void scroll(Scene scene, Point2D at) {
        remember("scroll at " + at);
        double by = random.nextInt(400) - 200;
        Node target = target(scene, at);
        Event.fireEvent(
                target,
                new ScrollEvent(
                        ScrollEvent.SCROLL,
                        at.getX(),
                        at.getY(),
                        at.getX(),
                        at.getY(),
                        false,
                        random.nextInt(4) == 0,
                        false,
                        false,
                        false,
                        false,
                        0,
                        by,
                        0,
                        by,
                        ScrollEvent.HorizontalTextScrollUnits.NONE,
                        0,
                        ScrollEvent.VerticalTextScrollUnits.NONE,
                        0,
                        0,
                        new PickResult(target, at.getX(), at.getY())));
    }

    /** What lies under a point: the deepest node, as a hand would meet it. */
    private static Node target(Scene scene, Point2D at) {
        Node found = under(scene.getRoot(), at);
        return found == null ? scene.getRoot() : found;
    }

    private static Node under(Node node, Point2D at) {
        if (!node.isVisible() || node.isMouseTransparent()) {
            return null;
        }
        if (node instanceof Parent parent) {
            List<Node> children = parent.getChildrenUnmodifiable();
            for (int i = children.size() - 1; i >= 0; i--) {
                Node found = under(children.get(i), at);
                if (found != null) {
                    return found;
                }
            }
        }
        Point2D here = node.sceneToLocal(at);
        return here != null && node.contains(here) && !node.isDisabled() ? node : null;
    }

    private static void fire(
            Scene scene, Node target, EventType<MouseEvent> type, Point2D at, MouseButton button, int clicks) {
        if (target.getScene() != scene) {
            return;
        }
        boolean down = type == MouseEvent.MOUSE_PRESSED || type == MouseEvent.MOUSE_DRAGGED;
        Event.fireEvent(
                target,
                new MouseEvent(
                        type,
                        at.getX(),
                        at.getY(),
                        at.getX(),
                        at.getY(),
                        button,
                        clicks,
                        false,
                        false,
                        false,
                        false,
                        down && button == MouseButton.PRIMARY,
                        false,
                        down && button == MouseButton.SECONDARY,
                        true,
                        button == MouseButton.SECONDARY && type == MouseEvent.MOUSE_PRESSED,
                        true,
                        new PickResult(target, at.getX(), at.getY())));
    }

    private void key(Scene scene, KeyCode code, boolean ctrl, boolean alt) {
        remember("key " + (ctrl ? "Ctrl " : "") + (alt ? "Alt " : "") + code);
        press(scene, KeyEvent.KEY_PRESSED, "", code, ctrl, alt);
        press(scene, KeyEvent.KEY_RELEASED, "", code, ctrl, alt);
    }

    private void type(Scene scene) {
        StringBuilder typed = new StringBuilder();
        for (int i = 1 + random.nextInt(8); i > 0; i--) {
            String letter = String.valueOf(LETTERS.charAt(random.nextInt(LETTERS.length())));
            typed.append(letter);
            KeyCode code = KeyCode.getKeyCode(letter.toUpperCase(java.util.Locale.ROOT));
            press(scene, KeyEvent.KEY_PRESSED, "", code == null ? KeyCode.UNDEFINED : code, false, false);
            press(scene, KeyEvent.KEY_TYPED, letter, KeyCode.UNDEFINED, false, false);
        }
        remember("type " + typed);
    }

    private static void press(
            Scene scene, EventType<KeyEvent> type, String letter, KeyCode code, boolean ctrl, boolean alt) {
        Node owner = scene.getFocusOwner();
        Event.fireEvent(
                owner == null ? scene : owner,
                new KeyEvent(
                        type, letter.isEmpty() ? KeyEvent.CHAR_UNDEFINED : letter, "", code, false, ctrl, alt, false));
    }

    private void remember(String what) {
        trail.addLast(what);
        if (trail.size() > REMEMBERED) {
            trail.removeFirst();
        }
    }
}
