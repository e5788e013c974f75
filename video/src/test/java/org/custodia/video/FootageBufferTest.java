package org.custodia.video;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.locks.ReentrantLock;
import java.util.function.Consumer;
import java.util.function.Supplier;
import org.custodia.core.Patience;
import org.custodia.core.footage.Footage;
import org.custodia.core.link.RecorderLink;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.CameraId;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.mockito.Mockito;

/** What a buffer makes of what a recorder sends, in order or not, twice, or not at all. */
class FootageBufferTest {
    private static final Instant T = Instant.parse("2026-11-24T14:20:00Z");
    private static final CameraId CAMERA = new CameraId("quayside/vault");

    private final ReentrantLock lock = new ReentrantLock();
    private final RecorderLink recorder = mock(RecorderLink.class);
    private final LiveFeed feed = mock(LiveFeed.class);
    private final Clock clock = mock(Clock.class);
    private final List<Consumer<EncodedFrame>> taps = new ArrayList<>();
    private FootageBuffer buffer;

    private FootageBuffer buffer(boolean live) {
        buffer = new FootageBuffer(
                CAMERA, recorder, live ? Optional.of(feed) : Optional.empty(), lock, lock.newCondition(), clock);
        return buffer;
    }

    @BeforeEach
    void setClock() {
        when(clock.instant()).thenReturn(T);
    }

    @AfterEach
    void close() {
        locked(() -> {
            buffer.close();
            return null;
        });
    }

    private <V> V locked(Supplier<V> work) {
        lock.lock();
        try {
            return work.get();
        } finally {
            lock.unlock();
        }
    }

    private void fetch(Instant from, Instant to) {
        locked(() -> {
            buffer.fetch(from, to);
            return null;
        });
    }

    private static EncodedFrame frame(int millis, boolean key) {
        return new EncodedFrame(new byte[4], key, T.plusMillis(millis));
    }

    /** What was live a moment ago, and goes on. */
    private void keeps(EncodedFrame... frames) throws IOException {
        when(recorder.playback(any(), any(), any())).thenThrow(new NoPictureException(Saying.of("picture.none")));
        when(feed.kept(any())).thenReturn(List.of(frames));
        Mockito.doAnswer(i -> taps.add(i.getArgument(0))).when(feed).tap(any());
        Mockito.doAnswer(i -> taps.remove(i.<Consumer<EncodedFrame>>getArgument(0)))
                .when(feed)
                .untap(any());
        buffer(true);
        fetch(T, T.plusSeconds(10));
        Patience.await().until(() -> locked(() -> buffer.size() == frames.length && taps.size() == 1));
    }

    @Test
    void a_frame_that_comes_twice_or_too_late_is_not_taken() throws IOException {
        keeps(frame(0, true), frame(40, false));
        Consumer<EncodedFrame> tap = taps.get(0);
        tap.accept(frame(40, false));
        tap.accept(frame(20, false));
        tap.accept(frame(80, false));
        assertThat(locked(buffer::size)).isEqualTo(3);
        assertThat(locked(buffer::fromLive)).isTrue();
        assertThat(locked(buffer::complete)).isFalse();
        tap.accept(frame(10_001, false));
        assertThat(locked(buffer::complete)).isTrue();
    }

    @Test
    void a_feed_that_is_not_wanted_any_more_is_let_go_and_what_it_still_sends_is_passed_over() throws IOException {
        keeps(frame(0, true));
        Consumer<EncodedFrame> tap = taps.get(0);
        when(feed.kept(any())).thenReturn(List.of());
        fetch(T.plusSeconds(60), T.plusSeconds(70));
        Patience.await().until(() -> locked(() -> buffer.failure().isPresent()));
        assertThat(taps).isEmpty();
        tap.accept(frame(61_000, true));
        assertThat(locked(buffer::isEmpty)).isTrue();
        assertThat(locked(buffer::failure)).contains(Saying.of("picture.none"));
    }

    @Test
    void the_frame_of_an_instant_is_the_last_that_is_not_after_it() throws IOException {
        keeps(frame(0, true), frame(40, false), frame(80, false), frame(120, true), frame(160, false));
        int[] wanted = {-500, 0, 39, 40, 79, 125, 160, 99_000};
        int[] index = {0, 0, 0, 1, 1, 3, 4, 4};
        for (int i = 0; i < wanted.length; i++) {
            int millis = wanted[i];
            assertThat(locked(() -> buffer.indexAt(T.plusMillis(millis))))
                    .as("%s", millis)
                    .isEqualTo(index[i]);
        }
        assertThat(locked(() -> buffer.leadingTo(2, -1))).hasSize(3);
        assertThat(locked(() -> buffer.leadingTo(2, 1))).hasSize(1);
        assertThat(locked(() -> buffer.leadingTo(4, 1))).hasSize(2);
        assertThat(locked(() -> buffer.leadingTo(1, 2))).as("back").hasSize(2);
        assertThat(locked(() -> buffer.leadingTo(3, 2))).hasSize(1);
    }

