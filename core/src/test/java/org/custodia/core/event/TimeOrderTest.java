package org.custodia.core.event;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Random;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

class TimeOrderTest {
    private static final SystemId SYSTEM = new SystemId("tidewater");
    private static final Instant START = Instant.parse("2026-11-24T14:00:00Z");

    private static Event event(long seq, EventKind kind, double at, double received, double ahead) {
        return Event.of(new EventKey(SYSTEM, 1, seq), kind, START.plusMillis((long) (at * 1000)))
                .received(START.plusMillis((long) (received * 1000)), Duration.ofMillis((long) (ahead * 1000)))
                .controller(new ControllerId("tidewater/c5"))
                .build();
    }

    private static double seconds(Event event) {
        return Duration.between(START, event.time()).toMillis() / 1000.0;
    }

    @Test
    void a_clock_that_is_measured_worse_in_between_does_not_turn_the_order_round() {
        TimeOrder order = new TimeOrder();
        Event granted = order.place(event(1, Kinds.GRANTED, 10, 10.3, 0), false);
        Event opened = order.place(event(2, Kinds.OPENED, 10.1, 10.4, 0.2), false);
        assertThat(seconds(granted)).isEqualTo(10);
        assertThat(seconds(opened)).isEqualTo(10);
        assertThat(opened.compareTo(granted)).isPositive();
    }

    @Test
    void nothing_happens_after_it_was_received() {
        TimeOrder order = new TimeOrder();
        assertThat(seconds(order.place(event(1, Kinds.FORCED, 3_610, 10, 0), false)))
                .isEqualTo(10);
        assertThat(seconds(order.place(event(2, Kinds.CLOSED, 8, 11, 0), false)))
                .isEqualTo(10);
        assertThat(seconds(order.place(event(3, Kinds.OPENED, 3_612, 12, 3_600), false)))
                .isEqualTo(12);
    }

    @Test
    void one_time_in_the_far_future_does_not_make_everything_after_it_late() {
        TimeOrder order = new TimeOrder();
        assertThat(seconds(order.place(event(1, Kinds.FORCED, 9_999, 900, 0), true)))
                .isEqualTo(900);
        assertThat(seconds(order.place(event(2, Kinds.CLOSED, 10, 900, 0), true)))
                .isEqualTo(10);
        assertThat(seconds(order.place(event(3, Kinds.FORCED, 9_999, 900, 0), true)))
                .isEqualTo(10);
        assertThat(seconds(order.place(event(4, Kinds.CLOSED, 12, 900, 0), true)))
                .isEqualTo(12);
        TimeOrder again = new TimeOrder();
        again.remember(order.place(event(5, Kinds.OPENED, 14, 900, 0), true));
        again.remember(event(6, Kinds.FORCED, 9_999, 900, 0).toBuilder()
                .time(START.plusSeconds(900))
                .build());
        assertThat(seconds(again.place(event(7, Kinds.CLOSED, 13, 901, 0), false)))
                .isEqualTo(14);
    }

    @Test
    void a_clock_that_is_set_back_does_not_set_its_controller_back() {
        TimeOrder order = new TimeOrder();
        order.place(event(1, Kinds.CLOSED, 100, 101, 0), false);
        assertThat(seconds(order.place(event(2, Kinds.FORCED, -3_498, 103, 0), false)))
                .isEqualTo(100);
    }

    @Test
    void what_comes_out_of_order_is_put_between() {
        TimeOrder order = new TimeOrder();
        order.place(event(1, Kinds.CLOSED, 10, 20, 0), false);
        order.place(event(5, Kinds.CLOSED, 14, 20, 0), false);
        assertThat(seconds(order.place(event(3, Kinds.OPENED, 30, 31, 0), false)))
                .isEqualTo(14);
        assertThat(seconds(order.place(event(2, Kinds.OPENED, 9, 31, 0), false)))
                .isEqualTo(10);
        assertThat(seconds(order.place(event(4, Kinds.OPENED, 14, 31, 0), false)))
                .isEqualTo(14);
    }

    @Test
    void what_a_system_says_about_a_controller_does_not_hold_its_events_up() {
        TimeOrder order = new TimeOrder();
        order.place(event(1, Kinds.CONTROLLER_LOST, 100, 101, 0), false);
        order.place(event(2, Kinds.REPORT, 200, 201, 0), false);
        assertThat(seconds(order.place(event(3, Kinds.GRANTED, 50, 300, 0), false)))
                .isEqualTo(50);
        Event elsewhere = event(4, Kinds.GRANTED, 20, 300, 0).toBuilder()
                .controller(new ControllerId("tidewater/c6"))
                .build();
        assertThat(seconds(order.place(elsewhere, false))).isEqualTo(20);
    }

    @Test
    void an_impossible_time_holds_nobody_up() {
        TimeOrder order = new TimeOrder();
        Event unreal = event(1, Kinds.FORCED, 500, 500, 0).toBuilder()
                .detail(Event.UNREAL, "1970-01-01T00:00:00Z")
                .build();
        assertThat(seconds(order.place(unreal, false))).isEqualTo(500);
        assertThat(seconds(order.place(event(2, Kinds.CLOSED, 400, 501, 0), false)))
                .isEqualTo(400);
    }

    @Property(tries = 300)
    void within_a_controller_times_never_run_against_the_numbers(@ForAll long seed) {
        Random random = new Random(seed);
        List<Event> events = new ArrayList<>();
        double t = 0;
        for (int i = 1; i <= 50; i++) {
            t += random.nextDouble();
            double ahead = random.nextGaussian();
            events.add(event(i, Kinds.OPENED, t + random.nextGaussian(), t + 5, ahead));
        }
        if (random.nextBoolean()) {
            for (int i = 0; i + 5 < events.size(); i += 5) {
                Collections.shuffle(events.subList(i, i + 5), random);
            }
        }
        TimeOrder order = new TimeOrder();
        List<Event> placed =
                new ArrayList<>(events.stream().map(e -> order.place(e, false)).toList());
        placed.sort((a, b) -> Long.compare(a.key().sequence(), b.key().sequence()));
        for (int i = 1; i < placed.size(); i++) {
            assertThat(placed.get(i).time()).isAfterOrEqualTo(placed.get(i - 1).time());
        }
        assertThat(placed).allSatisfy(e -> assertThat(e.time()).isBeforeOrEqualTo(e.received()));
    }
}
