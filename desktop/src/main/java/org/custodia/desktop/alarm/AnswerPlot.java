package org.custodia.desktop.alarm;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.function.Consumer;
import javafx.scene.canvas.Canvas;
import javafx.scene.canvas.GraphicsContext;
import javafx.scene.layout.Region;
import javafx.scene.text.Font;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.alarm.Figures;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.theme.Tokens;

/** How long each alarm of a period waited until somebody had seen it, a dot each, on a scale from a second to a day. */
final class AnswerPlot extends Region {
    private static final Texts TEXTS = Texts.of(AnswerPlot.class);
    private static final List<Duration> LINES =
            List.of(Duration.ofSeconds(10), Duration.ofMinutes(1), Duration.ofMinutes(10), Duration.ofHours(1));
    private static final double LONGEST = Math.log(86_400);
    private static final double DOT = 3;

    private final Theme theme;
    private final Canvas canvas = new Canvas(10, 10);
    private final List<Dot> dots = new ArrayList<>();
    private List<Alarm> alarms = List.of();
    private Figures figures = Figures.NONE;
    private Instant from = Instant.EPOCH;
    private Instant to = Instant.EPOCH.plusSeconds(600);

    private record Dot(Alarm alarm, double x, double y) {}

    /**
     * @param chosen told of an alarm that somebody pressed
     */
    AnswerPlot(Theme theme, Consumer<Alarm> chosen) {
        this.theme = theme;
        canvas.setManaged(false);
        getChildren().add(canvas);
        setMinHeight(theme.px(120));
        setPrefHeight(theme.px(130));
        setAccessibleText(TEXTS.say("answer-plot"));
        setOnMouseClicked(e -> dots.stream()
                .min(Comparator.comparingDouble(d -> Math.hypot(d.x() - e.getX(), d.y() - e.getY())))
                .filter(d -> Math.hypot(d.x() - e.getX(), d.y() - e.getY()) < 24)
                .ifPresent(d -> chosen.accept(d.alarm())));
    }

    void show(List<Alarm> all, Figures now, Instant begin, Instant end) {
        alarms = all;
        figures = now;
        from = begin;
        to = end;
        draw();
    }

    @Override
    protected void layoutChildren() {
        canvas.setWidth(Math.max(10, getWidth()));
        canvas.setHeight(Math.max(10, getHeight()));
        draw();
    }

    private double y(Duration d, double low) {
        double share = Math.log(Math.max(1, d.toMillis() / 1_000.0)) / LONGEST;
        return low - Math.min(1, share) * (low - theme.px(8));
    }

    private void draw() {
        GraphicsContext g = canvas.getGraphicsContext2D();
        Tokens t = theme.now();
        double w = canvas.getWidth();
        double low = canvas.getHeight() - theme.px(6);
        double left = theme.px(44);
        g.clearRect(0, 0, w, canvas.getHeight());
        g.setFont(Font.font("B612", theme.px(11)));
        for (Duration line : LINES) {
            double y = Math.rint(y(line, low));
            g.setFill(t.line());
            g.fillRect(left, y, w - left, 1);
            g.setFill(t.muted());
            g.fillText(
                    TEXTS.say(
                            line.toMinutes() < 1
                                    ? "short-seconds"
                                    : line.toMinutes() < 60 ? "short-minutes" : "short-hours",
                            line.toMinutes() < 1
                                    ? line.toSeconds()
                                    : line.toMinutes() < 60 ? line.toMinutes() : line.toHours()),
                    0,
                    y + theme.px(4));
        }
        figures.seen().ifPresent(d -> {
            g.setFill(t.muted());
            g.fillRect(left, Math.rint(y(d, low)), w - left, 2);
        });
        dots.clear();
        double span = Math.max(1, Duration.between(from, to).toMillis());
        for (Alarm alarm : alarms) {
            for (Alarm.Answer answer : alarm.answers()) {
                double since = Duration.between(from, answer.since()).toMillis();
                dots.add(new Dot(alarm, left + (w - left) * since / span, y(answer.waited(), low)));
            }
        }
        g.setFill(t.ink());
        dots.forEach(d -> g.fillOval(d.x() - DOT, d.y() - DOT, 2 * DOT, 2 * DOT));
    }
}
