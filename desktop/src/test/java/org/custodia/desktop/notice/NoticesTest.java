package org.custodia.desktop.notice;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.desktop.desk.DeskInHand.onFx;
import static org.custodia.desktop.desk.DeskInHand.until;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CancellationException;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeoutException;
import java.util.concurrent.atomic.AtomicReference;
import org.custodia.core.event.EventLogException;
import org.custodia.core.saying.Saying;
import org.custodia.desktop.Work;
import org.custodia.desktop.notice.Notice.Kind;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.testfx.api.FxToolkit;

/** What is said in order, what is hidden and comes back, and work that ends well, badly, or is not wanted any more. */
class NoticesTest {
    private final Work work = new Work("notices test", 2);
    private final Notices notices = new Notices(work);
    private final CountDownLatch go = new CountDownLatch(1);

    @BeforeAll
    static void toolkit() throws TimeoutException {
        FxToolkit.registerPrimaryStage();
    }

    @AfterEach
    void close() {
        go.countDown();
        work.close();
    }

    private List<String> said() {
        return onFx(() -> notices.shown().stream().map(Notice::words).toList());
    }

    private void trouble(String words) {
        onFx(() ->
                notices.stands("trouble", Optional.ofNullable(words).map(w -> Notice.of("trouble", Kind.TROUBLE, w))));
    }

    @Test
    void trouble_comes_before_work_and_work_before_notes_and_what_is_new_before_what_is_old() {
        onFx(() -> {
            notices.note("old");
            notices.note("new");
            notices.stands("w", Optional.of(Notice.of("w", Kind.WORK, "reading")));
        });
        trouble("disk full");
        assertThat(said()).containsExactly("disk full", "reading", "new", "old");
        trouble(null);
        assertThat(said()).containsExactly("reading", "new", "old");
    }

    @Test
    void whoever_listens_goes_on_hearing() {
        List<Integer> heard = new ArrayList<>();
        onFx(() -> notices.shown().addListener((javafx.collections.ListChangeListener<Notice>)
                c -> heard.add(notices.shown().size())));
        for (int i = 1; i <= 5; i++) {
            System.gc();
            int number = i;
            onFx(() -> notices.note("note " + number));
            assertThat(heard).hasSize(i);
        }
    }

    @Test
    void what_is_hidden_stays_so_while_it_says_the_same_and_is_said_again_when_it_comes_again() {
        trouble("disk full");
        onFx(() -> notices.hide(notices.shown().get(0)));
        trouble("disk full");
        assertThat(said()).isEmpty();
        trouble("disk read-only");
        assertThat(said()).containsExactly("disk read-only");
        trouble("disk full");
        assertThat(said()).containsExactly("disk full");
        onFx(() -> notices.hide(notices.shown().get(0)));
        trouble(null);
        trouble("disk full");
        assertThat(said()).containsExactly("disk full");
    }

    @Test
    void what_stands_is_changed_in_its_place() {
        List<Double> shares = new ArrayList<>();
        onFx(() -> notices.note("before"));
        for (int i = 0; i < 3; i++) {
            double share = i / 2.0;
            onFx(() -> notices.stands(
                    "w", Optional.of(Notice.of("w", Kind.WORK, "reading").done(share))));
            shares.add(onFx(() -> notices.shown().get(0).done().orElseThrow()));
        }
        assertThat(shares).containsExactly(0.0, 0.5, 1.0);
        assertThat(said()).containsExactly("reading", "before");
        assertThat(Notice.of("w", Kind.WORK, "x").done(7).done()).hasValue(1);
        assertThat(Notice.of("w", Kind.WORK, "x").done(Double.NEGATIVE_INFINITY).done())
                .hasValue(0);
    }

    @Test
    void work_shows_how_far_it_is_and_ends_in_a_note_with_what_to_do_next() {
        List<String> opened = new ArrayList<>();
        onFx(() -> notices.inBackground(
                "counting",
                progress -> {
                    progress.at(0, 0);
                    progress.at(3, 4);
                    waitToGo();
                    return 12;
                },
                n -> new Notice(
                        "counted",
                        Kind.NOTE,
                        n + " counted",
                        java.util.OptionalDouble.empty(),
                        Optional.empty(),
                        List.of(new Notice.Action("Open", () -> opened.add("open"))))));
        assertThat(said()).containsExactly("counting");
        until(() -> notices.shown().get(0).done().orElse(0) == 0.75);
        go.countDown();
        until(() -> notices.shown().get(0).words().equals("12 counted"));
        assertThat(said()).hasSize(1);
        onFx(() -> notices.shown().get(0).next().get(0).run().run());
        assertThat(opened).containsExactly("open");
    }

    private void waitToGo() {
        try {
            go.await();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    @Test
    void work_that_is_not_wanted_ends_at_its_next_step_and_nothing_more_is_said() {
        AtomicReference<Throwable> ended = new AtomicReference<>();
        onFx(() -> notices.inBackground(
                "counting",
                progress -> {
                    waitToGo();
                    try {
                        progress.at(1, 2);
                    } catch (CancellationException e) {
                        ended.set(e);
                        throw e;
                    }
                    return 1;
                },
                n -> Notice.of("counted", Kind.NOTE, "counted")));
        onFx(() -> notices.shown().get(0).cancel().orElseThrow().run());
        assertThat(said()).isEmpty();
        go.countDown();
        until(() -> ended.get() != null);
        work.load(() -> "after", v -> {}, w -> {});
        assertThat(said()).isEmpty();
    }

    @Test
    void work_that_was_ended_too_late_says_nothing_either() {
        CountDownLatch done = new CountDownLatch(1);
        onFx(() -> notices.inBackground(
                "counting",
                progress -> {
                    waitToGo();
                    done.countDown();
                    return 1;
                },
                n -> Notice.of("counted", Kind.NOTE, "counted")));
        onFx(() -> notices.shown().get(0).cancel().orElseThrow().run());
        go.countDown();
        until(() -> done.getCount() == 0);
        until(() -> notices.shown().isEmpty());
    }

    @Test
    void work_that_fails_says_what_and_why() {
        onFx(() -> notices.inBackground(
                "Counting the doors",
                progress -> {
                    throw new EventLogException(Saying.of("store.not-read.locked", "custodia.db"), null);
                },
                n -> Notice.of("never", Kind.NOTE, "never")));
        until(() -> notices.shown().size() == 1 && notices.shown().get(0).kind() == Kind.NOTE);
        assertThat(said().get(0)).contains("Counting the doors", "another program keeps it locked");
    }

    @Test
    void hidden_work_goes_on_and_says_what_came_of_it() {
        onFx(() -> notices.inBackground(
                "counting",
                progress -> {
                    waitToGo();
                    progress.at(1, 2);
                    return 1;
                },
                n -> Notice.of("counted", Kind.NOTE, "counted")));
        onFx(() -> notices.hide(notices.shown().get(0)));
        assertThat(said()).isEmpty();
        go.countDown();
        until(() -> !notices.shown().isEmpty());
        assertThat(said()).containsExactly("counted");
    }
}
