package org.custodia.desktop.control;

import javafx.scene.Node;
import javafx.scene.control.ScrollPane;
import javafx.scene.control.TextInputControl;
import javafx.scene.input.KeyEvent;

/** Scrolls by keys what nothing in it can have the focus of. */
public final class ScrollKeys {
    private static final double LINE = 40;

    private ScrollKeys() {}

    /**
     * Has the keys up, down, page up, page down, home and end scroll a pane.
     *
     * @param owner where keys arrive
     */
    public static void on(Node owner, ScrollPane pane) {
        owner.addEventFilter(KeyEvent.KEY_PRESSED, e -> {
            if (e.getTarget() instanceof TextInputControl) {
                return;
            }
            double high = pane.getContent().getLayoutBounds().getHeight();
            double seen = pane.getViewportBounds().getHeight();
            double hidden = Math.max(1, high - seen);
            Double to =
                    switch (e.getCode()) {
                        case UP -> pane.getVvalue() - LINE / hidden;
                        case DOWN -> pane.getVvalue() + LINE / hidden;
                        case PAGE_UP -> pane.getVvalue() - seen / hidden;
                        case PAGE_DOWN -> pane.getVvalue() + seen / hidden;
                        case HOME -> 0.0;
                        case END -> 1.0;
                        default -> null;
                    };
            if (to != null) {
                pane.setVvalue(Math.max(0, Math.min(1, to)));
                e.consume();
            }
        });
    }
}
