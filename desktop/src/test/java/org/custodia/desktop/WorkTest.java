package org.custodia.desktop;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.concurrent.atomic.AtomicInteger;
import org.custodia.core.Patience;
import org.custodia.core.event.EventLogException;
import org.custodia.core.saying.Saying;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.testfx.api.FxToolkit;
import org.testfx.util.WaitForAsyncUtils;

class WorkTest {
    private final Work work = new Work();
    private final ConcurrentLinkedQueue<String> told = new ConcurrentLinkedQueue<>();

    @BeforeAll
    static void toolkit() throws TimeoutException {
        FxToolkit.registerPrimaryStage();
    }

    @AfterEach
    void close() {
        work.close();
        // What stumbled on purpose is not for the tests that come after.
        WaitForAsyncUtils.clearExceptions();
    }

    private static void await(CountDownLatch latch) {
        try {
            assertThat(latch.await(60, TimeUnit.SECONDS)).isTrue();
        } catch (InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }

    private void until(String last) {
        Patience.await().until(() -> told.contains(last));
    }

    @Test
    void of_what_waits_under_one_key_only_the_latest_is_done_after_what_has_begun() {
        CountDownLatch begun = new CountDownLatch(1);
        CountDownLatch goOn = new CountDownLatch(1);
        AtomicInteger done = new AtomicInteger();
        work.latest(
                "strips",
                () -> {
                    begun.countDown();
                    await(goOn);
                    done.incrementAndGet();
                    return "first";
                },
                told::add,
                told::add);
        await(begun);
        for (int i = 1; i <= 1_000; i++) {
            int number = i;
            work.latest(
                    "strips",
                    () -> {
                        done.incrementAndGet();
                        return "move " + number;
                    },
                    told::add,
                    told::add);
        }
        goOn.countDown();
        until("move 1000");
        assertThat(told).containsExactly("first", "move 1000");
        assertThat(done).hasValue(2);
    }

    @Test
    void results_of_one_key_come_in_order_and_the_last_is_never_lost() {
        for (int round = 0; round < 200; round++) {
            int number = round;
            work.latest("strips", () -> "" + number, told::add, told::add);
        }
        until("199");
        List<Integer> order =
                new ArrayList<>(told.stream().map(Integer::valueOf).toList());
        assertThat(order).isSorted().doesNotHaveDuplicates();
    }

    @Test
    void one_key_does_not_wait_for_another() {
        CountDownLatch goOn = new CountDownLatch(1);
        work.latest(
                "slow",
                () -> {
                    await(goOn);
                    return "slow";
                },
                told::add,
                told::add);
        work.latest("quick", () -> "quick", told::add, told::add);
        until("quick");
        assertThat(told).containsExactly("quick");
        goOn.countDown();
        until("slow");
    }

    @Test
    void a_busy_key_leaves_others_their_turn() {
        try (Work one = new Work("one at a time", 1)) {
            AtomicInteger rounds = new AtomicInteger();
            CompletableFuture<Void> enough = new CompletableFuture<>();
            Runnable again = new Runnable() {
                @Override
                public void run() {
                    if (!enough.isDone()) {
                        one.latest("busy", rounds::incrementAndGet, n -> {}, told::add);
                        one.load(() -> 0, n -> run(), told::add);
                    }
                }
            };
            again.run();
            one.latest("quiet", () -> "quiet", told::add, told::add);
            until("quiet");
            enough.complete(null);
        }
    }

    @Test
    void what_fails_is_told_in_a_sentence_and_the_next_is_done() {
        work.latest(
                "strips",
                () -> {
                    throw new EventLogException(Saying.of("store.not-read.disk", "custodia.db"), null);
                },
                v -> told.add("value"),
                told::add);
        until("The log custodia.db could not be read: the disk does not work as it should. Look at the disk.");
        work.latest(
                "strips",
                () -> {
                    throw new StackOverflowError();
                },
                v -> told.add("value"),
                told::add);
        until("Custodia stumbled over it. Try again.");
        work.latest("strips", () -> "well", told::add, told::add);
        until("well");
        assertThat(told).doesNotContain("value");
    }

    @Test
    void after_the_end_nothing_is_done_and_nothing_thrown() {
        work.close();
        work.latest("strips", () -> "late", told::add, told::add);
        work.load(() -> "late", told::add, told::add);
        assertThat(told).isEmpty();
    }

    @Test
    void what_is_asked_for_many_times_before_its_turn_runs_once() throws Exception {
        AtomicInteger ran = new AtomicInteger();
        Runnable task = Work.conflated(ran::incrementAndGet);
        CountDownLatch held = new CountDownLatch(1);
        CompletableFuture<Void> end = new CompletableFuture<>();
        javafx.application.Platform.runLater(() -> await(held));
        for (int i = 0; i < 50; i++) {
            task.run();
        }
        javafx.application.Platform.runLater(() -> end.complete(null));
        held.countDown();
        end.get(60, TimeUnit.SECONDS);
        assertThat(ran).hasValue(1);
        task.run();
        Patience.await().until(() -> ran.get() == 2);
    }
}
