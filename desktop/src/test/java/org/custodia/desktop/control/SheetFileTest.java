package org.custodia.desktop.control;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Files that go out and come in. */
class SheetFileTest {
    @Test
    void what_is_written_is_read_and_what_is_far_too_long_is_not_read_to_its_end(@TempDir Path directory) {
        Path file = directory.resolve("rules.json");
        byte[] words = "rules".getBytes(StandardCharsets.UTF_8);
        SheetFile.write(file, words);
        assertThat(SheetFile.read(file)).isEqualTo(words);
        SheetFile.write(file, new byte[5 * 1024 * 1024]);
        assertThat(SheetFile.read(file)).hasSize(4 * 1024 * 1024 + 1);
        assertThatThrownBy(() -> SheetFile.read(directory.resolve("none"))).isInstanceOf(UncheckedIOException.class);
        assertThatThrownBy(() -> SheetFile.write(directory.resolve("no/where"), words))
                .isInstanceOf(UncheckedIOException.class);
    }
}
