package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import java.util.zip.ZipEntry;
import java.util.zip.ZipInputStream;
import org.custodia.core.mishap.Threads;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

class DiagnosticsTest {
    private static final Logger LOG = LoggerFactory.getLogger("org.custodia.diagnostics-test");

    @TempDir
    Path directory;

    private String written() throws IOException {
        return Files.readString(directory.resolve("diagnostics/custodia.log"));
    }

    @Test
    void what_is_thrown_stands_there_with_its_thread_and_steps_and_without_its_words() throws Exception {
        try (DiagnosticLog log = DiagnosticLog.in(directory)) {
            Thread thread = Threads.daemon(
                    "desk work 3",
                    () -> LOG.debug(
                            "What happened:",
                            new IllegalStateException("Lucia Ferrand", new IOException("token=abc"))));
            thread.start();
            thread.join();
            LOG.warn("Two lines\nand password: hunter2 and Authorization: Bearer abcdef");
        }
        assertThat(written())
                .contains(
                        "[desk work 3]",
                        "java.lang.IllegalStateException",
                        "java.io.IOException",
                        "    at org.custodia")
                .contains("Two lines and password: …")
                .doesNotContain("Lucia", "abc", "hunter2");
        LOG.warn("after it was closed");
        assertThat(written()).doesNotContain("after it was closed");
    }

    @Test
    void files_take_turns_and_do_not_grow_for_ever() throws Exception {
        long most = (DiagnosticLog.OLDER + 2) * DiagnosticLog.LARGEST;
        try (DiagnosticLog log = DiagnosticLog.in(directory)) {
            String words = "x".repeat(3_000);
            for (int i = 0; i < 6_000; i++) {
                LOG.debug("{} {}", i, words);
                if (i % 20 == 0) {
                    // The size is looked at a few times a second.
                    Thread.sleep(1);
                }
            }
        }
        try (Stream<Path> all = Files.list(directory.resolve("diagnostics"))) {
            List<Path> files = all.toList();
            assertThat(files).hasSizeBetween(2, DiagnosticLog.OLDER + 1);
            long bytes = 0;
            for (Path file : files) {
                bytes += Files.size(file);
            }
            assertThat(bytes).isLessThan(3 * most);
        }
    }

    @Test
    void where_it_cannot_be_written_all_else_goes_on() throws Exception {
        Files.writeString(directory.resolve("diagnostics"), "no directory");
        try (DiagnosticLog log = DiagnosticLog.in(directory)) {
            LOG.warn("nobody reads this");
        }
        assertThat(directory.resolve("diagnostics")).hasContent("no directory");
    }

    @Test
    void the_command_writes_one_file_of_a_directory_whether_it_is_used_or_not() throws Exception {
        try (DiagnosticLog log = DiagnosticLog.in(directory)) {
            LOG.warn("something happened");
        }
        Files.writeString(directory.resolve("custodia.db"), "not to be sent");
        Path file = directory.resolve("out/diagnostics.zip");
        assertThat(Main.execute("diagnose", "--data", directory.toString(), "--to", file.toString()))
                .isZero();
        Map<String, String> parts = parts(file);
        assertThat(parts).containsOnlyKeys("about.txt", "log/custodia.log");
        assertThat(parts.get("about.txt")).contains("Java", "custodia.db 14 bytes");
        assertThat(parts.get("log/custodia.log")).contains("something happened");
        assertThat(String.join("", parts.values())).doesNotContain("not to be sent");
        assertThat(Main.execute("diagnose", "--data", directory.resolve("none").toString(), "--to", file.toString()))
                .isZero();
        assertThat(parts(file).get("about.txt")).contains("There is no data directory.");
        assertThat(Main.execute(
                        "diagnose",
                        "--data",
                        directory.toString(),
                        "--to",
                        directory.resolve("custodia.db/x").toString()))
                .isEqualTo(1);
    }

    @Test
    void a_running_one_says_how_it_stands_and_nothing_of_people() throws Exception {
        try (Rig rig = new Rig(directory).withHub()) {
            rig.connected();
            rig.happen("{'act':'present','door':'vault-ante','badge':'20266'}");
            Path file = directory.resolve("running.zip");
            rig.hub.saveDiagnostics(file);
            Map<String, String> parts = parts(file);
            assertThat(parts.get("now.txt")).contains("Link tidewater UP", "Clock tidewater", "Trouble none");
            assertThat(parts.get("threads.txt")).contains("evidence");
            assertThat(parts.keySet()).contains("log/custodia.log");
            String all = parts.entrySet().stream()
                    .filter(e -> !e.getKey().equals("threads.txt"))
                    .map(Map.Entry::getValue)
                    .collect(Collectors.joining());
            assertThat(all).doesNotContain("rig-token", "20266", "Vantongeren", "127.0.0.1");
        }
    }

    private static Map<String, String> parts(Path file) throws IOException {
        Map<String, String> parts = new LinkedHashMap<>();
        try (InputStream in = Files.newInputStream(file);
                ZipInputStream zip = new ZipInputStream(in)) {
            for (ZipEntry entry = zip.getNextEntry(); entry != null; entry = zip.getNextEntry()) {
                parts.put(entry.getName(), new String(zip.readAllBytes(), StandardCharsets.UTF_8));
            }
        }
        return parts;
    }
}
