package org.custodia.desktop.setup;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import javafx.geometry.Pos;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.ScrollPane;
import javafx.scene.control.TextField;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.footage.ClockBook.Estimate;
import org.custodia.core.link.ClockSource;
import org.custodia.core.setup.LinkBook;
import org.custodia.core.setup.LinkSetup;
import org.custodia.core.setup.PairDesk.ClockLag;
import org.custodia.core.site.Camera;
import org.custodia.core.site.SystemId;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;

/** How the clocks of all systems go, as measured over the network, and what pictures say of them. */
final class ClocksPage extends ScrollPane {
    private static final Texts TEXTS = Texts.of(ClocksPage.class);
    /** Measurements come every few seconds, and a day is not drawn anew for each. */
    private static final Duration DRAWN_EACH = Duration.ofSeconds(5);

    private final LinksModel links;
    private final Desk desk;
    private final Theme theme;
    private final VBox rows = new VBox();
    private final VBox byPictures = new VBox(6);
    private final Label said = new Label();
    private final Button compare = new Button(TEXTS.say("compare"));
    private final Map<String, Row> byId = new LinkedHashMap<>();
    private Instant drawn = Instant.MIN;

    ClocksPage(LinksModel links, Theme theme) {
        this.links = links;
        this.desk = links.desk();
        this.theme = theme;
        Label head = new Label(TEXTS.say("by-pictures"));
        head.getStyleClass().add("strong");
        head.setMinWidth(Region.USE_PREF_SIZE);
        Label what = new Label(TEXTS.say("by-pictures-what"));
        what.getStyleClass().add("muted");
        what.setWrapText(true);
        what.setMinHeight(Region.USE_PREF_SIZE);
        HBox.setHgrow(what, Priority.ALWAYS);
        what.setMaxWidth(Double.MAX_VALUE);
        compare.setMinWidth(Region.USE_PREF_SIZE);
        compare.setOnAction(e -> {
            said.setText(TEXTS.say("comparing"));
            desk.work()
                    .load(
                            () -> {
                                desk.services().workplace().pairs().measureClocks();
                                return Boolean.TRUE;
                            },
                            begun -> tick(),
                            said::setText);
        });
        compare.setVisible(links.may());
        HBox line = new HBox(12, head, what, compare);
        line.setAlignment(Pos.CENTER_LEFT);
        said.setWrapText(true);
        VBox pictures = new VBox(8, line, said, byPictures);
        pictures.getStyleClass().add("clocks-by-pictures");
        setContent(new VBox(rows, pictures));
        setFitToWidth(true);
        setFocusTraversable(false);
        setHbarPolicy(ScrollBarPolicy.NEVER);
    }

    /** One system. */
    private final class Row extends HBox {
        private final Label clock = new Label();
        private final Label name = new Label();
        private final ClockPlot plot;
        private final TextField limit = new TextField();
        private final Label wrong = new Label();
        private final Label source = new Label();
        private final Button sync = new Button(TEXTS.say("clock-sync"));
        private LinkBook.Kept kept;

        Row(LinkBook.Kept kept) {
            this.kept = kept;
            this.plot = new ClockPlot(theme);
            getStyleClass().add("clock-row");
            setAlignment(Pos.CENTER_LEFT);
            name.getStyleClass().add("strong");
            clock.setWrapText(true);
            source.setWrapText(true);
            source.getStyleClass().add("secondary");
            sync.setMinWidth(Region.USE_PREF_SIZE);
            sync.setAccessibleText(TEXTS.say("clock-sync-spoken", kept.link().name()));
            sync.setOnAction(e -> sync());
            VBox first = new VBox(2, name, clock, source);
            first.getStyleClass().add("link-name");
            first.setAlignment(Pos.CENTER_LEFT);
            HBox.setHgrow(plot, Priority.ALWAYS);
            limit.setPrefColumnCount(5);
            limit.setText(seconds(kept.link().clockLimit()));
            limit.setEditable(links.may());
            limit.setAccessibleText(TEXTS.say("allowed-spoken", kept.link().name()));
            limit.setOnAction(e -> save());
            limit.focusedProperty().addListener((o, a, b) -> {
                if (!b) {
                    save();
                }
            });
            Label allowed = new Label(TEXTS.say("allowed"));
            allowed.setLabelFor(limit);
            Label unit = new Label(TEXTS.say("seconds"));
            for (Label label : List.of(allowed, unit)) {
                label.setMinWidth(Region.USE_PREF_SIZE);
            }
            wrong.getStyleClass().add("caution");
            wrong.setWrapText(true);
            wrong.setMaxWidth(theme.px(210));
            HBox entry = new HBox(6, allowed, limit, unit);
            entry.setAlignment(Pos.CENTER_LEFT);
            VBox last = new VBox(4, entry, sync, wrong);
            last.setAlignment(Pos.CENTER_LEFT);
            getChildren().setAll(first, plot, last);
        }

        private String seconds(Duration d) {
            return TEXTS.say("number", d.toMillis() / 1_000.0);
        }

        private void save() {
            Optional<Duration> wanted = parse(limit.getText());
            if (wanted.isEmpty()) {
                wrong.setText(TEXTS.say("no-number", limit.getText()));
                return;
            }
            if (wanted.get().equals(kept.link().clockLimit())) {
                wrong.setText("");
                return;
            }
            LinkSetup changed = kept.link().clockLimit(wanted.get());
            long basedOn = kept.version();
            desk.work()
                    .load(
                            () -> desk.services().workplace().setup().change(changed, Optional.empty(), basedOn),
                            version -> {
                                wrong.setText("");
                                kept = new LinkBook.Kept(changed, version);
                                links.refresh();
                                draw();
                            },
                            wrong::setText);
        }

