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
import org.custodia.desktop.theme.Theme;

/** The letters of the common time axis, over the strips. */
final class Ruler extends Region {
    private static final double HEIGHT = 22;

    private final Theme theme;
    private final Canvas canvas = new Canvas(10, HEIGHT);
    private List<Object> drawn = List.of();

    Ruler(Theme theme) {
        this.theme = theme;
        getStyleClass().add("ruler");
        getChildren().add(canvas);
        setMinHeight(HEIGHT);
        setMaxHeight(HEIGHT);
    }

    /**
     * @param laneWidth width of the lanes beneath, which begin at the door's side
     */
    void show(Instant end, Duration span, ZoneId zone, double laneWidth, boolean live) {
        double w = Math.max(1, getWidth());
        List<Object> wanted = List.of(
                end.toEpochMilli() * (long) Math.max(1, laneWidth) / span.toMillis(),
                span,
                zone,
                laneWidth,
                live,
                w,
                theme.now(),
                theme.scale());
        if (wanted.equals(drawn)) {
            return;
        }
        drawn = wanted;
        canvas.setWidth(w);
        GraphicsContext g = canvas.getGraphicsContext2D();
        g.clearRect(0, 0, w, HEIGHT);
        g.setTextBaseline(VPos.CENTER);
        g.setFont(theme.font(12.5));
        g.setFill(theme.now().muted());
        g.setTextAlign(TextAlignment.LEFT);
        g.fillText("Door", 14, HEIGHT / 2);
        g.setFont(theme.font(12.5));
        g.setTextAlign(TextAlignment.CENTER);
        TimeAxis axis = new TimeAxis(end, span, Math.max(1, laneWidth));
        for (TimeAxis.Line line : axis.lines(zone)) {
            double x = StripView.DOOR_WIDTH + line.x();
            if (line.x() > 30 && line.x() < laneWidth - 52) {
                g.fillText(line.label(), x, HEIGHT / 2);
            }
        }
        double edge = StripView.DOOR_WIDTH + laneWidth;
        g.setFill(theme.now().accent());
        g.setTextAlign(TextAlignment.LEFT);
        g.fillText(live ? "now" : EventWords.clock(end, zone), edge + 6, HEIGHT / 2);
        g.fillRect(edge - 1, 0, 2, HEIGHT);
    }
}
