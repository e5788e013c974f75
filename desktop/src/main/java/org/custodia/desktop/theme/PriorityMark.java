package org.custodia.desktop.theme;

import javafx.beans.InvalidationListener;
import javafx.beans.WeakInvalidationListener;
import javafx.scene.canvas.Canvas;
import org.custodia.core.event.Priority;
import org.custodia.desktop.text.Texts;

/** A priority's shape as a node of its own. */
public final class PriorityMark extends Canvas {
    private static final Texts TEXTS = Texts.of(PriorityMark.class);

    private final Theme theme;
    private final double size;
    private final InvalidationListener looks = o -> draw();
    private Priority priority = Priority.NONE;

    public PriorityMark(Theme theme, double size) {
        super(size, size);
        this.theme = theme;
        this.size = size;
        theme.looks().addListener(new WeakInvalidationListener(looks));
        draw();
    }

    public void show(Priority value) {
        if (priority != value) {
            priority = value;
            setAccessibleText(spoken(value));
            draw();
        }
    }

    private static String spoken(Priority priority) {
        return switch (priority) {
            case NONE -> "";
            case NOTE -> TEXTS.say("note");
            case LOW -> TEXTS.say("low");
            case CAUTION -> TEXTS.say("caution");
            case URGENT -> TEXTS.say("urgent");
        };
    }

    private void draw() {
        setWidth(theme.px(size));
        setHeight(theme.px(size));
        getGraphicsContext2D().clearRect(0, 0, getWidth(), getHeight());
        Marks.draw(getGraphicsContext2D(), priority, getWidth() / 2, getHeight() / 2, getWidth() / 2 - 1, theme.now());
    }
}
