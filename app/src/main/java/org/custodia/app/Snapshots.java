package org.custodia.app;

import java.awt.image.BufferedImage;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.concurrent.CompletableFuture;
import java.util.function.Supplier;
import javafx.application.Platform;
import javafx.embed.swing.SwingFXUtils;
import javafx.scene.Scene;
import javax.imageio.ImageIO;

/** Pictures of the window, and short errands on the JavaFX thread. */
public final class Snapshots {
    private Snapshots() {}

    /** Computes something on the JavaFX thread and waits for it. */
    public static <T> T onFx(Supplier<T> task) {
        if (Platform.isFxApplicationThread()) {
            return task.get();
        }
        CompletableFuture<T> result = new CompletableFuture<>();
        Platform.runLater(() -> {
            try {
                result.complete(task.get());
            } catch (RuntimeException | Error e) {
                // Whoever waits is told, whatever it was.
                result.completeExceptionally(e);
            }
        });
        return result.join();
    }

    /** Writes what a scene shows as PNG. */
    public static void write(Scene scene, Path file) {
        BufferedImage image = onFx(() -> SwingFXUtils.fromFXImage(scene.snapshot(null), null));
        BufferedImage opaque = new BufferedImage(image.getWidth(), image.getHeight(), BufferedImage.TYPE_INT_RGB);
        opaque.getGraphics().drawImage(image, 0, 0, null);
        try {
            if (file.toAbsolutePath().getParent() != null) {
                Files.createDirectories(file.toAbsolutePath().getParent());
            }
            ImageIO.write(opaque, "png", file.toFile());
        } catch (IOException e) {
            throw new UncheckedIOException("The picture " + file + " could not be written.", e);
        }
    }
}
