package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.fasterxml.jackson.databind.node.ObjectNode;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.Base64;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.assertj.core.api.ThrowableAssert.ThrowingCallable;
import org.custodia.core.setup.SecretsException;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Secrets whose key is gone, whose file is damaged, that are read by somebody else, that die in the middle. */
class SealedSecretsTest {
    @TempDir
    Path directory;

    private SealedSecrets opened() {
        return new SealedSecrets(directory, Optional.empty());
    }

    private SealedSecrets withPassphrase(String said) {
        return new SealedSecrets(directory, Optional.of(said.toCharArray()), 1_000);
    }

    private Path file() {
        return directory.resolve("secrets.json");
    }

    private Path key() {
        return directory.resolve("secrets-key");
    }

    private static void fails(String code, ThrowingCallable what) {
        assertThatThrownBy(what).isInstanceOfSatisfying(SecretsException.class, e -> assertThat(
                        e.saying().code())
                .isEqualTo(code));
    }

    private ObjectNode json() throws IOException {
        return (ObjectNode) PayloadText.JSON.readTree(Files.readString(file()));
    }

    private void change(java.util.function.Consumer<ObjectNode> how) throws IOException {
        ObjectNode content = json();
        how.accept(content);
        Files.writeString(file(), content.toString());
    }

    private void keepTwo() {
        SealedSecrets secrets = opened();
        secrets.put("link/a", "alpha-token");
        secrets.put("link/b", "beta-token");
    }

    @Test
    void secrets_are_there_after_a_restart_and_nobody_else_reads_them() throws IOException {
        assertThat(opened().get("link/a")).isEmpty();
        assertThat(file()).doesNotExist();
        keepTwo();
        assertThat(opened().get("link/a")).contains("alpha-token");
        assertThat(opened().get("link/b")).contains("beta-token");
        assertThat(opened().get("link/c")).isEmpty();
        assertThat(Files.readString(file()) + Files.readString(key())).doesNotContain("alpha", "beta");
        for (Path path : List.of(file(), key())) {
            assertThat(PosixFilePermissions.toString(Files.getPosixFilePermissions(path)))
                    .isEqualTo("rw-------");
        }
        SealedSecrets secrets = opened();
        secrets.remove("link/a");
        secrets.remove("link/never");
        assertThat(opened().get("link/a")).isEmpty();
        assertThat(opened().get("link/b")).contains("beta-token");
    }

    @Test
    void the_same_secret_is_sealed_otherwise_each_time() throws IOException {
        SealedSecrets secrets = opened();
        secrets.put("a", "same");
        String first = json().path("sealed").path("a").asText();
        secrets.put("a", "same");
        assertThat(json().path("sealed").path("a").asText()).isNotEqualTo(first);
    }

    @Test
    void what_is_sealed_under_one_name_does_not_open_under_another() throws IOException {
        keepTwo();
        change(o -> ((ObjectNode) o.path("sealed"))
                .put("link/b", o.path("sealed").path("link/a").asText()));
        fails("secrets.damaged", () -> opened().get("link/b"));
        assertThat(opened().get("link/a")).contains("alpha-token");
    }

    @Test
    void one_that_is_damaged_costs_itself_and_can_be_kept_anew() throws IOException {
        keepTwo();
        for (String odd : List.of("", "!", "AAAA", Base64.getEncoder().encodeToString(new byte[40]))) {
            change(o -> ((ObjectNode) o.path("sealed")).put("link/b", odd));
            fails("secrets.damaged", () -> opened().get("link/b"));
            assertThat(opened().get("link/a")).contains("alpha-token");
        }
        opened().put("link/b", "new");
        assertThat(opened().get("link/b")).contains("new");
        assertThat(opened().get("link/a")).contains("alpha-token");
    }

    @Test
    void a_key_that_is_gone_or_odd_or_of_another_file_is_said_and_the_next_secret_begins_anew() throws IOException {
        keepTwo();
        String right = Files.readString(key());
        String other = Base64.getEncoder().encodeToString(new byte[32]);
        Files.delete(key());
        fails("secrets.key-missing", () -> opened().get("link/a"));
        Files.writeString(key(), "no key at all");
        fails("secrets.key-odd", () -> opened().get("link/a"));
        Files.write(key(), new byte[] {(byte) 0xff, (byte) 0xfe});
        fails("secrets.key-odd", () -> opened().get("link/a"));
        Files.writeString(key(), Base64.getEncoder().encodeToString(new byte[16]));
        fails("secrets.key-odd", () -> opened().get("link/a"));
        Files.writeString(key(), other);
        fails("secrets.key-other", () -> opened().get("link/a"));
        // Forgetting what nobody can read is no failure, and destroys nothing.
        opened().remove("link/a");
        Files.writeString(key(), right);
        assertThat(opened().get("link/a")).contains("alpha-token");

        Files.delete(key());
        opened().put("link/c", "gamma-token");
        assertThat(opened().get("link/c")).contains("gamma-token");
        assertThat(opened().get("link/a")).isEmpty();
        // What was there lies aside, for whoever finds the key again.
        try (Stream<Path> all = Files.list(directory)) {
            Path aside = all.filter(p -> p.getFileName().toString().startsWith("secrets-lost-"))
                    .findFirst()
                    .orElseThrow();
            Files.move(aside, file(), java.nio.file.StandardCopyOption.REPLACE_EXISTING);
        }
        Files.writeString(key(), right);
        assertThat(opened().get("link/a")).contains("alpha-token");
    }

