package org.custodia.desktop.watch;

import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;
import javafx.geometry.Pos;
import javafx.geometry.VPos;
import javafx.scene.Cursor;
import javafx.scene.canvas.Canvas;
import javafx.scene.canvas.GraphicsContext;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.input.KeyCode;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import javafx.scene.text.TextAlignment;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.EventField;
import org.custodia.core.event.EventLog.Slice;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Filter;
import org.custodia.core.event.Kinds;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Marks;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.theme.Tokens;

/** The day as bars of how much went on, with the marker that sets the moment. */
final class DayLine extends VBox {
    private static final Texts TEXTS = Texts.of(DayLine.class);

    private static final Duration SLICE = Duration.ofMinutes(6);
    private static final double HEIGHT = 46;
    private static final double BASE = 30;
    /** Room that an hour's letters need. */
    private static final double MOST_LETTERS = 44;

    private final Desk desk;
    private final Theme theme;
    private final Canvas canvas = new Canvas(100, 10);
    private final Region holder = new Region();
    private final Label title = new Label();
    private final Label hint = new Label(TEXTS.say("drag"));
    private final Button earlier = new Button("‹");
    private final Button later = new Button("›");
    private LocalDate day;
    private Map<Integer, Slice> slices = Map.of();
    private Instant loadedAt = Instant.MIN;
    private boolean loading = true;
    private boolean readsHistory;
    private String failure = "";
    private List<Object> drawn = List.of();

    DayLine(Desk desk, Theme theme) {
        this.desk = desk;
        this.theme = theme;
        getStyleClass().add("day-line");
        title.getStyleClass().add("strong");
        hint.getStyleClass().add("secondary");
        Region gap = new Region();
        HBox.setHgrow(gap, Priority.ALWAYS);
        Label key = new Label(TEXTS.say("home-key"));
        key.getStyleClass().add("key");
        Label now = new Label(TEXTS.say("to-now"));
        now.getStyleClass().add("secondary");
        for (Button b : new Button[] {earlier, later}) {
            b.getStyleClass().add("quiet");
            b.setStyle("-fx-min-height: 1.5em; -fx-padding: 0 7 0 7;");
        }
        earlier.setAccessibleText(TEXTS.say("day-before"));
        later.setAccessibleText(TEXTS.say("day-after"));
        earlier.setOnAction(e -> turn(-1));
        later.setOnAction(e -> turn(1));
        for (Region fixed : List.of(title, key, now)) {
            fixed.setMinWidth(Region.USE_PREF_SIZE);
        }
        hint.setMinWidth(0);
        HBox head = new HBox(6, earlier, title, later, gap, hint, key, now);
        head.setAlignment(Pos.CENTER_LEFT);
        javafx.scene.layout.StackPane area = new javafx.scene.layout.StackPane(holder, canvas);
        area.setAlignment(Pos.TOP_LEFT);
        area.setMinWidth(0);
        area.setFocusTraversable(true);
        area.setAccessibleText(TEXTS.say("day-line"));
        getChildren().addAll(head, area);
        canvas.setManaged(false);
        canvas.setCursor(Cursor.H_RESIZE);
        canvas.setOnMousePressed(e -> {
            area.requestFocus();
            moveTo(e.getX());
        });
        canvas.setOnMouseDragged(e -> moveTo(e.getX()));
        area.setOnKeyPressed(e -> {
            Duration by = Duration.ofSeconds(e.isShiftDown() ? 600 : e.isAltDown() ? 1 : 30);
            if (e.getCode() == KeyCode.LEFT) {
                desk.lookBack(desk.shown().minus(by));
                e.consume();
            } else if (e.getCode() == KeyCode.RIGHT) {
                desk.lookBack(desk.shown().plus(by));
                e.consume();
            }
        });
        area.widthProperty().addListener((o, a, w) -> {
            canvas.setWidth(Math.max(10, w.doubleValue()));
            draw();
        });
    }

    private ZoneId zone() {
        return desk.zone();
    }

    private Instant dayStart() {
        return day.atStartOfDay(zone()).toInstant();
    }

    private Instant dayEnd() {
        return day.plusDays(1).atStartOfDay(zone()).toInstant();
    }

    private void turn(int days) {
        Instant to = desk.shown().atZone(zone()).plusDays(days).toInstant();
        desk.lookBack(to);
    }

    private void moveTo(double x) {
        double share = Math.max(0, Math.min(1, x / canvas.getWidth()));
        long length = Duration.between(dayStart(), dayEnd()).toMillis();
        desk.lookBack(dayStart().plusMillis((long) (share * length)));
    }

    private double x(Instant t) {
        long length = Duration.between(dayStart(), dayEnd()).toMillis();
        return canvas.getWidth() * Duration.between(dayStart(), t).toMillis() / length;
    }

