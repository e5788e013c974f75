package org.custodia.practice.picture;

/** A tiny raster of digits, so that pictures need no font from the machine. */
final class Digits {
    private static final String SET = "0123456789:-. ";
    private static final int[][] ROWS = {
        {14, 17, 19, 21, 25, 17, 14}, {4, 12, 4, 4, 4, 4, 14}, {14, 17, 1, 6, 8, 16, 31}, {31, 2, 4, 2, 1, 17, 14},
        {2, 6, 10, 18, 31, 2, 2}, {31, 16, 30, 1, 1, 17, 14}, {6, 8, 16, 30, 17, 17, 14}, {31, 1, 2, 4, 8, 8, 8},
        {14, 17, 17, 14, 17, 17, 14}, {14, 17, 17, 15, 1, 2, 12}, {0, 4, 4, 0, 4, 4, 0}, {0, 0, 0, 31, 0, 0, 0},
        {0, 0, 0, 0, 0, 12, 12}, {0, 0, 0, 0, 0, 0, 0}
    };

    private Digits() {}

    /** Draws text in light on a dark plate, two pixels a dot. */
    static void draw(int[] rgb, int width, int x, int y, String text) {
        int plate = text.length() * 12 + 6;
        for (int r = 0; r < 20; r++) {
            for (int c = 0; c < plate; c++) {
                int i = (y + r) * width + x + c;
                rgb[i] = (rgb[i] >> 2 & 0x3f3f3f);
            }
        }
        for (int i = 0; i < text.length(); i++) {
            int[] rows = ROWS[Math.max(0, SET.indexOf(text.charAt(i)))];
            for (int r = 0; r < 14; r++) {
                for (int c = 0; c < 10; c++) {
                    if ((rows[r / 2] >> (4 - c / 2) & 1) != 0) {
                        rgb[(y + 3 + r) * width + x + 4 + i * 12 + c] = 0xd8d4c8;
                    }
                }
            }
        }
    }
}
