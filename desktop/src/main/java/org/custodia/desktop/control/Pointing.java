package org.custodia.desktop.control;

import javafx.scene.Node;
import javafx.stage.PopupWindow;
import javafx.stage.Window;

/**
 * Whether the operator points at a list. Meanwhile its order does not change: a pointer that rests is one that aims, and the
 * press that follows must hit its target.
 */
public final class Pointing {
    private Pointing() {}

    /** Whether the pointer, the focus or an open menu is in a list. */
    public static boolean at(Node list) {
        if (list.getScene() == null || list.getScene().getWindow() == null) {
            return false;
        }
        return list.isHover()
                || list.getScene().getWindow().isFocused()
                        && isIn(list, list.getScene().getFocusOwner())
                || Window.getWindows().stream()
                        .anyMatch(w -> w instanceof PopupWindow popup
                                && popup.isShowing()
                                && !(popup instanceof javafx.scene.control.Tooltip)
                                && isIn(list, popup.getOwnerNode()));
    }

    private static boolean isIn(Node list, Node node) {
        for (Node n = node; n != null; n = n.getParent()) {
            if (n == list) {
                return true;
            }
        }
        return false;
    }
}
