package org.custodia.desktop.alarm;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.function.BiConsumer;
import javafx.scene.canvas.Canvas;
import javafx.scene.canvas.GraphicsContext;
import javafx.scene.layout.Region;
import javafx.scene.text.Font;
import javafx.scene.text.Text;
import org.custodia.core.alarm.Figures;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.theme.Tokens;
import org.custodia.desktop.words.ClockWords;

/** The load over a period: the worst ten minutes in each slice of it, with what a person can bear drawn in. */
final class LoadPlot extends Region {
    private static final Texts TEXTS = Texts.of(LoadPlot.class);

    private final Desk desk;
    private final Theme theme;
    private final Canvas canvas = new Canvas(10, 10);
    private Figures figures = Figures.NONE;
    private Instant from = Instant.EPOCH;
    private Instant to = Instant.EPOCH.plusSeconds(600);
    private Duration slice = Figures.TEN;

    /**
     * @param chosen told of the beginning and the end of a slice that somebody pressed
     */
    LoadPlot(Desk desk, Theme theme, BiConsumer<Instant, Instant> chosen) {
        this.desk = desk;
        this.theme = theme;
        canvas.setManaged(false);
        getChildren().add(canvas);
        setMinHeight(theme.px(150));
        setPrefHeight(theme.px(170));
        setAccessibleText(TEXTS.say("load-plot"));
        setOnMouseClicked(e -> {
            long n = (long) ((e.getX() - left()) / Math.max(1, wide()) * slices());
            if (n >= 0 && n < slices()) {
                Instant begin = from.plus(slice.multipliedBy(n));
                chosen.accept(begin, begin.plus(slice));
            }
        });
    }

    /**
     * Shows a period.
     *
     * @param of what one bar stands for; whole ten minutes
     */
    void show(Figures now, Instant begin, Instant end, Duration of) {
        figures = now;
        from = begin;
        to = end;
        slice = of;
        draw();
    }

    @Override
    protected void layoutChildren() {
        canvas.setWidth(Math.max(10, getWidth()));
        canvas.setHeight(Math.max(10, getHeight()));
        draw();
    }

    private double left() {
        return theme.px(30);
    }

    private double wide() {
        return canvas.getWidth() - left();
    }

    private long slices() {
        long whole = Duration.between(from, to).dividedBy(slice);
        return Math.max(1, whole + (from.plus(slice.multipliedBy(whole)).isBefore(to) ? 1 : 0));
    }

    private void draw() {
        GraphicsContext g = canvas.getGraphicsContext2D();
        Tokens t = theme.now();
        g.clearRect(0, 0, canvas.getWidth(), canvas.getHeight());
        double low = canvas.getHeight() - theme.px(20);
        int most = Math.max(Figures.MOST_IN_TEN + 2, figures.worstTen() + 1);
        double unit = (low - theme.px(6)) / most;
        double wide = wide();
        g.setFont(Font.font("B612 Mono", theme.px(11)));
        for (int line : List.of((int) Figures.BEARABLE, Figures.MOST_IN_TEN)) {
            double y = Math.rint(low - line * unit);
            g.setFill(t.caution());
            for (double x = left(); x < canvas.getWidth(); x += 8) {
                g.fillRect(Math.rint(x), y, 4, 1);
            }
            g.setFill(t.muted());
            g.fillText(String.valueOf(line), 4, y + theme.px(4));
        }
        g.setFill(t.line());
        g.fillRect(left(), low, wide, 1);
        times(g, t, low);
        int per = (int) Math.max(1, slice.dividedBy(Figures.TEN));
        long count = slices();
        for (Map.Entry<Long, Integer> ten : figures.tens().entrySet()) {
            long n = ten.getKey() / per;
            double begin = Math.rint(left() + n * wide / count);
            double end = Math.max(begin + 2, Math.rint(left() + (n + 1) * wide / count) - 1);
            g.setFill(ten.getValue() > Figures.MOST_IN_TEN ? t.caution() : t.ink());
            double high = Math.max(2, ten.getValue() * unit);
            // Of several ten minutes in a slice the highest is what is seen.
            g.fillRect(begin, low - high, end - begin, high);
        }
    }

    private void times(GraphicsContext g, Tokens t, double low) {
        g.setFont(Font.font("B612", theme.px(12)));
        boolean day = Duration.between(from, to).toHours() <= 25;
        int days = (int) Math.max(1, Duration.between(from, to).toDays());
        int step = day ? 1 : Math.max(1, days / 7);
        Instant mark =
                from.atZone(desk.zone()).toLocalDate().atStartOfDay(desk.zone()).toInstant();
        int n = 0;
        while (mark.isBefore(to)) {
            if (!mark.isBefore(from) && (day || n % step == 0)) {
                double x = Math.rint(left()
                        + wide()
                                * Duration.between(from, mark).toMillis()
                                / Math.max(1, Duration.between(from, to).toMillis()));
                g.setFill(t.line());
                g.fillRect(x, 0, 1, low);
                String words = day ? ClockWords.minute(mark, desk.zone()) : Texts.day(mark, desk.zone());
                Text measure = new Text(words);
                measure.setFont(g.getFont());
                // Rather none than half of it.
                if (x + 4 + measure.getLayoutBounds().getWidth() <= canvas.getWidth()) {
                    g.setFill(t.muted());
                    g.fillText(words, x + 4, low + theme.px(15));
                }
            }
            n++;
            mark = day
                    ? mark.plus(Duration.ofHours(4))
                    : mark.atZone(desk.zone()).plusDays(1).toInstant();
        }
    }
}
