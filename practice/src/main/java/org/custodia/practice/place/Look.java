package org.custodia.practice.place;

import java.awt.Color;
import java.util.random.RandomGenerator;

/**
 * What somebody looks like, in the enrolled photo and in every picture alike.
 *
 * @param height of the figure, 1 for the middle of the range
 * @param width of the figure, 1 for the middle of the range
 */
public record Look(
        Color skin,
        Color hair,
        Hair style,
        boolean beard,
        boolean glasses,
        Color coat,
        Color second,
        Dress dress,
        double height,
        double width,
        double faceLength) {

    /** How the hair is worn. */
    public enum Hair {
        SHORT,
        SIDE,
        LONG,
        BUN,
        CURLY,
        BALD
    }

    /** What is worn over the shirt. */
    public enum Dress {
        COAT,
        BLAZER,
        VEST,
        APRON,
        JUMPER
    }

    private static final int[] SKINS = {0xf3d3b8, 0xe6b894, 0xd39d73, 0xb97f55, 0x8f5b3a, 0x6b4229, 0x4d2f1f};
    private static final int[] HAIRS = {0x1d1916, 0x33241b, 0x5a3d27, 0x8a6238, 0xc79a58, 0xa04a26, 0x9b9a97, 0xd9d5cc};
    private static final int[] COATS = {
        0x3f5a7a, 0x7a4a3f, 0x4e6b4b, 0x6f5b8c, 0x8c7a4a, 0x3b6d70, 0x9a5563, 0x54565c, 0xb08a4e, 0x2f4858, 0x7d8a5a,
        0x8a4b6f
    };

    /** Somebody by chance; the dress of the role where there is one. */
    public static Look random(RandomGenerator random, Dress dress, Integer coat) {
        Hair style = Hair.values()[random.nextInt(Hair.values().length)];
        int hair = HAIRS[random.nextInt(HAIRS.length)];
        boolean beard = style != Hair.LONG && style != Hair.BUN && random.nextInt(10) < 4;
        return new Look(
                new Color(SKINS[random.nextInt(SKINS.length)]),
                new Color(hair),
                style,
                beard,
                random.nextInt(10) < 3,
                new Color(coat != null ? coat : COATS[random.nextInt(COATS.length)]),
                new Color(COATS[random.nextInt(COATS.length)]),
                dress,
                0.92 + random.nextDouble() * 0.16,
                0.86 + random.nextDouble() * 0.3,
                0.92 + random.nextDouble() * 0.18);
    }
}
