package org.custodia.practice.picture;

import java.awt.Graphics2D;
import java.awt.image.BufferedImage;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.UncheckedIOException;
import javax.imageio.ImageIO;

/** Pictures as JPEG. */
public final class Jpeg {
    private Jpeg() {}

    /** A picture as JPEG, at the encoder's usual quality. */
    public static byte[] of(BufferedImage picture) {
        // The encoder takes twice as long for pixels that are not three bytes in a row.
        BufferedImage bytes = new BufferedImage(picture.getWidth(), picture.getHeight(), BufferedImage.TYPE_3BYTE_BGR);
        Graphics2D g = bytes.createGraphics();
        g.drawImage(picture, 0, 0, null);
        g.dispose();
        try {
            ByteArrayOutputStream out = new ByteArrayOutputStream();
            ImageIO.write(bytes, "jpg", out);
            return out.toByteArray();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