    /** Brings it up to date. */
    void tick() {
        LocalDate wanted = desk.shown().atZone(zone()).toLocalDate();
        Instant now = desk.now();
        boolean stale = Duration.between(loadedAt, now).compareTo(Duration.ofSeconds(20)) > 0;
        if (desk.readsHistory() != readsHistory) {
            readsHistory = !readsHistory;
            hint.setText(TEXTS.say(readsHistory ? "reads-history" : "drag"));
            stale = true;
        }
        if (!wanted.equals(day)) {
            day = wanted;
            slices = Map.of();
            loading = true;
            stale = true;
        }
        if (stale || loadedAt.equals(Instant.MIN)) {
            loadedAt = now;
            load();
        }
        boolean today = day.equals(now.atZone(zone()).toLocalDate());
        title.setText(TEXTS.say("day-all-doors", today ? TEXTS.say("today") : Texts.longDay(day)));
        later.setDisable(today);
        draw();
    }

    private void load() {
        LocalDate asked = day;
        // Nothing has happened when a system says how its doors stand.
        EventQuery happened = EventQuery.all()
                .between(dayStart(), dayEnd())
                .where(Filter.not(Filter.is(EventField.KIND, Kinds.REPORT)));
        desk.work()
                .latest(
                        this,
                        () -> desk.services().log().slices(happened, SLICE, new Cancellation()),
                        found -> {
                            if (asked.equals(day)) {
                                slices = found;
                                loading = false;
                                failure = "";
                                draw();
                            }
                        },
                        why -> failure = why);
    }

    private void draw() {
        if (day == null) {
            return;
        }
        GraphicsContext g = canvas.getGraphicsContext2D();
        Tokens t = theme.now();
        double w = canvas.getWidth();
        List<Object> wanted = List.of(
                day,
                System.identityHashCode(slices),
                loading,
                failure,
                w,
                t,
                theme.scale(),
                Math.round(x(desk.shown())));
        if (wanted.equals(drawn)) {
            return;
        }
        drawn = wanted;
        double base = theme.px(BASE);
        holder.setMinHeight(theme.px(HEIGHT));
        canvas.setHeight(theme.px(HEIGHT));
        g.clearRect(0, 0, w, theme.px(HEIGHT));
        int count = (int) (Duration.between(dayStart(), dayEnd()).toMillis() / SLICE.toMillis());
        int most = slices.values().stream().mapToInt(Slice::events).max().orElse(1);
        double step = w / count;
        for (int i = 0; i < count; i++) {
            Slice slice = slices.get(i);
            if (slice != null) {
                double h = Math.max(1.5, (base - theme.px(11)) * Math.sqrt(slice.events() / (double) most));
                g.setFill(t.bar());
                g.fillRect(i * step, base - h, Math.max(1, step - 1), h);
            }
        }
        double lastX = -20;
        for (int i = 0; i < count; i++) {
            Slice slice = slices.get(i);
            if (slice != null && slice.worst().compareTo(org.custodia.core.event.Priority.CAUTION) >= 0) {
                boolean urgent = slice.worst() == org.custodia.core.event.Priority.URGENT;
                double x = (i + 0.5) * step;
                if (urgent || x - lastX > 9) {
                    Marks.draw(g, slice.worst(), x, theme.px(6), theme.px(urgent ? 5 : 4), t);
                    lastX = x;
                }
            }
        }
        g.setStroke(t.line());
        g.strokeLine(0, base + 0.5, w, base + 0.5);
        g.setFont(theme.font(12));
        g.setFill(t.muted());
        g.setTextAlign(TextAlignment.CENTER);
        g.setTextBaseline(VPos.CENTER);
        int every = w / 12 > theme.px(MOST_LETTERS) ? 2 : w / 6 > theme.px(MOST_LETTERS) ? 4 : 6;
        for (int hour = every; hour < 24; hour += every) {
            double x = x(day.atTime(hour, 0).atZone(zone()).toInstant());
            g.strokeLine(x, base, x, base + 3);
            g.fillText(String.format("%02d:00", hour), x, base + theme.px(10));
        }
        if (!failure.isEmpty() || loading) {
            g.setTextAlign(TextAlignment.LEFT);
            g.setFont(theme.font(12.5));
            g.fillText(failure.isEmpty() ? TEXTS.say("loading") : failure, 6, theme.px(12));
        }
        double x = x(desk.shown());
        g.setFill(t.accent());
        g.fillRect(x - 1.5, 0, 3, base + 2);
        g.fillPolygon(new double[] {x - 7, x + 7, x}, new double[] {0, 0, 9}, 3);
    }
}
