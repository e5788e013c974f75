package org.custodia.desktop.watch;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.door.DoorState;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Priority;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SystemId;
import org.custodia.desktop.strip.StripData;
import org.custodia.desktop.strip.StripItem;
import org.junit.jupiter.api.Test;

/** What a strip takes, in whatever order results come. */
class StripModelTest {
    private static final Instant AT = Instant.parse("2026-11-24T14:20:00Z");
    private static final SystemId SYSTEM = new SystemId("tidewater");

    private final StripModel strip = new StripModel(new Door(
            new DoorId("tidewater/vault"),
            SYSTEM,
            new ControllerId("tidewater/c5"),
            "Vault",
            new SiteId("harbour"),
            "0",
            "A",
            "B",
            Duration.ofSeconds(60),
            Set.of()));
    private final List<StripData> changes = new ArrayList<>();

    StripModelTest() {
        strip.data().addListener((o, a, b) -> changes.add(b));
    }

    private static Event event(int number) {
        return Event.of(new EventKey(SYSTEM, 1, number), Kinds.GRANTED, AT.plusSeconds(number))
                .build();
    }

    private static StripData data(int... numbers) {
        List<StripItem> items = new ArrayList<>();
        for (int n : numbers) {
            items.add(new StripItem(event(n), "T. Ingleholm", "in", Priority.NONE, null, true));
        }
        return new StripData(DoorState.UNKNOWN, AT, items, List.of(), false, Optional.empty());
    }

    private boolean read(long number, List<Event> before, int... numbers) {
        List<Event> events = new ArrayList<>();
        for (int n : numbers) {
            events.add(event(n));
        }
        return strip.takeReading(number, before, events, data(numbers));
    }

    private long asked() {
        strip.outdate();
        return strip.reading();
    }

    @Test
    void what_goes_out_of_view_holds_nothing_and_takes_nothing_until_it_is_back_and_read() {
        read(asked(), List.of(), 1);
        long late = asked();
        strip.inView(false);
        read(late, List.of(), 2);
        assertThat(strip.events()).isEmpty();
        assertThat(strip.data().get()).isEqualTo(StripData.LOADING);
        strip.inView(true);
        assertThat(strip.isRead()).isFalse();
        read(strip.reading(), List.of(), 3);
        assertThat(strip.data().get()).isEqualTo(data(3));
        strip.inView(true);
        assertThat(strip.isRead()).isTrue();
    }

    @Test
    void an_older_reading_does_not_take_the_place_of_a_newer_one() {
        long first = asked();
        long second = asked();
        assertThat(read(second, List.of(), 2)).isFalse();
        read(first, List.of(), 1);
        strip.failReading(first, "too late");
        assertThat(strip.events()).containsExactly(event(2));
        assertThat(changes).containsExactly(data(2));
    }

    @Test
    void what_is_published_while_it_is_read_is_there_afterwards_once_and_in_order() {
        read(asked(), List.of(), 1, 3);
        List<Event> before = strip.events();
        long number = asked();
        strip.arrived(List.of(event(5), event(4)));
        // The log had one of them already.
        assertThat(read(number, before, 1, 3, 4)).isTrue();
        assertThat(strip.events()).containsExactly(event(1), event(3), event(4), event(5));
    }

    @Test
    void nothing_is_made_while_it_is_read_and_afterwards_it_is() {
        long number = asked();
        assertThat(strip.askMaking()).isEmpty();
        assertThat(read(number, List.of(), 1)).isTrue();
        assertThat(strip.askMaking()).isPresent();
        assertThat(read(asked(), strip.events(), 1)).isFalse();
    }

    @Test
    void what_was_made_before_it_was_read_anew_is_not_taken() {
        read(asked(), List.of(), 1);
        long made = strip.askMaking().orElseThrow();
        long later = strip.askMaking().orElseThrow();
        strip.takeMade(later, data(1, 2));
        strip.takeMade(made, data(9));
        assertThat(strip.data().get()).isEqualTo(data(1, 2));
        long stale = strip.askMaking().orElseThrow();
        long reading = asked();
        strip.takeMade(stale, data(9));
        read(reading, strip.events(), 3);
        strip.takeMade(stale, data(9));
        assertThat(strip.data().get()).isEqualTo(data(3));
    }

    @Test
    void what_shows_the_same_changes_nothing() {
        read(asked(), List.of(), 1);
        changes.clear();
        StripData same = new StripData(
                DoorState.UNKNOWN, AT.plusSeconds(5), data(1).items(), List.of(), false, Optional.empty());
        strip.takeMade(strip.askMaking().orElseThrow(), same);
        assertThat(changes).isEmpty();
        strip.takeMade(strip.askMaking().orElseThrow(), data(1, 2));
        assertThat(changes).hasSize(1);
    }

    @Test
    void a_reading_that_failed_is_said_and_the_next_may_succeed() {
        strip.failReading(asked(), "The log could not be read.");
        assertThat(strip.data().get().failure()).contains("The log could not be read.");
        assertThat(strip.data().get().loading()).isFalse();
        assertThat(strip.isRead()).isTrue();
        read(asked(), List.of(), 1);
        assertThat(strip.data().get().failure()).isEmpty();
    }

    @Test
    void a_storm_leaves_the_newest() {
        read(asked(), List.of());
        List<Event> storm = new ArrayList<>();
        for (int i = 1; i <= 10_000; i++) {
            storm.add(event(i));
        }
        strip.arrived(storm);
        assertThat(strip.events()).hasSize(4_000).endsWith(event(10_000)).startsWith(event(6_001));
    }
}
