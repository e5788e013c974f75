package org.custodia.desktop.setup;

import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import javafx.geometry.Pos;
import javafx.scene.AccessibleRole;
import javafx.scene.control.Label;
import javafx.scene.control.Tooltip;
import javafx.scene.input.KeyCode;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.setup.LinkSetup;
import org.custodia.desktop.saying.SayingWords;
import org.custodia.desktop.setup.LinksModel.Line;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;
import org.custodia.desktop.words.DoorWords;
import org.custodia.desktop.words.LinkWords;

/** One connection as a line: what it is, how it is doing, how its clock goes, what it sends. Opens to its editor. */
final class LinkRow extends VBox {
    private static final Texts TEXTS = Texts.of(LinkRow.class);

    /** Milliseconds that nobody notices. */
    private static final long AT_ONCE = 100;

    private final LinksModel links;
    private final Theme theme;
    private final LinkSign sign;
    private final Label name = new Label();
    private final Label what = new Label();
    private final Label where = new Label();
    private final Label how = new Label();
    private final Label odd = new Label();
    private final Label clock = new Label();
    private final Label sends = new Label();
    private final Label delay = new Label();
    private final Label unread = new Label();
    private final HBox row = new HBox();
    private Line line;
    private Optional<LinkEditor> editor = Optional.empty();

    LinkRow(LinksModel links, Line line, Theme theme) {
        this.links = links;
        this.theme = theme;
        this.line = line;
        this.sign = new LinkSign(theme);
        getStyleClass().add("link-row");
        row.getStyleClass().add("link-line");
        name.getStyleClass().add("strong");
        for (Label small : new Label[] {what, where, odd, delay}) {
            small.getStyleClass().add("secondary");
        }
        for (Label long_ : new Label[] {how, odd}) {
            long_.setWrapText(true);
        }
        VBox first = column("link-name", name, what, where);
        VBox second = column("link-how", how, odd);
        HBox.setHgrow(second, Priority.ALWAYS);
        row.getChildren()
                .setAll(sign, first, second, column("link-clock", clock), column("link-sends", sends, delay, unread));
        unread.getStyleClass().add("caution");
        unread.setWrapText(true);
        row.setAlignment(Pos.CENTER_LEFT);
        row.setFocusTraversable(true);
        row.setAccessibleRole(AccessibleRole.BUTTON);
        row.setOnMouseClicked(e -> turn());
        row.setOnKeyPressed(e -> {
            if (e.getCode() == KeyCode.ENTER || e.getCode() == KeyCode.SPACE) {
                turn();
                e.consume();
            }
        });
        getChildren().setAll(row);
        tick();
    }

    private static VBox column(String style, Label... labels) {
        VBox column = new VBox(labels);
        column.getStyleClass().add(style);
        column.setAlignment(Pos.CENTER_LEFT);
        for (Label label : labels) {
            label.setMinWidth(0);
            label.setMinHeight(Region.USE_PREF_SIZE);
        }
        return column;
    }

    LinkSetup link() {
        return line.link();
    }

    /** Takes what is known of it now; what is being entered stays as it is. */
    void take(Line now) {
        line = now;
        tick();
    }

    boolean isOpen() {
        return editor.isPresent();
    }

    /** Opens it, or closes it. */
    void turn() {
        if (isOpen()) {
            close();
            row.requestFocus();
        } else {
            LinkEditor opened = new LinkEditor(links.draft(line.kept()), theme, links.may(), this::turn);
            editor = Optional.of(opened);
            getChildren().setAll(row, opened);
            opened.begin();
        }
    }

    void close() {
        editor.ifPresent(LinkEditor::forget);
        editor = Optional.empty();
        getChildren().setAll(row);
    }

    /** What went wrong last, once it is over; what goes on is said by how it is doing. */
    private Optional<String> trouble(LinkStatus status) {
        return status.lastTrouble().flatMap(t -> t.until()
                .map(over -> TEXTS.say(
                        "trouble-over",
                        ClockWords.dated(
                                t.at(), links.desk().now(), links.desk().zone()),
                        DoorWords.lasted(t.at(), over),
                        SayingWords.of(t.saying()))));
    }

    /** What changes as time passes. */
    void tick() {
        LinkSetup link = line.link();
        Optional<LinkStatus> status = links.status(link);
        name.setText(link.name());
        String kind = SetupWords.kind(link.kind());
        what.setText(status.flatMap(LinkStatus::make)
                .map(m -> TEXTS.say("kind-made", kind, m))
                .orElse(kind));
        String address = link.address().toString();
        if (!address.equals(where.getText())) {
            where.setText(address);
            where.setTooltip(new Tooltip(address));
        }
        String words = link.paused()
                ? TEXTS.say("paused")
                : status.map(s -> LinkWords.of(s, links.desk().now())).orElseGet(() -> TEXTS.say("starts"));
        how.setText(words);
        sign.show(
                status.map(LinkStatus::state),
                link.paused() ? org.custodia.core.event.Priority.NONE : SetupWords.priority(status));
        String notices = status.map(s -> Stream.concat(s.notices().stream().map(SayingWords::of), trouble(s).stream())
                        .collect(Collectors.joining("\n")))
                .orElse("");
        odd.setText(notices);
        odd.setManaged(!notices.isEmpty());
        // How a clock went when it was last asked says little once nobody asks it.
        clock.setText(status.filter(n -> n.state() == LinkStatus.State.UP)
                .map(n -> links.desk().services().clocks().newest().get(link.system()))
                .map(SetupWords::clock)
                .orElse(""));
        sends.setText(line.today()
                .map(n -> TEXTS.say("events-today", n))
                .or(() -> line.cameras().map(n -> TEXTS.say("cameras-of", n)))
                .orElse(""));
        String arrive = line.delay()
                .map(d -> d.toMillis() < AT_ONCE
                        ? TEXTS.say("arrive-at-once")
                        : TEXTS.say("arrive-after", d.toMillis() / 1000.0))
                .orElse("");
        delay.setText(arrive);
        delay.setManaged(!arrive.isEmpty());
        unread.setText(line.notUnderstood() == 0 ? "" : TEXTS.say("messages-not-understood", line.notUnderstood()));
        unread.setManaged(!unread.getText().isEmpty());
        row.setAccessibleText(TEXTS.say("row-spoken", link.name(), kind, words));
    }
}
