package org.custodia.desktop.picture;

import java.nio.IntBuffer;
import javafx.scene.image.PixelBuffer;
import javafx.scene.image.PixelFormat;
import javafx.scene.image.WritableImage;
import org.custodia.video.Picture;

/** Turns decoded pictures into images, reusing one image while the size stays the same. */
public final class Pixels {
    private PixelBuffer<IntBuffer> buffer;
    private WritableImage image;

    /** An image of a picture that will not change. */
    public static WritableImage image(Picture picture) {
        return new WritableImage(new PixelBuffer<>(
                picture.width(),
                picture.height(),
                IntBuffer.wrap(picture.argb()),
                PixelFormat.getIntArgbPreInstance()));
    }

    /** Shows the next picture of a stream; the same image is returned as long as the size is the same. */
    public WritableImage update(Picture picture) {
        boolean same = buffer != null && buffer.getWidth() == picture.width() && buffer.getHeight() == picture.height();
        if (!same) {
            buffer = new PixelBuffer<>(
                    picture.width(),
                    picture.height(),
                    IntBuffer.wrap(picture.argb().clone()),
                    PixelFormat.getIntArgbPreInstance());
            image = new WritableImage(buffer);
            return image;
        }
        buffer.updateBuffer(b -> {
            b.getBuffer().put(0, picture.argb());
            return null;
        });
        return image;
    }
}
