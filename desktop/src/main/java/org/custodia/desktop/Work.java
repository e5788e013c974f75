package org.custodia.desktop;

import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.function.Consumer;
import java.util.function.Supplier;
import javafx.application.Platform;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Does what takes time away from the JavaFX thread, and brings results back to it. */
public final class Work implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(Work.class);

    private final ExecutorService executor = Executors.newFixedThreadPool(3, r -> {
        Thread t = new Thread(r, "desk work");
        t.setDaemon(true);
        return t;
    });

    /** Computes away from the JavaFX thread and hands the result over on it; a failure goes to {@code failed}. */
    public <T> void load(Supplier<T> compute, Consumer<T> use, Consumer<String> failed) {
        try {
            executor.execute(() -> {
                try {
                    T value = compute.get();
                    Platform.runLater(() -> use.accept(value));
                } catch (RuntimeException e) {
                    LOG.warn("Something could not be loaded: {}", e.getMessage(), e);
                    Platform.runLater(() -> failed.accept(String.valueOf(e.getMessage())));
                }
            });
        } catch (RejectedExecutionException e) {
            LOG.debug("closing");
        }
    }

    /** A task that runs once on the JavaFX thread however often it is asked for before that. */
    public static Runnable conflated(Runnable task) {
        AtomicBoolean asked = new AtomicBoolean();
        return () -> {
            if (asked.compareAndSet(false, true)) {
                Platform.runLater(() -> {
                    asked.set(false);
                    task.run();
                });
            }
        };
    }

    @Override
    public void close() {
        executor.shutdownNow();
    }
}
