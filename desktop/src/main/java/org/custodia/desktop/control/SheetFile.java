package org.custodia.desktop.control;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;

/** Small files that go out and come in; takes time, so away from the JavaFX thread. */
public final class SheetFile {
    /** Bytes; of what is longer just so much is read that it is seen to be too long. */
    private static final int LARGEST = 4 * 1024 * 1024;

    private SheetFile() {}

    /**
     * What a file holds.
     *
     * @throws UncheckedIOException if it cannot be read
     */
    public static byte[] read(Path from) {
        try (var in = Files.newInputStream(from)) {
            return in.readNBytes(LARGEST + 1);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /**
     * Writes a file.
     *
     * @throws UncheckedIOException if it cannot be written
     */
    public static Path write(Path to, byte[] content) {
        try {
            return Files.write(to, content);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
