package org.custodia.core.footage;

import java.util.Optional;

/**
 * How large a JPEG picture is once it is decoded, read from its frame header (ITU-T T.81, B.2.2), so that nothing is
 * decoded that would fill the memory.
 *
 * @param width in points
 * @param height in points
 */
public record JpegSize(int width, int height) {
    private static final int LONGEST_SIDE = 8_000;
    private static final long MOST_POINTS = 16_000_000;

    /** Whether there is room for it in memory. */
    public boolean reasonable() {
        return width > 0
                && height > 0
                && width <= LONGEST_SIDE
                && height <= LONGEST_SIDE
                && (long) width * height <= MOST_POINTS;
    }

    /** The size that a picture claims; nothing if it is no JPEG. */
    public static Optional<JpegSize> of(byte[] jpeg) {
        if (jpeg.length < 4 || (jpeg[0] & 0xff) != 0xff || (jpeg[1] & 0xff) != 0xd8) {
            return Optional.empty();
        }
        int at = 2;
        while (at + 4 <= jpeg.length) {
            if ((jpeg[at] & 0xff) != 0xff) {
                return Optional.empty();
            }
            int marker = jpeg[at + 1] & 0xff;
            if (marker == 0xff) {
                at++;
                continue;
            }
            if (marker == 0x01 || marker >= 0xd0 && marker <= 0xd7) {
                at += 2;
                continue;
            }
            int length = word(jpeg, at + 2);
            boolean frame = marker >= 0xc0 && marker <= 0xcf && marker != 0xc4 && marker != 0xc8 && marker != 0xcc;
            if (frame) {
                return at + 9 <= jpeg.length
                        ? Optional.of(new JpegSize(word(jpeg, at + 7), word(jpeg, at + 5)))
                        : Optional.empty();
            }
            if (length < 2 || marker == 0xda) {
                return Optional.empty();
            }
            at += 2 + length;
        }
        return Optional.empty();
    }

    private static int word(byte[] bytes, int at) {
        return (bytes[at] & 0xff) << 8 | bytes[at + 1] & 0xff;
    }
}
