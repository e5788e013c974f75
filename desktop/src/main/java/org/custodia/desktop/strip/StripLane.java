package org.custodia.desktop.strip;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import javafx.scene.canvas.Canvas;
import javafx.scene.canvas.GraphicsContext;
import javafx.scene.control.Label;
import javafx.scene.layout.Region;
import javafx.scene.text.TextAlignment;
import org.custodia.core.door.Opening;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Priority;
import org.custodia.desktop.Services;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Marks;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.theme.Tokens;
import org.custodia.desktop.words.ClockWords;
import org.custodia.desktop.words.EventWords;

/** The recent past of one door on the common time axis: ticks, stills on leaders, bars for the leaf standing open. */
public final class StripLane extends Region {
    private static final Texts TEXTS = Texts.of(StripLane.class);

    private final Services services;
    private final Theme theme;
    private final Consumer<StripItem> play;
    private final Canvas canvas = new Canvas(10, 10);
    private final Label empty = new Label();
    private final Map<EventKey, CardView> cards = new HashMap<>();
    private StripData data = StripData.LOADING;
    private Instant end = Instant.EPOCH;
    private Duration span = Duration.ofMinutes(10);
    private ZoneId zone = ZoneId.of("UTC");
    private Optional<String> notYet = Optional.empty();
    private List<StripItem> earlier = List.of();
    private Optional<Instant> playhead = Optional.empty();
    private StripSize size = StripSize.MIDDLE;
    private Drawn drawn;

    public StripLane(Services services, Theme theme, Consumer<StripItem> play) {
        this.services = services;
        this.theme = theme;
        this.play = play;
        empty.getStyleClass().addAll("muted", "lane-words");
        empty.setMouseTransparent(true);
        empty.setWrapText(true);
        // Where there are several lines their times stand under each other.
        empty.setTextAlignment(TextAlignment.LEFT);
        getChildren().addAll(canvas, empty);
    }

    /**
     * Draws what there is.
     *
     * @param newNotYet why something may be missing still
     * @param head the instant that is being played here, if any
     * @param newEarlier who came last before, where nothing is to be shown
     */
    public void show(
            StripData newData,
            Instant newEnd,
            Duration newSpan,
            ZoneId newZone,
            Optional<String> newNotYet,
            Optional<Instant> head,
            List<StripItem> newEarlier,
            StripSize newSize) {
        Drawn wanted = new Drawn(
                newData,
                pixel(newEnd, newSpan),
                newSpan,
                newZone,
                newNotYet,
                head,
                newEarlier,
                getWidth(),
                theme.now(),
                theme.scale(),
                newSize);
        if (wanted.equals(drawn)) {
            return;
        }
        drawn = wanted;
        data = newData;
        end = newEnd;
        span = newSpan;
        zone = newZone;
        notYet = newNotYet;
        playhead = head;
        earlier = newEarlier;
        size = newSize;
        draw();
    }

    /** Which pixel of all time the right edge stands on: nothing has moved while that is the same. */
    private long pixel(Instant edge, Duration length) {
        return edge.toEpochMilli() * (long) Math.max(1, getWidth()) / length.toMillis();
    }

    /** All that the drawing depends on; strip data are compared by identity, since each load makes new ones. */
    private record Drawn(
            StripData data,
            long pixel,
            Duration span,
            ZoneId zone,
            Optional<String> notYet,
            Optional<Instant> playhead,
            List<StripItem> earlier,
            double width,
            Tokens tokens,
            int scale,
            StripSize size) {
        @Override
        public boolean equals(Object other) {
            return other instanceof Drawn d
                    && d.data == data
                    && d.pixel == pixel
                    && d.span.equals(span)
                    && d.zone.equals(zone)
                    && d.notYet.equals(notYet)
                    && d.playhead.equals(playhead)
                    && d.earlier.equals(earlier)
                    && d.width == width
                    && d.tokens == tokens
                    && d.scale == scale
                    && d.size == size;
        }

        @Override
        public int hashCode() {
            return Long.hashCode(pixel);
        }
    }

    public TimeAxis axis() {
        return new TimeAxis(end, span, Math.max(1, getWidth()));
    }

    /** The cards from left to right. */
    public List<CardView> cards() {
        return cards.values().stream()
                .sorted(java.util.Comparator.comparingDouble(CardView::getLayoutX))
                .toList();
    }

    @Override
    protected double computeMinHeight(double width) {
        return theme.px(size.height());
    }

    @Override
    protected double computePrefHeight(double width) {
        return theme.px(size.height());
    }

    @Override
    protected double computeMaxHeight(double width) {
        return theme.px(size.height());
    }

    @Override
    protected void layoutChildren() {
        double w = Math.max(1, getWidth());
        double h = theme.px(size.height());
        if (canvas.getWidth() != w || canvas.getHeight() != h) {
            canvas.setWidth(w);
            canvas.setHeight(h);
            draw();
        }
        double room = Math.min(Math.max(1, w - 8), empty.prefWidth(-1));
        empty.resize(room, Math.min(h, empty.prefHeight(room)));
        empty.relocate((w - empty.getWidth()) / 2, (h - empty.getHeight()) / 2);
    }

