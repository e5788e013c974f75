package org.custodia.app;

import ch.qos.logback.classic.Level;
import ch.qos.logback.classic.LoggerContext;
import ch.qos.logback.classic.spi.ILoggingEvent;
import ch.qos.logback.classic.spi.IThrowableProxy;
import ch.qos.logback.classic.spi.StackTraceElementProxy;
import ch.qos.logback.classic.spi.ThrowableProxy;
import ch.qos.logback.core.LayoutBase;
import ch.qos.logback.core.encoder.LayoutWrappingEncoder;
import ch.qos.logback.core.rolling.FixedWindowRollingPolicy;
import ch.qos.logback.core.rolling.RollingFileAppender;
import ch.qos.logback.core.rolling.SizeBasedTriggeringPolicy;
import ch.qos.logback.core.util.Duration;
import ch.qos.logback.core.util.FileSize;
import java.nio.file.Path;
import java.time.Instant;
import java.util.regex.Pattern;
import org.custodia.core.saying.Says;
import org.slf4j.LoggerFactory;

/**
 * What Custodia says of itself, in files in the data directory that take turns, for whoever has to find out what went wrong: with
 * threads and stack traces. The words of exceptions are left out, since libraries put into them what they were reading: names,
 * tokens, messages of systems. Safe for use by several threads.
 */
final class DiagnosticLog implements AutoCloseable {
    /** Where in the data directory. */
    static final String DIRECTORY = "diagnostics";

    static final String NAME = "custodia.log";
    /** Bytes of each of the files. */
    static final long LARGEST = 1024 * 1024;
    /** So many files besides the one that is written. */
    static final int OLDER = 4;

    private static final String ROOT = "org.custodia";
    private static final int MOST_FRAMES = 60;
    private static final int LONGEST = 4_000;
    private static final Pattern SECRET = Pattern.compile(
            "(?i)((?:token|password|passphrase|authorization|secret)\"?\\s*[=:]\\s*(?:bearer\\s+|basic\\s+)?|bearer\\s+)\\S+");

    private final RollingFileAppender<ILoggingEvent> file;

    private DiagnosticLog(RollingFileAppender<ILoggingEvent> file) {
        this.file = file;
    }

    /** Begins to write into a data directory. Where that cannot be written nothing is, and all else goes on. */
    static DiagnosticLog in(Path data) {
        LoggerContext context = (LoggerContext) LoggerFactory.getILoggerFactory();
        Path directory = data.resolve(DIRECTORY);
        RollingFileAppender<ILoggingEvent> file = new RollingFileAppender<>();
        file.setContext(context);
        file.setName(DIRECTORY + " " + data);
        file.setFile(directory.resolve(NAME).toString());
        FixedWindowRollingPolicy rolling = new FixedWindowRollingPolicy();
        rolling.setContext(context);
        rolling.setParent(file);
        rolling.setFileNamePattern(
                directory
                                .resolve(NAME)
                                .toString()
                                .replace("%", "\\%")
                                .replace("(", "\\(")
                                .replace(")", "\\)") + ".%i");
        rolling.setMinIndex(1);
        rolling.setMaxIndex(OLDER);
        rolling.start();
        SizeBasedTriggeringPolicy<ILoggingEvent> full = new SizeBasedTriggeringPolicy<>();
        full.setContext(context);
        full.setMaxFileSize(new FileSize(LARGEST));
        full.setCheckIncrement(Duration.buildByMilliseconds(200));
        full.start();
        Lines lines = new Lines();
        lines.setContext(context);
        lines.start();
        LayoutWrappingEncoder<ILoggingEvent> encoder = new LayoutWrappingEncoder<>();
        encoder.setContext(context);
        encoder.setLayout(lines);
        encoder.start();
        file.setRollingPolicy(rolling);
        file.setTriggeringPolicy(full);
        file.setEncoder(encoder);
        file.start();
        ch.qos.logback.classic.Logger root = context.getLogger(ROOT);
        root.setLevel(Level.DEBUG);
        root.addAppender(file);
        return new DiagnosticLog(file);
    }

    @Override
    public void close() {
        LoggerContext context = (LoggerContext) LoggerFactory.getILoggerFactory();
        context.getLogger(ROOT).detachAppender(file);
        file.stop();
    }

    /** One line for what is said, and one for each step of the stack of what was thrown. */
    static final class Lines extends LayoutBase<ILoggingEvent> {
        @Override
        public String doLayout(ILoggingEvent event) {
            StringBuilder line = new StringBuilder(200)
                    .append(Instant.ofEpochMilli(event.getTimeStamp()))
                    .append(' ')
                    .append(event.getLevel())
                    .append(" [")
                    .append(event.getThreadName())
                    .append("] ")
                    .append(event.getLoggerName()
                            .substring(event.getLoggerName().lastIndexOf('.') + 1))
                    .append(": ")
                    .append(withoutSecrets(event.getFormattedMessage()))
                    .append('\n');
            for (IThrowableProxy e = event.getThrowableProxy(); e != null; e = e.getCause()) {
                thrown(e, line);
            }
            return line.toString();
        }

        private static void thrown(IThrowableProxy e, StringBuilder line) {
            line.append("  ").append(e.getClassName());
            if (e instanceof ThrowableProxy known && known.getThrowable() instanceof Says says) {
                line.append(" (").append(says.saying().code()).append(')');
            }
            line.append('\n');
            StackTraceElementProxy[] steps = e.getStackTraceElementProxyArray();
            int own = steps.length - e.getCommonFrames();
            for (int i = 0; i < Math.min(own, MOST_FRAMES); i++) {
                line.append("    ").append(steps[i].getSTEAsString()).append('\n');
            }
        }
    }

    /** Text in one line without what stands where a secret may, and not longer than somebody reads. */
    static String withoutSecrets(String text) {
        String one = text == null ? "" : text.replaceAll("\\p{Cntrl}", " ");
        String short_ = one.length() > LONGEST ? one.substring(0, LONGEST) + "…" : one;
        return SECRET.matcher(short_).replaceAll("$1…");
    }
}
