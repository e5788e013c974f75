package org.custodia.core.mishap;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.List;
import org.custodia.core.saying.Saying;
import org.junit.jupiter.api.Test;

class MishapsTest {
    private final List<String> logged = new ArrayList<>();
    private final List<Integer> ended = new ArrayList<>();
    private final Mishaps mishaps = new Mishaps((words, e) -> logged.add(words), ended::add);

    @Test
    void each_part_is_said_once_and_counted() {
        Thread thread = Threads.daemon("link tidewater", () -> {});
        for (int i = 0; i < 3; i++) {
            mishaps.uncaughtException(thread, new IllegalStateException("secret words"));
        }
        mishaps.tell("stills", new StackOverflowError());
        assertThat(mishaps.lines())
                .containsExactly(
                        Saying.of("mishap.times", "link tidewater", 3), Saying.of("mishap.times", "stills", 1));
        assertThat(mishaps.sentence()).contains(Saying.of("mishap.stumbled", "link tidewater"));
        assertThat(logged).hasSize(4);
        assertThat(logged.get(0)).contains("link tidewater").doesNotContain("secret", "Exception");
        assertThat(logged.get(1)).isEmpty();
        assertThat(ended).isEmpty();
    }

    @Test
    void used_up_memory_ends_the_process_wherever_it_is_noticed() {
        mishaps.uncaughtException(Thread.currentThread(), new IllegalStateException(new OutOfMemoryError("heap")));
        assertThat(mishaps.sentence()).isEmpty();
        assertThat(ended).containsExactly(Mishaps.OUT_OF_MEMORY);
        assertThat(mishaps.lines()).isEmpty();
    }

    @Test
    void only_so_many_parts_are_remembered() {
        for (int i = 0; i < 80; i++) {
            mishaps.tell("part " + i, new IllegalStateException());
        }
        assertThat(mishaps.lines()).hasSize(50);
    }

    @Test
    void threads_are_named_and_do_not_keep_the_process_alive() throws Exception {
        var factory = Threads.factory("stills");
        Thread first = factory.newThread(() -> {});
        assertThat(first.getName()).isEqualTo("stills");
        assertThat(first.isDaemon()).isTrue();
        assertThat(factory.newThread(() -> {}).getName()).isEqualTo("stills 2");
        Thread.UncaughtExceptionHandler before = Thread.getDefaultUncaughtExceptionHandler();
        try {
            Thread.setDefaultUncaughtExceptionHandler(mishaps);
            Thread dies = Threads.daemon("dies", () -> {
                throw new IllegalStateException();
            });
            dies.start();
            dies.join();
            Threads.stumbled(new IllegalStateException());
            assertThat(mishaps.lines()).hasSize(2);
        } finally {
            Thread.setDefaultUncaughtExceptionHandler(before);
        }
    }
}
