package org.custodia.desktop.shell;

import java.util.Optional;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import org.custodia.desktop.Services;
import org.custodia.desktop.text.Texts;

/** What somebody has to do something about, until it is over or hidden. */
final class TroubleBar extends HBox {
    private static final Texts TEXTS = Texts.of(TroubleBar.class);

    private final Services services;
    private final Label words = new Label();
    private String hidden = "";
    private Optional<String> notice;

    /**
     * @param notice something that is said once
     */
    TroubleBar(Services services, Optional<String> notice) {
        this.services = services;
        this.notice = notice;
        getStyleClass().add("trouble-bar");
        words.setWrapText(true);
        words.setMaxWidth(Double.MAX_VALUE);
        HBox.setHgrow(words, Priority.ALWAYS);
        Button hide = new Button(TEXTS.say("hide"));
        hide.setMinWidth(Region.USE_PREF_SIZE);
        hide.setOnAction(e -> {
            hidden = words.getText();
            this.notice = Optional.empty();
            tick();
        });
        getChildren().addAll(words, hide);
        tick();
    }

    /** Shows what is so now; called several times a second. */
    void tick() {
        Optional<String> trouble = services.trouble().get().or(() -> notice).filter(t -> !t.equals(hidden));
        trouble.ifPresent(t -> Labels.set(words, t));
        setVisible(trouble.isPresent());
        setManaged(trouble.isPresent());
    }
}
