package org.custodia.desktop.shell;

import java.util.List;
import java.util.Locale;
import javafx.animation.PauseTransition;
import javafx.application.Platform;
import javafx.beans.property.ReadOnlyDoubleProperty;
import javafx.geometry.Rectangle2D;
import javafx.scene.Scene;
import javafx.stage.Screen;
import javafx.stage.Stage;
import javafx.util.Duration;
import org.custodia.desktop.Services;
import org.custodia.desktop.Work;
import org.custodia.desktop.control.KeptFocus;
import org.custodia.desktop.settings.Settings;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;

/** The console's window: opened where it was left. */
public final class ConsoleWindow implements AutoCloseable {
    private static final double LEAST_WIDTH = 1100;
    private static final double LEAST_HEIGHT = 640;

    private final Stage stage;
    private final Settings settings;
    private final Work work = new Work();
    private final Theme theme = new Theme();
    private final Shell shell;
    private final Scene scene;
    /** Runs out once the window has kept its place and size for a moment. */
    private final PauseTransition settled = new PauseTransition(Duration.seconds(1));

    /** Opens the window. Called on the JavaFX thread. */
    public ConsoleWindow(Stage stage, Services services, Settings settings) {
        this.stage = stage;
        this.settings = settings;
        theme.dark(settings.values().dark());
        theme.scale(settings.values().scale());
        Texts.choose(settings.language().map(Locale::forLanguageTag).orElse(Texts.ENGLISH));
        this.shell = new Shell(services, settings, theme, work);
        Settings.Values v = settings.values();
        this.scene = new Scene(shell, v.width(), v.height());
        KeptFocus.in(scene);
        theme.dress(scene);
        shell.attend(stage::isFocused, stage::setTitle);
        stage.setScene(scene);
        stage.setMinWidth(LEAST_WIDTH);
        stage.setMinHeight(LEAST_HEIGHT);
        place(v);
        stage.show();
        stage.setOnHiding(e -> remember());
        // Not only when it is closed: a session that ends may leave no time for that.
        settled.setOnFinished(e -> {
            if (stage.isShowing()) {
                remember();
            }
        });
        for (ReadOnlyDoubleProperty p :
                List.of(stage.xProperty(), stage.yProperty(), stage.widthProperty(), stage.heightProperty())) {
            p.addListener((o, a, b) -> settled.playFromStart());
        }
        shell.requestFocus();
    }

    private void place(Settings.Values v) {
        stage.setWidth(v.width());
        stage.setHeight(v.height());
        boolean onScreen = !Double.isNaN(v.x())
                && Screen.getScreensForRectangle(v.x(), v.y(), 200, 100).stream()
                        .map(Screen::getVisualBounds)
                        .anyMatch(b -> b.intersects(new Rectangle2D(v.x(), v.y(), 200, 100)));
        if (onScreen) {
            stage.setX(v.x());
            stage.setY(v.y());
        }
        stage.setMaximized(v.maximized());
    }

    private void remember() {
        if (stage.isMaximized()) {
            // What it goes back to when it is made smaller again stays as it was.
            Settings.Values v = settings.values();
            settings.window(v.x(), v.y(), v.width(), v.height(), true);
        } else {
            settings.window(stage.getX(), stage.getY(), stage.getWidth(), stage.getHeight(), false);
        }
    }

    public Shell shell() {
        return shell;
    }

    public Scene scene() {
        return scene;
    }

    public Stage stage() {
        return stage;
    }

    public Theme theme() {
        return theme;
    }

    /** Takes notice of changed places, from any thread. */
    public void placesChanged() {
        Platform.runLater(() -> shell.placesChanged());
    }

    @Override
    public void close() {
        settled.stop();
        if (stage.isShowing()) {
            remember();
        }
        shell.close();
        work.close();
    }
}
