package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.BufferedReader;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.Random;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventQuery;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** A process that is killed in the middle of intake, again and again, loses nothing that it published. */
class KilledDuringIntakeTest {
    @TempDir
    Path path;

    /** What runs in the process to be killed: it stores event after event and says which were published. */
    static final class Victim {
        private Victim() {}

        public static void main(String[] args) {
            Optional<ServerAddress> server =
                    Arrays.stream(args).skip(1).findFirst().map(url -> ServerAddress.of(url, Optional.empty()));
            StoreFixture store = new StoreFixture(Path.of(args[0]), server);
            long next = store.intake.coverage(StoreFixture.SYSTEM, 1).settled() + 1;
            store.intake.subscribe(events -> {
                System.out.println(events.get(events.size() - 1).key().sequence());
                System.out.flush();
            });
            Random random = new Random();
            while (true) {
                long to = next + random.nextInt(60);
                store.accept(StoreFixture.events(next, to), false);
                next = to + 1;
            }
        }
    }

    /** Where the log lies, unless it lies in a file; the same throughout a test. */
    Optional<ServerAddress> server() {
        return Optional.empty();
    }

    int rounds() {
        return 4;
    }

    @Test
    void every_published_event_is_there_after_each_restart() throws IOException, InterruptedException {
        Random random = new Random(11);
        long published = 0;
        for (int round = 0; round < rounds(); round++) {
            ProcessBuilder command = new ProcessBuilder(
                    Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                    "-XX:TieredStopAtLevel=1",
                    "-cp",
                    System.getProperty("java.class.path"),
                    Victim.class.getName(),
                    path.toString());
            server().ifPresent(s -> command.command().add(s.url()));
            Process process =
                    command.redirectError(ProcessBuilder.Redirect.DISCARD).start();
            long target = published + 500 + random.nextInt(3_000);
            try (BufferedReader out = process.inputReader(StandardCharsets.UTF_8)) {
                String line;
                while (published < target && (line = out.readLine()) != null) {
                    published = number(line, published);
                }
                process.toHandle().destroyForcibly();
                // What it had said before the end counts as well.
                while ((line = out.readLine()) != null) {
                    published = Math.max(published, number(line, published));
                }
            }
            process.waitFor();
            assertThat(published).isGreaterThanOrEqualTo(target);
            try (StoreFixture store = new StoreFixture(path, server())) {
                long last = store.intake.coverage(StoreFixture.SYSTEM, 1).settled();
                assertThat(last).isGreaterThanOrEqualTo(published);
                List<Event> stored = store.log.find(EventQuery.all().system(StoreFixture.SYSTEM));
                assertThat(stored).extracting(e -> e.key().sequence()).doesNotHaveDuplicates();
                assertThat((long) stored.size()).isEqualTo(last);
            }
        }
    }

    private static long number(String line, long otherwise) {
        try {
            return Long.parseLong(line);
        } catch (NumberFormatException e) {
            return otherwise;
        }
    }
}
