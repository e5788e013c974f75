package org.custodia.video;

import java.awt.image.BufferedImage;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.time.Instant;
import javax.imageio.ImageIO;

/**
 * One decoded frame.
 *
 * @param argb pixels, row by row, opaque; not to be changed, and where a listener is told of frames, good only until it returns
 * @param at the instant it shows
 */
public record Picture(int width, int height, int[] argb, Instant at) {
    /**
     * The same as a JPEG.
     *
     * @throws UncheckedIOException if it cannot be made
     */
    public byte[] jpeg() {
        BufferedImage image = new BufferedImage(width, height, BufferedImage.TYPE_INT_RGB);
        image.setRGB(0, 0, width, height, argb, 0, width);
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        try {
            if (!ImageIO.write(image, "jpg", out)) {
                throw new IOException("no JPEG writer");
            }
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        return out.toByteArray();
    }
}
