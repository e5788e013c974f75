package org.custodia.core.evidence;

import java.time.Instant;
import java.util.Arrays;
import java.util.BitSet;

/** A picture reduced to a grid of grey cells, enough to say where something is different. Immutable. */
public final class Glimpse {
    /** Cells from left to right. */
    public static final int COLUMNS = 32;
    /** Cells from top to bottom. */
    public static final int ROWS = 18;

    static final int CELLS = COLUMNS * ROWS;

    /** A cell is different from so many grey levels on, of 256. */
    private static final int DIFFERENT = 14;
    /** The light changes by no more than this factor; what differs by more is no longer the same room in other light. */
    private static final double MOST_GAIN = 3;

    private final Instant at;
    private final byte[] grey;

    private Glimpse(Instant at, byte[] grey) {
        this.at = at;
        this.grey = grey;
    }

    /**
     * Reduces a picture.
     *
     * @param rgb its pixels, row by row, 0xRRGGBB
     * @throws IllegalArgumentException if it has fewer pixels than there are cells, or not as many as it says
     */
    public static Glimpse of(Instant at, int[] rgb, int width, int height) {
        if (width < COLUMNS || height < ROWS || rgb.length < width * height) {
            throw new IllegalArgumentException("a picture of " + width + " by " + height + " cannot be reduced");
        }
        byte[] grey = new byte[CELLS];
        for (int row = 0; row < ROWS; row++) {
            int top = row * height / ROWS;
            int bottom = (row + 1) * height / ROWS;
            for (int column = 0; column < COLUMNS; column++) {
                int left = column * width / COLUMNS;
                int right = (column + 1) * width / COLUMNS;
                long sum = 0;
                for (int y = top; y < bottom; y++) {
                    for (int x = left; x < right; x++) {
                        int p = rgb[y * width + x];
                        // The brightness of ITU-R BT.601.
                        sum += 299L * (p >> 16 & 0xff) + 587L * (p >> 8 & 0xff) + 114L * (p & 0xff);
                    }
                }
                grey[row * COLUMNS + column] = (byte) (sum / 1000 / ((long) (bottom - top) * (right - left)));
            }
        }
        return new Glimpse(at, grey);
    }

    /** One that is made of cells, 0 to 255 each. */
    static Glimpse ofCells(Instant at, int[] cells) {
        byte[] grey = new byte[CELLS];
        for (int i = 0; i < CELLS; i++) {
            grey[i] = (byte) cells[i];
        }
        return new Glimpse(at, grey);
    }

    /** The instant it shows. */
    public Instant at() {
        return at;
    }

    private int cell(int i) {
        return grey[i] & 0xff;
    }

    /** Which cells look different in another one, when the light as a whole is taken to be the same. */
    BitSet differs(Glimpse other) {
        double gain = (other.median() + 1.0) / (median() + 1.0);
        gain = Math.max(1 / MOST_GAIN, Math.min(MOST_GAIN, gain));
        // Brighter pictures differ by more; both are brought to the brighter one's light.
        double mine = gain > 1 ? gain : 1;
        double theirs = gain > 1 ? 1 : 1 / gain;
        BitSet different = new BitSet(CELLS);
        for (int i = 0; i < CELLS; i++) {
            if (Math.abs(cell(i) * mine - other.cell(i) * theirs) > DIFFERENT) {
                different.set(i);
            }
        }
        return different;
    }

    private int median() {
        int[] sorted = new int[CELLS];
        for (int i = 0; i < CELLS; i++) {
            sorted[i] = cell(i);
        }
        Arrays.sort(sorted);
        return sorted[CELLS / 2];
    }

    /** What most of some show in each cell: the room when nobody is there. */
    static Glimpse usual(java.util.List<Glimpse> some) {
        int[] cells = new int[CELLS];
        int[] values = new int[some.size()];
        for (int i = 0; i < CELLS; i++) {
            for (int k = 0; k < values.length; k++) {
                values[k] = some.get(k).cell(i);
            }
            Arrays.sort(values);
            cells[i] = values[values.length / 2];
        }
        return ofCells(some.get(0).at, cells);
    }
}
