package org.custodia.core.event;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CountDownLatch;
import java.util.stream.LongStream;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

/** Following the log from a position: each event once and in order, whatever is stored while the past is read. */
class LogFollowerTest {
    private final MemoryLog log = new MemoryLog();
    private final List<Long> told = new ArrayList<>();
    private long number;

    private void store(int some) {
        List<Event> events = new ArrayList<>();
        for (int i = 0; i < some; i++) {
            number++;
            events.add(Event.of(
                            new EventKey(new SystemId("tidewater"), 1, number),
                            Kinds.OPENED,
                            Instant.EPOCH.plusSeconds(number))
                    .build());
        }
        log.store(events.toArray(Event[]::new));
    }

    private void tell(List<Event> events) {
        assertThat(events).isNotEmpty();
        events.forEach(e -> told.add(e.position()));
    }

    private static List<Long> numbers(long from, long to) {
        return LongStream.rangeClosed(from, to).boxed().toList();
    }

    @Test
    void the_past_comes_first_then_what_is_being_stored() {
        store(2_500);
        try (LogFollower follower = LogFollower.from(700, log, log, this::tell)) {
            assertThat(told).isEqualTo(numbers(701, 2_500));
            store(3);
            store(1);
            assertThat(told).isEqualTo(numbers(701, 2_504));
            assertThat(follower).isNotNull();
        }
        store(1);
        assertThat(told).hasSize(1_804);
    }

    @Test
    void what_is_stored_while_the_past_is_read_comes_once_and_in_its_place() {
        store(1_500);
        // Each page that is told brings more of it, until far more waits than is kept in memory.
        LogFollower.from(0, log, log, events -> {
            tell(events);
            if (told.size() < 9_000) {
                store(told.size() < 4_000 ? 900 : 2_300);
            } else if (number < 16_000) {
                store(1);
            }
        });
        assertThat(told).isEqualTo(numbers(1, number));
        store(5);
        assertThat(told).isEqualTo(numbers(1, number));
    }

    @Test
    void two_that_store_and_one_that_begins_to_follow() throws Exception {
        CountDownLatch begun = new CountDownLatch(1);
        Thread other = new Thread(() -> {
            for (int i = 0; i < 400; i++) {
                store(7);
                begun.countDown();
            }
        });
        other.start();
        begun.await();
        LogFollower.from(3, log, log, this::tell);
        other.join();
        assertThat(told).isEqualTo(numbers(4, 2_800));
    }

    @Test
    void a_log_that_cannot_be_read_is_told_and_nothing_is_followed() {
        MemoryLog broken = new MemoryLog() {
            @Override
            public List<Event> storedAfter(long position, int most) {
                throw new EventLogException(Saying.of("store.not-read", "the log"), null);
            }
        };
        assertThatThrownBy(() -> LogFollower.from(0, broken, broken, this::tell))
                .isInstanceOf(EventLogException.class);
        broken.store(Event.of(new EventKey(new SystemId("tidewater"), 1, 1), Kinds.OPENED, Instant.EPOCH)
                .build());
        assertThat(told).isEmpty();
    }
}