    @Test
    void it_reaches_what_is_there_and_what_may_yet_come() throws IOException {
        keeps(frame(0, true), frame(40, false));
        assertThat(locked(() -> buffer.reaches(T.plusMillis(20)))).isTrue();
        assertThat(locked(() -> buffer.reaches(T.plusSeconds(9)))).isTrue();
        assertThat(locked(() -> buffer.reaches(T.plusSeconds(11)))).isFalse();
        assertThat(locked(() -> buffer.reaches(T.minusMillis(1)))).isFalse();
        taps.get(0).accept(frame(10_001, true));
        assertThat(locked(() -> buffer.reaches(T.plusSeconds(9)))).isTrue();
        assertThat(locked(buffer::length)).isEqualTo(Duration.ofSeconds(10));
    }

    private void asksAgain() {
        locked(() -> {
            buffer.askAgainWhenReady();
            return null;
        });
    }

    /** What the recorder has says whether to ask again; two seconds after it happened it has no pictures. */
    private void refusedFirst(Footage footage) throws IOException {
        when(recorder.footage(CAMERA)).thenReturn(Optional.of(footage));
        when(recorder.playback(any(), any(), any())).thenThrow(new NoPictureException(Saying.of("picture.none")));
        when(clock.instant()).thenReturn(T.plusSeconds(2));
        buffer(false);
        fetch(T, T.plusSeconds(10));
        refused(1);
    }

    private void refused(int times) {
        Patience.await()
                .until(() -> Mockito.mockingDetails(recorder).getInvocations().stream()
                                        .filter(i -> i.getMethod().getName().equals("playback"))
                                        .count()
                                == times
                        && locked(() -> buffer.complete() && buffer.failure().isPresent()));
    }

    @Test
    void what_is_still_being_written_is_asked_for_once_it_should_be_there_and_a_little_longer() throws IOException {
        refusedFirst(new Footage(T.minusSeconds(9_000), Duration.ofSeconds(30), Optional.empty()));
        when(clock.instant()).thenReturn(T.plusSeconds(29));
        asksAgain();
        refused(1);
        when(clock.instant()).thenReturn(T.plusSeconds(30));
        asksAgain();
        // Meanwhile the reason stays.
        assertThat(locked(buffer::failure)).isPresent();
        refused(2);
        // Its clock is not exactly ours.
        when(clock.instant()).thenReturn(T.plusSeconds(33));
        asksAgain();
        refused(3);
        when(clock.instant()).thenReturn(T.plusSeconds(90));
        asksAgain();
        refused(4);
        // By now it should have it, so that it never will.
        when(clock.instant()).thenReturn(T.plusSeconds(900));
        asksAgain();
        refused(4);
    }

    @Test
    void what_the_recorder_will_never_have_is_not_asked_for_again() throws IOException {
        refusedFirst(new Footage(T.plusSeconds(1), Duration.ofSeconds(30), Optional.empty()));
        when(clock.instant()).thenReturn(T.plusSeconds(60));
        asksAgain();
        refused(1);
    }

    @Test
    void a_stream_that_comes_when_it_is_not_wanted_any_more_is_closed() throws IOException {
        AtomicBoolean ended = new AtomicBoolean();
        InputStream late = new ByteArrayInputStream(new byte[0]) {
            @Override
            public void close() {
                ended.set(true);
            }
        };
        AtomicBoolean go = new AtomicBoolean();
        when(recorder.playback(any(), any(), any())).thenAnswer(i -> {
            Patience.await().until(go::get);
            return new RecorderLink.Stream(late, T);
        });
        buffer(false);
        fetch(T, T.plusSeconds(10));
        locked(() -> {
            buffer.close();
            return null;
        });
        go.set(true);
        Patience.await().until(ended::get);
        assertThat(locked(buffer::failure)).isEmpty();
    }

    @Test
    void an_error_in_fetching_is_said_and_is_not_the_end_of_anything_else() throws IOException {
        when(recorder.playback(any(), any(), any())).thenThrow(new StackOverflowError());
        buffer(false);
        fetch(T, T.plusSeconds(10));
        // That somebody stumbled is told, and expected here.
        Patience.await().until(() -> locked(() -> buffer.failure().isPresent()));
        assertThat(locked(buffer::failure)).contains(Saying.of("picture.not-played"));
        assertThat(locked(buffer::complete)).isTrue();
    }
}
