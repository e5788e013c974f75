package org.custodia.bench;

import ch.qos.logback.classic.Level;
import ch.qos.logback.classic.Logger;
import ch.qos.logback.classic.LoggerContext;
import ch.qos.logback.classic.spi.ILoggingEvent;
import ch.qos.logback.core.AppenderBase;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.function.Supplier;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.slf4j.LoggerFactory;

/**
 * The baseline of questions: what SQLite's own shell, the command {@code sqlite3}, takes for the same statements on the same
 * file.
 */
final class Shell {
    private static final Pattern TIME = Pattern.compile("Run Time: real ([0-9.]+) user ([0-9.]+) sys ([0-9.]+)");
    private static final String WITH_VALUES = "-> with bind values";
    private static final String AS_IT_IS = "Executing query";

    private final Path file;

    /**
     * @param file the log's database, which nobody writes to meanwhile
     */
    Shell(Path file) {
        this.file = file;
    }

    /** Whether the shell is installed. */
    static boolean there() {
        try {
            return new ProcessBuilder("sqlite3", "--version")
                            .redirectErrorStream(true)
                            .start()
                            .waitFor()
                    == 0;
        } catch (IOException e) {
            return false;
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            return false;
        }
    }

    /** The statements that a question makes on this thread. */
    static List<String> statements(Supplier<?> question) {
        LoggerContext context = (LoggerContext) LoggerFactory.getILoggerFactory();
        Logger logger = context.getLogger("org.jooq.tools.LoggerListener");
        List<String> all = new CopyOnWriteArrayList<>();
        AppenderBase<ILoggingEvent> listener = new AppenderBase<>() {
            @Override
            protected void append(ILoggingEvent event) {
                String text = event.getFormattedMessage();
                int colon = text.indexOf(": ");
                if (text.startsWith(WITH_VALUES)) {
                    // The same statement once more, with what it asks for.
                    all.set(all.size() - 1, text.substring(colon + 2));
                } else if (text.startsWith(AS_IT_IS)) {
                    all.add(text.substring(colon + 2));
                }
            }
        };
        listener.setContext(context);
        listener.start();
        logger.setLevel(Level.DEBUG);
        logger.setAdditive(false);
        logger.addAppender(listener);
        try {
            question.get();
        } finally {
            logger.detachAppender(listener);
            logger.setLevel(Level.OFF);
            listener.stop();
        }
        return all;
    }

    /** How long each question takes, in milliseconds: all its statements together. */
    List<Double> millis(List<List<String>> questions) throws IOException, InterruptedException {
        Path script = Files.createTempFile("custodia-bench", ".sql");
        try {
            StringBuilder text = new StringBuilder(".timer on\n.mode list\n.output /dev/null\n");
            for (List<String> question : questions) {
                for (String statement : question) {
                    text.append(statement.replace('\n', ' ')).append(";\n");
                }
            }
            Files.writeString(script, text);
            Process process = new ProcessBuilder("sqlite3", "-readonly", file.toString())
                    .redirectInput(script.toFile())
                    .redirectError(ProcessBuilder.Redirect.INHERIT)
                    .start();
            List<Double> times = new ArrayList<>();
            for (String line : new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8)
                    .lines()
                    .toList()) {
                Matcher time = TIME.matcher(line);
                if (time.matches()) {
                    // By the wall it counts whole milliseconds only, and most statements take less than one.
                    double processor = Double.parseDouble(time.group(2)) + Double.parseDouble(time.group(3));
                    times.add(1_000 * Math.max(processor, Double.parseDouble(time.group(1))));
                }
            }
            process.waitFor();
            int expected = questions.stream().mapToInt(List::size).sum();
            if (times.size() != expected) {
                throw new IOException("the shell timed " + times.size() + " statements instead of " + expected);
            }
            List<Double> result = new ArrayList<>();
            int next = 0;
            for (List<String> question : questions) {
                double sum = 0;
                for (int i = 0; i < question.size(); i++) {
                    sum += times.get(next++);
                }
                result.add(sum);
            }
            return result;
        } finally {
            Files.delete(script);
        }
    }
}