        void take(LinkBook.Kept now) {
            boolean another = !now.link().clockLimit().equals(kept.link().clockLimit());
            kept = now;
            if (another && !limit.isFocused()) {
                limit.setText(seconds(now.link().clockLimit()));
            }
            draw();
        }

        /** Has the system set its clock. */
        private void sync() {
            sync.setDisable(true);
            desk.work()
                    .load(
                            () -> {
                                desk.services()
                                        .workplace()
                                        .setup()
                                        .syncClock(kept.link().system());
                                return Boolean.TRUE;
                            },
                            well -> {
                                sync.setDisable(false);
                                wrong.setText("");
                                draw();
                            },
                            why -> {
                                sync.setDisable(false);
                                wrong.setText(why);
                            });
        }

        private void draw() {
            LinkSetup link = kept.link();
            name.setText(link.name());
            Instant now = desk.now();
            List<Estimate> course = desk.services().clocks().course(link.system(), now.minus(ClockPlot.SPAN), now);
            Optional<Estimate> newest =
                    Optional.ofNullable(desk.services().clocks().newest().get(link.system()));
            clock.setText(newest.map(SetupWords::clock).orElse(TEXTS.say("not-measured")));
            Optional<ClockSource> from =
                    links.mayLook() ? desk.services().workplace().setup().clockSource(link.system()) : Optional.empty();
            source.setText(
                    from.map(f -> TEXTS.say("clock-source", f.words())).orElse(TEXTS.say("clock-source-unsaid")));
            sync.setVisible(links.may() && from.filter(ClockSource::canSync).isPresent());
            sync.setManaged(sync.isVisible());
            boolean off = newest.filter(
                            e -> e.ahead().abs().minus(e.uncertainty()).compareTo(link.clockLimit()) > 0)
                    .isPresent();
            clock.getStyleClass().setAll("label", off ? "caution" : "ink");
            plot.show(course, link.clockLimit(), now, desk.zone());
        }
    }

    /** A number of seconds, with a point or a comma. */
    static Optional<Duration> parse(String text) {
        try {
            double seconds = Double.parseDouble(text.strip().replace(',', '.'));
            return Double.isFinite(seconds) && Math.abs(seconds) < 1e6
                    ? Optional.of(Duration.ofMillis(Math.round(seconds * 1_000)))
                    : Optional.empty();
        } catch (NumberFormatException e) {
            return Optional.empty();
        }
    }

    /** Shows what is set up now. */
    void show(List<LinkBook.Kept> all) {
        List<Node> order = new ArrayList<>();
        Map<String, Row> now = new LinkedHashMap<>();
        for (LinkBook.Kept kept : all) {
            if (!kept.link().paused()) {
                Row row = Optional.ofNullable(byId.get(kept.link().id())).orElseGet(() -> new Row(kept));
                row.take(kept);
                now.put(kept.link().id(), row);
                order.add(row);
            }
        }
        byId.clear();
        byId.putAll(now);
        if (!order.equals(rows.getChildren())) {
            rows.getChildren().setAll(order);
        }
    }

    /** Called several times a second while it is in sight. */
    void tick() {
        Instant now = desk.now();
        if (Duration.between(drawn, now).compareTo(DRAWN_EACH) < 0) {
            return;
        }
        drawn = now;
        byId.values().forEach(Row::draw);
        if (links.mayLook()) {
            desk.work().latest(this, () -> desk.services().workplace().pairs().clockLags(), this::lags, said::setText);
        }
    }

    private void lags(List<ClockLag> lags) {
        boolean going = desk.services().workplace().pairs().looking().running();
        compare.setDisable(going);
        if (!lags.isEmpty()) {
            said.setText("");
        } else {
            said.setText(TEXTS.say(going ? "comparing" : "not-compared"));
        }
        said.setManaged(!said.getText().isEmpty());
        byPictures.getChildren().clear();
        for (ClockLag lag : lags) {
            double low = lag.lag().low().toMillis() / 1_000.0;
            double high = lag.lag().high().toMillis() / 1_000.0;
            Label label = new Label(TEXTS.say(
                    "lag." + lag.agreement().name().toLowerCase(Locale.ROOT),
                    name(lag.recorder()),
                    name(lag.access()),
                    lag.lag().lag().toMillis() / 1_000.0,
                    low,
                    high,
                    lag.lag().openings(),
                    lag.pairs(),
                    ClockWords.dated(lag.when(), desk.now(), desk.zone()),
                    desk.services()
                            .sites()
                            .get()
                            .camera(lag.camera())
                            .map(Camera::name)
                            .orElse(lag.camera().value())));
            label.setWrapText(true);
            label.setMinHeight(Region.USE_PREF_SIZE);
            if (lag.agreement() == ClockLag.Agreement.DISAGREES) {
                label.getStyleClass().add("caution");
            }
            byPictures.getChildren().add(label);
        }
    }

    private String name(SystemId system) {
        return Optional.ofNullable(byId.get(system.value()))
                .map(r -> r.kept.link().name())
                .orElse(system.value());
    }
}
