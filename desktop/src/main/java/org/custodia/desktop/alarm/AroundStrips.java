package org.custodia.desktop.alarm;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.BiConsumer;
import java.util.stream.Collectors;
import javafx.scene.control.Label;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.door.Opening;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventQuery;
import org.custodia.core.site.DoorId;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.strip.StripData;
import org.custodia.desktop.strip.StripLane;
import org.custodia.desktop.strip.StripMaker;
import org.custodia.desktop.strip.StripSize;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;

/**
 * What happened at a door and at those next to it around an instant, each in a line, with the instant marked. What is still to
 * come is read again and again until it is there.
 */
final class AroundStrips extends VBox {
    /** As much before the instant, and after it. */
    static final Duration SIDE = Duration.ofMinutes(2);

    private static final Duration EVERY = Duration.ofSeconds(2);
    /** What is late comes within this, most of the time. */
    private static final Duration LATE = Duration.ofSeconds(30);

    private static final double NAMES = 150;
    private static final int MOST_EVENTS = 2_000;

    private final Desk desk;
    private final Theme theme;
    private final BiConsumer<DoorId, Instant> play;
    private final Map<DoorId, StripLane> lanes = new LinkedHashMap<>();
    private final Label begins = new Label();
    private final Label middle = new Label();
    private final Label ends = new Label();
    private Map<DoorId, StripData> data = Map.of();
    private Instant at = Instant.EPOCH;
    private Instant readAt = Instant.MIN;

    /**
     * @param play told of the moment at a door that was chosen
     */
    AroundStrips(Desk desk, Theme theme, BiConsumer<DoorId, Instant> play) {
        super(4);
        this.desk = desk;
        this.theme = theme;
        this.play = play;
        managedProperty().bind(visibleProperty());
    }

    /**
     * Shows other doors, or another instant.
     *
     * @param doors with what each is called here, in the order in which they are shown
     */
    void show(Map<DoorId, String> doors, Instant instant) {
        boolean same = List.copyOf(lanes.keySet()).equals(List.copyOf(doors.keySet()));
        if (!same) {
            lanes.clear();
            data = Map.of();
            List<HBox> rows = new ArrayList<>();
            doors.forEach((door, name) -> {
                StripLane lane = new StripLane(desk.services(), theme, item -> play.accept(door, item.at()));
                lane.widthProperty().addListener((o, a, b) -> draw());
                lane.setMinWidth(0);
                HBox.setHgrow(lane, Priority.ALWAYS);
                lanes.put(door, lane);
                Label label = new Label(name);
                label.setWrapText(true);
                label.setMinWidth(theme.px(NAMES));
                label.setMaxWidth(theme.px(NAMES));
                rows.add(new HBox(8, label, lane));
            });
            getChildren().setAll(times());
            getChildren().addAll(rows);
        }
        setVisible(!doors.isEmpty());
        if (!same || !instant.equals(at)) {
            at = instant;
            begins.setText(ClockWords.clock(at.minus(SIDE), desk.zone()));
            middle.setText(ClockWords.clock(at, desk.zone()));
            ends.setText(ClockWords.clock(end(), desk.zone()));
            read();
        }
    }

    /** When the lines begin and end, and the instant in their middle. */
    private HBox times() {
        Region beside = new Region();
        beside.setMinWidth(theme.px(NAMES));
        Region left = new Region();
        Region right = new Region();
        HBox.setHgrow(left, Priority.ALWAYS);
        HBox.setHgrow(right, Priority.ALWAYS);
        for (Label label : List.of(begins, middle, ends)) {
            label.getStyleClass().setAll("label", "secondary");
            label.setMinWidth(Region.USE_PREF_SIZE);
        }
        HBox line = new HBox(begins, left, middle, right, ends);
        HBox.setHgrow(line, Priority.ALWAYS);
        return new HBox(8, beside, line);
    }

    private Instant end() {
        return at.plus(SIDE);
    }

    private void read() {
        if (lanes.isEmpty()) {
            return;
        }
        readAt = Instant.now();
        Instant end = end();
        Duration span = SIDE.multipliedBy(2);
        Set<DoorId> doors = Set.copyOf(lanes.keySet());
        EventQuery query = EventQuery.all()
                .doors(doors)
                .kinds(StripMaker.SHOWN)
                .between(end.minus(span).minus(StripMaker.EXPLAINED), end)
                .oldest(MOST_EVENTS);
        StripMaker maker = new StripMaker(desk.services().doors(), desk.words());
        desk.work()
                .latest(
                        this,
                        () -> made(maker, query, doors, end, span),
                        found -> {
                            if (end.equals(end())) {
                                data = found;
                                draw();
                            }
                        },
                        why -> {
                            data = lanes.keySet().stream()
                                    .collect(Collectors.toMap(d -> d, d -> StripData.LOADING.failed(why)));
                            draw();
                        });
    }

    private Map<DoorId, StripData> made(
            StripMaker maker, EventQuery query, Set<DoorId> doors, Instant end, Duration span) {
        Map<DoorId, List<Event>> events = desk.services().log().find(query).stream()
                .collect(Collectors.groupingBy(e -> e.door().orElseThrow()));
        Map<DoorId, StripData> made = new HashMap<>();
        doors.forEach(d -> made.put(d, soFar(maker.make(d, events.getOrDefault(d, List.of()), end, span), end)));
        return made;
    }

    /** A door that stands open does so until now, and nobody knows for how long then. */
    private StripData soFar(StripData made, Instant end) {
        Instant now = desk.now();
        if (!now.isBefore(end)) {
            return made;
        }
        List<Opening> openings = made.openings().stream()
                .map(o -> o.end().isEmpty() ? new Opening(o.start(), Optional.of(now), o.heldAt(), o.forced()) : o)
                .toList();
        return new StripData(made.state(), made.end(), made.items(), openings, made.loading(), made.failure());
    }

    private void draw() {
        lanes.forEach((door, lane) -> lane.show(
                data.getOrDefault(door, StripData.LOADING),
                end(),
                SIDE.multipliedBy(2),
                desk.zone(),
                Optional.empty(),
                Optional.of(at),
                List.of(),
                StripSize.SMALL));
    }

    /** Reads what has come since; called twice a second. */
    void tick() {
        boolean open = desk.now().isBefore(end().plus(LATE));
        if (open && Instant.now().isAfter(readAt.plus(EVERY))) {
            read();
        }
    }
}
