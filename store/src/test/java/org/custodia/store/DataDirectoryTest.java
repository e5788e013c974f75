package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.junit.jupiter.api.Assumptions.assumeFalse;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.SQLException;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.condition.EnabledOnOs;
import org.junit.jupiter.api.condition.OS;
import org.junit.jupiter.api.io.TempDir;
import org.sqlite.SQLiteConfig;

class DataDirectoryTest {
    @TempDir
    Path path;

    @Test
    void a_directory_in_use_is_not_opened_twice() {
        try (DataDirectory first = DataDirectory.claim(path)) {
            assertThatThrownBy(() -> DataDirectory.claim(path))
                    .isInstanceOf(DataDirectoryException.class)
                    .hasMessageContaining("Another Custodia (process "
                            + ProcessHandle.current().pid() + ")")
                    .hasMessageContaining("--data");
            assertThat(first.path()).isEqualTo(path);
        }
        DataDirectory.claim(path).close();
    }

    @Test
    void a_directory_that_cannot_be_made_or_written_is_said() throws IOException {
        Path file = Files.writeString(path.resolve("file"), "x");
        assertThatThrownBy(() -> DataDirectory.claim(file.resolve("below")))
                .isInstanceOf(DataDirectoryException.class)
                .hasMessageContaining("could not be made");
    }

    /** Nobody may make files there, the superuser neither. */
    @Test
    @EnabledOnOs(OS.LINUX)
    void a_directory_in_which_no_file_can_be_made_is_said() {
        assertThatThrownBy(() -> DataDirectory.claim(Path.of("/sys")))
                .isInstanceOf(DataDirectoryException.class)
                .hasMessageContaining("/sys")
                .hasMessageContaining("Make it writable or choose another with --data");
    }

    @Test
    void a_read_only_directory_is_said() throws IOException {
        Path readOnly = Files.createDirectory(path.resolve("read-only"));
        readOnly.toFile().setWritable(false);
        assumeFalse(Files.isWritable(readOnly), "the superuser writes everywhere");
        assertThatThrownBy(() -> DataDirectory.claim(readOnly))
                .isInstanceOf(DataDirectoryException.class)
                .hasMessageContaining("read-only");
    }

    @Test
    void a_full_disk_is_said_before_anything_is_written() {
        assertThatThrownBy(() -> DataDirectory.claim(path, p -> 300_000))
                .isInstanceOf(DataDirectoryException.class)
                .hasMessageContaining("is full (292 KB are left)")
                .hasMessageContaining("Free some space");
        assertThat(path.resolve("in-use")).doesNotExist();
        DataDirectory.claim(path, p -> 300_000_000).close();
    }

    @Test
    void a_log_that_can_only_be_read_is_said() throws SQLException {
        try (StoreFixture store = new StoreFixture(path)) {
            store.accept(StoreFixture.events(1, 3), true).join();
        }
        Path file = path.resolve("custodia.db");
        SQLiteConfig readOnly = new SQLiteConfig();
        readOnly.setReadOnly(true);
        try (Connection connection = readOnly.createConnection("jdbc:sqlite:" + file)) {
            assertThatThrownBy(() -> Database.tryWriting(file, connection))
                    .isInstanceOf(DataDirectoryException.class)
                    .hasMessageContaining("custodia.db cannot be written")
                    .hasMessageContaining("--data");
        }
        try (Connection connection = new SQLiteConfig().createConnection("jdbc:sqlite:" + file)) {
            Database.tryWriting(file, connection);
        }
    }

    @Test
    void a_log_of_a_newer_version_is_not_touched() throws IOException {
        try (StoreFixture store = new StoreFixture(path)) {
            store.accept(StoreFixture.events(1, 3), true).join();
            store.database.write(
                    dsl -> dsl.execute(
                            "INSERT INTO flyway_schema_history (installed_rank, version, description, type, script, checksum,"
                                    + " installed_by, installed_on, execution_time, success)"
                                    + " VALUES (99, '99', 'later', 'SQL', 'V99__later.sql', 1, '', '2030-01-01 00:00:00.000', 1, 1)"));
        }
        try (DataDirectory directory = DataDirectory.claim(path)) {
            assertThatThrownBy(() -> Database.open(directory))
                    .isInstanceOf(DataDirectoryException.class)
                    .hasMessageContaining("newer Custodia")
                    .hasMessageContaining("99");
        }
    }

    @Test
    void a_damaged_log_is_never_replaced_by_an_empty_one() throws IOException {
        Files.writeString(path.resolve("custodia.db"), "this is no database ".repeat(400));
        long size = Files.size(path.resolve("custodia.db"));
        try (DataDirectory directory = DataDirectory.claim(path)) {
            assertThatThrownBy(() -> Database.open(directory))
                    .isInstanceOf(DataDirectoryException.class)
                    .hasMessageContaining("custodia.db");
        }
        assertThat(Files.size(path.resolve("custodia.db"))).isEqualTo(size);
    }
}
