package org.custodia.desktop.shell;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;
import javafx.geometry.Pos;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.ContentDisplay;
import javafx.scene.control.Label;
import javafx.scene.control.Tooltip;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.shape.SVGPath;
import org.custodia.desktop.Services;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.PriorityMark;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;

/** What is always in sight: the site, finding, how links and clocks are doing, the time, who is signed in. */
final class TopBar extends HBox {
    private static final Texts TEXTS = Texts.of(TopBar.class);

    /** Every part is rounded up to whole pixels. */
    private static final double ROUNDING = 12;

    private static final Duration COUNT_UNREAD_EVERY = Duration.ofSeconds(15);

    private final Desk desk;
    private final Label clock = new Label();
    private final Label date = new Label();
    private final Label muted = new Label();
    private final Tooltip mutedTip = new Tooltip();
    private final PriorityMark linkMark;
    private final Button linkWords = new Button();
    private final Label clockWords = new Label();
    private final Tooltip linkTip = new Tooltip();
    private final Tooltip clockTip = new Tooltip();
    /** What it does without where it is too narrow, in this order. */
    private final List<Node> dispensable = new ArrayList<>();

    private long unread;
    private Instant unreadAsked = Instant.MIN;

    /**
     * @param health shows how Custodia itself is doing
     */
    TopBar(Desk desk, Theme theme, Runnable find, Runnable health) {
        this.desk = desk;
        this.linkMark = new PriorityMark(theme, 15);
        SVGPath sign = new SVGPath();
        sign.setContent("M1 1 H13 V17 H11 V3 H3 V17 H1 Z M3 3 L9 6 V19 L3 16 Z");
        sign.setStyle("-fx-fill: -t-ink;");
        Label product = new Label("Custodia", sign);
        product.getStyleClass().add("product");
        product.setMinWidth(Region.USE_PREF_SIZE);
        Label site = new Label(desk.services().siteName());
        site.setMinWidth(Region.USE_PREF_SIZE);
        Label key = new Label(Shortcuts.lettered("Ctrl K"));
        key.getStyleClass().add("key");
        Button findButton = new Button(TEXTS.say("find"), key);
        findButton.setContentDisplay(ContentDisplay.RIGHT);
        findButton.getStyleClass().add("find-button");
        findButton.setOnAction(e -> find.run());
        Region gap = new Region();
        HBox.setHgrow(gap, Priority.ALWAYS);
        linkWords.setMinWidth(Region.USE_PREF_SIZE);
        linkWords.setTooltip(linkTip);
        linkWords.getStyleClass().addAll("quiet", "health");
        linkWords.setOnAction(e -> health.run());
        clockWords.setMinWidth(Region.USE_PREF_SIZE);
        clockWords.getStyleClass().add("muted");
        clockWords.setTooltip(clockTip);
        HBox link = new HBox(6, linkMark, linkWords);
        link.setAlignment(Pos.CENTER);
        clock.getStyleClass().add("clock");
        clock.setMinWidth(Region.USE_PREF_SIZE);
        date.getStyleClass().add("muted");
        date.setMinWidth(Region.USE_PREF_SIZE);
        Label operator = new Label(desk.services().actor().name());
        operator.setMinWidth(Region.USE_PREF_SIZE);
        operator.setTooltip(
                new Tooltip(TEXTS.say("signed-in-at", desk.services().actor().desk())));
        muted.getStyleClass().add("caution");
        muted.setMinWidth(Region.USE_PREF_SIZE);
        getChildren().addAll(product, site, findButton, gap, muted, link, clockWords, clock, date, operator);
        getStyleClass().add("top-bar");
        // It fits itself into the window, and must not widen it.
        setMinWidth(0);
        dispensable.addAll(List.of(clockWords, operator, site, date));
        widthProperty().addListener((o, a, b) -> fit());
    }

    private void fit() {
        double room = getWidth() - getInsets().getLeft() - getInsets().getRight() + getSpacing() - ROUNDING;
        double needed = getChildren().stream()
                .filter(n -> n != muted || muted.isManaged())
                .mapToDouble(n -> n.minWidth(-1) + getSpacing())
                .sum();
        for (Node node : dispensable) {
            boolean fits = needed <= room;
            node.setVisible(fits);
            node.setManaged(fits);
            needed -= fits ? 0 : node.minWidth(-1) + getSpacing();
        }
    }

    /** How many messages could not be understood, when that was last asked. */
    long unread() {
        return unread;
    }

    /** Shows what is so now; called several times a second. */
    void tick() {
        Services services = desk.services();
        ZoneId zone = desk.zone();
        Instant now = desk.now();
        Labels.set(clock, ClockWords.clock(now, zone));
        Labels.set(date, Texts.day(now, zone) + (services.practiceTime() ? " · " + TEXTS.say("practice-time") : ""));
        Health.Line links = Health.links(
                services.links().get(),
                desk.live().states().get(),
                services.sites().get(),
                now,
                unread);
        boolean matters = links.priority() != org.custodia.core.event.Priority.NONE;
        linkMark.show(links.priority());
        linkMark.setManaged(matters);
        Labels.set(linkWords, links.words());
        String style = links.priority() == org.custodia.core.event.Priority.CAUTION ? "caution" : "muted";
        if (!linkWords.getStyleClass().contains(style)) {
            linkWords.getStyleClass().removeAll("caution", "muted");
            linkWords.getStyleClass().add(style);
        }
        String mishaps = services.mishaps().get().stream()
                .map(m -> HealthSheet.words(m, now, zone))
                .collect(Collectors.joining("\n"));
        linkTip.setText((links.details() + mishaps).strip() + "\n" + TEXTS.say("health-tip"));
        Health.Line clocks = Health.clocks(services.clocks());
        Labels.set(clockWords, clocks.words());
        clockTip.setText(clocks.details().strip());
        Optional<Instant> silent = desk.bell().mutedUntil(now);
        boolean noSound = desk.bell().silent();
        muted.setVisible(noSound || silent.isPresent());
        muted.setManaged(muted.isVisible());
        mutedTip.setText(TEXTS.say("no-sound-tip"));
        muted.setTooltip(noSound ? mutedTip : null);
        if (noSound) {
            Labels.set(muted, TEXTS.say("no-sound"));
        } else {
            silent.ifPresent(t -> Labels.set(muted, TEXTS.say("no-sound-until", ClockWords.minute(t, zone))));
        }
        fit();
        boolean never = unreadAsked.equals(Instant.MIN);
        if (never || Duration.between(unreadAsked, now).compareTo(COUNT_UNREAD_EVERY) > 0) {
            unreadAsked = now;
            desk.work().latest(this, () -> services.log().unreadCount(), n -> unread = n, why -> {});
        }
    }
}
