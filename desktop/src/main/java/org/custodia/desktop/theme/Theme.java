package org.custodia.desktop.theme;

import atlantafx.base.theme.PrimerDark;
import atlantafx.base.theme.PrimerLight;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.util.Base64;
import java.util.List;
import java.util.Locale;
import javafx.application.Application;
import javafx.beans.property.ReadOnlyObjectProperty;
import javafx.beans.property.ReadOnlyObjectWrapper;
import javafx.scene.Scene;
import javafx.scene.text.Font;

/** The theme in force: puts tokens, fonts and sizes on a scene, and tells those who draw by hand. */
public final class Theme {
    /** Text scales there are, in per cent. */
    public static final List<Integer> SCALES = List.of(100, 115, 130, 150, 175, 200);

    private static final List<String> FONTS = List.of("B612-Regular.otf", "B612-Bold.otf");

    private final ReadOnlyObjectWrapper<Looks> looks = new ReadOnlyObjectWrapper<>(new Looks(Tokens.NIGHT, 100));
    private Scene scene;

    /**
     * What is in force.
     *
     * @param scale of text and all that holds text, in per cent
     */
    public record Looks(Tokens tokens, int scale) {}

    static {
        for (String name : FONTS) {
            try (InputStream in = Theme.class.getResourceAsStream(name)) {
                Font.loadFont(in, 13);
            } catch (java.io.IOException e) {
                throw new java.io.UncheckedIOException("The font " + name + " is missing from the program.", e);
            }
        }
    }

    /** Dresses a scene, and from then on with every change. */
    public void dress(Scene target) {
        scene = target;
        apply();
    }

    public void dark(boolean dark) {
        looks.set(new Looks(dark ? Tokens.NIGHT : Tokens.DAY, scale()));
        apply();
    }

    /** Text size in per cent, one of {@link #SCALES}. */
    public void scale(int percent) {
        looks.set(new Looks(now(), SCALES.contains(percent) ? percent : 100));
        apply();
    }

    public int scale() {
        return looks.get().scale();
    }

    /** A length on the screen, given for a scale of 100, at the scale in force; whole pixels. */
    public double px(double at100) {
        return Math.rint(at100 * scale() / 100);
    }

    public Tokens now() {
        return looks.get().tokens();
    }

    /** For those who draw by hand. What comes and goes listens weakly: the theme lives as long as the window. */
    public ReadOnlyObjectProperty<Looks> looks() {
        return looks.getReadOnlyProperty();
    }

    /** The font, at the text scale. Its figures all have one width, so times line up. */
    public Font font(double size) {
        return Font.font("B612", size * scale() / 100);
    }

    private void apply() {
        Application.setUserAgentStylesheet(
                now().dark() ? new PrimerDark().getUserAgentStylesheet() : new PrimerLight().getUserAgentStylesheet());
        if (scene == null) {
            return;
        }
        String size = String.format(Locale.ROOT, ".root{-fx-font-size:%.2fpx;}", 13.5 * scale() / 100);
        scene.getStylesheets()
                .setAll(
                        data(now().css() + size),
                        Theme.class.getResource("custodia.css").toExternalForm());
        scene.setFill(now().ground());
    }

    private static String data(String css) {
        return "data:text/css;base64," + Base64.getEncoder().encodeToString(css.getBytes(StandardCharsets.UTF_8));
    }
}
