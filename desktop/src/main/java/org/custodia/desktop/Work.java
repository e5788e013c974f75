package org.custodia.desktop;

import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.function.Consumer;
import java.util.function.Supplier;
import javafx.application.Platform;
import org.custodia.core.event.EventLogException;
import org.custodia.core.mishap.Threads;
import org.custodia.core.operator.NotPermittedException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Does what takes time away from the JavaFX thread, and brings results back to it. */
public final class Work implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(Work.class);

    private final ExecutorService executor = Executors.newFixedThreadPool(3, Threads.factory("desk work"));

    /**
     * Computes away from the JavaFX thread and hands the result over on it.
     *
     * @param failed told in a sentence why there is no result, on the JavaFX thread
     */
    public <T> void load(Supplier<T> compute, Consumer<T> use, Consumer<String> failed) {
        try {
            executor.execute(() -> {
                try {
                    T value = compute.get();
                    Platform.runLater(() -> use.accept(value));
                } catch (EventLogException e) {
                    Platform.runLater(() -> failed.accept("The log could not be read: " + e.getMessage()));
                } catch (NotPermittedException e) {
                    Platform.runLater(() -> failed.accept(e.getMessage()));
                } catch (RuntimeException | Error e) {
                    Threads.stumbled(e);
                    Platform.runLater(() -> failed.accept("Custodia stumbled over it. Try again."));
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