    @Test
    void a_file_that_is_none_is_said_and_begun_anew() throws IOException {
        for (String odd : List.of("", "{", "[]", "{\"form\":9}", "{\"form\":1,\"keyFrom\":\"moon\",\"sealed\":{}}")) {
            Files.writeString(file(), odd);
            fails("secrets.file-odd", () -> opened().get("link/a"));
            opened().put("link/a", "again");
            assertThat(opened().get("link/a")).contains("again");
        }
        Files.write(file(), new byte[9 * 1024 * 1024]);
        fails("secrets.file-odd", () -> opened().get("link/a"));
    }

    @Test
    void with_a_passphrase_there_is_no_key_file_and_without_it_nothing_opens_or_is_lost() throws IOException {
        SealedSecrets secrets = withPassphrase("open the gate");
        secrets.put("link/a", "alpha-token");
        assertThat(key()).doesNotExist();
        assertThat(withPassphrase("open the gate").get("link/a")).contains("alpha-token");
        String before = Files.readString(file());
        fails("secrets.passphrase-wrong", () -> withPassphrase("open the door").get("link/a"));
        fails("secrets.passphrase-wrong", () -> withPassphrase("open the door").put("link/a", "x"));
        fails("secrets.passphrase-wrong", () -> withPassphrase("").get("link/a"));
        fails("secrets.passphrase-needed", () -> opened().get("link/a"));
        fails("secrets.passphrase-needed", () -> opened().put("link/a", "x"));
        assertThat(Files.readString(file())).isEqualTo(before).doesNotContain("gate");
        // Somebody makes the first try last for ever.
        change(o -> o.put("rounds", Integer.MAX_VALUE));
        fails("secrets.file-odd", () -> withPassphrase("open the gate").get("link/a"));
        change(o -> o.put("rounds", 0));
        fails("secrets.file-odd", () -> withPassphrase("open the gate").get("link/a"));
    }

    @Test
    void a_passphrase_that_is_said_for_the_first_time_takes_the_place_of_the_key_file() {
        keepTwo();
        assertThat(withPassphrase("open the gate").get("link/a")).contains("alpha-token");
        assertThat(key()).doesNotExist();
        fails("secrets.passphrase-needed", () -> opened().get("link/a"));
        assertThat(withPassphrase("open the gate").get("link/b")).contains("beta-token");
    }

    @Test
    void a_key_that_others_could_read_is_taken_from_them() throws IOException {
        keepTwo();
        Files.setPosixFilePermissions(key(), PosixFilePermissions.fromString("rw-r--r--"));
        assertThat(opened().get("link/a")).contains("alpha-token");
        assertThat(PosixFilePermissions.toString(Files.getPosixFilePermissions(key())))
                .isEqualTo("rw-------");
    }

    @Test
    void what_was_being_written_when_the_process_died_is_passed_over() throws IOException {
        keepTwo();
        Files.writeString(directory.resolve("secrets.json.new"), "{\"form\":1,\"sea");
        assertThat(opened().get("link/a")).contains("alpha-token");
        opened().put("link/c", "gamma");
        assertThat(opened().get("link/c")).contains("gamma");
    }

    @Test
    void what_cannot_be_written_is_said_and_what_was_there_stays() throws IOException {
        keepTwo();
        // A directory where the new file would be: no permission stops whoever may do everything.
        Path inTheWay =
                Files.createDirectories(directory.resolve("secrets.json.new").resolve("full"));
        fails("secrets.not-kept", () -> opened().put("link/c", "gamma"));
        assertThat(opened().get("link/a")).contains("alpha-token");
        assertThat(opened().get("link/c")).isEmpty();
        assertThat(inTheWay).exists();
    }

    @Test
    void many_at_once_lose_none() {
        SealedSecrets secrets = opened();
        CompletableFuture.allOf(IntStream.range(0, 40)
                        .mapToObj(i -> CompletableFuture.runAsync(() -> secrets.put("link/" + i, "token " + i)))
                        .toArray(CompletableFuture[]::new))
                .join();
        for (int i = 0; i < 40; i++) {
            assertThat(opened().get("link/" + i)).contains("token " + i);
        }
    }
}
