package org.custodia.link;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.anyString;
import static org.mockito.Mockito.doAnswer;
import static org.mockito.Mockito.mock;

import java.io.IOException;
import java.time.Clock;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.TreeMap;
import java.util.concurrent.CompletableFuture;
import org.custodia.core.Patience;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventIntake.Batch;
import org.custodia.core.event.EventIntake.Unread;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.Gaps;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** What is asked for and in what order, for pages of every sort, without a network. */
class EventFetcherTest {
    private static final SystemId SYSTEM = new SystemId("tidewater");

    private final MemoryLog log = new MemoryLog();
    private final Requests requests = mock(Requests.class);
    /** What the system has, by number; a line may be anything. */
    private final TreeMap<Long, Lines.Line> has = new TreeMap<>();

    private final List<String> asked = new ArrayList<>();
    private final List<Long> reached = new ArrayList<>();
    private final List<Integer> batches = new ArrayList<>();
    private int heard;
    /** So many lines of a page come before it breaks off. */
    private int breaksAfter = Integer.MAX_VALUE;

    private EventIntake.Feed feed;
    private EventFetcher fetcher;

    @BeforeEach
    void system() throws IOException, InterruptedException {
        EventIntake.Feed stores = log.feed(SYSTEM);
        feed = batch -> {
            batches.add(batch.events().size() + batch.unread().size());
            return stores.accept(batch);
        };
        doAnswer(call -> {
                    String path = call.getArgument(0);
                    asked.add(path.replace("events?after=", "").replace("&limit=", " "));
                    String[] parts = path.split("[=&]");
                    long after = Long.parseLong(parts[1]);
                    int limit = Integer.parseInt(parts[3]);
                    Requests.LineTaker taker = call.getArgument(1);
                    int lines = 0;
                    for (Lines.Line line : has.tailMap(after, false).values()) {
                        if (lines == breaksAfter) {
                            throw new IOException("it broke off");
                        }
                        if (lines++ == limit) {
                            break;
                        }
                        taker.take(line);
                    }
                    return null;
                })
                .when(requests)
                .lines(anyString(), any());
        make();
    }

    private void make() {
        fetcher = new EventFetcher(
                SYSTEM,
                requests,
                log,
                feed,
                new EventTranslation(SYSTEM, new ClockBook()),
                Clock.fixed(Instant.parse("2026-11-24T15:00:00Z"), ZoneOffset.UTC),
                () -> heard++,
                reached::add);
    }

    private void has(long from, long to) {
        for (long n = from; n <= to; n++) {
            has.put(n, line(1, n));
        }
    }

    private static Lines.Line line(long epoch, long n) {
        return whole("{\"epoch\":" + epoch + ",\"seq\":" + n
                + ",\"time\":\"2026-11-24T14:00:00Z\",\"kind\":\"door.opened\",\"door\":\"d\"}");
    }

    private static Lines.Line whole(String text) {
        return new Lines.Line(text, true, false);
    }

    private List<Long> numbers() {
        return log.events.stream()
                .filter(e -> e.key().system().equals(SYSTEM))
                .map(e -> e.key().sequence())
                .sorted()
                .toList();
    }

    @Test
    void pages_are_read_until_the_number_that_is_wanted() throws Exception {
        has(1, 9_001);
        assertThat(fetcher.after(1, 0, 9_000)).isEqualTo(9_001);
        assertThat(asked).containsExactly("0 4000", "4000 4000", "8000 4000");
        assertThat(reached).containsExactly(4_000L, 8_000L, 9_001L);
        assertThat(numbers()).hasSize(9_001);
        assertThat(heard).isEqualTo(9_001);
        assertThat(batches.get(0)).isEqualTo(1_000);
        assertThat(batches).hasSize(10);
        assertThat(log.coverage(SYSTEM, 1).settled()).isEqualTo(9_001);
    }

    @Test
    void nothing_is_asked_where_nothing_is_wanted_and_an_empty_page_ends_it() throws Exception {
        assertThat(fetcher.after(1, 7, 7)).isEqualTo(7);
        assertThat(asked).isEmpty();
        assertThat(fetcher.after(1, 7, 9)).isEqualTo(7);
        assertThat(asked).containsExactly("7 4000");
        assertThat(reached).isEmpty();
    }

    @Test
    void long_messages_go_in_smaller_batches() throws Exception {
        for (long n = 1; n <= 12; n++) {
            has.put(
                    n,
                    whole("{\"epoch\":1,\"seq\":" + n + ",\"kind\":\"note\",\"details\":{\"t\":\"" + "x".repeat(100_000)
                            + "\"}}"));
        }
        fetcher.after(1, 0, 12);
        assertThat(batches).containsExactly(6, 6);
    }

