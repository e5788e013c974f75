package org.custodia.desktop.watch;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import javafx.geometry.VPos;
import javafx.scene.canvas.Canvas;
import javafx.scene.canvas.GraphicsContext;
import javafx.scene.layout.Region;
import javafx.scene.text.TextAlignment;
import org.custodia.desktop.strip.TimeAxis;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;

/** The letters of the common time axis, over the strips. */
final class Ruler extends Region {
    private static final Texts TEXTS = Texts.of(Ruler.class);

    private static final double HEIGHT = 22;

    private final Theme theme;
    private final Canvas canvas = new Canvas(10, 10);
    private List<Object> drawn = List.of();

    Ruler(Theme theme) {
        this.theme = theme;
        getStyleClass().add("ruler");
        getChildren().add(canvas);
    }

    @Override
    protected double computePrefHeight(double width) {
        return theme.px(HEIGHT);
    }

    @Override
    protected double computeMinHeight(double width) {
        return theme.px(HEIGHT);
    }

    /**
     * @param doorWidth width of the doors' sides
     * @param laneWidth width of the lanes beneath, which begin at the door's side
     */
    void show(Instant end, Duration span, ZoneId zone, double doorWidth, double laneWidth, boolean live) {
        double w = Math.max(1, getWidth());
        List<Object> wanted = List.of(
                end.toEpochMilli() * (long) Math.max(1, laneWidth) / span.toMillis(),
                span,
                zone,
                doorWidth,
                laneWidth,
                live,
                w,
                theme.now(),
                theme.scale());
        if (wanted.equals(drawn)) {
            return;
        }
        drawn = wanted;
        double h = theme.px(HEIGHT);
        canvas.setWidth(w);
        if (canvas.getHeight() != h) {
            canvas.setHeight(h);
            requestLayout();
        }
        GraphicsContext g = canvas.getGraphicsContext2D();
        g.clearRect(0, 0, w, h);
        g.setTextBaseline(VPos.CENTER);
        g.setFont(theme.font(12.5));
        g.setFill(theme.now().muted());
        g.setTextAlign(TextAlignment.LEFT);
        g.fillText(TEXTS.say("door"), 14, h / 2);
        g.setFont(theme.font(12.5));
        g.setTextAlign(TextAlignment.CENTER);
        TimeAxis axis = new TimeAxis(end, span, Math.max(1, laneWidth));
        for (TimeAxis.Line line : axis.lines(zone)) {
            double x = doorWidth + line.x();
            if (line.x() > theme.px(30) && line.x() < laneWidth - theme.px(52)) {
                g.fillText(line.label(), x, h / 2);
            }
        }
        double edge = doorWidth + laneWidth;
        g.setFill(theme.now().accent());
        g.setTextAlign(TextAlignment.LEFT);
        g.fillText(live ? TEXTS.say("now") : ClockWords.clock(end, zone), edge + 6, h / 2);
        g.fillRect(edge - 1, 0, 2, h);
    }
}
