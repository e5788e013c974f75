package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.ByteArrayOutputStream;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import org.custodia.store.DataDirectory;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class MainTest {
    @TempDir
    Path directory;

    /** Runs a command; its exit code, a blank, and all it said. */
    private static String run(String... args) {
        PrintStream out = System.out;
        PrintStream err = System.err;
        ByteArrayOutputStream said = new ByteArrayOutputStream();
        try (PrintStream to = new PrintStream(said, true, StandardCharsets.UTF_8)) {
            System.setOut(to);
            System.setErr(to);
            int code = Main.execute(args);
            return code + " " + said.toString(StandardCharsets.UTF_8);
        } finally {
            System.setOut(out);
            System.setErr(err);
        }
    }

    @Test
    void without_a_command_and_with_help_it_lists_what_there_is() {
        assertThat(run()).startsWith("0 ").contains("demo", "run", "practice", "shots");
        assertThat(run("--help")).startsWith("0 ").contains("demo");
        assertThat(run("run", "--help")).startsWith("0 ").contains("--links", "--data", "--operator");
    }

    @Test
    void what_is_no_command_or_option_is_said() {
        assertThat(run("dance")).startsWith("2 ").contains("dance");
        assertThat(run("check")).startsWith("2 ").contains("--links");
        assertThat(run("demo", "--sideways")).startsWith("2 ").contains("--sideways");
    }

    @Test
    void a_missing_links_file_ends_in_one_sentence() {
        String said = run(
                "run", "--offscreen", "--links", directory.resolve("none.json").toString());
        assertThat(said).startsWith("1 ").contains("There is no links file").doesNotContain("Exception");
    }

    @Test
    void a_faulty_links_file_ends_in_one_sentence() throws Exception {
        Path links = Files.writeString(
                directory.resolve("links.json"),
                "{\"links\":[{\"kind\":\"access\",\"id\":\"tidewater\",\"name\":\"T\",\"address\":\"nowhere\",\"token\":\"hush-hush\"}]}");
        String said = run("run", "--offscreen", "--links", links.toString());
        assertThat(said)
                .startsWith("1 ")
                .contains("\"tidewater\" has no address")
                .doesNotContain("Exception")
                .doesNotContain("hush-hush");
    }

    @Test
    void a_database_whose_address_cannot_be_used_ends_in_one_sentence() throws Exception {
        Path links = Files.writeString(directory.resolve("links.json"), "{\"links\":[]}");
        for (String address : new String[] {"jdbc:postgresql://h/c?password=hush-hush", "oracle"}) {
            String said = run("run", "--offscreen", "--links", links.toString(), "--database", address);
            assertThat(said)
                    .startsWith("1 ")
                    .containsAnyOf("must not hold the password", "looks like jdbc:postgresql://")
                    .doesNotContain("Exception")
                    .doesNotContain("hush-hush");
        }
    }

    /** What the build does so that the virtual machine can note the classes of a start. */
    @Test
    void a_start_can_be_rehearsed() {
        assertThat(run("rehearse")).startsWith("0 ").doesNotContain("Exception");
        assertThat(run("--help")).doesNotContain("rehearse");
    }

    @Test
    void a_data_directory_in_use_ends_in_one_sentence() throws Exception {
        Path links = Files.writeString(
                directory.resolve("links.json"),
                "{\"site\":\"x\",\"links\":[{\"kind\":\"access\",\"id\":\"t\",\"name\":\"T\",\"address\":\"http://127.0.0.1:9/\",\"token\":\"x\"}]}");
        Path data = directory.resolve("data");
        DataDirectory held = DataDirectory.claim(data);
        try {
            String said = run("run", "--offscreen", "--links", links.toString(), "--data", data.toString());
            assertThat(said)
                    .startsWith("1 ")
                    .contains("Another Custodia")
                    .contains("--data")
                    .doesNotContain("Exception");
        } finally {
            held.close();
        }
    }
}
