package org.custodia.desktop.setup;

import java.time.Instant;
import java.util.List;
import javafx.geometry.HPos;
import javafx.scene.control.Label;
import javafx.scene.image.ImageView;
import javafx.scene.layout.GridPane;
import javafx.scene.layout.StackPane;
import org.custodia.core.evidence.Film;
import org.custodia.core.evidence.KnownOpening;
import org.custodia.core.site.Camera;
import org.custodia.core.site.Crop;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.picture.Pixels;
import org.custodia.desktop.picture.WantedStill;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;

/** What a camera saw around some openings of a door: a line each, of before, as it opened, and after. */
final class FilmPane extends GridPane {
    private static final Texts TEXTS = Texts.of(FilmPane.class);
    private static final double WIDTH = 148;

    /** More than shown, so that it stays sharp on displays that are scaled up. */
    private static final double SHARPNESS = 1.5;

    FilmPane(Desk desk, Theme theme, Camera camera, List<KnownOpening> openings) {
        setHgap(4);
        setVgap(4);
        List<String> heads = List.of(TEXTS.say("film-before"), TEXTS.say("film-opens"), TEXTS.say("film-after"));
        for (int i = 0; i < heads.size(); i++) {
            Label head = new Label(heads.get(i));
            head.getStyleClass().add("secondary");
            setHalignment(head, HPos.CENTER);
            add(head, i + 1, 0);
        }
        int row = 1;
        for (KnownOpening opening : openings) {
            Label when = new Label(ClockWords.dated(opening.at(), desk.now(), desk.zone()));
            when.getStyleClass().add("secondary");
            when.setWrapText(true);
            when.setMaxWidth(theme.px(70));
            add(when, 0, row);
            Instant[] at = Film.instants(opening.at());
            for (int i = 0; i < at.length; i++) {
                String spoken = TEXTS.say("film-spoken", heads.get(i), when.getText());
                add(still(desk, theme, new WantedStill(camera, Crop.WHOLE, at[i]), spoken), i + 1, row);
            }
            row++;
        }
    }

    private static StackPane still(Desk desk, Theme theme, WantedStill wanted, String spoken) {
        double width = theme.px(WIDTH);
        double height = width * 9 / 16;
        ImageView view = new ImageView();
        view.setFitWidth(width);
        view.setFitHeight(height);
        view.setPreserveRatio(true);
        view.setAccessibleText(spoken);
        Label words = new Label(TEXTS.say("film-loading"));
        words.getStyleClass().add("secondary");
        words.setWrapText(true);
        words.setMaxWidth(width - 8);
        StackPane pane = new StackPane(words, view);
        pane.getStyleClass().add("film-still");
        pane.setMinSize(width, height);
        pane.setMaxSize(width, height);
        wanted.fetch(desk.services().pictures(), (int) Math.round(height * SHARPNESS), got -> {
            got.still().ifPresent(s -> view.setImage(Pixels.image(s.picture())));
            words.setText(got.still().isPresent() ? "" : got.problem());
        });
        return pane;
    }
}