    @Test
    void no_more_is_handed_over_than_may_wait_and_what_is_not_stored_is_said() throws Exception {
        has(1, 8_000);
        List<CompletableFuture<Void>> open = new ArrayList<>();
        feed = batch -> {
            CompletableFuture<Void> answer = new CompletableFuture<>();
            open.add(answer);
            return answer;
        };
        make();
        Thread reading = new Thread(() -> {
            try {
                fetcher.after(1, 0, 8_000);
            } catch (IOException | InterruptedException e) {
                asked.add(e.getMessage());
            }
        });
        reading.start();
        Patience.await().until(() -> open.size() == 4 && reading.getState() == Thread.State.TIMED_WAITING);
        open.get(0).complete(null);
        open.get(1).complete(null);
        open.get(2).complete(null);
        open.get(3).completeExceptionally(new EventLogException(Saying.of("store.not-stored.full", "x"), null));
        reading.join(60_000);
        assertThat(open).hasSize(4);
        assertThat(asked).containsExactly("0 4000", "store.not-stored.full \"x\"");
    }

    @Test
    void what_came_before_it_broke_off_is_stored() {
        has(1, 10);
        breaksAfter = 4;
        assertThatThrownBy(() -> fetcher.after(1, 0, 10)).isInstanceOf(IOException.class);
        assertThat(numbers()).containsExactly(1L, 2L, 3L, 4L);
    }

    @Test
    void a_line_that_makes_no_sense_is_asked_for_alone_and_kept_under_its_number() throws Exception {
        has(1, 3);
        has.put(4L, whole("what?"));
        assertThat(fetcher.after(1, 0, 4)).isEqualTo(4);
        assertThat(asked).containsExactly("0 4000", "3 4000");
        assertThat(log.unread).hasSize(1);
        assertThat(log.unread.get(0).key().orElseThrow().sequence()).isEqualTo(4);
        assertThat(log.coverage(SYSTEM, 1).settled()).isEqualTo(4);
    }

    @Test
    void a_line_that_is_cut_is_asked_for_again_and_taken_when_it_comes() throws Exception {
        has(1, 2);
        has.put(3L, new Lines.Line("{\"epoch\":1,\"se", false, false));
        int[] asks = {0};
        doAnswer(call -> {
                    asked.add(call.getArgument(0));
                    Requests.LineTaker taker = call.getArgument(1);
                    taker.take(++asks[0] < 3 ? has.get(3L) : line(1, 3));
                    return null;
                })
                .when(requests)
                .lines(anyString(), any());
        assertThat(fetcher.after(1, 2, 3)).isEqualTo(3);
        assertThat(asked)
                .containsExactly("events?after=2&limit=4000", "events?after=2&limit=1", "events?after=2&limit=1");
        assertThat(log.unread).isEmpty();
        assertThat(numbers()).containsExactly(3L);
    }

    @Test
    void a_line_that_is_always_cut_is_given_up_and_nothing_goes_past_it() throws Exception {
        has(1, 2);
        has.put(3L, new Lines.Line("{\"epoch\":1,\"se", false, false));
        has(4, 4);
        has.remove(4L);
        assertThat(fetcher.after(1, 0, 4)).isEqualTo(2);
        assertThat(asked).containsExactly("0 4000", "2 4000", "2 1", "2 1", "2 1");
        assertThat(log.unread).isEmpty();
        asked.clear();
        has.clear();
        assertThat(fetcher.after(1, 2, 4)).isEqualTo(2);
        assertThat(asked).containsExactly("2 4000");
    }

    @Test
    void lines_without_a_number_have_those_between_if_there_are_just_as_many() throws Exception {
        has.put(1L, line(1, 1));
        has.put(2L, whole("odd"));
        has.put(3L, whole("odder"));
        has.put(4L, line(1, 4));
        has.put(5L, whole("one for two"));
        has.put(7L, line(1, 7));
        fetcher.after(1, 0, 7);
        assertThat(log.unread)
                .extracting(u -> u.key().orElseThrow().sequence() + " " + u.raw())
                .containsExactly("2 odd", "3 odder");
        assertThat(numbers()).containsExactly(1L, 4L, 7L);
        assertThat(log.coverage(SYSTEM, 1).holes()).hasSize(1);
    }

    @Test
    void a_line_longer_than_a_message_may_be_is_kept_and_does_not_end_the_page() throws Exception {
        has(1, 1);
        has.put(2L, new Lines.Line("{\"epoch\":1,\"seq\":2,\"ki", true, true));
        has(3, 3);
        fetcher.after(1, 0, 3);
        assertThat(numbers()).containsExactly(1L, 3L);
        assertThat(log.unread).extracting(Unread::why).containsExactly(Saying.of("unread.too-long"));
        assertThat(log.coverage(SYSTEM, 1).settled()).isEqualTo(3);
    }

