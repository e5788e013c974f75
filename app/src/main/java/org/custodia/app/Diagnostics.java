package org.custodia.app;

import java.io.IOException;
import java.io.OutputStream;
import java.lang.management.ManagementFactory;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import java.util.zip.ZipEntry;
import java.util.zip.ZipOutputStream;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.mishap.Mishaps;

/**
 * One file with all that whoever looks for a fault needs, and nothing else: the diagnostic log, what this computer is, and how a
 * running Custodia stands. No event, name, photo, address or token is in it; doors and systems stand in it by their ids.
 */
final class Diagnostics {
    private static final int MOST_ENTRIES = 200;

    private Diagnostics() {}

    /**
     * Writes it, whether Custodia runs or not.
     *
     * @param hub how it stands, where it runs
     * @param to in place of what is there; whole or not at all
     * @throws IOException if it cannot be written
     */
    static void write(Path data, Optional<Hub> hub, Path to) throws IOException {
        Path target = to.toAbsolutePath();
        Path parent = target.getParent();
        Files.createDirectories(parent);
        Path part = Files.createTempFile(parent, "diagnostics", ".part");
        try {
            try (OutputStream out = Files.newOutputStream(part);
                    ZipOutputStream zip = new ZipOutputStream(out)) {
                entry(zip, "about.txt", about(data));
                if (hub.isPresent()) {
                    entry(zip, "now.txt", now(hub.get()));
                    entry(zip, "threads.txt", threads());
                }
                for (Path log : logs(data)) {
                    zip.putNextEntry(new ZipEntry("log/" + log.getFileName()));
                    Files.copy(log, zip);
                    zip.closeEntry();
                }
            }
            Files.move(part, target, StandardCopyOption.REPLACE_EXISTING);
        } finally {
            Files.deleteIfExists(part);
        }
    }

    private static void entry(ZipOutputStream zip, String name, String text) throws IOException {
        zip.putNextEntry(new ZipEntry(name));
        zip.write(text.getBytes(StandardCharsets.UTF_8));
        zip.closeEntry();
    }

    private static List<Path> logs(Path data) throws IOException {
        Path directory = data.resolve(DiagnosticLog.DIRECTORY);
        if (!Files.isDirectory(directory)) {
            return List.of();
        }
        try (Stream<Path> all = Files.list(directory)) {
            return all.filter(p -> p.getFileName().toString().startsWith(DiagnosticLog.NAME))
                    .filter(Files::isRegularFile)
                    .sorted()
                    .limit(DiagnosticLog.OLDER + 1L)
                    .toList();
        }
    }

    private static String about(Path data) throws IOException {
        Runtime runtime = Runtime.getRuntime();
        List<String> lines = new ArrayList<>(List.of(
                "Custodia 0.1.0, at " + Instant.now(),
                "Java " + System.getProperty("java.version") + " of " + System.getProperty("java.vendor"),
                "System " + System.getProperty("os.name") + " " + System.getProperty("os.version") + " "
                        + System.getProperty("os.arch"),
                "Processors " + runtime.availableProcessors(),
                "Memory " + (runtime.totalMemory() - runtime.freeMemory()) / 1024 / 1024 + " of at most "
                        + runtime.maxMemory() / 1024 / 1024 + " MB",
                "Running for " + ManagementFactory.getRuntimeMXBean().getUptime() / 1_000 + " s",
                "Room left beside the data "
                        + data.toAbsolutePath().getRoot().toFile().getUsableSpace() / 1024 / 1024 + " MB"));
        if (Files.isDirectory(data)) {
            try (Stream<Path> all = Files.list(data)) {
                for (Path file : all.sorted().limit(MOST_ENTRIES).toList()) {
                    lines.add(
                            file.getFileName() + " " + (Files.isRegularFile(file) ? Files.size(file) + " bytes" : "/"));
                }
            }
        } else {
            lines.add("There is no data directory.");
        }
        return String.join("\n", lines) + "\n";
    }

    private static String now(Hub hub) {
        List<String> lines = new ArrayList<>();
        lines.add("Newest position in the log " + hub.log().newestPosition() + ", unread "
                + hub.log().unreadCount());
        lines.add("Trouble " + hub.trouble().map(t -> t.code()).orElse("none"));
        lines.add("Doors " + hub.sites().get().doors().size() + ", cameras "
                + hub.sites().get().cameras().size());
        for (LinkStatus s : hub.links()) {
            lines.add("Link " + s.system() + " " + s.state() + " since " + s.since() + ", heard "
                    + s.lastHeard().map(Instant::toString).orElse("never") + ", read " + s.done() + " of " + s.of()
                    + s.problem().map(p -> ", problem " + p.code()).orElse(""));
            s.notices().forEach(n -> lines.add("  notice " + n.code()));
            s.lastTrouble()
                    .ifPresent(t -> lines.add("  last trouble " + t.saying().code() + " from " + t.at() + " until "
                            + t.until().map(Instant::toString).orElse("now")));
        }
        hub.clocks()
                .newest()
                .forEach((system, e) ->
                        lines.add("Clock " + system + " ahead " + e.ahead() + ", give or take " + e.uncertainty()));
        for (Mishaps.Seen seen : hub.mishaps()) {
            lines.add("Went wrong in " + seen.part() + ", times " + seen.times() + ", first " + seen.first() + ", last "
                    + seen.last());
        }
        return String.join("\n", lines) + "\n";
    }

    private static String threads() {
        StringBuilder all = new StringBuilder();
        for (Map.Entry<Thread, StackTraceElement[]> one :
                Thread.getAllStackTraces().entrySet()) {
            all.append(one.getKey().getName())
                    .append(' ')
                    .append(one.getKey().getState())
                    .append('\n');
            for (StackTraceElement step : one.getValue()) {
                all.append("    ").append(step).append('\n');
            }
        }
        return all.toString();
    }
}
