package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.junit.jupiter.api.Assumptions.assumeFalse;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.sql.Connection;
import java.sql.SQLException;
import java.time.Duration;
import java.util.List;
import org.custodia.core.saying.Saying;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.condition.EnabledOnOs;
import org.junit.jupiter.api.condition.OS;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.api.parallel.Isolated;
import org.sqlite.SQLiteConfig;

@Isolated("it looks at the threads of all of this process")
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

    /** It holds movements and photos of people. */
    @Test
    @EnabledOnOs({OS.LINUX, OS.MAC})
    void nobody_else_of_the_machine_can_look_into_the_directory() throws IOException {
        Path made = path.resolve("made");
        DataDirectory.claim(made).close();
        assertThat(PosixFilePermissions.toString(Files.getPosixFilePermissions(made)))
                .isEqualTo("rwx------");
        Path older = Files.createDirectory(path.resolve("older"));
        Files.createFile(older.resolve("custodia.db"));
        Files.setPosixFilePermissions(older, PosixFilePermissions.fromString("rwxr-xr-x"));
        DataDirectory.claim(older).close();
        assertThat(PosixFilePermissions.toString(Files.getPosixFilePermissions(older)))
                .isEqualTo("rwx------");
    }

    @Test
    @EnabledOnOs({OS.LINUX, OS.MAC})
    void a_directory_that_is_for_more_than_this_stays_open() throws IOException {
        Path shared = Files.createDirectory(path.resolve("shared"));
        Files.createFile(shared.resolve("letters.txt"));
        Files.setPosixFilePermissions(shared, PosixFilePermissions.fromString("rwxr-xr-x"));
        DataDirectory.claim(shared).close();
        assertThat(PosixFilePermissions.toString(Files.getPosixFilePermissions(shared)))
                .isEqualTo("rwxr-xr-x");
        Path sticky = Files.createDirectory(path.resolve("sticky"));
        Files.createFile(sticky.resolve("custodia.db"));
        Files.setAttribute(sticky, "unix:mode", 01777);
        DataDirectory.claim(sticky).close();
        assertThat(PosixFilePermissions.toString(Files.getPosixFilePermissions(sticky)))
                .isEqualTo("rwxrwxrwx");
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
            assertThatThrownBy(() -> SqliteDatabase.tryWriting(file, connection))
                    .isInstanceOf(DataDirectoryException.class)
                    .hasMessageContaining("custodia.db cannot be written")
                    .hasMessageContaining("--data");
        }
        try (Connection connection = new SQLiteConfig().createConnection("jdbc:sqlite:" + file)) {
            SqliteDatabase.tryWriting(file, connection);
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

    private void refused(String words) {
        try (DataDirectory directory = DataDirectory.claim(path)) {
            assertThatThrownBy(() -> Database.open(directory))
                    .isInstanceOf(DataDirectoryException.class)
                    .hasMessageContaining("custodia.db")
                    .hasMessageContaining(words)
                    .satisfies(e -> assertThat(e.getMessage()).doesNotContainPattern("SQLITE|Exception|\\[|malformed"));
        }
    }

    private void fill(int events) {
        try (StoreFixture store = new StoreFixture(path)) {
            store.accept(StoreFixture.events(1, events), true).join();
        }
    }

    @Test
    void a_log_that_is_gone_or_cut_to_nothing_is_not_begun_anew_in_silence() throws IOException {
        fill(3);
        Path file = path.resolve("custodia.db");
        byte[] all = Files.readAllBytes(file);
        Files.write(file, new byte[0]);
        refused("has been cut to nothing");
        assertThat(file).hasSize(0);
        Files.delete(file);
        refused("is gone, while other things of Custodia are still in its directory");
        assertThat(file).doesNotExist();
        Files.write(file, all);
        try (StoreFixture store = new StoreFixture(path)) {
            assertThat(store.log.count(org.custodia.core.event.EventQuery.all()))
                    .isEqualTo(3);
        }
        Path second = Files.createDirectory(path.resolve("second"));
        Files.writeString(second.resolve("settings.json"), "{}");
        try (DataDirectory directory = DataDirectory.claim(second)) {
            assertThatThrownBy(() -> Database.open(directory)).hasMessageContaining("is gone");
        }
    }

    @Test
    void a_log_of_another_directory_is_noticed() throws IOException {
        fill(3);
        Path other = Files.createDirectory(path.resolve("other"));
        try (StoreFixture store = new StoreFixture(other)) {
            store.accept(StoreFixture.events(1, 2), true).join();
        }
        Files.copy(
                other.resolve("custodia.db"),
                path.resolve("custodia.db"),
                java.nio.file.StandardCopyOption.REPLACE_EXISTING);
        refused("is not the one that belongs to its directory");
        Files.delete(path.resolve("log-id"));
        try (StoreFixture store = new StoreFixture(path)) {
            assertThat(store.log.count(org.custodia.core.event.EventQuery.all()))
                    .isEqualTo(2);
        }
    }

    private static List<Thread> checking() {
        return Thread.getAllStackTraces().keySet().stream()
                .filter(t -> t.getName().equals("log check") && t.isAlive())
                .toList();
    }

    @Test
    void a_damaged_page_is_noticed_at_the_start_and_in_the_background() throws Exception {
        fill(6_000);
        Path file = path.resolve("custodia.db");
        byte[] all = Files.readAllBytes(file);
        byte[] damaged = all.clone();
        java.util.Arrays.fill(damaged, all.length / 2, all.length / 2 + 40_000, (byte) 0x5a);
        Files.write(file, damaged);
        refused("damaged");
        assertThat(Files.readAllBytes(file)).isEqualTo(damaged);
        org.sqlite.SQLiteDataSource source = new org.sqlite.SQLiteDataSource();
        source.setUrl("jdbc:sqlite:" + file);
        try (LogCheck check = new LogCheck(file, source)) {
            assertThat(check.damage()).isEmpty();
            check.look();
            assertThat(check.damage()).contains(Saying.of("store.damaged", file.toString()));
        }
        try (LogCheck check = new LogCheck(file, source, Long.MAX_VALUE, Duration.ofMillis(5))) {
            check.begin();
            StoreFixture.await().until(() -> check.damage().isPresent());
            StoreFixture.await().until(() -> checking().isEmpty());
        }
        Files.write(file, all);
        try (LogCheck check = new LogCheck(file, source)) {
            assertThat(check.look()).isTrue();
            assertThat(check.damage()).isEmpty();
            check.close();
            // Who is told to end looks no further, and what was not looked at is not damaged.
            assertThat(check.look()).isTrue();
            assertThat(check.damage()).isEmpty();
        }
        try (LogCheck check = new LogCheck(file, source, Long.MAX_VALUE, Duration.ofMillis(5))) {
            check.begin();
            StoreFixture.await().until(() -> checking().isEmpty());
            assertThat(check.damage()).isEmpty();
        }
        try (LogCheck check = new LogCheck(file, source, Long.MAX_VALUE, Duration.ofDays(1))) {
            check.begin();
            assertThat(checking()).hasSize(1).allMatch(t -> t.isDaemon() && t.getPriority() == Thread.MIN_PRIORITY);
            check.close();
            assertThat(checking()).isEmpty();
        }
        Files.deleteIfExists(file.resolveSibling("custodia.db-wal"));
        try (LogCheck check = new LogCheck(file, source, 0, Duration.ofMillis(5))) {
            // Nothing waits to be written: nothing is in the way.
            assertThat(check.look()).isTrue();
        }
        try (StoreFixture store = new StoreFixture(path);
                LogCheck check = new LogCheck(file, source, 0, Duration.ofDays(1))) {
            store.accept(StoreFixture.events(7_000, 7_010), false).join();
            // While much is being written it does not stand in the way.
            assertThat(check.look()).isFalse();
            assertThat(check.damage()).isEmpty();
        }
        try (StoreFixture store = new StoreFixture(path)) {
            assertThat(store.database.damage()).isEmpty();
        }
    }

    @Test
    @EnabledOnOs(OS.LINUX)
    void a_directory_moved_away_while_running_is_noticed_and_goes_on_when_it_is_back() throws IOException {
        Path home = Files.createDirectory(path.resolve("home"));
        Path away = path.resolve("away");
        try (StoreFixture store = new StoreFixture(home)) {
            store.accept(StoreFixture.events(1, 3), true).join();
            Files.move(home, away);
            // Noticed even where nothing is to be stored.
            StoreFixture.await().until(() -> store.intake.trouble().isPresent());
            assertThat(store.intake.trouble().orElseThrow().code()).isEqualTo("store.gone");
            assertThat(store.accept(StoreFixture.events(4, 5), false)).failsWithin(java.time.Duration.ofSeconds(30));
            assertThat(home).doesNotExist();
            Files.move(away, home);
            StoreFixture.await().until(() -> store.intake.trouble().isEmpty());
            store.accept(StoreFixture.events(4, 5), false).join();
            assertThat(store.log.count(org.custodia.core.event.EventQuery.all()))
                    .isEqualTo(5);
        }
    }

    @Test
    @EnabledOnOs(OS.LINUX)
    void a_directory_removed_while_running_is_noticed_and_everything_is_there_afterwards() throws IOException {
        Path home = Files.createDirectory(path.resolve("home"));
        try (StoreFixture store = new StoreFixture(home)) {
            store.accept(StoreFixture.events(1, 300), true).join();
            try (var files = Files.list(home)) {
                for (Path file : files.toList()) {
                    Files.delete(file);
                }
            }
            Files.delete(home);
            StoreFixture.await().until(() -> store.intake.trouble().isPresent());
            assertThat(store.intake.trouble().orElseThrow().code()).isEqualTo("store.gone");
        }
        try (StoreFixture store = new StoreFixture(home)) {
            assertThat(store.log.find(org.custodia.core.event.EventQuery.all())).hasSize(300);
            assertThat(store.log.count(org.custodia.core.event.EventQuery.all()))
                    .isEqualTo(300);
            assertThat(store.intake.coverage(StoreFixture.SYSTEM, 1).settled()).isEqualTo(300);
        }
    }
}
