package org.custodia.desktop.theme;

import java.util.LinkedHashMap;
import java.util.Map;
import javafx.scene.paint.Color;

/**
 * The colours of a theme. Words are set in ink or muted; faint is for lines and ticks.
 *
 * @param accent can be pressed, is selected, is the moment
 * @param onAccent words on the accent
 * @param granted bars of doors that stood open as they should
 */
public record Tokens(
        boolean dark,
        Color ground,
        Color surface,
        Color raised,
        Color pressed,
        Color line,
        Color ink,
        Color muted,
        Color faint,
        Color accent,
        Color onAccent,
        Color caution,
        Color urgent,
        Color call,
        Color bar) {

    /** For dark control rooms. */
    public static final Tokens NIGHT = new Tokens(
            true,
            Color.web("#15181b"),
            Color.web("#1b1f23"),
            Color.web("#22272c"),
            Color.web("#2b3137"),
            Color.web("#343b42"),
            Color.web("#e9e4d8"),
            Color.web("#a3aaae"),
            Color.web("#6d757a"),
            Color.web("#5fb9a7"),
            Color.web("#0d1513"),
            Color.web("#e9b44c"),
            Color.web("#f5805f"),
            Color.web("#9db8ea"),
            Color.web("#76808a"));

    /** For bright rooms. */
    public static final Tokens DAY = new Tokens(
            false,
            Color.web("#f1efe9"),
            Color.web("#faf8f3"),
            Color.web("#ffffff"),
            Color.web("#dfe3e0"),
            Color.web("#c9c8c0"),
            Color.web("#20262a"),
            Color.web("#555e63"),
            Color.web("#9aa09e"),
            Color.web("#17705f"),
            Color.web("#ffffff"),
            Color.web("#8a5a00"),
            Color.web("#b3381a"),
            Color.web("#2f53a0"),
            Color.web("#8b949a"));

    /** The same as style rules for the root, under our names and under those the base style looks up. */
    String css() {
        Map<String, Color> all = new LinkedHashMap<>();
        all.put("-t-ground", ground);
        all.put("-t-surface", surface);
        all.put("-t-raised", raised);
        all.put("-t-pressed", pressed);
        all.put("-t-line", line);
        all.put("-t-ink", ink);
        all.put("-t-muted", muted);
        all.put("-t-faint", faint);
        all.put("-t-accent", accent);
        all.put("-t-on-accent", onAccent);
        all.put("-t-caution", caution);
        all.put("-t-urgent", urgent);
        all.put("-t-call", call);
        all.put("-color-bg-default", surface);
        all.put("-color-bg-overlay", raised);
        all.put("-color-bg-subtle", raised);
        all.put("-color-bg-inset", ground);
        all.put("-color-fg-default", ink);
        all.put("-color-fg-muted", muted);
        all.put("-color-fg-subtle", muted);
        all.put("-color-fg-emphasis", onAccent);
        all.put("-color-border-default", line);
        all.put("-color-border-muted", line);
        all.put("-color-border-subtle", line);
        all.put("-color-accent-fg", accent);
        all.put("-color-accent-emphasis", accent);
        all.put("-color-accent-muted", accent.deriveColor(0, 1, 1, 0.4));
        all.put("-color-accent-subtle", accent.deriveColor(0, 1, 1, 0.15));
        all.put("-color-neutral-emphasis", pressed);
        all.put("-color-neutral-muted", pressed);
        all.put("-color-neutral-subtle", raised);
        StringBuilder css = new StringBuilder(".root {");
        all.forEach((name, colour) ->
                css.append(name).append(':').append(web(colour)).append(';'));
        return css.append('}').toString();
    }

    private static String web(Color c) {
        return String.format(
                java.util.Locale.ROOT,
                "rgba(%d,%d,%d,%.3f)",
                Math.round(c.getRed() * 255),
                Math.round(c.getGreen() * 255),
                Math.round(c.getBlue() * 255),
                c.getOpacity());
    }
}