    private void draw() {
        TimeAxis axis = axis();
        GraphicsContext g = canvas.getGraphicsContext2D();
        Tokens t = theme.now();
        double w = canvas.getWidth();
        double h = theme.px(size.height());
        g.clearRect(0, 0, w, h);
        g.setStroke(t.line().deriveColor(0, 1, 1, 0.6));
        g.setLineWidth(1);
        for (TimeAxis.Line line : axis.lines(zone)) {
            double x = Math.round(line.x()) + 0.5;
            g.strokeLine(x, 0, x, h);
        }
        bars(g, axis, t);
        List<StripLayout.Card> placed = StripLayout.place(data.items(), axis, theme.px(size.card()));
        ticks(g, axis, t, placed);
        playhead.ifPresent(at -> {
            double x = axis.x(at);
            g.setStroke(t.accent());
            g.setLineWidth(2);
            g.strokeLine(x, 0, x, h);
        });
        place(placed);
        boolean nothing = data.isEmpty();
        String whyNothing = notYet.isPresent() ? EventWords.capital(notYet.get()) : nothingIn();
        empty.setText(
                data.failure().isPresent()
                        ? data.failure().get()
                        : data.loading() ? TEXTS.say("loading") : nothing ? whyNothing : "");
        empty.setVisible(!empty.getText().isEmpty());
        requestLayout();
    }

    /** That nothing happened, and who came last before that. */
    private String nothingIn() {
        String nothing = TEXTS.say("nothing-in", TimeAxis.words(span));
        if (earlier.isEmpty() || !size.roomy()) {
            return nothing;
        }
        return Stream.concat(
                        Stream.of(TEXTS.say("nothing-before", nothing)),
                        earlier.stream()
                                .map(i -> TEXTS.say(
                                        "earlier-one",
                                        ClockWords.dated(i.at(), end, zone),
                                        EventWords.capital(i.who()),
                                        i.result())))
                .collect(Collectors.joining("\n"));
    }

    private void bars(GraphicsContext g, TimeAxis axis, Tokens t) {
        double top = theme.px(size.barTop());
        double high = theme.px(size.bar());
        for (Opening o : data.openings()) {
            double from = Math.max(0, axis.x(o.start()));
            double to = o.end().map(axis::x).orElse(axis.width());
            if (to < 0 || from > axis.width()) {
                continue;
            }
            double width = Math.max(3, Math.min(axis.width(), to) - from);
            g.setFill(o.forced() ? t.urgent() : t.bar());
            g.fillRect(from, top, width, high);
            if (!o.forced() && o.heldAt().isPresent()) {
                double held = Math.max(from, axis.x(o.heldAt().get()));
                g.setFill(t.caution());
                g.fillRect(held, top, Math.max(3, from + width - held), high);
                Marks.draw(
                        g, Priority.CAUTION, Math.max(6, Math.min(axis.width() - 7, held)), top - high, theme.px(6), t);
            }
            if (o.forced()) {
                Marks.draw(
                        g, Priority.URGENT, Math.max(7, Math.min(axis.width() - 8, from)), top - high, theme.px(7), t);
            }
        }
    }

    private void ticks(GraphicsContext g, TimeAxis axis, Tokens t, List<StripLayout.Card> placed) {
        double top = theme.px(size.barTop());
        double high = theme.px(size.bar());
        g.setLineWidth(1);
        g.setStroke(t.faint());
        for (StripLayout.Card card : placed) {
            g.strokeLine(
                    card.x() + theme.px(StripLayout.stillMiddle(size.card())),
                    theme.px(size.cardHeight()) + 1,
                    card.tickX(),
                    top - theme.px(size.roomy() ? 6 : 1));
        }
        for (StripItem item : data.items()) {
            double x = Math.min(axis.width() - 1, axis.x(item.at()));
            if (x < 0) {
                continue;
            }
            g.setStroke(item.still() ? t.ink() : t.muted());
            g.setLineWidth(item.still() ? 2 : 1);
            g.strokeLine(x, top - (item.still() && size.roomy() ? 7 : 2), x, top + high);
            if (item.priority() == Priority.NOTE) {
                Marks.draw(g, Priority.NOTE, x, top - high, theme.px(6), t);
            }
        }
    }

    private void place(List<StripLayout.Card> placed) {
        Map<EventKey, CardView> kept = new HashMap<>();
        List<javafx.scene.Node> fresh = new ArrayList<>();
        for (StripLayout.Card card : placed) {
            EventKey key = card.face().event().key();
            CardView view = cards.remove(key);
            if (view == null) {
                view = new CardView(services, theme, play);
                fresh.add(view);
            }
            view.show(card, zone, size);
            view.resize(theme.px(size.card()) - 4, theme.px(size.cardHeight()));
            view.relocate(Math.round(card.x()), 1);
            kept.put(key, view);
        }
        getChildren().removeAll(cards.values());
        getChildren().addAll(fresh);
        cards.clear();
        cards.putAll(kept);
    }
}