    @Test
    void numbers_of_another_epoch_do_not_lead_on() throws Exception {
        has.put(1L, line(2, 9));
        has.put(2L, line(1, 2));
        assertThat(fetcher.after(1, 1, 2)).isEqualTo(2);
        asked.clear();
        has.clear();
        has.put(3L, line(7, 3));
        assertThat(fetcher.after(1, 2, 3)).isEqualTo(2);
        assertThat(log.events).extracting(e -> e.key().epoch()).contains(7L);
    }

    @Test
    void a_number_far_ahead_is_stored_and_gone_on_from_only_if_more_follow() throws Exception {
        has(1, 2);
        has.put(3L, line(1, 5_000_000_000L));
        assertThat(fetcher.after(1, 0, 3)).isEqualTo(2);
        assertThat(numbers()).contains(5_000_000_000L);
        has.put(4L, line(1, 5_000_000_001L));
        assertThat(fetcher.after(1, 0, 3)).isEqualTo(5_000_000_001L);
    }

    @Test
    void holes_that_lie_together_are_asked_for_in_one_go() throws Exception {
        store(1, 4, 7, 9, 10);
        has(1, 10);
        assertThat(fetcher.fillHoles(1, 1, 10)).isZero();
        assertThat(asked).containsExactly("1 7");
        assertThat(numbers()).containsExactly(1L, 2L, 3L, 4L, 5L, 6L, 7L, 8L, 9L, 10L);
        assertThat(log.events).noneMatch(e -> e.kind().equals(Kinds.GAP));
    }

    @Test
    void what_does_not_come_is_put_down_as_missing_with_its_reason() throws Exception {
        store(4, 8, 10, 20);
        has(14, 20);
        assertThat(fetcher.fillHoles(1, 6, 20)).isEqualTo(4);
        assertThat(asked).containsExactly("0 19");
        List<String> gaps = log.events.stream()
                .filter(e -> e.kind().equals(Kinds.GAP))
                .map(e -> e.detail("from").orElse("") + "-" + e.detail("to").orElse("") + " "
                        + e.reason().orElse(""))
                .toList();
        assertThat(gaps)
                .containsExactlyInAnyOrder(
                        "1-3 " + Gaps.NOT_KEPT,
                        "5-7 " + Gaps.NOT_DELIVERED,
                        "9-9 " + Gaps.NOT_DELIVERED,
                        "11-13 " + Gaps.NOT_DELIVERED);
        assertThat(log.coverage(SYSTEM, 1).settled()).isEqualTo(20);
        asked.clear();
        assertThat(fetcher.fillHoles(1, 6, 20)).isZero();
        assertThat(asked).isEmpty();
    }

    @Test
    void where_one_answer_does_not_say_it_all_each_hole_is_asked_for() throws Exception {
        store(4, 8, 10, 20);
        assertThat(fetcher.fillHoles(1, 6, 20)).isEqualTo(4);
        assertThat(asked).containsExactly("0 19", "4 3", "8 1", "10 9");
        asked.clear();
        store(4_500, 9_500);
        assertThat(fetcher.fillHoles(1, 6, 9_500)).isEqualTo(2);
        assertThat(asked).containsExactly("20 4000", "4500 4000");
    }

    @Test
    void what_is_not_kept_any_more_is_not_asked_for_and_stray_numbers_make_no_holes() throws Exception {
        store(10, 3_000_000);
        assertThat(fetcher.fillHoles(1, 10, 10)).isEqualTo(1);
        assertThat(asked).isEmpty();
        assertThat(log.events.get(log.events.size() - 1).reason()).contains(Gaps.NOT_KEPT);
        assertThat(log.coverage(SYSTEM, 1).settled()).isEqualTo(10);
    }

    @Test
    void the_next_event_is_looked_at_without_being_stored() throws Exception {
        has.put(5L, whole("odd"));
        has(6, 7);
        assertThat(fetcher.peek(4)).isEmpty();
        assertThat(fetcher.peek(5).map(e -> e.key().sequence())).contains(6L);
        assertThat(asked).containsExactly("4 1", "5 1");
        assertThat(log.events).isEmpty();
    }

    private void store(long... numbers) {
        List<Event> events = new ArrayList<>();
        EventTranslation translation = new EventTranslation(SYSTEM, new ClockBook());
        for (long n : numbers) {
            events.add(translation
                    .read(line(1, n).text(), Instant.parse("2026-11-24T15:00:00Z"), java.util.Optional.empty())
                    .event()
                    .orElseThrow());
        }
        log.feed(SYSTEM).accept(new Batch(events, List.of(), true)).join();
    }
}
