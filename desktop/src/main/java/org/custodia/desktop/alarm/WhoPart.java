package org.custodia.desktop.alarm;

import java.time.Instant;
import java.util.Optional;
import javafx.geometry.Pos;
import javafx.scene.control.Label;
import javafx.scene.image.ImageView;
import javafx.scene.layout.HBox;
import javafx.scene.layout.VBox;
import org.custodia.core.access.Person;
import org.custodia.core.site.PersonId;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.picture.Pixels;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;
import org.custodia.video.Picture;
import org.custodia.video.Stills;

/** Whom an alarm is about, with the enrolled photo; nothing where it names nobody. */
final class WhoPart extends HBox {
    private static final Texts TEXTS = Texts.of(WhoPart.class);
    private static final int FETCHED_HEIGHT = 240;
    private static final double HIGH = 96;

    private final Desk desk;
    private final ImageView photo = new ImageView();
    private final Label name = new Label();
    private final Label detail = new Label();
    private Optional<PersonId> shown = Optional.empty();

    private record Known(Person person, Optional<Picture> photo) {}

    WhoPart(Desk desk, Theme theme) {
        super(10);
        this.desk = desk;
        setAlignment(Pos.CENTER_LEFT);
        photo.setPreserveRatio(true);
        photo.setFitHeight(theme.px(HIGH));
        name.getStyleClass().add("strong");
        detail.getStyleClass().add("secondary");
        detail.setWrapText(true);
        getChildren().setAll(photo, new VBox(2, name, detail));
        managedProperty().bind(visibleProperty());
        setVisible(false);
    }

    /**
     * Shows somebody as they were on file.
     *
     * @param at when it happened
     */
    void show(Optional<PersonId> person, Instant at) {
        if (person.equals(shown)) {
            return;
        }
        shown = person;
        setVisible(false);
        person.ifPresent(id -> desk.work()
                .load(
                        () -> desk.services()
                                .people()
                                .person(id, at)
                                .value()
                                .map(p -> new Known(
                                        p,
                                        desk.services()
                                                .people()
                                                .photo(id)
                                                .map(jpeg -> Stills.picture(jpeg, FETCHED_HEIGHT)))),
                        found -> found.filter(k -> shown.equals(person)).ifPresent(this::show),
                        why -> {}));
    }

    private void show(Known known) {
        photo.setImage(known.photo().map(Pixels::image).orElse(null));
        photo.setManaged(known.photo().isPresent());
        name.setText(known.person().name());
        detail.setText(TEXTS.say(
                "who-detail",
                known.person().company(),
                known.person().kind(),
                known.photo().isPresent() ? "photo" : "none"));
        setVisible(true);
    }
}
