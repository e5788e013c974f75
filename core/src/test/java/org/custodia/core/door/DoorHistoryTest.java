package org.custodia.core.door;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.core.door.DoorEvents.at;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;
import org.mockito.ArgumentMatchers;
import org.mockito.Mockito;

/** How far back the log is read, and how much of it. */
class DoorHistoryTest {
    private final MemoryLog log = new MemoryLog();
    private final DoorEvents make = new DoorEvents();
    private final List<EventQuery> asked = new ArrayList<>();
    private final EventLog listening = Mockito.mock(EventLog.class);

    private DoorHistory history(int page) {
        Mockito.doAnswer(i -> {
                    asked.add(i.getArgument(0));
                    return log.find(i.getArgument(0));
                })
                .when(listening)
                .find(ArgumentMatchers.any());
        return new DoorHistory(listening, DoorCheckpoints.NONE, page);
    }

    private Event rest(double seconds) {
        return make.event(
                seconds,
                Kinds.REPORT,
                "mode",
                "locked",
                "position",
                "closed",
                "position-since",
                at(seconds - 40).toString());
    }

    private static Event link(long number, org.custodia.core.event.EventKind kind, double seconds, String system) {
        return Event.of(new EventKey(SystemId.CUSTODIA, 1, number), kind, at(seconds))
                .detail("system", system)
                .build();
    }

    @Test
    void what_is_the_same_for_many_doors_is_read_once_until_something_is_stored() {
        log.store(link(1, Kinds.LINK_LOST, 10, "brine"));
        Mockito.when(listening.newestPosition()).thenAnswer(i -> log.newestPosition());
        DoorHistory history = history(10);
        DoorTimeline first = history.read(DoorEvents.door(), at(5_000), Integer.MAX_VALUE, Instant.MAX);
        assertThat(first.at(at(6_000)).outOfReachSince()).isEmpty();
        int questions = asked.size();
        history.read(DoorEvents.door(), at(5_000), Integer.MAX_VALUE, Instant.MAX);
        assertThat(asked.size() - questions).isEqualTo(1);
        log.store(link(2, Kinds.LINK_LOST, 5_500, "tidewater"));
        DoorTimeline second = history.read(DoorEvents.door(), at(5_000), Integer.MAX_VALUE, Instant.MAX);
        assertThat(second.at(at(6_000)).outOfReachSince()).contains(at(5_500));
        log.store(link(3, Kinds.LINK_BACK, 5_700, "tidewater"));
        DoorTimeline third = history.read(DoorEvents.door(), at(5_000), Integer.MAX_VALUE, Instant.MAX);
        assertThat(third.at(at(6_000)).outOfReachSince()).isEmpty();
    }

    @Test
    void it_goes_back_to_a_report_of_a_door_at_rest_and_no_further() {
        for (int i = 0; i < 100; i++) {
            log.store(make.event(i * 100, Kinds.OPENED), make.event(i * 100 + 10, Kinds.CLOSED), rest(i * 100 + 60));
        }
        DoorTimeline t = history(10).read(DoorEvents.door(), at(9_800), Integer.MAX_VALUE, Instant.MAX);
        assertThat(t.size()).isLessThan(12);
        assertThat(t.covers(at(9_800))).isTrue();
        assertThat(t.covers(at(9_760))).isFalse();
        assertThat(t.at(at(9_905)).open()).isTrue();
        long pages = asked.stream()
                .filter(q -> q.filter().toString().contains("door, values"))
                .count();
        assertThat(pages).isLessThanOrEqualTo(2);
        asked.clear();
        DoorTimeline enough = history(10).read(DoorEvents.door(), at(0), 20, Instant.MAX);
        assertThat(enough.size()).isBetween(20, 26);
        DoorTimeline all = history(10).read(DoorEvents.door(), at(0), Integer.MAX_VALUE, Instant.MAX);
        assertThat(all.size()).isEqualTo(300);
        assertThat(all.covers(Instant.EPOCH)).isTrue();
    }

    @Test
    void a_report_with_something_going_on_just_before_it_is_not_where_it_begins() {
        Event grant = make.event(995, Kinds.GRANTED);
        log.store(
                make.event(0, Kinds.MODE, "mode", "locked"),
                rest(500),
                grant,
                rest(1_000),
                make.event(1_003, Kinds.OPENED));
        DoorTimeline t = history(3).read(DoorEvents.door(), at(1_100), Integer.MAX_VALUE, Instant.MAX);
        assertThat(t.covers(at(900))).isTrue();
        assertThat(t.outcomes(at(990), at(1_100), at(1_200))).containsEntry(grant.key(), GrantOutcome.WENT_THROUGH);
    }

    @Test
    void a_link_that_was_lost_before_the_beginning_still_is() {
        for (int i = 0; i < 9; i++) {
            log.store(link(10 + i, Kinds.LINK_LOST, 20 + i, "larkspur"));
        }
        log.store(
                rest(100),
                rest(500),
                link(1, Kinds.LINK_BACK, 5, "tidewater"),
                link(2, Kinds.LINK_LOST, 10, "tidewater"));
        log.store(link(3, Kinds.LINK_LOST, 12, "tidewater"));
        DoorTimeline t = history(2).read(DoorEvents.door(), at(600), Integer.MAX_VALUE, Instant.MAX);
        assertThat(t.size()).isEqualTo(1);
        assertThat(t.at(at(600)).outOfReachSince()).contains(at(10));
        log.store(link(4, Kinds.LINK_BACK, 15, "tidewater"));
        assertThat(history(2)
                        .read(DoorEvents.door(), at(600), Integer.MAX_VALUE, Instant.MAX)
                        .at(at(600))
                        .outOfReachSince())
                .isEmpty();
        log.store(link(5, Kinds.LINK_LOST, 550, "tidewater"));
        for (int i = 0; i < 5; i++) {
            log.store(link(30 + i, Kinds.LINK_LOST, 560 + i, "larkspur"));
        }
        assertThat(history(2)
                        .read(DoorEvents.door(), at(600), Integer.MAX_VALUE, Instant.MAX)
                        .at(at(600))
                        .outOfReachSince())
                .contains(at(550));
        assertThat(history(2)
                        .read(DoorEvents.door(), at(520), Integer.MAX_VALUE, at(530))
                        .at(at(520))
                        .outOfReachSince())
                .isEmpty();
    }

    @Test
    void nothing_in_the_log_is_nothing_known() {
        DoorTimeline t = history(5).read(DoorEvents.door(), at(0), 10, Instant.MAX);
        assertThat(t.size()).isZero();
        assertThat(t.at(at(10))).isEqualTo(DoorState.UNKNOWN);
    }
}
