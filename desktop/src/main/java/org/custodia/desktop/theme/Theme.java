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
    public static final List<Integer> SCALES = List.of(100, 115, 130, 150, 175);

    private static final List<String> FONTS = List.of(
            "B612-Regular.otf", "B612-Bold.otf", "B612-Italic.otf", "B612Mono-Regular.otf", "B612Mono-Bold.otf");

    private final ReadOnlyObjectWrapper<Tokens> tokens = new ReadOnlyObjectWrapper<>(Tokens.NIGHT);
    private Scene scene;
    private int scale = 100;

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
        tokens.set(dark ? Tokens.NIGHT : Tokens.DAY);
        apply();
    }

    /** Text size in per cent, one of {@link #SCALES}. */
    public void scale(int percent) {
        scale = SCALES.contains(percent) ? percent : 100;
        apply();
    }

    public int scale() {
        return scale;
    }

    public Tokens now() {
        return tokens.get();
    }

    public ReadOnlyObjectProperty<Tokens> tokens() {
        return tokens.getReadOnlyProperty();
    }

    /** The font, at the text scale. Its figures all have one width, so times line up. */
    public Font font(double size) {
        return Font.font("B612", size * scale / 100);
    }

    private void apply() {
        Application.setUserAgentStylesheet(
                tokens.get().dark()
                        ? new PrimerDark().getUserAgentStylesheet()
                        : new PrimerLight().getUserAgentStylesheet());
        if (scene == null) {
            return;
        }
        String size = String.format(Locale.ROOT, ".root{-fx-font-size:%.2fpx;}", 13.5 * scale / 100);
        scene.getStylesheets()
                .setAll(
                        data(tokens.get().css() + size),
                        Theme.class.getResource("custodia.css").toExternalForm());
        scene.setFill(tokens.get().ground());
    }

    private static String data(String css) {
        return "data:text/css;base64," + Base64.getEncoder().encodeToString(css.getBytes(StandardCharsets.UTF_8));
    }
}
