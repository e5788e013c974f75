package org.custodia.desktop.theme;

import javafx.scene.canvas.Canvas;
import org.custodia.core.event.Priority;

/** A priority's shape as a node of its own. */
public final class PriorityMark extends Canvas {
    private final Theme theme;
    private Priority priority = Priority.NONE;

    public PriorityMark(Theme theme, double size) {
        super(size, size);
        this.theme = theme;
        theme.tokens().addListener((o, a, b) -> draw());
    }

    public void show(Priority value) {
        if (priority != value) {
            priority = value;
            setAccessibleText(
                    value == Priority.NONE ? "" : "priority " + value.name().toLowerCase(java.util.Locale.ROOT));
            draw();
        }
    }

    private void draw() {
        getGraphicsContext2D().clearRect(0, 0, getWidth(), getHeight());
        Marks.draw(getGraphicsContext2D(), priority, getWidth() / 2, getHeight() / 2, getWidth() / 2 - 1, theme.now());
    }
}
