package org.custodia.app;

import java.io.FilterOutputStream;
import java.io.IOException;
import java.io.PrintStream;
import java.io.PrintWriter;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Clock;
import java.util.List;
import java.util.concurrent.CopyOnWriteArrayList;
import org.custodia.core.mishap.Mishaps;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** How the process ends: in order when it is told to, at whatever moment, and with a sentence when it cannot go on. */
final class Ending {
    private static final Logger LOG = LoggerFactory.getLogger(Ending.class);
    /** Whoever told it to stop waits no longer than that, or ends it the hard way. */
    private static final long ORDERLY_MILLIS = 15_000;

    private final List<Runnable> actions = new CopyOnWriteArrayList<>();
    private volatile boolean asked;

    /** From now on being told to stop ends what the calling thread does, in order, before the process is gone. */
    static Ending watching() {
        Ending ending = new Ending();
        Thread main = Thread.currentThread();
        Runtime.getRuntime()
                .addShutdownHook(new Thread(
                        () -> {
                            ending.asked = true;
                            System.setErr(withoutTheToolkit(System.err));
                            ending.actions.forEach(Ending::quietly);
                            try {
                                main.join(ORDERLY_MILLIS);
                            } catch (InterruptedException e) {
                                Thread.currentThread().interrupt();
                            }
                        },
                        "stop"));
        return ending;
    }

    /**
     * What is drawn while everything ends cannot be drawn any more; the toolkit prints a trace of its own then, which tells
     * nobody anything.
     */
    static PrintStream withoutTheToolkit(PrintStream err) {
        return new PrintStream(
                new FilterOutputStream(err) {
                    @Override
                    public void write(byte[] bytes, int from, int length) {
                        String thread = Thread.currentThread().getName();
                        if (!thread.startsWith("QuantumRenderer") && !thread.startsWith("JavaFX")) {
                            err.write(bytes, from, length);
                        }
                    }
                },
                true,
                StandardCharsets.UTF_8);
    }

    private static void quietly(Runnable action) {
        try {
            action.run();
        } catch (RuntimeException e) {
            LOG.debug("Something could not be ended", e);
        }
    }

    /** Whether the process was told to stop. */
    boolean asked() {
        return asked;
    }

    /** Does something as soon as it is told to stop; at once if it was. */
    void onAsked(Runnable action) {
        actions.add(action);
        if (asked) {
            quietly(action);
        }
    }

    /** The handler of what nobody else catches in this process; there is one. */
    static synchronized Mishaps mishaps() {
        if (Thread.getDefaultUncaughtExceptionHandler() instanceof Mishaps known) {
            return known;
        }
        Mishaps mishaps = new Mishaps(
                (words, e) -> {
                    if (!words.isEmpty()) {
                        LOG.error(words);
                    }
                    LOG.debug("What happened:", e);
                },
                code -> Runtime.getRuntime().halt(code),
                Clock.systemUTC());
        Thread.setDefaultUncaughtExceptionHandler(mishaps);
        return mishaps;
    }

    /** Writes down what an error of our own was, for whoever mends it; where, in words. */
    static String noted(Throwable e) {
        try {
            Path file = Files.createTempFile("custodia-error-", ".txt");
            try (PrintWriter out = new PrintWriter(Files.newBufferedWriter(file))) {
                e.printStackTrace(out);
            }
            return " What happened is written down in " + file + ".";
        } catch (IOException failed) {
            return "";
        }
    }
}
