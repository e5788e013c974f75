package org.custodia.desktop.setup;

import java.util.Optional;
import javafx.beans.InvalidationListener;
import javafx.beans.WeakInvalidationListener;
import javafx.scene.canvas.Canvas;
import javafx.scene.canvas.GraphicsContext;
import javafx.scene.paint.Color;
import org.custodia.core.event.Priority;
import org.custodia.core.link.LinkStatus;
import org.custodia.desktop.theme.Marks;
import org.custodia.desktop.theme.Theme;

/**
 * How a link is doing, as a drawing: two ends and what is between them. Joined while it is up, dotted while it is being made or
 * history is read, apart while it is paused, apart with the shape of its priority in the gap while it is out of reach.
 */
final class LinkSign extends Canvas {
    private static final double WIDTH = 36;
    private static final double HEIGHT = 18;
    private static final double END = 4;

    private final Theme theme;
    private final InvalidationListener looks = o -> draw();
    private Optional<LinkStatus.State> state = Optional.empty();
    private Priority priority = Priority.NONE;

    LinkSign(Theme theme) {
        this.theme = theme;
        theme.looks().addListener(new WeakInvalidationListener(looks));
        draw();
    }

    void show(Optional<LinkStatus.State> now, Priority matters) {
        if (!state.equals(now) || priority != matters) {
            state = now;
            priority = matters;
            draw();
        }
    }

    private void draw() {
        setWidth(theme.px(WIDTH));
        setHeight(theme.px(HEIGHT));
        GraphicsContext g = getGraphicsContext2D();
        g.clearRect(0, 0, getWidth(), getHeight());
        double middle = getHeight() / 2;
        double end = theme.px(END);
        boolean up = state.equals(Optional.of(LinkStatus.State.UP));
        boolean apart = state.filter(s -> s == LinkStatus.State.CLOSED || s == LinkStatus.State.DOWN)
                .isPresent();
        Color ink = apart && priority == Priority.NONE
                ? theme.now().muted()
                : theme.now().ink();
        g.setFill(ink);
        g.setStroke(ink);
        g.setLineWidth(theme.px(2));
        g.fillOval(0, middle - end, 2 * end, 2 * end);
        g.fillOval(getWidth() - 2 * end, middle - end, 2 * end, 2 * end);
        if (up) {
            g.setLineDashes();
            g.strokeLine(2 * end, middle, getWidth() - 2 * end, middle);
        } else if (!apart) {
            g.setLineDashes(theme.px(2), theme.px(4));
            g.strokeLine(2 * end + theme.px(2), middle, getWidth() - 2 * end, middle);
        }
        if (priority != Priority.NONE) {
            Marks.draw(g, priority, getWidth() / 2, middle, theme.px(7), theme.now());
        }
    }
}
