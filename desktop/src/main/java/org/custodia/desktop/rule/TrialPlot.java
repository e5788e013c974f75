package org.custodia.desktop.rule;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.function.Consumer;
import javafx.scene.canvas.Canvas;
import javafx.scene.canvas.GraphicsContext;
import javafx.scene.layout.Region;
import javafx.scene.paint.Color;
import javafx.scene.text.Font;
import org.custodia.core.alarm.RuleTrial;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.theme.Tokens;

/** When a rule would have called, over the days it was tried on: as many as there were in each two hours. */
final class TrialPlot extends Region {
    private static final Duration SLICE = Duration.ofHours(2);

    private final Theme theme;
    private final Desk desk;
    private final Canvas canvas = new Canvas(10, 10);
    private Optional<RuleTrial> trial = Optional.empty();
    private Optional<RuleTrial> other = Optional.empty();

    /**
     * @param chosen told of an instant that somebody pressed at
     */
    TrialPlot(Desk desk, Theme theme, Consumer<Instant> chosen) {
        this.desk = desk;
        this.theme = theme;
        canvas.setManaged(false);
        getChildren().add(canvas);
        setMinHeight(theme.px(96));
        setPrefHeight(theme.px(96));
        setAccessibleText(Texts.of(TrialPlot.class).say("plot"));
        setOnMouseClicked(e -> trial.ifPresent(t -> {
            double share = Math.max(0, Math.min(1, e.getX() / Math.max(1, canvas.getWidth())));
            chosen.accept(t.from().plusMillis((long)
                    (share * Duration.between(t.from(), t.to()).toMillis())));
        }));
    }

    void show(RuleTrial now, Optional<RuleTrial> compared) {
        trial = Optional.of(now);
        other = compared;
        draw();
    }

    @Override
    protected void layoutChildren() {
        canvas.setWidth(Math.max(10, getWidth()));
        canvas.setHeight(Math.max(10, getHeight()));
        draw();
    }

    private static int[] slices(RuleTrial t) {
        int[] counts =
                new int[(int) Math.max(1, Duration.between(t.from(), t.to()).dividedBy(SLICE) + 1)];
        for (RuleTrial.Called c : t.called()) {
            int i = (int) Duration.between(t.from(), c.at()).dividedBy(SLICE);
            counts[Math.max(0, Math.min(counts.length - 1, i))]++;
        }
        return counts;
    }

    private void draw() {
        GraphicsContext g = canvas.getGraphicsContext2D();
        Tokens t = theme.now();
        double w = canvas.getWidth();
        double h = canvas.getHeight();
        g.clearRect(0, 0, w, h);
        if (trial.isEmpty()) {
            return;
        }
        RuleTrial now = trial.get();
        double low = h - theme.px(18);
        int[] mine = slices(now);
        int[] others = other.map(TrialPlot::slices).orElse(new int[0]);
        int most = 4;
        for (int[] counts : List.of(mine, others)) {
            for (int n : counts) {
                most = Math.max(most, n);
            }
        }
        days(g, t, now, low);
        bars(g, others, t.faint(), low, most, true);
        bars(g, mine, t.ink(), low, most, false);
        g.setFill(t.line());
        g.fillRect(0, low, w, 1);
        g.setFill(t.muted());
        g.setFont(Font.font("B612 Mono", theme.px(11)));
        g.fillText(String.valueOf(most), 2, theme.px(11));
    }

    private void days(GraphicsContext g, Tokens t, RuleTrial now, double low) {
        g.setFont(Font.font("B612", theme.px(12)));
        Instant day = now.from()
                .atZone(desk.zone())
                .toLocalDate()
                .plusDays(1)
                .atStartOfDay(desk.zone())
                .toInstant();
        while (day.isBefore(now.to())) {
            double x = Math.rint(x(now, day));
            g.setFill(t.line());
            g.fillRect(x, 0, 1, low);
            g.setFill(t.muted());
            g.fillText(Texts.weekday(day, desk.zone()), x + 4, low + theme.px(14));
            day = day.atZone(desk.zone()).plusDays(1).toInstant();
        }
    }

    private double x(RuleTrial now, Instant at) {
        return canvas.getWidth()
                * Duration.between(now.from(), at).toMillis()
                / Duration.between(now.from(), now.to()).toMillis();
    }

    private void bars(GraphicsContext g, int[] counts, Color colour, double low, int most, boolean hollow) {
        double wide = canvas.getWidth() / Math.max(1, counts.length);
        g.setFill(colour);
        g.setStroke(colour);
        for (int i = 0; i < counts.length; i++) {
            if (counts[i] > 0) {
                double high = Math.max(3, (low - theme.px(14)) * counts[i] / most);
                double left = Math.rint(i * wide) + 1;
                double width = Math.max(2, Math.rint((i + 1) * wide) - left - 1);
                if (hollow) {
                    g.strokeRect(left + 0.5, low - high + 0.5, width - 1, high - 1);
                } else {
                    g.fillRect(left, low - high, width, high);
                }
            }
        }
    }
}
