package org.custodia.desktop.shell;

import java.util.Optional;
import javafx.collections.ListChangeListener;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.Tooltip;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import org.custodia.desktop.notice.Notice;
import org.custodia.desktop.notice.Notices;
import org.custodia.desktop.text.Texts;

/** What somebody has to do something about, across the window, until it is over or hidden. */
final class TroubleBar extends HBox {
    private static final Texts TEXTS = Texts.of(TroubleBar.class);

    private final Notices notices;
    private final Label words = new Label();
    private final Tooltip tip = new Tooltip();
    private Optional<Notice> shown = Optional.empty();

    TroubleBar(Notices notices) {
        this.notices = notices;
        getStyleClass().add("trouble-bar");
        words.setMinWidth(0);
        words.setTooltip(tip);
        words.setMaxWidth(Double.MAX_VALUE);
        HBox.setHgrow(words, Priority.ALWAYS);
        Button hide = new Button(TEXTS.say("hide"));
        hide.setMinWidth(Region.USE_PREF_SIZE);
        hide.setOnAction(e -> shown.ifPresent(notices::hide));
        getChildren().addAll(words, hide);
        notices.shown().addListener((ListChangeListener<Notice>) c -> show());
        show();
    }

    private void show() {
        shown = notices.shown().stream()
                .filter(n -> n.kind() == Notice.Kind.TROUBLE)
                .findFirst();
        shown.ifPresent(n -> {
            Labels.set(words, n.words());
            tip.setText(n.words());
        });
        setVisible(shown.isPresent());
        setManaged(shown.isPresent());
    }
}
