package org.custodia.desktop.theme;

import javafx.scene.canvas.GraphicsContext;
import javafx.scene.paint.Color;
import org.custodia.core.event.Priority;

/** The shape of each priority, the same wherever it is drawn. */
public final class Marks {
    private Marks() {}

    /** Its colour in a theme. */
    public static Color colour(Priority priority, Tokens t) {
        return switch (priority) {
            case URGENT -> t.urgent();
            case CAUTION -> t.caution();
            case LOW, NOTE -> t.ink();
            case NONE -> t.muted();
        };
    }

    /** Draws it around a middle. */
    public static void draw(GraphicsContext g, Priority priority, double x, double y, double r, Tokens t) {
        Color colour = colour(priority, t);
        g.setFill(colour);
        g.setStroke(colour);
        g.setLineWidth(1.6);
        switch (priority) {
            case URGENT -> {
                double[] xs = new double[6];
                double[] ys = new double[6];
                for (int i = 0; i < 6; i++) {
                    xs[i] = x + r * Math.sin(i * Math.PI / 3);
                    ys[i] = y - r * Math.cos(i * Math.PI / 3);
                }
                g.fillPolygon(xs, ys, 6);
            }
            case CAUTION ->
                g.fillPolygon(new double[] {x, x + r, x - r}, new double[] {y - r * 0.9, y + r * 0.8, y + r * 0.8}, 3);
            case LOW -> g.strokeOval(x - r * 0.8, y - r * 0.8, r * 1.6, r * 1.6);
            case NOTE ->
                g.strokePolygon(
                        new double[] {x, x + r * 0.85, x, x - r * 0.85},
                        new double[] {y - r * 0.85, y, y + r * 0.85, y},
                        4);
            case NONE -> {}
        }
    }
}
