package org.custodia.desktop.control;

import java.io.File;
import java.nio.file.Path;
import java.util.Optional;
import java.util.function.Supplier;
import javafx.scene.Node;
import javafx.stage.FileChooser;

/** Asks for a file with the desktop's own window; where a desktop has none, no file is chosen. */
public final class FileQuestion {
    private FileQuestion() {}

    /**
     * Asks where something is written.
     *
     * @param over a node of the window over which it is asked
     * @param name default file name
     */
    public static Optional<Path> save(Node over, String name) {
        FileChooser chooser = new FileChooser();
        chooser.setInitialFileName(name);
        return asked(() -> chooser.showSaveDialog(over.getScene().getWindow()));
    }

    /** Asks what is read. */
    public static Optional<Path> open(Node over) {
        return asked(() -> new FileChooser().showOpenDialog(over.getScene().getWindow()));
    }

    private static Optional<Path> asked(Supplier<File> question) {
        try {
            return Optional.ofNullable(question.get()).map(File::toPath);
        } catch (UnsupportedOperationException e) {
            return Optional.empty();
        }
    }
}
