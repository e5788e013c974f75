package org.custodia.desktop.theme;

import javafx.beans.InvalidationListener;
import javafx.beans.WeakInvalidationListener;
import javafx.scene.canvas.Canvas;
import javafx.scene.canvas.GraphicsContext;
import javafx.scene.paint.Color;
import org.custodia.core.door.DoorState;
import org.custodia.core.door.LockMode;

/**
 * A door's state as a drawing that needs no colour: a frame, dashed when out of reach; the leaf filling it when closed,
 * swung out when open, hatched when nothing tells; a bolt across the frame's edge when locked, drawn back when unlocked, a
 * bar across the whole when blocked. Colour is added only when it needs somebody.
 */
public final class DoorSign extends Canvas {
    private final Theme theme;
    private final double size;
    private final InvalidationListener looks = o -> draw();
    private DoorState state = DoorState.UNKNOWN;

    public DoorSign(Theme theme, double size) {
        super(size, size);
        this.theme = theme;
        this.size = size;
        theme.looks().addListener(new WeakInvalidationListener(looks));
        draw();
    }

    public void show(DoorState value) {
        if (!value.equals(state)) {
            state = value;
            draw();
        }
    }

    private void draw() {
        GraphicsContext g = getGraphicsContext2D();
        Tokens t = theme.now();
        double s = theme.px(size);
        setWidth(s);
        setHeight(s);
        g.clearRect(0, 0, s, s);
        Color colour =
                state.forcedSince().isPresent() ? t.urgent() : state.heldSince().isPresent() ? t.caution() : t.ink();
        g.setStroke(colour);
        g.setFill(colour);
        double left = s * 0.14;
        double top = s * 0.08;
        double right = s * 0.72;
        double bottom = s * 0.94;
        g.setLineWidth(s * 0.075);
        boolean lost = state.outOfReachSince().isPresent();
        g.setLineDashes(lost ? new double[] {s * 0.12, s * 0.1} : null);
        g.strokePolyline(new double[] {left, left, right, right}, new double[] {bottom, top, top, bottom}, 4);
        g.setLineDashes();
        leaf(g, left, top, right, bottom, s, colour);
        bolt(g, right, (top + bottom) / 2, s);
    }

    private void leaf(GraphicsContext g, double left, double top, double right, double bottom, double s, Color colour) {
        double in = s * 0.09;
        switch (state.position()) {
            case CLOSED -> {
                g.setFill(colour.deriveColor(0, 1, 1, 0.55));
                g.fillRect(left + in, top + in, right - left - 2 * in, bottom - top - in);
            }
            case OPEN -> {
                g.setFill(colour.deriveColor(0, 1, 1, 0.85));
                double edge = left + (right - left) * 0.45;
                g.fillPolygon(
                        new double[] {left + in * 0.6, edge, edge, left + in * 0.6},
                        new double[] {top + in * 0.6, top + s * 0.2, bottom + s * 0.04, bottom},
                        4);
            }
            case UNKNOWN -> {
                g.setStroke(colour.deriveColor(0, 1, 1, 0.6));
                g.setLineWidth(s * 0.045);
                for (double y = top + s * 0.2; y < bottom; y += s * 0.17) {
                    g.strokeLine(left + in, y + s * 0.08, right - in, y - s * 0.06);
                }
                g.setStroke(colour);
            }
        }
    }

    private void bolt(GraphicsContext g, double edge, double y, double s) {
        g.setLineWidth(s * 0.1);
        if (state.lock() == LockMode.LOCKED) {
            g.strokeLine(edge - s * 0.16, y, edge + s * 0.2, y);
        } else if (state.lock() == LockMode.UNLOCKED) {
            g.strokeLine(edge + s * 0.14, y, edge + s * 0.26, y);
        } else if (state.lock() == LockMode.BLOCKED) {
            g.strokeLine(edge - s * 0.56, y, edge + s * 0.2, y);
            g.strokeLine(edge - s * 0.56, y + s * 0.16, edge + s * 0.2, y + s * 0.16);
        }
    }
}
