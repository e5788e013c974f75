package org.custodia.desktop.panel;

import java.util.ArrayList;
import java.util.List;
import javafx.beans.value.ChangeListener;
import javafx.event.EventTarget;
import javafx.scene.Node;
import javafx.scene.Parent;
import javafx.scene.Scene;
import javafx.scene.control.Control;
import javafx.scene.control.ScrollPane;
import javafx.scene.input.InputEvent;
import javafx.scene.input.KeyCode;
import javafx.scene.input.KeyEvent;
import javafx.scene.layout.StackPane;

/**
 * The window's content, and at most one panel over it. While a panel is open nothing under it can be reached: not by the mouse,
 * not by a key, and the focus stays inside. When it is closed the focus is where it was before.
 */
public final class Panels extends StackPane {
    private final Node content;
    private final StackPane veil = new StackPane();
    /** Where the focus was before a panel was opened. */
    private Node before;

    private final ChangeListener<Node> keepFocus = (o, was, now) -> {
        if (isOpen() && !isInside(now)) {
            focusIn();
        }
    };

    /**
     * @param content what lies under panels
     */
    public Panels(Node content) {
        this.content = content;
        veil.getStyleClass().add("veil");
        veil.setVisible(false);
        veil.setOnMousePressed(e -> {
            if (e.getTarget() == veil) {
                close();
            }
        });
        veil.addEventFilter(KeyEvent.KEY_PRESSED, this::goRound);
        addEventFilter(InputEvent.ANY, this::keepOut);
        sceneProperty().addListener((o, was, now) -> {
            if (was != null) {
                was.focusOwnerProperty().removeListener(keepFocus);
            }
            if (now != null) {
                now.focusOwnerProperty().addListener(keepFocus);
            }
        });
        getChildren().addAll(content, veil);
    }

    /** Opens a panel, in place of the one that is open, if any. */
    public void open(Node panel) {
        Scene scene = getScene();
        if (!isOpen() && scene != null) {
            before = scene.getFocusOwner();
        }
        veil.getChildren().setAll(panel);
        veil.setVisible(true);
        focusIn();
    }

    /** Closes what is open. */
    public void close() {
        if (!isOpen()) {
            return;
        }
        veil.setVisible(false);
        veil.getChildren().clear();
        Node back = before != null && before.getScene() == getScene() ? before : content;
        before = null;
        back.requestFocus();
    }

    public boolean isOpen() {
        return veil.isVisible();
    }

    /** The panel that is open, with what lies around it. */
    public Parent veil() {
        return veil;
    }

    private void keepOut(InputEvent event) {
        if (isOpen() && !isInside(event.getTarget())) {
            event.consume();
            focusIn();
        }
    }

    private boolean isInside(EventTarget target) {
        for (Node n = target instanceof Node node ? node : null; n != null; n = n.getParent()) {
            if (n == veil) {
                return true;
            }
        }
        return false;
    }

    private void focusIn() {
        Scene scene = getScene();
        if (scene == null || isInside(scene.getFocusOwner())) {
            return;
        }
        List<Node> all = focusable();
        if (!all.isEmpty()) {
            all.get(0).requestFocus();
        }
    }

    /** Tab goes round inside the panel. */
    private void goRound(KeyEvent event) {
        boolean tab = event.getCode() == KeyCode.TAB && !event.isControlDown() && !event.isAltDown();
        List<Node> all = tab ? focusable() : List.of();
        if (all.isEmpty()) {
            return;
        }
        int at = all.indexOf(getScene().getFocusOwner());
        int next = Math.floorMod(at + (event.isShiftDown() ? -1 : 1), all.size());
        all.get(at < 0 ? 0 : next).requestFocus();
        event.consume();
    }

    private List<Node> focusable() {
        List<Node> all = new ArrayList<>();
        collect(veil, all);
        return all;
    }

    private static void collect(Node node, List<Node> all) {
        if (!node.isVisible() || node.isDisabled()) {
            return;
        }
        if (node.isFocusTraversable()) {
            all.add(node);
        }
        // What a control is made of is its own affair.
        boolean opaque = node instanceof Control && !(node instanceof ScrollPane);
        if (!opaque && node instanceof Parent parent) {
            parent.getChildrenUnmodifiable().forEach(n -> collect(n, all));
        }
    }
}
