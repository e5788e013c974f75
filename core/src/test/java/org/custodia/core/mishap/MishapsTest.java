package org.custodia.core.mishap;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.atomic.AtomicReference;
import org.custodia.core.saying.Saying;
import org.junit.jupiter.api.Test;

class MishapsTest {
    private final Instant start = Instant.parse("2026-11-24T14:00:00Z");
    private final AtomicReference<Instant> now = new AtomicReference<>(start);
    private final List<String> logged = new ArrayList<>();
    private final List<Integer> ended = new ArrayList<>();
    private final Mishaps mishaps = new Mishaps((words, e) -> logged.add(words), ended::add, clock());

    private Clock clock() {
        Clock clock = mock(Clock.class);
        when(clock.instant()).thenAnswer(i -> now.get());
        return clock;
    }

    @Test
    void each_part_is_said_once_and_counted() {
        Thread thread = Threads.daemon("link tidewater", () -> {});
        for (int i = 0; i < 3; i++) {
            mishaps.uncaughtException(thread, new IllegalStateException("secret words"));
            now.set(now.get().plusSeconds(10));
        }
        mishaps.tell("stills", new StackOverflowError());
        assertThat(mishaps.seen())
                .containsExactly(
                        new Mishaps.Seen("link tidewater", 3, start, start.plusSeconds(20)),
                        new Mishaps.Seen("stills", 1, start.plusSeconds(30), start.plusSeconds(30)));
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
        assertThat(mishaps.seen()).isEmpty();
    }

    @Test
    void only_so_many_parts_are_remembered() {
        for (int i = 0; i < 80; i++) {
            mishaps.tell("part " + i, new IllegalStateException());
        }
        assertThat(mishaps.seen()).hasSize(50);
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
            assertThat(mishaps.seen()).hasSize(2);
        } finally {
            Thread.setDefaultUncaughtExceptionHandler(before);
        }
    }
}
