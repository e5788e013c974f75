package org.custodia.practice.picture;

import java.util.OptionalLong;

/**
 * The machine-readable time at the lower edge of every picture: 64 cells, each a tenth of 100 pixels wide: four cells
 * light-dark-light-dark to find the levels, 44 bits of milliseconds since 1970 by the recorder's clock, most significant
 * first, and 16 bits of check sum (CRC-16/CCITT).
 */
public final class TimeStrip {
    /** How many cells there are. */
    public static final int CELLS = 64;
    /** Height in pixels. */
    public static final int HEIGHT = 6;

    private static final int DARK = 0x2a2a2a;
    private static final int LIGHT = 0x585858;
    private static final int TIME_BITS = 44;

    private TimeStrip() {}

    /** Writes a time into the lowest rows of an RGB picture. */
    public static void write(int[] rgb, int width, int height, long millis) {
        for (int cell = 0; cell < CELLS; cell++) {
            int colour = bit(cell, millis) ? LIGHT : DARK;
            int from = cell * width / CELLS;
            int to = (cell + 1) * width / CELLS;
            for (int y = height - HEIGHT; y < height; y++) {
                java.util.Arrays.fill(rgb, y * width + from, y * width + to, colour);
            }
        }
    }

    private static boolean bit(int cell, long millis) {
        if (cell < 4) {
            return cell % 2 == 0;
        }
        if (cell < 4 + TIME_BITS) {
            return (millis >>> (TIME_BITS - 1 - (cell - 4)) & 1) != 0;
        }
        return (crc(millis) >>> (15 - (cell - 4 - TIME_BITS)) & 1) != 0;
    }

    /**
     * Reads the time back from a picture of any size with the same proportions.
     *
     * @param luma brightness, 0 to 255, by pixel
     * @return nothing if there is no strip or it does not check
     */
    public static OptionalLong read(int[] luma, int width, int height) {
        int row = height - Math.max(1, HEIGHT * height / 360 / 2);
        int[] cells = new int[CELLS];
        for (int cell = 0; cell < CELLS; cell++) {
            cells[cell] = luma[row * width + (2 * cell + 1) * width / (2 * CELLS)];
        }
        int light = (cells[0] + cells[2]) / 2;
        int dark = (cells[1] + cells[3]) / 2;
        if (light - dark < 12) {
            return OptionalLong.empty();
        }
        int middle = (light + dark) / 2;
        long millis = 0;
        for (int i = 0; i < TIME_BITS; i++) {
            millis = millis << 1 | (cells[4 + i] > middle ? 1 : 0);
        }
        int check = 0;
        for (int i = 0; i < 16; i++) {
            check = check << 1 | (cells[4 + TIME_BITS + i] > middle ? 1 : 0);
        }
        return check == crc(millis) ? OptionalLong.of(millis) : OptionalLong.empty();
    }

    private static int crc(long millis) {
        int crc = 0xFFFF;
        for (int i = 5; i >= 0; i--) {
            crc ^= (int) (millis >>> 8 * i & 0xFF) << 8;
            for (int b = 0; b < 8; b++) {
                crc = (crc & 0x8000) != 0 ? (crc << 1 ^ 0x1021) & 0xFFFF : crc << 1 & 0xFFFF;
            }
        }
        return crc;
    }
}
