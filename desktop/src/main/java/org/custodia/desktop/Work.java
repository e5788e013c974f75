package org.custodia.desktop;

import java.io.UncheckedIOException;
import java.util.HashMap;
import java.util.Map;
import java.util.concurrent.CancellationException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.function.Consumer;
import java.util.function.Supplier;
import javafx.application.Platform;
import org.custodia.core.mishap.Threads;
import org.custodia.core.saying.Saying;
import org.custodia.core.saying.SayingException;
import org.custodia.desktop.saying.SayingWords;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Does what takes time away from the JavaFX thread, and brings results back to it. What is asked for again and again has a
 * key: of those that wait under one key only the latest is done, one at a time, so that their results come in order and
 * nothing piles up however fast somebody asks. Used by any thread.
 */
public final class Work implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(Work.class);

    private final ExecutorService executor;
    /** What is being done under each key, with what is to be done after it, if anything. */
    private final Map<Object, Runnable> keyed = new HashMap<>();

    private static final Runnable NOTHING_MORE = () -> {};

    /**
     * @param name of its threads
     * @param threads how many loads are done at a time
     */
    public Work(String name, int threads) {
        executor = Executors.newFixedThreadPool(threads, Threads.factory(name));
    }

    /** For what is of no particular kind. */
    public Work() {
        this("desk work", 3);
    }

    /**
     * Computes away from the JavaFX thread and hands the result over on it.
     *
     * @param failed told in a sentence why there is no result, on the JavaFX thread
     */
    public <T> void load(Supplier<T> compute, Consumer<T> use, Consumer<String> failed) {
        submit(() -> perform(compute, use, failed));
    }

    /**
     * The same for what is asked for often. A load that waits is given up for a newer one of its key, and nobody is told; one
     * that has begun is finished before the newer begins.
     *
     * @param key by which loads are the same, compared by {@code equals}
     */
    public <T> void latest(Object key, Supplier<T> compute, Consumer<T> use, Consumer<String> failed) {
        Runnable load = () -> perform(compute, use, failed);
        synchronized (keyed) {
            if (keyed.containsKey(key)) {
                keyed.put(key, load);
                return;
            }
            keyed.put(key, NOTHING_MORE);
        }
        submit(() -> inTurn(key, load));
    }

    private void inTurn(Object key, Runnable load) {
        try {
            load.run();
        } finally {
            Runnable next = next(key);
            if (next != NOTHING_MORE) {
                // At the end of the queue, so that one busy key does not keep others from their turn.
                submit(() -> inTurn(key, next));
            }
        }
    }

    private Runnable next(Object key) {
        synchronized (keyed) {
            Runnable next = keyed.get(key);
            if (next == NOTHING_MORE) {
                keyed.remove(key);
            } else {
                keyed.put(key, NOTHING_MORE);
            }
            return next;
        }
    }

    private void submit(Runnable task) {
        try {
            executor.execute(task);
        } catch (RejectedExecutionException e) {
            LOG.debug("closing");
        }
    }

    private static <T> void perform(Supplier<T> compute, Consumer<T> use, Consumer<String> failed) {
        try {
            T value = compute.get();
            Platform.runLater(() -> use.accept(value));
        } catch (SayingException e) {
            Platform.runLater(() -> failed.accept(SayingWords.of(e)));
        } catch (UncheckedIOException e) {
            // What came from outside was not as it should be; that is nobody's fault here.
            Platform.runLater(() -> failed.accept(SayingWords.of(e.getCause())));
        } catch (CancellationException e) {
            Platform.runLater(() -> failed.accept(SayingWords.of(Saying.of("custodia.cancelled"))));
        } catch (RuntimeException | Error e) {
            Threads.stumbled(e);
            Platform.runLater(() -> failed.accept(SayingWords.of(e)));
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
