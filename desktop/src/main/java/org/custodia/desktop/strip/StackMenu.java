package org.custodia.desktop.strip;

import java.time.ZoneId;
import java.util.List;
import java.util.function.Consumer;
import javafx.geometry.Pos;
import javafx.scene.Node;
import javafx.scene.control.ContentDisplay;
import javafx.scene.control.ContextMenu;
import javafx.scene.control.Label;
import javafx.scene.control.MenuItem;
import javafx.scene.control.Tooltip;
import javafx.scene.image.ImageView;
import javafx.scene.layout.HBox;
import javafx.scene.layout.StackPane;
import javafx.scene.layout.VBox;
import org.custodia.desktop.Services;
import org.custodia.desktop.picture.Pixels;
import org.custodia.desktop.picture.WantedStill;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.PriorityMark;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;

/** What lies in a stack, newest first: as a menu in which each can be played, and as a tip to look at. */
public final class StackMenu {
    private static final Texts TEXTS = Texts.of(StackMenu.class);

    private static final double FACE = 52;
    private static final double SHARPNESS = 2;
    /** More than so many are not opened at once: a longer stack is made shorter by a shorter time axis. */
    private static final int MOST = 40;

    private static final int MOST_IN_A_TIP = 6;

    private final Services services;
    private final Theme theme;

    StackMenu(Services services, Theme theme) {
        this.services = services;
        this.theme = theme;
    }

    /** All of it; choosing one plays it. */
    ContextMenu menu(List<StripItem> items, ZoneId zone, Consumer<StripItem> play) {
        ContextMenu menu = new ContextMenu();
        menu.getStyleClass().add("stack-menu");
        for (StripItem item : newestFirst(items, MOST)) {
            // In words and not in a node of our own, so that it is read out, and keys choose it.
            MenuItem row = new MenuItem(item.who() + "\n" + what(item, zone), picture(item));
            row.setOnAction(e -> play.accept(item));
            menu.getItems().add(row);
        }
        int more = items.size() - menu.getItems().size();
        if (more > 0) {
            menu.getItems().add(hint(TEXTS.say("stack-older", more)));
        }
        return menu;
    }

    private static MenuItem hint(String words) {
        MenuItem item = new MenuItem(words);
        item.setDisable(true);
        return item;
    }

    private static String what(StripItem item, ZoneId zone) {
        return ClockWords.clock(item.at(), zone) + " · " + item.result();
    }

    /** The newest of it; faces are fetched when it shows. */
    Tooltip tip(List<StripItem> items, ZoneId zone) {
        Tooltip tip = new Tooltip();
        tip.setContentDisplay(ContentDisplay.GRAPHIC_ONLY);
        tip.setOnShowing(e -> {
            VBox all = new VBox(4);
            newestFirst(items, MOST_IN_A_TIP).forEach(i -> all.getChildren().add(row(i, zone)));
            int more = items.size() - Math.min(items.size(), MOST_IN_A_TIP);
            Label hint = new Label(TEXTS.say(more > 0 ? "stack-hint-more" : "stack-hint", more));
            hint.getStyleClass().add("secondary");
            all.getChildren().add(hint);
            tip.setGraphic(all);
        });
        return tip;
    }

    private static List<StripItem> newestFirst(List<StripItem> items, int most) {
        return items.stream()
                .sorted((a, b) -> b.event().compareTo(a.event()))
                .limit(most)
                .toList();
    }

    private Node row(StripItem item, ZoneId zone) {
        Label who = new Label(item.who());
        who.getStyleClass().add("strong");
        Label what = new Label(what(item, zone));
        what.getStyleClass().add("secondary");
        HBox row = new HBox(8, picture(item), new VBox(who, what));
        row.setAlignment(Pos.CENTER_LEFT);
        return row;
    }

    /** The still, with the mark of what matters at its corner. */
    private Node picture(StripItem item) {
        ImageView face = new ImageView();
        face.setPreserveRatio(true);
        face.setFitHeight(theme.px(FACE));
        face.setFitWidth(theme.px(FACE * 1.6));
        Label missing = new Label();
        missing.getStyleClass().add("secondary");
        PriorityMark mark = new PriorityMark(theme, 14);
        mark.show(item.priority());
        StackPane.setAlignment(mark, Pos.TOP_RIGHT);
        StackPane picture = new StackPane(missing, face, mark);
        picture.setMinSize(theme.px(FACE * 1.6), theme.px(FACE));
        WantedStill.of(services.sites().get(), item.event())
                .ifPresentOrElse(
                        w -> w.fetch(
                                services.pictures(), (int) Math.round(theme.px(FACE) * SHARPNESS), got -> got.still()
                                        .ifPresentOrElse(
                                                s -> face.setImage(Pixels.image(s.picture())),
                                                () -> missing.setText(TEXTS.say("no-picture-here")))),
                        () -> missing.setText(TEXTS.say("no-camera-here")));
        return picture;
    }
}
