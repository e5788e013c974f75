package org.custodia.desktop.setup;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import javafx.geometry.Pos;
import javafx.scene.control.Label;
import javafx.scene.control.ListCell;
import javafx.scene.control.ListView;
import javafx.scene.layout.BorderPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.footage.Footage;
import org.custodia.core.site.Camera;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;

/** What footage there is of each camera: a line each, those with something missing first. */
final class FootagePage extends BorderPane {
    private static final Texts TEXTS = Texts.of(FootagePage.class);
    private static final Duration DRAWN_EACH = Duration.ofSeconds(5);

    private final Desk desk;
    private final Theme theme;
    private final ListView<Camera> list = new ListView<>();
    private final Label summary = new Label();
    private final Map<Camera, Footage> known = new HashMap<>();
    private Instant left = Instant.EPOCH;
    private Instant drawn = Instant.MIN;

    FootagePage(Desk desk, Theme theme) {
        this.desk = desk;
        this.theme = theme;
        list.setCellFactory(v -> new Line());
        list.getStyleClass().add("pairs");
        list.setAccessibleText(TEXTS.say("footage-list"));
        Label none = new Label(TEXTS.say("no-cameras"));
        none.getStyleClass().add("empty");
        list.setPlaceholder(none);
        summary.setWrapText(true);
        summary.setMinHeight(Region.USE_PREF_SIZE);
        HBox top = new HBox(summary);
        top.getStyleClass().add("pairs-search");
        setTop(top);
        setCenter(list);
    }

    private final class Line extends ListCell<Camera> {
        private final Label name = new Label();
        private final Label words = new Label();
        private final FootageBar bar = new FootageBar(theme);
        private final HBox line;

        Line() {
            name.getStyleClass().add("strong");
            words.getStyleClass().add("secondary");
            words.setWrapText(true);
            words.setMinHeight(Region.USE_PREF_SIZE);
            VBox first = new VBox(name, words);
            first.getStyleClass().add("footage-name");
            first.setAlignment(Pos.CENTER_LEFT);
            HBox.setHgrow(bar, Priority.ALWAYS);
            line = new HBox(16, first, bar);
            line.setAlignment(Pos.CENTER_LEFT);
            line.getStyleClass().add("footage-line");
            setPrefWidth(0);
        }

        @Override
        protected void updateItem(Camera camera, boolean nothing) {
            super.updateItem(camera, nothing);
            if (nothing || camera == null) {
                setGraphic(null);
                return;
            }
            Footage footage = known.get(camera);
            name.setText(camera.name());
            words.setText(footage == null ? TEXTS.say("footage-unknown") : describe(camera, footage));
            bar.show(footage, left, desk.now());
            setGraphic(line);
        }
    }

    /** How long it was seen to take, where that is worth telling beside what the recorder says. */
    private Optional<String> seen(Camera camera) {
        return desk.services().pictures().readySeen(camera.id()).flatMap(seen -> {
            if (seen.refused().isPresent()) {
                return Optional.of(
                        TEXTS.say("ready-refused", seen.refused().get().toMillis() / 1_000.0, seen.times()));
            }
            return seen.had().map(h -> TEXTS.say("ready-seen", h.toMillis() / 1_000.0, seen.times()));
        });
    }

    /** What there is, in words. */
    private String describe(Camera camera, Footage footage) {
        Instant now = desk.now();
        ZoneId zone = desk.zone();
        StringBuilder all = new StringBuilder(
                footage.keptFrom().equals(Instant.EPOCH)
                        ? TEXTS.say("kept-whole")
                        : TEXTS.say(
                                "kept-since",
                                ClockWords.dated(footage.keptFrom(), now, zone),
                                Duration.between(footage.keptFrom(), now).toDays()));
        long ready = footage.readyAfter().toSeconds();
        all.append(" · ").append(ready == 0 ? TEXTS.say("ready-at-once") : TEXTS.say("ready-after", ready));
        seen(camera).ifPresent(words -> all.append(" · ").append(words));
        footage.goneAt(now, now)
                .ifPresent(gone -> all.append(" · ").append(TEXTS.say("gone-on", ClockWords.day(gone, zone))));
        if (!footage.missing().isEmpty()) {
            Footage.Missing last = footage.missing().get(footage.missing().size() - 1);
            all.append(" · ")
                    .append(TEXTS.say(
                            "missing",
                            footage.missing().size(),
                            ClockWords.dated(last.from(), now, zone),
                            ClockWords.dated(last.to(), now, zone)));
        }
        footage.lostSince().ifPresent(since -> all.append(" · ")
                .append(TEXTS.say("lost-since", ClockWords.dated(since, now, zone))));
        return all.toString();
    }

    /** Called several times a second while it is in sight. */
    void tick() {
        Instant now = desk.now();
        if (Duration.between(drawn, now).compareTo(DRAWN_EACH) < 0) {
            return;
        }
        drawn = now;
        known.clear();
        for (Camera camera : desk.services().sites().get().cameras()) {
            desk.services().pictures().footage(camera.id(), camera.recorder()).ifPresent(f -> known.put(camera, f));
        }
        left = known.values().stream()
                .map(Footage::keptFrom)
                .filter(f -> !f.equals(Instant.EPOCH))
                .min(Comparator.naturalOrder())
                .orElse(now.minus(Duration.ofDays(1)));
        List<Camera> all = desk.services().sites().get().cameras().stream()
                .sorted(Comparator.comparing(this::worst)
                        .thenComparing(Camera::name, String.CASE_INSENSITIVE_ORDER)
                        .thenComparing(c -> c.id().value()))
                .toList();
        if (!all.equals(list.getItems())) {
            list.getItems().setAll(all);
        } else {
            list.refresh();
        }
        long odd = all.stream().filter(c -> worst(c) < 2).count();
        summary.setText(TEXTS.say("footage-summary", all.size(), odd, ClockWords.dated(left, now, desk.zone())));
    }

    private int worst(Camera camera) {
        Optional<Footage> footage = Optional.ofNullable(known.get(camera));
        if (footage.isEmpty() || footage.get().lostSince().isPresent()) {
            return 0;
        }
        return footage.get().missing().isEmpty() ? 2 : 1;
    }
}
