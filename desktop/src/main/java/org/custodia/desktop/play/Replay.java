package org.custodia.desktop.play;

import java.time.Instant;
import java.util.Optional;
import javafx.geometry.Pos;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.layout.HBox;
import javafx.scene.layout.VBox;
import org.custodia.core.event.Event;
import org.custodia.core.site.Pairing;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.desk.Playing;
import org.custodia.desktop.picture.PicturePane;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.words.ClockWords;

/** Plays an event once by one pair, beside whatever else is played; its owner closes it. */
public final class Replay extends VBox implements AutoCloseable {
    private static final Texts TEXTS = Texts.of(Replay.class);

    private final Desk desk;
    private final Event event;
    private final Pairing pairing;
    private final PicturePane pane;
    private final Label instant = new Label();
    private PlayerModel player;

    /**
     * @param event of the pair's door
     * @param width of the picture
     */
    public Replay(Desk desk, Event event, Pairing pairing, double width) {
        this.desk = desk;
        this.event = event;
        this.pairing = pairing;
        this.pane = new PicturePane(desk.services().pictures());
        pane.setMinSize(width, width * 9 / 16);
        pane.setMaxSize(width, width * 9 / 16);
        pane.setPrefSize(width, width * 9 / 16);
        Button again = new Button(TEXTS.say("again"));
        again.setOnAction(e -> play());
        instant.getStyleClass().add("instant");
        HBox line = new HBox(10, instant, again);
        line.setAlignment(Pos.CENTER_LEFT);
        setSpacing(4);
        getChildren().setAll(pane, line);
        play();
    }

    private void play() {
        end();
        Playing playing = new Playing(0, pairing.door(), Optional.of(event), event.time());
        player = new PlayerModel(desk.services(), playing, new PaneScreen(pane, desk::called, desk.zone(), desk::now));
        player.state().addListener((o, a, now) -> {
            if (now instanceof PlayerModel.State.Recorded recorded) {
                Instant at = recorded.at().position();
                instant.setText(ClockWords.recorded(at, event.time(), desk.zone(), player.unsure(at)));
            } else if (now instanceof PlayerModel.State.Live) {
                instant.setText(TEXTS.say("live"));
            }
        });
        player.use(pairing);
    }

    private void end() {
        if (player != null) {
            player.close();
        }
    }

    @Override
    public void close() {
        end();
        pane.close();
    }
}
