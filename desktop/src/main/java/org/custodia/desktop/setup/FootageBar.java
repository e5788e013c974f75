package org.custodia.desktop.setup;

import java.time.Duration;
import java.time.Instant;
import javafx.scene.canvas.Canvas;
import javafx.scene.canvas.GraphicsContext;
import javafx.scene.layout.Region;
import org.custodia.core.footage.Footage;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.theme.Tokens;

/** What is kept of one camera, over the days that any camera keeps: a band with its gaps. */
final class FootageBar extends Region {
    private static final double LEAST = 5;

    private final Theme theme;
    private final Canvas canvas = new Canvas(10, 10);
    private Footage footage;
    private Instant from = Instant.EPOCH;
    private Instant to = Instant.EPOCH.plusSeconds(1);

    FootageBar(Theme theme) {
        this.theme = theme;
        canvas.setManaged(false);
        getChildren().add(canvas);
        setMinHeight(theme.px(22));
        setPrefHeight(theme.px(22));
        setMinWidth(theme.px(160));
    }

    /**
     * Shows it.
     *
     * @param left the oldest that any camera has
     * @param right now
     */
    void show(Footage now, Instant left, Instant right) {
        footage = now;
        from = left;
        to = right.isAfter(left) ? right : left.plusSeconds(1);
        draw();
    }

    @Override
    protected void layoutChildren() {
        canvas.setWidth(Math.max(10, getWidth()));
        canvas.setHeight(Math.max(10, getHeight()));
        draw();
    }

    private double x(Instant at) {
        double share = (double) Duration.between(from, at).toMillis()
                / Duration.between(from, to).toMillis();
        return Math.max(0, Math.min(1, share)) * canvas.getWidth();
    }

    private void draw() {
        GraphicsContext g = canvas.getGraphicsContext2D();
        Tokens t = theme.now();
        double h = canvas.getHeight();
        g.clearRect(0, 0, canvas.getWidth(), h);
        g.setFill(t.line());
        g.fillRect(0, Math.rint(h / 2), canvas.getWidth(), 1);
        if (footage == null) {
            return;
        }
        Instant end = footage.lostSince().orElse(to.minus(footage.readyAfter()));
        double left = x(footage.keptFrom());
        g.setFill(t.muted());
        g.fillRect(left, h / 2 - 5, Math.max(1, x(end) - left), 10);
        for (Footage.Missing gap : footage.missing()) {
            gap(g, t, x(gap.from()), x(gap.to()));
        }
        footage.lostSince().ifPresent(since -> gap(g, t, x(since), canvas.getWidth()));
    }

    /** However short a gap is, it is to be seen. */
    private void gap(GraphicsContext g, Tokens t, double begin, double end) {
        double h = canvas.getHeight();
        double wide = Math.max(LEAST, end - begin);
        double left = Math.min(begin, canvas.getWidth() - wide);
        g.setFill(t.ground());
        g.fillRect(left, h / 2 - 5, wide, 10);
        g.setFill(t.caution());
        g.fillRect(left, h / 2 - 2, wide, 4);
    }
}
