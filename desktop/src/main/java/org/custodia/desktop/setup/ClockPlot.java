package org.custodia.desktop.setup;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import javafx.geometry.VPos;
import javafx.scene.canvas.Canvas;
import javafx.scene.canvas.GraphicsContext;
import javafx.scene.layout.Region;
import javafx.scene.text.TextAlignment;
import org.custodia.core.footage.ClockBook.Estimate;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.theme.Tokens;
import org.custodia.desktop.words.ClockWords;

/** How far a clock was ahead over a day: a line with its uncertainty, between the lines of what is allowed. */
final class ClockPlot extends Region {
    /** What it shows. */
    static final Duration SPAN = Duration.ofHours(24);

    private static final Texts TEXTS = Texts.of(ClockPlot.class);
    private static final double LEFT = 52;
    private static final double BELOW = 16;
    /** A step larger than this was no drift: somebody set it. */
    private static final Duration SET = Duration.ofMillis(500);

    private final Theme theme;
    private final Canvas canvas = new Canvas(10, 10);
    private List<Estimate> course = List.of();
    private Duration limit = Duration.ofSeconds(1);
    private Instant now = Instant.EPOCH;
    private ZoneId zone = java.time.ZoneOffset.UTC;

    ClockPlot(Theme theme) {
        this.theme = theme;
        getChildren().add(canvas);
        setMinHeight(theme.px(74));
        setPrefHeight(theme.px(74));
        setMinWidth(theme.px(220));
        canvas.setManaged(false);
    }

    /** Shows what is known now. */
    void show(List<Estimate> some, Duration allowed, Instant until, ZoneId inZone) {
        course = some;
        limit = allowed;
        now = until;
        zone = inZone;
        draw();
    }

    @Override
    protected void layoutChildren() {
        canvas.setWidth(Math.max(10, getWidth()));
        canvas.setHeight(Math.max(10, getHeight()));
        draw();
    }

    private double x(Instant at, double left) {
        double share = 1 - (double) Duration.between(at, now).toMillis() / SPAN.toMillis();
        return left + Math.max(0, share) * (canvas.getWidth() - left - 2);
    }

    private void draw() {
        GraphicsContext g = canvas.getGraphicsContext2D();
        Tokens t = theme.now();
        double left = theme.px(LEFT);
        double w = canvas.getWidth();
        double h = canvas.getHeight() - theme.px(BELOW);
        g.clearRect(0, 0, w, canvas.getHeight());
        g.setFont(theme.font(12));
        double most = limit.toMillis();
        for (Estimate e : course) {
            most = Math.max(
                    most, Math.abs(e.ahead().toMillis()) + e.uncertainty().toMillis());
        }
        double scale = (h / 2 - 3) / (most * 1.1);
        double middle = h / 2;
        g.setStroke(t.line());
        g.setLineWidth(1);
        g.strokeLine(left, Math.rint(middle) + 0.5, w, Math.rint(middle) + 0.5);
        g.setStroke(t.caution());
        g.setLineDashes(4, 4);
        for (int side : new int[] {-1, 1}) {
            double y = Math.rint(middle + side * limit.toMillis() * scale) + 0.5;
            g.strokeLine(left, y, w, y);
        }
        g.setLineDashes();
        g.setFill(t.muted());
        g.setTextAlign(TextAlignment.RIGHT);
        g.setTextBaseline(VPos.CENTER);
        double at = limit.toMillis() * scale;
        g.fillText(TEXTS.say("plus-seconds", limit.toMillis() / 1_000.0), left - 6, middle - at);
        g.fillText("0", left - 6, middle);
        g.fillText(TEXTS.say("minus-seconds", limit.toMillis() / 1_000.0), left - 6, middle + at);
        g.setTextBaseline(VPos.BOTTOM);
        g.setTextAlign(TextAlignment.LEFT);
        g.fillText(ClockWords.dated(now.minus(SPAN), now, zone), left, canvas.getHeight());
        g.setTextAlign(TextAlignment.RIGHT);
        g.fillText(ClockWords.minute(now, zone), w - 2, canvas.getHeight());
        line(g, t, left, middle, scale);
    }

    private void line(GraphicsContext g, Tokens t, double left, double middle, double scale) {
        g.setStroke(t.ink());
        double lastX = Double.NaN;
        double lastY = Double.NaN;
        Estimate last = null;
        for (Estimate e : course) {
            double x = x(e.at(), left);
            double y = middle - e.ahead().toMillis() * scale;
            double unsure = e.uncertainty().toMillis() * scale;
            g.setLineWidth(1);
            g.setGlobalAlpha(0.5);
            g.strokeLine(x, y - unsure, x, y + unsure);
            g.setGlobalAlpha(1);
            g.setLineWidth(2);
            if (last == null) {
                g.strokeLine(x, y, x + 1, y);
            } else if (e.ahead().minus(last.ahead()).abs().compareTo(SET) > 0) {
                g.strokeLine(lastX, lastY, x, lastY);
                g.strokeLine(x, lastY, x, y);
            } else {
                g.strokeLine(lastX, lastY, x, y);
            }
            lastX = x;
            lastY = y;
            last = e;
        }
    }
}
