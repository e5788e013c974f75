package org.custodia.desktop.strip;

import java.util.Arrays;
import java.util.Locale;
import org.custodia.desktop.text.Texts;

/** How much room a strip takes. All lengths are in pixels at a text scale of 100. */
public enum StripSize {
    /** State and ticks with small faces, and who came last in place of the picture: for many doors. */
    SMALL(46, 278, 28, 36, 6, false),
    MIDDLE(122, 198, 54, 88, 8, true),
    /** Larger faces and pictures: for few doors on a large screen. */
    LARGE(184, 226, 112, 132, 10, true);

    private static final Texts TEXTS = Texts.of(StripSize.class);

    private final double height;
    private final double doorWidth;
    private final double still;
    private final double card;
    private final double bar;
    private final boolean roomy;

    StripSize(double height, double doorWidth, double still, double card, double bar, boolean roomy) {
        this.height = height;
        this.doorWidth = doorWidth;
        this.still = still;
        this.card = card;
        this.bar = bar;
        this.roomy = roomy;
    }

    /** The size of a name as {@link #name} gives it; the middle one for any other. */
    public static StripSize of(String name) {
        return Arrays.stream(values())
                .filter(s -> s.name().equals(name))
                .findFirst()
                .orElse(MIDDLE);
    }

    public String words() {
        return TEXTS.say("strips-" + name().toLowerCase(Locale.ROOT));
    }

    public double height() {
        return height;
    }

    /** Width of the door's side at the left. */
    public double doorWidth() {
        return doorWidth;
    }

    /** Width of the picture at the right, or of what stands in its place. */
    public double pictureWidth() {
        return roomy ? Math.rint(height * 16 / 9) - 5 : 212;
    }

    /** Height of a still. */
    double still() {
        return still;
    }

    /** Width that a card takes, with the gap to the next. */
    double card() {
        return card;
    }

    /** Height of a card, with its words where it has some. */
    double cardHeight() {
        return roomy ? still + 36 : still + 3;
    }

    /** Height of the bar of a leaf that stands open. */
    double bar() {
        return bar;
    }

    /** Where that bar begins, from the top. */
    double barTop() {
        return height - bar - 5;
    }

    /** Whether there is room for words under stills, for buttons and for a picture. */
    public boolean roomy() {
        return roomy;
    }
}
